"""Blocks that a studio drafted itself: as plain data, and known by a key made of that data."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from chorograph_core.blocks.drafting import Cell, Draft, read_cell
from chorograph_core.blocks.library import Block, block, remember
from chorograph_core.chart.model import ChartError

OWN = "own-"
"""What the key of every own block begins with."""
_ROUND = {
    "star": {"points": int, "inner": float, "outer": float},
    "ring": {"wedges": int, "inner": float, "outer": float, "tip": str},
    "fan": {"wedges": int, "inner": float, "outer": float, "tip": str},
}
LONGEST_NAME = 60


def drafted_block(name: str, draft: Draft) -> Block:
    """A block from the drafting board, to be found by its key from now on."""
    return own_block({"name": name, "columns": list(draft.columns), "rows": list(draft.rows),
                      "cells": [" ".join(cell.word for cell in row) for row in draft.cells]})  # fmt: skip


def round_block(name: str, shape: str, **settings: Any) -> Block:
    """A star, a ring of wedges or a fan with these settings (see `wedges`)."""
    return own_block({"name": name, "round": {"shape": shape, **settings}})


def own_block(data: Mapping[str, Any], keep: bool = True) -> Block:
    """The block that *data* describes; `ChartError`, naming the field, if it describes none.

    With *keep* it is found by its key from now on.
    """
    name = data.get("name")
    if not isinstance(name, str) or not name.strip() or len(name) > LONGEST_NAME:
        raise ChartError(f"A block needs a name of up to {LONGEST_NAME} letters.", "name")
    unknown = set(data) - {"name", "columns", "rows", "cells", "round"}
    if unknown:
        raise ChartError(f"There is no “{sorted(unknown)[0]}” in a block.", "block")
    if "round" in data:
        made = Block("", name, (1, 1), (".",), round=_round(data["round"]))
    else:
        made = Block("", name, (1, 1), (".",), drafted=_draft(data))
    # Of what was understood, not of how it was written: 1 and 1.0 are the same width.
    made = replace(made, key=key_of(data_of(made)))
    made.draft(12.0)
    return remember(made) if keep else made


def block_name(key: str) -> str:
    """The name of an own block, empty for a key that is none or is not known here."""
    try:
        return block(key).name if key.startswith(OWN) else ""
    except ChartError:
        return ""


def data_of(made: Block) -> dict[str, Any]:
    """What `own_block` makes the same block of."""
    if made.drafted is None:
        return {"name": made.name, "round": dict(made.round)}
    draft = made.drafted
    return {"name": made.name, "columns": list(draft.columns), "rows": list(draft.rows),
            "cells": [" ".join(cell.word for cell in row) for row in draft.cells]}  # fmt: skip


def key_of(data: Mapping[str, Any]) -> str:
    """The key of a block: two blocks have the same one only if they are the same."""
    text = json.dumps(data, sort_keys=True, separators=(",", ":"))
    return OWN + hashlib.sha256(text.encode()).hexdigest()[:20]


_PLAIN = re.compile(r"([a-d])(?:([/\\|-])([a-d])|([a-d]{3}))?")
_CURVE = re.compile(r"\((tl|tr|br|bl):([a-d])([a-d])\)")


def draft_of(made: Block) -> Draft | None:
    """The block as the drafting board shows it; None for one with pieces that no cell holds."""
    if made.drafted is not None:
        return made.drafted
    if made.round or made.pieces:
        return None
    cells = tuple(tuple(map(_cell_of, row.split())) for row in made.cells)
    if any(cell is None for row in cells for cell in row):
        return None
    return Draft((1.0,) * made.grid[0], (1.0,) * made.grid[1], cells)  # type: ignore[arg-type]


def _cell_of(word: str) -> Cell | None:
    curve = _CURVE.fullmatch(word)
    if curve:
        return Cell("curve", ("tl", "tr", "br", "bl").index(curve[1]), curve[2] + curve[3])
    plain = _PLAIN.fullmatch(word)
    if plain is None:
        return None
    a, cut, b, more = plain.groups()
    if more:
        return Cell("quarters", 0, a + more)
    if cut is None:
        return Cell("whole", 0, a)
    return {"/": Cell("diagonal", 0, a + b), "\\": Cell("diagonal", 1, b + a),
            "-": Cell("half", 0, a + b), "|": Cell("half", 1, b + a)}[cut]  # fmt: skip


def _draft(data: Mapping[str, Any]) -> Draft:
    sizes = []
    for name in ("columns", "rows"):
        given = data.get(name)
        if not isinstance(given, list) or not all(
            isinstance(each, (int, float)) and not isinstance(each, bool) for each in given
        ):
            raise ChartError(f"The {name} are a list of sizes.", name)
        sizes.append(tuple(float(each) for each in given))
    lines = data.get("cells")
    if not isinstance(lines, list) or not all(isinstance(line, str) for line in lines):
        raise ChartError("The cells are a list of lines.", "cells")
    cells = tuple(tuple(read_cell(word) for word in line.split()) for line in lines)
    return Draft(sizes[0], sizes[1], cells)


def _round(given: Any) -> tuple[tuple[str, Any], ...]:
    if not isinstance(given, dict) or given.get("shape") not in _ROUND:
        raise ChartError(f"A round block is one of {', '.join(_ROUND)}.", "round")
    kinds = _ROUND[given["shape"]]
    made: list[tuple[str, Any]] = [("shape", given["shape"])]
    for name, value in given.items():
        if name == "shape":
            continue
        if name not in kinds or isinstance(value, bool):
            raise ChartError(f"There is no “{name}” in a {given['shape']}.", "round")
        try:
            made.append((name, kinds[name](value)))
        except (TypeError, ValueError):
            raise ChartError(f"“{value}” is no value for “{name}”.", name) from None
    count = next(iter(kinds))
    if count not in dict(made):
        raise ChartError(f"A {given['shape']} needs its number of {count}.", count)
    return (made[0], *sorted(made[1:]))
