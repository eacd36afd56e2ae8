"""Fills made of one figure after another: what all of them share."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar, TypeVar

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.curves import thin
from chorograph_core.designs.engine.cells import Cell, cells_in, walks_through
from chorograph_core.designs.engine.counted import CountedMotif
from chorograph_core.designs.engine.echoing import echoed
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.engine.tight import without_kinks
from chorograph_core.designs.engine.turned_figures import way_between
from chorograph_core.designs.engine.turning import Spiral, walked
from chorograph_core.designs.engine.wandering import evened
from chorograph_core.designs.keeping import pushed_back
from chorograph_core.designs.linework import Linework, Run, Unit, length, size_of_hand
from chorograph_core.designs.settings import Settings, refuse_thousands
from chorograph_core.designs.space import Space
from chorograph_core.designs.wander import open_way

MOST = 3000
"""Figures in a zone: a field of 90″ holds 2,300 of 2″."""
SHARE = 0.87
"""What a figure covers of the square of its size."""
DEEP = 0.24
"""How far a place must be from the edge, in figures, for one of the smallest to have room."""
HELD, MOST_HELD = 0.85, 0.6
"""How much of a zone is to be wide enough for figures, and how little is hardly any of it."""
TRIES, FEW = 5, 80
"""How often figures are laid otherwise where lines cross, as long as they are no more than so many."""
MOST_FILLED = 150
"""Figures between which open spots are echoed: in a field of hundreds it takes seconds."""
MOST_ECHOED = 1.8
"""How much longer a line may grow by echoing open spots."""
ROUND_AT_EDGE = 0.35
"""How round the cells of spirals at the edge of a zone are at most."""
TRUE = 0.75
"""Lines drawn so many gaps apart come out hardly less than a gap apart on the whole: between figures it is
wider."""


def room_for(space: Space, margin: float, size: float) -> Fit:
    """How well figures of *size* inches suit a zone."""
    parts = space.inset(margin)
    area = sum(part.area for part in parts)
    near = DEEP * size
    held = sum(part.buffer(-near).buffer(near).area for part in parts)
    if held <= 0:
        return Fit(0.1, ("not one whole figure has room: echo instead",))
    if held < MOST_HELD * area:
        return Fit(0.3, ("most of the zone is too narrow for a whole figure",))
    if held < HELD * area:
        return Fit(0.33, ("parts of the zone are too narrow for a whole figure",))
    count = max(1, round(area / (size * size * SHARE)))
    if count < 2:
        return Fit(0.4, ("room for one figure",))
    return Fit(0.75, (f"about {count} figures",))


S = TypeVar("S", bound=Settings)


class FigureFill(CountedMotif[S]):
    """A fill of figures in cells. *sized_by* is the setting that says how large they are, and its label; the
    settings have *margin* too."""

    divisible = True
    rounds_pockets = True
    sized_by: ClassVar[tuple[str, str]]

    def size_of(self, s: Any) -> float:
        """Inches across a figure."""
        return float(s.size)

    def fits(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> Fit:
        """At least one figure must have room."""
        s: Any = self.clean(settings)
        self.refuse(space, s)
        return room_for(space, s.margin, self.size_of(s))

    def refuse(self, space: Space, s: Any) -> None:
        """Where there would be thousands."""
        field, label = self.sized_by
        count = space.polygon.area / (self.size_of(s) ** 2 * SHARE)
        refuse_thousands(count, MOST, label, field, "figures")


def outward_in(part: Polygon):
    """A function that tells for a cell the angle at which the edge of *part* is nearest."""

    def outward(cell: Cell) -> float:
        way = shapely.shortest_line(shapely.points(cell.middle), part.boundary)
        return cell.towards(shapely.get_coordinates(way)[1])

    return outward


def spirals_through(
    space: Space, margin: float, size: float, gap: float, kind: Spiral, seed: int, name: str,
    round_: float = 0.5, sense: int = 1, even: bool = True, echo: float = 0.0,
    at_edge: float = ROUND_AT_EDGE, least_turn: float = 0.0,
) -> Linework:  # fmt: skip
    """A zone filled with spirals of one *kind*, an unbroken line for each part of it; *name* is
    what a figure is called; *at_edge* as in `cells_in`, *echo* and *least_turn* as in `run_of`."""
    runs: list[Run] = []
    for part in space.inset(margin):
        best: list[Run] = []
        fewest = math.inf
        attempt, through = 0, True
        while attempt < TRIES or (attempt == TRIES and through):
            # Where one comes through a neck only across a line, it is cut there after all.
            rng = np.random.default_rng(seed + 1009 * (attempt % TRIES))
            cells = cells_in(part, size, gap, rng, round_, at_edge, attempt < TRIES)
            through = any(cell.necks for cell in cells)
            made: list[Run] = []
            lines = [
                walked(cells, walk, kind, outward_in(part), sense) for walk in walks_through(cells)
            ]
            for k, (line, stops) in enumerate(lines):
                # What another line fills is no open spot of this one.
                others = [*(run.points for run in made), *(other for other, _ in lines[k + 1 :])]
                held = [shapely.linestrings(other).buffer(gap, quad_segs=4) for other in others]
                free = part.difference(shapely.union_all(held)) if held else part
                run = run_of(
                    line, stops, part, gap, size, name, even, margin, echo, free, least_turn
                )
                made += [run] if run is not None else []
            crossing = sum(not shapely.linestrings(run.points).is_simple for run in made)
            if crossing < fewest:
                best, fewest = made, crossing
            if not fewest:
                break
            # Of many figures two meet somewhere whatever one tries.
            attempt = TRIES if len(cells) > FEW and attempt < TRIES else attempt + 1
        runs += best
    return Linework(tuple(runs))


def run_of(
    line: np.ndarray, stops: list[int], part: Polygon, gap: float, size: float, name: str,
    even: bool = True, margin: float = 0.125, echo: float = 0.0, free: BaseGeometry | None = None,
    least_turn: float = 0.0,
) -> Run | None:  # fmt: skip
    """One run with its units, evened and eased within *part*; open spots between figures that keep *echo*
    inches from each other are echoed where it is *free* (all of the part, if nothing else is said). It
    turns in no less than *least_turn* inches."""
    if len(line) < 4:
        return None
    ends = line[np.minimum(stops, len(line) - 1)]
    over = slack(margin)
    room = part.buffer(over)
    shapely.prepare(room)
    if not room.covers(shapely.linestrings(line)):
        # The way between two figures, round a corner that points inwards or past the edge, keeps to the edge.
        held = pushed_back(thin(line, 0.003), part)
        if held is None or not room.covers(shapely.linestrings(held)):
            return None
        line, even = held, False
    settled = evened(line, part, gap) if even else line
    made = None
    if echo > 0:
        made = _echoed(settled, part, part if free is None else free, gap, echo, over)
    if made is None:
        made = finished(settled, gap / 4, part, over=over)
    if made is None:
        made = finished(line, gap / 8, part, over=over)
    if made is None:
        return None
    if least_turn:
        made = without_kinks(made, least_turn, part, over)
    return Run(made, size_of_hand(size), units=units_at(made, ends, name))


def _echoed(
    line: np.ndarray, part: Polygon, free: BaseGeometry, gap: float, echo: float, over: float
) -> np.ndarray | None:  # fmt: skip
    """A line with its open spots where it is *free* echoed, eased as far as it bears; None where that would
    make it cross itself and it did not before."""
    whole = echoed(line, free, echo)
    if length(whole) > MOST_ECHOED * length(line):
        # In what is too narrow for figures there would be more drops than figures.
        return None
    crossed = not shapely.linestrings(line).is_simple
    for share in (3, 5, 8):
        made = finished(whole, gap / share, part, over=over)
        if made is not None and (crossed or shapely.linestrings(made).is_simple):
            return made
    return None


Figure = Callable[[Cell, float, float, int], np.ndarray]
"""Draws a figure: its cell, the angles at which one comes and goes, its number in the line."""


def figures_through(
    space: Space, margin: float, size: float, gap: float, seed: int, figure: Figure, name: str,
    round_: float, echo: float = 0.0,
) -> Linework:  # fmt: skip
    """A zone filled with one *figure* after another, an unbroken line for each part of it; *echo* as in
    `run_of`."""
    runs = []
    for part in space.inset(margin):
        cells = cells_in(part, size, gap, np.random.default_rng(seed), round_)
        order = a_way_through(cells, part)
        outward = outward_in(part)
        figures = []
        for k, cell in enumerate(order):
            ahead = cell.towards(order[k + 1].middle) if k + 1 < len(order) else outward(cell)
            behind = cell.towards(order[k - 1].middle) if k else outward(cell)
            figures.append(figure(cell, behind, ahead, k))
        line, stops = strung(figures, way_between)
        echo = echo if len(order) <= MOST_FILLED else 0.0
        runs.append(run_of(line, stops, part, gap, size, name, False, margin, echo))
    return Linework(tuple(run for run in runs if run is not None))


def a_way_through(cells: Sequence[Cell], part: Polygon) -> list[Cell]:
    """All cells of a *part*, in the order of a short way through their middles."""
    middles = np.array([cell.middle for cell in cells]).reshape(-1, 2)
    return [cells[k] for k in open_way(middles, part)]


def strung(
    figures: Sequence[np.ndarray], way: Callable[[np.ndarray, np.ndarray], np.ndarray]
) -> tuple[np.ndarray, list[int]]:
    """Figures (n, 2) with a *way* from each to the next, as one line, and the indices at which each ends."""
    pieces = list(figures[:1])
    for figure in figures[1:]:
        pieces += [way(pieces[-1], figure), figure]
    stops = np.cumsum([len(piece) for piece in pieces])[::2] - 1
    return np.vstack(pieces or [np.empty((0, 2))]), stops.tolist()


def units_at(line: np.ndarray, ends: np.ndarray, name: str) -> tuple[Unit, ...]:
    """Units that end where *line* comes by each of *ends* in turn; the last ends with the line."""
    found: list[Unit] = []
    begun = 0
    reach = max(60, 8 * len(line) // max(len(ends), 1))
    for k, end in enumerate(ends[:-1], 1):
        ahead = np.hypot(*(line[begun + 1 : min(begun + reach, len(line) - 1)] - end).T)
        if not len(ahead):
            break
        begun = begun + 1 + int(ahead.argmin())
        found.append(Unit(f"{name} {k}", begun))
    return (*found, Unit(f"{name} {len(ends)}", len(line) - 1)) if found else ()
