"""Fills made of one figure after another: what all of them share."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Fit, Linework, Run, Unit, size_of_hand
from chorograph_core.designs.curves import thin
from chorograph_core.designs.engine.cells import Cell, Walk, cells_in, walks_through
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.engine.turning import Spiral, joined, walked
from chorograph_core.designs.engine.wandering import evened
from chorograph_core.designs.keeping import pushed_back
from chorograph_core.designs.space import Space

MOST = 4000
"""Figures in one line."""
TRUE = 0.9
"""Lines drawn so many gaps apart come out a gap apart on the whole: between figures it is wider."""


def room_for(space: Space, margin: float, size: float) -> Fit:
    """How well figures of *size* inches suit a zone."""
    parts = space.inset(margin)
    deep = max(
        (float(shapely.maximum_inscribed_circle(p, tolerance=0.02).length) for p in parts),
        default=0.0,
    )
    if deep < 0.24 * size:
        return Fit(0.1, ("not one whole figure has room: echo instead",))
    near = 0.24 * size
    held = sum(p.buffer(-near).buffer(near).area for p in parts) / max(
        sum(p.area for p in parts), 1e-9
    )
    if held < 0.6:
        return Fit(0.3, ("most of the zone is too narrow for a whole figure",))
    count = max(1, round(sum(p.area for p in parts) / (size * size * 0.87)))
    if count < 2:
        return Fit(0.4, ("room for one figure",))
    return Fit(0.75, (f"about {count} figures",))


def outward_in(part: Polygon):
    """A function that tells for a cell the angle at which the edge of *part* is nearest."""

    def outward(cell: Cell) -> float:
        way = shapely.shortest_line(shapely.points(cell.middle), part.boundary)
        return cell.towards(shapely.get_coordinates(way)[1])

    return outward


def spirals_through(
    space: Space, margin: float, size: float, gap: float, kind: Spiral, seed: int, name: str,
    round_: float = 0.5, sense: int = 1, even: bool = True,
) -> Linework:  # fmt: skip
    """A zone filled with spirals of one *kind*, an unbroken line for each part of it; *name* is
    what a figure is called."""
    runs = []
    for part in space.inset(margin):
        cells = cells_in(part, size, gap, np.random.default_rng(seed), round_)
        for walk in walks_through(cells):
            line, stops = walked(cells, walk, kind, outward_in(part), sense)
            runs.append(run_of(line, stops, part, gap, size, name, even, margin))
    return Linework(tuple(run for run in runs if run is not None))


def run_of(
    line: np.ndarray, stops: list[int], part: Polygon, gap: float, size: float, name: str,
    even: bool = True, margin: float = 0.125,
) -> Run | None:  # fmt: skip
    """One run with its units, evened and eased within *part*."""
    if len(line) < 4:
        return None
    ends = line[np.minimum(stops, len(line) - 1)]
    over = slack(margin)
    made = finished(evened(line, part, gap) if even else line, gap / 4, part, over=over)
    if made is None:
        made = finished(line, gap / 8, part, over=over)
    if made is None:
        # Where figures lie round a corner that points inwards the way between two of them keeps to the edge.
        made = pushed_back(thin(line, 0.003), part)
    if made is None or not part.buffer(over).covers(shapely.linestrings(made)):
        return None
    return Run(made, size_of_hand(size), units=units_at(made, ends, name))


def in_order(walk: Walk) -> list[int]:
    """All cells of a walk, those turned aside to right after the one they hang on."""
    made: list[int] = []
    stack = list(reversed(walk.path))
    while stack:
        node = stack.pop()
        made.append(node)
        stack += reversed(walk.aside.get(node, []))
    return made


Figure = Callable[[Cell, float, float, int], np.ndarray]
"""Draws a figure: its cell, the angles at which one comes and goes, its number in the line."""


def figures_through(
    space: Space,
    margin: float,
    size: float,
    gap: float,
    seed: int,
    figure: Figure,
    name: str,
    round_: float,
) -> Linework:
    """A zone filled with one *figure* after another, an unbroken line for each part of it."""
    runs = []
    for part in space.inset(margin):
        cells = cells_in(part, size, gap, np.random.default_rng(seed), round_)
        outward = outward_in(part)
        for walk in walks_through(cells):
            order = in_order(walk)
            pieces: list[np.ndarray] = []
            stops, count = [], 0
            for k, index in enumerate(order):
                cell = cells[index]
                on = order[k + 1] if k + 1 < len(order) else None
                ahead = outward(cell) if on is None else cell.towards(cells[on].middle)
                behind = cell.towards(cells[order[k - 1]].middle) if k else outward(cell)
                line = figure(cell, behind, ahead, k)
                if pieces:
                    pieces.append(joined(pieces[-1], line))
                    count += len(pieces[-1])
                pieces.append(line)
                count += len(line)
                stops.append(count - 1)
            runs.append(run_of(np.vstack(pieces), stops, part, gap, size, name, False, margin))
    return Linework(tuple(run for run in runs if run is not None))


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
