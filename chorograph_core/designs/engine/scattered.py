"""Figures scattered over a zone, loops in what they leave open, and one way through all that flows."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.designs.engine.cells import Cell, cells_in
from chorograph_core.designs.engine.figures_in_cells import (
    a_way_through,
    outward_in,
    run_of,
    strung,
)
from chorograph_core.designs.engine.spots import open_spots
from chorograph_core.designs.engine.strokes import bent_inwards
from chorograph_core.designs.engine.turned_figures import (
    Placed,
    Stroke,
    turned_along,
    way_between,
)
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.space import Space

GAP = 0.12
"""Sizes that figures keep from each other."""
ROUND = 0.7
"""How round the cells of figures are."""
LOOP, APART = (0.08, 0.13, 0.22), 0.1
"""Sizes: radii of loops in open spots (by a corner at least, elsewhere at least, at most), and how far
they keep off figures."""
FILLED = 0.8
"""How much of its cell a figure takes up at least, where open spots are looked for."""
HELD, EASED = 0.03, 0.08
"""Sizes: how far inside the edge a way is held that would leave, and how much it is eased then."""
OVERLAP = 0.6
"""Radians by which a loop goes on past where it began, either way."""

Scattered = Callable[[Cell, int], Placed]
"""What lies in a cell, the so many-th along the way of those that are no open spots."""


def _loop(sense: int) -> Stroke:
    turn = sense * np.linspace(-OVERLAP, 2 * math.pi + OVERLAP, 40)
    return np.column_stack([np.cos(turn), np.sin(turn)])


LOOPS = (_loop(1), _loop(-1))
"""Round and on past where one came from, either way."""


def loop_in(cell: Cell, share: float) -> Placed:
    """A loop that takes a *share* of what its cell has room for."""
    return Placed(cell.middle, share * cell.narrowest, LOOPS)


def scattered(
    space: Space, margin: float, size: float, seed: int, name: str, reach: float, what: Scattered
) -> Linework:
    """A zone filled with figures of *size* inches, each of which takes up *reach* of its cell, an unbroken
    line for each part of it; *name* is what a figure is called."""
    runs = []
    for part in space.inset(margin):
        cells = cells_in(part, size, GAP * size, np.random.default_rng(seed), ROUND)
        tip, least, most = (share * size for share in LOOP)
        # Who wants them small in their room wants air round them, not loops.
        taken = max(reach, FILLED)
        cells += open_spots(part, cells, taken, (tip, least, most), APART * size)
        order = a_way_through(cells, part)
        if not order:
            continue
        places, count = list[Placed](), 0
        for cell in order:
            places.append(loop_in(cell, 1.0) if cell.spare else what(cell, count))
            count += not cell.spare
        outward = outward_in(part)
        lines = turned_along(places, outward(order[0]), outward(order[-1]), part)
        line, stops = strung(lines, partial(_way, part, size))
        run = run_of(line, stops, part, GAP * size, size, name, False, margin)
        runs += [run] if run is not None else []
    return Linework(tuple(runs))


def _way(part: Polygon, size: float, before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """A way between two figures, bent inwards where it would leave *part*."""
    return bent_inwards(way_between(before, after), part, HELD * size, EASED * size)
