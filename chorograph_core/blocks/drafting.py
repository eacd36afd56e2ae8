"""The drafting board: a block on a grid of even or uneven rows and columns, each cell cut as wished.

A cell is written ``kind turn : fabrics``, as in ``goose1:bac``. Turned by quarters clockwise:

============  ======  ==================================================================
kind          pieces  how the cell is cut, before it is turned
============  ======  ==================================================================
``whole``     1       not at all
``diagonal``  2       by the rising diagonal: upper left, lower right
``quarters``  4       by both diagonals: top, right, bottom, left
``half``      2       across at half height: upper, lower
``squares``   4       by both midlines: upper left, upper right, lower right, lower left
``goose``     3       a large triangle with its point up, then the small ones left and right
``curve``     2       by a quarter circle about the upper left corner: inside, outside
``wedges``    2 to 9  by rays from the upper left corner, from the upper edge on
============  ======  ==================================================================
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from chorograph_core.chart.arcs import arc, arc_steps
from chorograph_core.chart.model import ChartError

FABRICS = "abcd"
MOST_CELLS = 12
"""Rows or columns of a board."""
CURVE_RADIUS = 0.75
MOST_WEDGES = 9
_WORD = re.compile(r"([a-z]+)([0-3]):([a-d]+)")
_SQUARE = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))

Points = list[tuple[float, float]]


@dataclass(frozen=True)
class Kind:
    """A way to cut a cell: how many pieces, and what a mirror makes of it.

    The mirror image (left for right) of one not turned is the same kind turned by *shift* quarters,
    its pieces in the order *swapped*.
    """

    name: str
    count: int
    shift: int
    swapped: tuple[int, ...]


KINDS = {
    "whole": Kind("whole", 1, 0, (0,)),
    "diagonal": Kind("one diagonal", 2, 1, (0, 1)),
    "quarters": Kind("both diagonals", 4, 0, (0, 3, 2, 1)),
    "half": Kind("one midline", 2, 0, (0, 1)),
    "squares": Kind("both midlines", 4, 0, (1, 0, 3, 2)),
    "goose": Kind("a goose", 3, 0, (0, 2, 1)),
    "curve": Kind("a quarter circle", 2, 1, (0, 1)),
    "wedges": Kind("wedges", 3, 1, ()),
}
_FIRST = {"whole": "a", "diagonal": "ab", "quarters": "abab", "half": "ab", "squares": "abab",
          "goose": "baa", "curve": "ba", "wedges": "bcd"}  # fmt: skip


@dataclass(frozen=True)
class Cell:
    """One cell of the board: its kind, quarter turns clockwise, a fabric letter for each piece."""

    kind: str = "whole"
    turn: int = 0
    fabrics: str = "a"

    @property
    def word(self) -> str:
        """The cell as it is written down."""
        return f"{self.kind}{self.turn}:{self.fabrics}"

    def turned(self, quarters: int = 1) -> Cell:
        """The cell turned clockwise."""
        return replace(self, turn=(self.turn + quarters) % 4)

    def mirrored(self) -> Cell:
        """The cell as seen in a mirror, left for right."""
        kind = KINDS[self.kind]
        order = kind.swapped or tuple(reversed(range(len(self.fabrics))))
        fabrics = "".join(self.fabrics[k] for k in order)
        return Cell(self.kind, (kind.shift - self.turn) % 4, fabrics)

    def pieces(self, inches: float) -> list[tuple[Points, str]]:
        """(points, fabric) of each piece in the unit square; *inches* is the size of the cell, which
        says how many chords stand for an arc."""
        made = _cut(self.kind, len(self.fabrics), inches)
        for _ in range(self.turn):
            made = [[(1 - y, x) for x, y in points] for points in made]
        return list(zip(made, self.fabrics, strict=True))


def read_cell(word: str) -> Cell:
    """The cell that *word* stands for; `ChartError` if it stands for none."""
    found = _WORD.fullmatch(word)
    kind = KINDS.get(found[1]) if found else None
    if found is None or kind is None:
        raise ChartError(f"“{word[:40]}” is not a cell.", "cells")
    count = len(found[3])
    if count != kind.count and not (found[1] == "wedges" and 2 <= count <= MOST_WEDGES):
        raise ChartError(f"“{word[:40]}” has {count} fabrics, not {kind.count}.", "cells")
    return Cell(found[1], int(found[2]), found[3])


def _cut(kind: str, count: int, inches: float) -> list[Points]:
    tl, tr, br, bl = _SQUARE
    centre, top, right, bottom, left = (0.5, 0.5), (0.5, 0.0), (1.0, 0.5), (0.5, 1.0), (0.0, 0.5)
    if kind == "diagonal":
        return [[tl, tr, bl], [tr, br, bl]]
    if kind == "quarters":
        return [[_SQUARE[k], _SQUARE[(k + 1) % 4], centre] for k in range(4)]
    if kind == "half":
        return [[tl, tr, right, left], [left, right, br, bl]]
    if kind == "squares":
        return [[tl, top, centre, left], [top, tr, right, centre], [centre, right, br, bottom],
                [left, centre, bottom, bl]]  # fmt: skip
    if kind == "goose":
        return [[top, br, bl], [tl, top, bl], [top, tr, br]]
    if kind == "curve":
        steps = arc_steps(CURVE_RADIUS * inches, math.pi / 2)
        bow = arc((0, 0), CURVE_RADIUS, 0, math.pi / 2, steps)
        bow[np.abs(bow) < 1e-12] = 0.0
        round_ = [(float(x), float(y)) for x, y in bow]
        return [[tl, *round_], [tr, br, bl, *round_[::-1]]]
    if kind == "wedges":
        rays = [_ray(k / count) for k in range(count + 1)]
        return [
            [tl, a, *([br] if a[0] == 1.0 and b[1] == 1.0 and a != br != b else []), b]
            for a, b in itertools.pairwise(rays)
        ]
    return [list(_SQUARE)]


def _ray(share: float) -> tuple[float, float]:
    """Where a ray from the upper left corner leaves the cell; *share* 0 along the top, 1 down."""
    angle = share * math.pi / 2
    if abs(share - 0.5) < 1e-12:
        return (1.0, 1.0)
    return (
        (1.0, math.tan(angle)) if share < 0.5 else (1 / math.tan(angle) if share < 1 else 0.0, 1.0)
    )


@dataclass(frozen=True)
class Draft:
    """A block on the board. *columns* and *rows* are relative widths and heights."""

    columns: tuple[float, ...]
    rows: tuple[float, ...]
    cells: tuple[tuple[Cell, ...], ...]

    def __post_init__(self) -> None:
        for name, sizes in (("columns", self.columns), ("rows", self.rows)):
            if not 1 <= len(sizes) <= MOST_CELLS:
                raise ChartError(f"A board has 1 to {MOST_CELLS} {name}.", name)
            if not all(math.isfinite(size) and 0.1 <= size <= 100 for size in sizes):
                raise ChartError(f"The {name} are sizes like 1, 2, 1, from 0.1 to 100.", name)
        if [len(row) for row in self.cells] != [len(self.columns)] * len(self.rows):
            raise ChartError("The cells do not fill the board.", "cells")

    @classmethod
    def empty(cls, columns: Sequence[float], rows: Sequence[float]) -> Draft:
        """A board of whole cells in the background fabric."""
        return cls(tuple(columns), tuple(rows), ((Cell(),) * len(columns),) * len(rows))

    def resized(self, columns: Sequence[float], rows: Sequence[float]) -> Draft:
        """The same cells on another grid; what no longer fits is left out, new cells are whole."""
        cells = tuple(
            tuple(
                self.cells[r][c] if r < len(self.rows) and c < len(self.columns) else Cell()
                for c in range(len(columns))
            )
            for r in range(len(rows))
        )
        return Draft(tuple(columns), tuple(rows), cells)

    def with_cell(self, row: int, column: int, cell: Cell) -> Draft:
        """The draft with one cell exchanged; `ChartError` for a cell that is not there."""
        if not (0 <= row < len(self.rows) and 0 <= column < len(self.columns)):
            raise ChartError("That cell is not on the board.", "cells")
        line = (*self.cells[row][:column], cell, *self.cells[row][column + 1 :])
        return replace(self, cells=(*self.cells[:row], line, *self.cells[row + 1 :]))

    def cut(self, row: int, column: int, kind: str, wedges: int = 3) -> Draft:
        """Cut a cell; one that is cut so already is turned by a quarter instead."""
        if kind not in KINDS:
            raise ChartError("Choose how to cut the cell.", "tool")
        count = min(max(wedges, 2), MOST_WEDGES) if kind == "wedges" else KINDS[kind].count
        before = self._at(row, column)
        if before.kind == kind and len(before.fabrics) == count:
            return self.with_cell(row, column, before.turned())
        first = _FIRST[kind]
        fabrics = "".join(first[k % len(first)] for k in range(count))
        return self.with_cell(row, column, Cell(kind, 0, fabrics))

    def coloured(self, row: int, column: int, piece: int, fabric: str) -> Draft:
        """Give one piece of a cell another fabric."""
        cell = self._at(row, column)
        if fabric not in FABRICS or len(fabric) != 1 or not 0 <= piece < len(cell.fabrics):
            raise ChartError("Choose a fabric and a piece of a cell.", "fabric")
        letters = cell.fabrics[:piece] + fabric + cell.fabrics[piece + 1 :]
        return self.with_cell(row, column, replace(cell, fabrics=letters))

    def _at(self, row: int, column: int) -> Cell:
        if not (0 <= row < len(self.rows) and 0 <= column < len(self.columns)):
            raise ChartError("That cell is not on the board.", "cells")
        return self.cells[row][column]

    def turned(self) -> Draft:
        """The whole board turned by a quarter, clockwise."""
        cells = tuple(
            tuple(cell.turned() for cell in reversed(column))
            for column in zip(*self.cells, strict=True)
        )
        return Draft(tuple(reversed(self.rows)), self.columns, cells)

    def mirrored(self) -> Draft:
        """The whole board as seen in a mirror, left for right."""
        cells = tuple(tuple(cell.mirrored() for cell in reversed(row)) for row in self.cells)
        return Draft(tuple(reversed(self.columns)), self.rows, cells)

    def four_times(self, mirror: bool = False) -> Draft:
        """The board as the upper left quarter of one twice as large, turned round the middle, or
        with *mirror* reflected in both midlines."""
        if mirror:
            right = self.mirrored()
            top = [(*a, *b) for a, b in zip(self.cells, right.cells, strict=True)]
            below = self.turned().turned()  # reflected in both midlines is half a turn,
            left = below.mirrored()  # and in the level one that again in the mirror
            bottom = [(*a, *b) for a, b in zip(left.cells, below.cells, strict=True)]
            return Draft((*self.columns, *right.columns), (*self.rows, *left.rows),
                         (*top, *bottom))  # fmt: skip
        if self.columns != self.rows:
            raise ChartError("To be turned round the middle, rows and columns must be alike.",
                             "columns")  # fmt: skip
        right = self.turned()
        below = right.turned()
        left = below.turned()
        top = [(*a, *b) for a, b in zip(self.cells, right.cells, strict=True)]
        bottom = [(*a, *b) for a, b in zip(left.cells, below.cells, strict=True)]
        return Draft((*self.columns, *right.columns), (*self.rows, *left.rows), (*top, *bottom))

    def pieces(self, width: float, height: float) -> list[tuple[np.ndarray, str, str]]:
        """(points (n, 2) in inches, fabric, name) of every piece for a block of that size."""
        xs = np.concatenate([[0.0], np.cumsum(self.columns)]) / sum(self.columns) * width
        ys = np.concatenate([[0.0], np.cumsum(self.rows)]) / sum(self.rows) * height
        made = []
        for r, row in enumerate(self.cells):
            for c, cell in enumerate(row):
                size = np.array([xs[c + 1] - xs[c], ys[r + 1] - ys[r]])
                for n, (points, fabric) in enumerate(cell.pieces(float(size.max()))):
                    laid = np.array(points) * size + (xs[c], ys[r])
                    made.append((laid, fabric, f"r{r}c{c}.{n}"))
        return made
