"""Rows, strips, rings and placed blocks as a quilter writes them, one on a line.

``8 pinwheel x 5``      a row 8″ high of five pinwheels
``6 b``, ``8 nine patch``  a strip of fabric b, a strip of blocks
``3``, ``2 triangles 1 1/2``  a plain ring, a ring of triangles about 1 1/2″ long
``12 sawtooth star at 6, 6``  a block 12″ wide whose corner lies 6″ in and 6″ down

*own* are the blocks that the studio drafted, called by their names.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from chorograph_core.blocks.library import Block, block_library
from chorograph_core.blocks.own_blocks import block_name
from chorograph_core.chart.model import ChartError
from chorograph_core.layouts import BlockRow, Placed, Strip
from chorograph_core.layouts.borders import Border
from chorograph_core.measure import LengthError, parse_length, written_length

_LENGTH = re.compile(
    r"\s*((?:\d+[\s-]+)?\d+\s*/\s*\d+|\d+(?:[.,]\d+)?)\s*(cm|mm|in|yd|\"|″)?(?![\d/])"
)
_TIMES = re.compile(r"[x×*]\s*(\d+)\s*$", re.IGNORECASE)
MOST_LINES = 500


def read_rows(text: str, unit: str = "in", own: Sequence[Block] = ()) -> tuple[BlockRow, ...]:
    """Rows from the top. Raises `ChartError` at field ``rows_text``."""
    made = []
    for number, line in _lines(text, "rows_text"):
        height, rest = _length(line, number, unit, "rows_text")
        times = _TIMES.search(rest)
        count = int(times[1]) if times else 1
        key = _block(rest[: times.start()] if times else rest, number, "rows_text", own)
        made.append(BlockRow(height, key, count))
    return tuple(made)


def write_rows(rows, unit: str = "in") -> str:
    """What `read_rows` reads back as *rows*."""
    return "\n".join(f"{written_length(r.height, unit)} {_name(r.block)} x {r.count}" for r in rows)


def read_strips(text: str, unit: str = "in", own: Sequence[Block] = ()) -> tuple[Strip, ...]:
    """Strips in order. Raises `ChartError` at field ``strips_text``."""
    made = []
    for number, line in _lines(text, "strips_text"):
        width, rest = _length(line, number, unit, "strips_text")
        rest = rest.strip()
        if not rest or (len(rest) == 1 and rest.lower() in "abcd"):
            made.append(Strip(width, rest.lower() or "a"))
        else:
            made.append(Strip(width, "a", _block(rest, number, "strips_text", own)))
    return tuple(made)


def write_strips(strips, unit: str = "in") -> str:
    """What `read_strips` reads back as *strips*."""
    return "\n".join(
        f"{written_length(s.width, unit)} {_name(s.block) if s.block else s.fabric}" for s in strips
    )


def read_rings(text: str, unit: str = "in") -> tuple[Border, ...]:
    """Rings from the inside out, with corner blocks. Raises `ChartError` at ``rings_text``."""
    made = []
    for number, line in _lines(text, "rings_text"):
        width, rest = _length(line, number, unit, "rings_text")
        word, _, after = rest.strip().partition(" ")
        word = word.lower()
        if not word or word == "plain":
            made.append(Border(width, "block"))
        elif word in ("squares", "triangles"):
            length = _length(after, number, unit, "rings_text")[0] if after.strip() else width
            made.append(Border(width, "block", None, word, length))
        else:
            raise ChartError(f"Line {number}: a ring is plain, of squares or of triangles.",
                             "rings_text")  # fmt: skip
    return tuple(made)


def write_rings(rings, unit: str = "in") -> str:
    """What `read_rings` reads back as *rings*."""
    lines = []
    for ring in rings:
        kind = f"{ring.piecing} {written_length(ring.unit, unit)}" if ring.piecing else "plain"
        lines.append(f"{written_length(ring.width, unit)} {kind}")
    return "\n".join(lines)


def read_placed(text: str, unit: str = "in", own: Sequence[Block] = ()) -> tuple[Placed, ...]:
    """Blocks on a field. Raises `ChartError` at field ``placed_text``."""
    made = []
    # A comma is a decimal one where centimetres are written, so the two are parted by a semicolon.
    parting = r"\s*;\s*|,\s+" if unit == "cm" else r"\s*[,;]\s*"
    for number, line in _lines(text, "placed_text"):
        size, rest = _length(line, number, unit, "placed_text")
        name, at, where = rest.partition(" at ")
        spot = [part for part in re.split(parting, where.strip()) if part]
        if not at or len(spot) != 2:
            raise ChartError(
                f"Line {number}: say where, like “12 pinwheel at 6, 8 1/2”.", "placed_text"
            )
        x, y = (_length(part, number, unit, "placed_text")[0] for part in spot)
        made.append(Placed(x, y, size, _block(name, number, "placed_text", own)))
    return tuple(made)


def write_placed(placed, unit: str = "in") -> str:
    """What `read_placed` reads back as *placed* (turns and mirrors aside)."""
    lines = []
    for each in placed:
        size, x, y = (written_length(side, unit) for side in (each.size, each.x, each.y))
        lines.append(f"{size} {_name(each.block)} at {x}, {y}")
    return "\n".join(lines)


def read_widths(text: str, unit: str, field: str) -> tuple[float, ...]:
    """One width, or four with commas between: top, right, bottom, left. Empty for none."""
    parts = [part for part in re.split(r"\s*[,;]\s*", text.strip()) if part] if unit != "cm" else [
        part for part in re.split(r"\s*;\s*|,\s+", text.strip()) if part
    ]  # fmt: skip
    try:
        widths = tuple(parse_length(part, unit) for part in parts)
    except LengthError as error:
        raise ChartError(str(error), field) from None
    if len(widths) not in (0, 1, 4):
        raise ChartError("Write one width, or four: top, right, bottom, left.", field)
    return widths


def _lines(text: str, field: str):
    lines = [(k, line.strip()) for k, line in enumerate(text.splitlines(), 1) if line.strip()]
    if len(lines) > MOST_LINES:
        raise ChartError(f"At most {MOST_LINES} lines.", field)
    return lines


def _length(text: str, number: int, unit: str, field: str) -> tuple[float, str]:
    found = _LENGTH.match(text)
    if found is None:
        raise ChartError(f"Line {number} begins with no length: “{text[:40]}”.", field)
    try:
        return parse_length(found[0].strip(), unit), text[found.end() :]
    except LengthError as error:
        raise ChartError(f"Line {number}: {error}", field) from None


def _block(text: str, number: int, field: str, own: Sequence[Block]) -> str:
    wanted = " ".join(text.lower().replace("_", " ").split())
    names = {}
    for key, each in block_library().items():
        names[key.replace("_", " ")] = key
        names[each.name.lower()] = key
    # What a studio drafted itself goes before what ships under the same name.
    names |= {" ".join(each.name.lower().split()): each.key for each in own}
    if wanted not in names:
        raise ChartError(f"Line {number}: there is no block called “{wanted[:40]}”.", field)
    return names[wanted]


def _name(key: str) -> str:
    return block_name(key) or key.replace("_", " ")
