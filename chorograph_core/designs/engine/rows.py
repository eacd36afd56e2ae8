"""Rows across a zone by hand: one curve again and again, to and fro, turned round at the edge."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, ClassVar, TypeVar

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.counted import CountedMotif
from chorograph_core.designs.engine.families import cut_to
from chorograph_core.designs.engine.guides import (
    closes,
    guide_within,
    level_lines,
    level_rings,
    opened,
)
from chorograph_core.designs.engine.islands import Drawn, parted, scattered, with_figures
from chorograph_core.designs.engine.reaching import into_corners
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.engine.tight import without_kinks
from chorograph_core.designs.engine.turns import turned_round
from chorograph_core.designs.keeping import stretches
from chorograph_core.designs.linework import Linework, Run, Unit, length, size_of_hand
from chorograph_core.designs.linking import link_along_edge
from chorograph_core.designs.settings import Settings, refuse_thousands
from chorograph_core.designs.space import Space

MOST = 1000
"""Rows of `LONG` inches in a zone."""
LONG = 40.0
SHORTEST = 0.35
"""Shorter ends of rows are left out, in rows' distances."""
FIRST = 0.3
"""Rows' distances from the edge to the first of calm rows."""
STILL, RISING, AT_MOST = 0.12, 0.25, 0.5
"""Where rows are calm along an edge: how much of their swing is left there, by how much of a row's distance
it may grow from row to row, and the share of the width within which it does."""

HARDLY = 0.5
"""Rows' distances along the edge from piece to piece of what is one row."""
OPENED = 0.6
"""Rows' distances between the turns of rows that go round something and those at their other end."""

WITH = math.cos(math.radians(30.0))
"""Cosine of the angle up to which a side of the zone runs with the rows."""

S = TypeVar("S", bound=Settings)


class RowMotif(CountedMotif[S]):
    """Rows to and fro. *spaced_by* is the setting that says how close they lie, and its label; *what* a row
    is called; *fewest* must have room. The settings have *margin*, *angle* and *relative*."""

    guided = True
    # Along the edge one passes the turns of other rows.
    crosses = True
    spaced_by: ClassVar[tuple[str, str]] = ("gap", "Between rows")
    what: ClassVar[str] = "row"
    fewest: ClassVar[int] = 2
    suits: ClassVar[float] = 0.66

    def apart(self, s: Any) -> float:
        """Inches from row to row."""
        return float(s.gap)

    def fits(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> Fit:
        """A few rows must have room."""
        s: Any = self.clean(settings)
        self.refuse(space, s)
        rows = 2 * (space.widest[1] - s.margin) / self.apart(s)
        if rows < self.fewest:
            return Fit(0.15, (f"room for fewer than {self.fewest} {self.what}s: echo instead",))
        return Fit(self.suits, (f"about {rows:.0f} {self.what}s at the widest place",))

    def spacing(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> float:
        """From row to row."""
        return self.apart(self.clean(settings))

    def alongside(self, settings: S) -> S:
        """Measured from the top, whatever side is the longest of each."""
        return replace(settings, relative="top")  # type: ignore[call-arg]

    def refuse(self, space: Space, s: Any) -> None:
        """Where there would be thousands."""
        field, label = self.spaced_by
        count = space.polygon.area / self.apart(s) / LONG
        refuse_thousands(count, MOST, label, field, f"{self.what}s")


def fitted_width(space: Space, s: Any) -> float:
    """The width of a unit (*s.width*) with which a whole number of them fills the zone along its rows."""
    angle = base_angle(space, s.relative) + math.radians(s.angle)
    _, _, u, _ = axes_at((space.inset(s.margin) or [space.polygon])[0], angle)
    long = float(np.ptp(u))
    return long / max(1, round(long / s.width))


Curve = Callable[[np.ndarray, float, int], np.ndarray]
"""How far a row is off its place: from inches along (n,), its place across, and its number."""


@dataclass(frozen=True)
class Scatter:
    """Islands among rows: their *radius* and least distance *apart*, inches, and what stands on each."""

    radius: float
    apart: float
    draw: Drawn
    seed: int = 0


def rows_in(
    part: Polygon, angle: float, apart: float, curve: Curve, reach: float, fine: float,
    scatter: Scatter | None = None, calm: bool = False, cut_off: float = 0.0, scales: bool = False,
) -> list[np.ndarray]:  # fmt: skip
    """Rows (n, 2) at *angle* radians, about *apart* inches from each other so that they come out even, cut to
    *part*. *curve* swings by *reach* inches at most; points lie *fine* inches apart. They part round
    islands where there is a *scatter* of them; *calm* ones swing less along the sides they run with. The edge
    takes *cut_off* of the way from row to row from the last one. What *scales* swings by as much more or less
    than *curve* says as rows lie farther apart than they should."""
    along, across, u, v = axes_at(part, angle)
    wide = float(np.ptp(v))
    first = FIRST if calm else 0.5
    both = 2 * first - cut_off
    count = max(1, round(wide / apart + 1.2 - both))
    step = wide / (count - 1 + both)
    beyond = math.ceil(reach / step)
    sides = _sides_along(part, along) if calm else None
    x = np.arange(u.min() - fine, u.max() + 2 * fine, fine)
    ys = []
    for j in range(-beyond, count + beyond):
        place = v.min() + step * (j + first)
        swing: float | np.ndarray = step / apart if scales else 1.0
        if calm:
            swing = _swing(min(place - v.min(), v.max() - place), wide, reach)
            swing = np.minimum(swing, _swing(_beside(sides, x, place, along, across), wide, reach))
        ys.append(place + swing * curve(x - u.min(), place - v.min(), j))
    if scatter is None:
        rows = [x[:, None] * along + y[:, None] * across for y in ys]
        return cut_to(rows, part, SHORTEST * step)
    rng = np.random.default_rng(scatter.seed + 5)
    islands = scattered(part, along, across, (0.0, 0.0), scatter.radius, scatter.apart, rng)
    bent, mine = parted(x, np.array(ys), islands)
    made = [with_figures(x, y, here, scatter.draw) for y, here in zip(bent, mine, strict=True)]
    rows = [row[:, :1] * along + row[:, 1:] * across for row in made]
    # Figures cross themselves: rows are cut piece by piece, in their own order.
    reach = part.buffer(1e-6)
    pieces = [piece for row in rows for piece in stretches(row, reach)]
    return [piece for piece in pieces if length(piece) > SHORTEST * step]


def _swing(inside: float | np.ndarray, wide: float, reach: float) -> Any:
    """How much of its swing a row has so many inches *inside* the edge of a zone so *wide*."""
    rise = min(reach / RISING, AT_MOST * wide)
    return np.minimum(1.0, STILL + np.maximum(inside, 0.0) / rise)


def _sides_along(part: Polygon, along: np.ndarray) -> shapely.Geometry | None:
    """The sides of *part* that run with the rows, more or less; None where there are none."""
    legs = [
        np.stack([ring[:-1], ring[1:]], axis=1)
        for ring in map(shapely.get_coordinates, (part.exterior, *part.interiors))
    ]
    ends = np.concatenate(legs)
    ways = ends[:, 1] - ends[:, 0]
    with_rows = np.abs(ways @ along) > WITH * np.hypot(*ways.T)
    return shapely.multilinestrings(ends[with_rows]) if with_rows.any() else None


def _beside(
    sides: shapely.Geometry | None,
    x: np.ndarray,
    place: float,
    along: np.ndarray,
    across: np.ndarray,
) -> np.ndarray:
    """Inches from a row at its *place* across to the nearest of *sides*."""
    if sides is None:
        return np.full(len(x), np.inf)
    return shapely.distance(sides, shapely.points(x[:, None] * along + place * across))


def rows_along(
    guide: np.ndarray, part: Polygon, apart: float, curve: Curve, reach: float, scales: bool = False
) -> list[np.ndarray]:
    """Rows (n, 2) that follow a *guide* (m, 2), each as far from the last, cut to *part*; else as
    `rows_in`."""
    level = level_rings if closes(guide) else level_lines
    step, lines = level(guide, part, apart, math.ceil(reach / apart))
    rows = []
    for number, (place, line, x) in enumerate(lines):
        way = np.gradient(line, axis=0)
        way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
        aside = np.column_stack([-way[:, 1], way[:, 0]])
        swing = step / apart if scales else 1.0
        rows.append(line + aside * swing * curve(x, place, number)[:, None])
    return cut_to(rows, part, SHORTEST * step)


def to_and_fro(
    space: Space, margin: float, turned: float, relative: str, apart: float, curve: Curve, reach: float,
    name: str, soft: float, hand: float, scatter: Scatter | None = None, calm: bool = False,
    fine: float = 0.0, least_turn: float = 0.0, cut_off: float = 0.0, scales: bool = False,
) -> Linework:  # fmt: skip
    """All rows of each part of a zone, as few lines as there can be, turned round at its edge; a row is a
    unit called *name*. *soft* is how far turns are eased; *hand* the inches by which a hand is told large
    or fine; *calm*, *cut_off* and *scales* as in `rows_in`, and turned round in bends; points lie
    *fine* inches apart, if it is said; no turn is tighter than *least_turn* inches."""
    angle = base_angle(space, relative) + math.radians(turned)

    def room(part: Polygon) -> Polygon:
        guide = guide_within(space, part)
        return opened(part, guide, OPENED * apart) if closes(guide) else part

    def lines(part: Polygon) -> list[np.ndarray]:
        guide = guide_within(space, part)
        if guide is not None:
            return rows_along(guide, room(part), apart, curve, reach, scales)
        close = fine or min(0.1, apart / 3)
        return rows_in(part, angle, apart, curve, reach, close, scatter, calm, cut_off, scales)

    return rows_linked(space, margin, lines, name, soft, hand, apart=apart, bends=calm,
                       corners=not scales, least_turn=least_turn, room=room)  # fmt: skip


def rows_linked(
    space: Space, margin: float, lines: Callable[[Polygon], list[np.ndarray]], name: str, soft: float,
    hand: float, inside: bool = False, apart: float = 0.0, bends: bool = False, corners: bool = False,
    least_turn: float = 0.0, room: Callable[[Polygon], Polygon] = lambda part: part,
) -> Linework:  # fmt: skip
    """The *lines* of each part of a zone, turned round at its edge, or at that of its *room*, from the
    beginning of the first where that lies *inside*. Of rows *apart* by so many inches, turns may be *bends*,
    and they may go into *corners*. As `to_and_fro` else."""
    runs = []
    for part in space.inset(margin):
        drawn = lines(part)
        part = room(part)
        near = tuple(drawn[0][0]) if inside and drawn else None
        for run in link_along_edge(drawn, part, "medium", longest=14.0, start_near=near):
            if bends:
                run = turned_round(run, part, apart, slack(margin))
            made = finished(run.points, soft, part, over=slack(margin), least_turn=least_turn)
            if made is None:
                continue
            if corners:
                made = into_corners(made, part, apart, slack(margin))
                if least_turn:
                    made = without_kinks(made, least_turn, part, slack(margin))
            runs.append(
                Run(made, size_of_hand(hand), units=_units(run, made, name, HARDLY * apart))
            )
    return Linework(tuple(runs))


def _units(run: Run, made: np.ndarray, name: str, hardly: float) -> tuple[Unit, ...]:
    """Where each row ends on the eased line: near the share of its length at which it ended before."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(made, axis=0).T))])
    gone = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run.points, axis=0).T))])
    pieces, begun = list[tuple[int, int]](), 0
    for span in run.spans:
        pieces += [(begun, span.stop)] if span.kind == "stitch" else []
        begun = span.stop
    stops = []
    for (first, stop), (then, last) in itertools.pairwise(pieces):
        way, on = run.points[stop] - run.points[first], run.points[last] - run.points[then]
        # What the edge cuts into pieces, one going on hardly after the other, is one row.
        if way @ on <= 0 or gone[then] - gone[stop] > hardly:
            stops.append(stop)
    found: list[Unit] = []
    for k, stop in enumerate(stops, 1):
        guess = gone[stop] / gone[-1] * at[-1]
        off = 0.06 * at[-1] + 0.3
        low, high = np.searchsorted(at, (guess - off, guess + off))
        low = max(int(low), (found[-1].stop if found else 0) + 1)
        if low >= min(high, len(made) - 1):
            continue
        near = made[low : min(high, len(made) - 1)] - run.points[stop]
        found.append(Unit(f"{name} {k}", low + int(np.hypot(*near.T).argmin())))
    return (*found, Unit(f"{name} {len(stops) + 1}", len(made) - 1)) if found else ()
