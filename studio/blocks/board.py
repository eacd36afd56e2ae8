"""What is done on the drafting board. The page holds the draft; each act gives the next one."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from chorograph_core.blocks import block_library
from chorograph_core.blocks.drafting import FABRICS, KINDS, MOST_CELLS, Cell, Draft
from chorograph_core.blocks.library import Block
from chorograph_core.blocks.own_blocks import data_of, drafted_block, own_block, round_block
from chorograph_core.chart import ChartError
from chorograph_core.layouts import PALETTE
from chorograph_core.measure import LengthError, parse_length
from studio.asking import number_or

MOST_PAST = 40
LARGEST_STATE = 400_000
COLOURS = {fabric.key: (fabric.name, fabric.colour) for fabric in PALETTE if fabric.key in FABRICS}
SIDE = 100.0
"""Units of the longer side of a drawn block."""
START = Draft.empty((1, 1, 1, 1), (1, 1, 1, 1))


@dataclass(frozen=True)
class Board:
    """A draft, what it was before (for undo), and what is wrong with what was last asked for."""

    draft: Draft
    past: tuple[str, ...] = ()
    fault: str = ""
    field: str = ""

    @property
    def written(self) -> str:
        """The draft as the page keeps it."""
        return _write(self.draft)

    @property
    def past_written(self) -> str:
        """What undo needs, as the page keeps it."""
        return json.dumps(self.past)

    @property
    def columns_text(self) -> str:
        """The widths as they are typed."""
        return ", ".join(f"{size:g}" for size in self.draft.columns)

    @property
    def rows_text(self) -> str:
        """The heights as they are typed."""
        return ", ".join(f"{size:g}" for size in self.draft.rows)

    @property
    def size(self) -> tuple[float, float]:
        """Width and height on the page."""
        wide, high = sum(self.draft.columns), sum(self.draft.rows)
        return SIDE * wide / max(wide, high), SIDE * high / max(wide, high)

    @property
    def nine(self) -> tuple[float, float]:
        """Width and height of nine blocks together."""
        return 3 * self.size[0], 3 * self.size[1]

    @property
    def places(self) -> list[tuple[float, float]]:
        """Where the nine lie."""
        width, height = self.size
        return [(k * width, n * height) for n in range(3) for k in range(3)]

    @property
    def pieces(self) -> list[dict[str, Any]]:
        """Every piece as it is drawn and named."""
        return [
            {"d": _path(points), "colour": COLOURS[fabric][1], "fabric": COLOURS[fabric][0],
             **dict(zip(("row", "column", "piece"), map(int, re.findall(r"\d+", name)), strict=True))}
            for points, fabric, name in self.draft.pieces(*self.size)
        ]  # fmt: skip

    @property
    def grid_lines(self) -> str:
        """The lines between cells."""
        width, height = self.size
        made, at = [], 0.0
        for size in self.draft.columns[:-1]:
            at += size / sum(self.draft.columns) * width
            made.append(f"M{at:.3f} 0V{height:.3f}")
        at = 0.0
        for size in self.draft.rows[:-1]:
            at += size / sum(self.draft.rows) * height
            made.append(f"M0 {at:.3f}H{width:.3f}")
        return "".join(made)


def tools() -> list[dict[str, Any]]:
    """The ways to cut a cell, each with a little picture of itself."""
    first = {"wedges": "bcd", "goose": "baa", "curve": "ba"}
    made = []
    for key, kind in KINDS.items():
        letters = first.get(key) or "abab"[: kind.count]
        shapes = [
            (_path([(20 * x, 20 * y) for x, y in points]), COLOURS[fabric][1])
            for points, fabric in Cell(key, 0, letters).pieces(2)
        ]
        made.append({"key": f"cut-{key}", "name": kind.name, "shapes": shapes})
    return made


def read(values: Mapping[str, Any]) -> Board:
    """The board that a page holds; an empty one where that cannot be read."""
    text, past = str(values.get("draft", "")), str(values.get("past", ""))
    if len(text) + len(past) > LARGEST_STATE:
        return Board(START, fault="This board is too large to be kept; begin again.")
    try:
        draft = _read(text) if text else START
        before = json.loads(past) if past else []
        good = isinstance(before, list) and all(isinstance(each, str) for each in before)
    except (ValueError, ChartError, RecursionError):
        return Board(START, fault="The board could not be read; it begins again.")
    return Board(draft, tuple(before[-MOST_PAST:]) if good else ())


def act(board: Board, values: Mapping[str, Any]) -> Board:
    """The board after what was asked for; with a fault, and else as it was, if that cannot be."""
    if board.fault:
        return board
    try:
        if values.get("act") == "undo":
            if not board.past:
                raise ChartError("There is nothing left to undo.")
            return Board(_read(board.past[-1]), board.past[:-1])
        draft = _next(board.draft, values)
    except ChartError as error:
        return Board(board.draft, board.past, str(error), error.field)
    if draft == board.draft:
        return Board(draft, board.past)
    return Board(draft, (*board.past, board.written)[-MOST_PAST:])


def _next(draft: Draft, values: Mapping[str, Any]) -> Draft:
    what = values.get("act", "")
    if what == "cell":
        row, column, piece = (_whole(values, name) for name in ("row", "column", "piece"))
        tool, _, which = str(values.get("tool", "")).partition("-")
        if tool == "fabric":
            return draft.coloured(row, column, piece, which)
        if tool == "cut":
            return draft.cut(row, column, which, _whole(values, "wedges", 3))
        raise ChartError("Choose a fabric or a way to cut first.", "tool")
    ways = {
        "turn": draft.turned, "mirror": draft.mirrored, "four": draft.four_times,
        "four-mirrored": lambda: draft.four_times(mirror=True),
        "clear": lambda: Draft.empty(draft.columns, draft.rows),
        "grid": lambda: draft.resized(_sizes(values, "columns"), _sizes(values, "rows")),
    }  # fmt: skip
    if what not in ways:
        raise ChartError("Choose what to do.")
    return ways[what]()


def _sizes(values: Mapping[str, Any], name: str) -> tuple[float, ...]:
    """``1 2 1`` as sizes; a single whole number is a count of even ones."""
    text = str(values.get(name, "")).replace(",", " ").split()
    try:
        sizes = tuple(float(word) for word in text[: MOST_CELLS + 1])
    except ValueError:
        raise ChartError(f"Write the {name} as a number, or as sizes like 1, 2, 1.", name) from None
    count = number_or({name: text[0]}, name, 0) if len(text) == 1 else 0
    if count > 1:
        return (1.0,) * min(count, MOST_CELLS + 1)
    return sizes


def _whole(values: Mapping[str, Any], name: str, default: int = -1) -> int:
    return number_or(values, name, default)


def drafted(board: Board, name: str) -> Block:
    """The block on the board, by its name."""
    return drafted_block(name, board.draft)


def rounded(values: Mapping[str, Any], name: str, unit: str) -> Block:
    """A star, ring or fan from the fields. Raises `ChartError` naming the field."""
    shape = values.get("shape", "ring")
    lengths = {}
    for field in ("round_size", "inner", "outer"):
        try:
            lengths[field] = parse_length(str(values.get(field, "")), unit)
        except LengthError as error:
            raise ChartError(str(error), field) from None
    size = lengths["round_size"]
    if not 1 <= size <= 60:
        raise ChartError("A block measures 1″ to 60″.", "round_size")
    count = _whole(values, "count", 0)
    inner, outer = round(lengths["inner"] / size, 6), round(lengths["outer"] / size, 6)
    if shape == "star":
        return round_block(name, "star", points=count, inner=inner, outer=outer)
    if shape not in ("ring", "fan"):
        raise ChartError("Choose a star, a ring or a fan.", "shape")
    tip = values.get("tip", "straight")
    return round_block(name, shape, wedges=count, inner=inner, outer=outer, tip=tip)


def picture(block: Block) -> dict[str, Any]:
    """A block as little paths, for lists."""
    draft = block.drafted
    wide, high = (sum(draft.columns), sum(draft.rows)) if draft else (1.0, 1.0)
    width, height = SIDE * wide / max(wide, high), SIDE * high / max(wide, high)
    shapes = [
        (_path(piece.points), COLOURS[piece.fabric][1]) for piece in block.draft(width, height)
    ]
    return {
        "key": block.key,
        "name": block.name,
        "shapes": shapes,
        "width": width,
        "height": height,
    }


@cache
def shipped() -> list[dict[str, Any]]:
    """The blocks of the library as pictures; they never change while this runs."""
    return [picture(block) for block in block_library().values()]


def offered(own: Sequence[Block]) -> list[dict[str, Any]]:
    """What can be laid: the studio's *own* blocks, then the library, as pictures."""
    return [*({**picture(block), "own": True} for block in own), *shipped()]


def _path(points) -> str:
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points) + "Z"


def _write(draft: Draft) -> str:
    data = data_of(Block("", "draft", (1, 1), (".",), drafted=draft))
    return json.dumps(data, separators=(",", ":"))


def _read(text: str) -> Draft:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        data = None
    if not isinstance(data, dict):
        raise ChartError("The board could not be read.")
    draft = own_block({**data, "name": "draft"}, keep=False).drafted
    if draft is None:
        raise ChartError("The board could not be read.")
    return draft
