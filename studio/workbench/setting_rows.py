"""The settings of a design as fields: how each is written, how far a key steps it, how far a slider goes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from chorograph_core.designs import Design, Space
from chorograph_core.measure import CM_PER_INCH, written_length
from studio.shelf.models import OwnMotif

FIRST = 3
"""Settings that are shown at once; the others are folded."""


def begun_in(drawing: Design, settings: Mapping[str, Any], unit: str) -> dict[str, Any]:
    """Settings that nobody has chosen yet, as they are offered: lengths to the millimetre where one
    measures in centimetres. Those of ruler work stay as they are: foot and ruler say what can be ruled."""
    if unit != "cm" or drawing.family == "ruler":
        return dict(settings)
    return {
        **settings,
        **{p.key: _to_millimetres(settings[p.key], p.low, p.high)
           for p in drawing.parameters if p.kind == "length" and p.key in settings},
    }  # fmt: skip


def _to_millimetres(inches: float, low: float, high: float) -> float:
    """The nearest whole millimetre that is not out of range; inches as they are where there is none."""
    whole = round(inches * CM_PER_INCH * 10)
    tried = (each / 10 / CM_PER_INCH for each in (whole, whole + 1, whole - 1))
    return next((each for each in tried if low <= each <= high), inches)


def setting_rows(
    drawing: Design,
    given: Mapping[str, Any],
    unit: str,
    space: Space,
    shelf: Sequence[OwnMotif] = (),
) -> list[dict[str, Any]]:
    """The design's settings with their values as they are written, how far a key steps them, and how far
    a slider goes: no further than the zone is wide."""
    values = {**{p.key: p.default for p in drawing.parameters}, **given}
    x0, y0, x1, y1 = space.polygon.bounds
    found = []
    for number, p in enumerate(drawing.parameters):
        value, text, by = values[p.key], p.show(values[p.key]).rstrip("°"), 1.0
        if p.kind == "length":
            # Exactly: a drawer that is opened and kept changes nothing.
            text, by = written_length(value, unit), CM_PER_INCH if unit == "cm" else 1.0
        step = {1.0: p.step, CM_PER_INCH: 0.5 if p.step >= 0.125 else 0.1}[by]
        told = {"parameter": p, "value": value, "text": text, "step": step,
                "low": p.low * by, "high": p.high * by, "first": number < FIRST}  # fmt: skip
        if p.kind == "stroke":
            told["options"] = [(each.stroke, each.name) for each in shelf if each.kind == p.strokes]
            if value and all(value != stroke for stroke, _ in told["options"]):
                told["options"].insert(0, (value, "as it is in this job"))
        elif p.kind != "choice":
            far = max(x1 - x0, y1 - y0, 4 * p.default) if p.kind == "length" else p.high
            told |= {"at": value * by, "most": max(min(p.high, far), value) * by}
        found.append(told)
    return found
