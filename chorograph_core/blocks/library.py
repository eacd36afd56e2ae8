"""Blocks drafted on a grid, from data.

A block is a grid of cells. Each cell is one word:

=============  =====================================================================
``a``          the whole cell in fabric a
``a/b``        cut by the rising diagonal: a at the upper left, b at the lower right
``a\\b``        cut by the falling diagonal: a at the lower left, b at the upper right
``abcd``       quarter triangles: top, right, bottom, left
``a-b``        cut across at half height: a above b
``a|b``        cut upright at half width: a left of b
``(tl:ab)``    quarter circle about the top left corner (tr, bl, br), a inside, b outside
``.``          covered by a larger piece
=============  =====================================================================

Larger pieces are polygons on the grid with a fabric. A block may also be *round*: a star, a ring of
wedges or a fan (see `chorograph_core.chart.wedges`). Everything is scaled to the finished size.
"""

from __future__ import annotations

import math
import re
import tomllib
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any
from weakref import WeakValueDictionary

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.blocks.drafting import Draft
from chorograph_core.blocks.wedges import fan, ring, star
from chorograph_core.chart.arcs import arc, arc_steps
from chorograph_core.chart.model import ChartError

_CURVE = re.compile(r"\((tl|tr|bl|br):([a-z])([a-z])(?:@([\d.]+))?\)")
_CORNERS = {
    "tl": ((0, 0), 0.0),
    "tr": ((1, 0), math.pi / 2),
    "br": ((1, 1), math.pi),
    "bl": ((0, 1), 1.5 * math.pi),
}
_ROUND: dict[str, Callable[..., list]] = {"star": star, "ring": ring, "fan": fan}
_SQUARE = [(0, 0), (1, 0), (1, 1), (0, 1)]


@dataclass(frozen=True)
class Piece:
    """A patch of a block in the unit square: vertices (n, 2), fabric letter, cell name."""

    points: tuple[tuple[float, float], ...]
    fabric: str
    cell: str


@dataclass(frozen=True)
class Block:
    """A drafted block: key, name, and what it is made of, in the unit square.

    *round* holds the shape and settings of a block drawn round a centre, *drafted* what was made on
    the drafting board; the grid then says nothing.
    """

    key: str
    name: str
    grid: tuple[int, int]
    cells: tuple[str, ...]
    pieces: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = ()
    round: tuple[tuple[str, Any], ...] = ()
    drafted: Draft | None = None

    def draft(self, size: float, height: float | None = None) -> list[Piece]:
        """Return the block's pieces for a finished *size* in inches, origin at its top left.

        With *height* the block is as wide as *size* and that high.

        Curves get as many chords as that size needs, so both sides of a seam share vertices.
        """
        if self.drafted is not None:
            return [
                Piece(tuple(map(tuple, np.round(points, 9))), fabric, cell)
                for points, fabric, cell in self.drafted.pieces(size, height or size)
            ]
        rows = [row.split() for row in self.cells]
        columns, count = self.grid
        if len(rows) != count or any(len(row) != columns for row in rows):
            raise ChartError(f"block {self.key}: the grid is {columns} × {count}", "block")
        made: list[tuple[np.ndarray, str, str]] = []
        for r, row in enumerate(rows):
            for c, word in enumerate(row):
                for n, (points, fabric) in enumerate(
                    _cell(word, max(size, height or size) / columns)
                ):
                    made.append((np.asarray(points) + (c, r), fabric, f"r{r}c{c}.{n}"))
        for n, (fabric, corners) in enumerate(self.pieces):
            made.append((np.asarray(corners, float), fabric, f"p{n}"))
        if self.round:
            values = dict(self.round)
            shape = values.pop("shape")
            if shape != "star":
                values["size"] = size
            for n, (points, fabric) in enumerate(_ROUND[shape](**values)):
                made.append((np.asarray(points, float) * self.grid, fabric, f"w{n}"))
        scale = np.array([size / columns, (size if height is None else height) / count])
        return [
            Piece(tuple(map(tuple, np.round(points * scale, 9))), fabric, cell)
            for points, fabric, cell in made
        ]


def _cell(word: str, inches: float) -> list[tuple[list, str]]:
    if word == ".":
        return []
    curve = _CURVE.fullmatch(word)
    if curve:
        return _quarter_circle(curve[1], curve[2], curve[3], float(curve[4] or 0.75), inches)
    if len(word) == 1:
        return [(_SQUARE, word)]
    if len(word) == 4 and word.isalpha():
        centre = (0.5, 0.5)
        return [([_SQUARE[i], _SQUARE[(i + 1) % 4], centre], word[i]) for i in range(4)]
    if len(word) == 3:
        a, cut, b = word[0], word[1], word[2]
        if cut == "/":
            return [([(0, 0), (1, 0), (0, 1)], a), ([(1, 0), (1, 1), (0, 1)], b)]
        if cut == "\\":
            return [([(0, 0), (1, 1), (0, 1)], a), ([(0, 0), (1, 0), (1, 1)], b)]
        if cut == "-":
            return [
                ([(0, 0), (1, 0), (1, 0.5), (0, 0.5)], a),
                ([(0, 0.5), (1, 0.5), (1, 1), (0, 1)], b),
            ]
        if cut == "|":
            return [
                ([(0, 0), (0.5, 0), (0.5, 1), (0, 1)], a),
                ([(0.5, 0), (1, 0), (1, 1), (0.5, 1)], b),
            ]
    raise ChartError(f"“{word}” is not a cell", "block")


def _quarter_circle(corner: str, a: str, b: str, radius: float, inches: float) -> list:
    (cx, cy), start = _CORNERS[corner]
    steps = arc_steps(radius * inches, math.pi / 2)
    bow = arc((cx, cy), radius, start, start + math.pi / 2, steps)
    bow[np.abs(bow) < 1e-12] = 0.0
    pie = [(cx, cy), *map(tuple, bow)]
    turn = _SQUARE.index((cx, cy))
    others = [_SQUARE[(turn + k) % 4] for k in (1, 2, 3)]
    rest = [p for p in others if radius < 1 or p == others[1]]
    return [(pie, a), ([*rest, *map(tuple, bow[::-1])], b)]


@cache
def block_library() -> dict[str, Block]:
    """All blocks that ship, by key, in the order of the data file."""
    text = resources.files("chorograph_core.blocks").joinpath("blocks.toml").read_text("utf-8")
    found = {}
    for key, entry in tomllib.loads(text).items():
        found[key] = Block(
            key,
            entry["name"],
            (entry["grid"][0], entry["grid"][1]),
            tuple(entry["cells"]),
            tuple(
                (piece["fabric"], tuple((float(x), float(y)) for x, y in piece["points"]))
                for piece in entry.get("piece", [])
            ),
            tuple(entry.get("round", {}).items()),
        )
    return found


_OWN: WeakValueDictionary[str, Block] = WeakValueDictionary()
"""Blocks that studios drafted, by a key that is made of what they are (see `own_blocks`), for as long
as a job or a page holds them."""
_LATELY: deque[Block] = deque(maxlen=256)
"""Those met last are held here, so that what one request drafts the next line still finds."""


def remember(made: Block) -> Block:
    """Let a block be found by its key from now on. Keys are made of the content, so that nothing
    can be exchanged for something else."""
    known = _OWN.setdefault(made.key, made)
    _LATELY.append(known)
    return known


def block(key: str) -> Block:
    """Return the block called *key*; `ChartError` when there is none."""
    found = block_library().get(key) or _OWN.get(key)
    if found is None:
        known = ", ".join(block_library())
        raise ChartError(f"There is no block called “{key}”. Known: {known}.", "block")
    return found


def polygon_of(piece: Piece, dx: float, dy: float) -> Polygon:
    """The piece as a polygon moved to (*dx*, *dy*) inches."""
    return Polygon([(round(x + dx, 9), round(y + dy, 9)) for x, y in piece.points])
