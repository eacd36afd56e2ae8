"""Layouts in the archive: the dataclasses of `chorograph_core.chart.layouts` as plain JSON."""

from __future__ import annotations

import dataclasses
from typing import Any

from chorograph_core.chart import ChartError
from chorograph_core.layouts import LAYOUTS, BlockRow, Border, Exchange, Layout, Placed, Strip

_PARTS = {
    "borders": Border, "rings": Border, "exchanged": Exchange, "rows": BlockRow, "strips": Strip,
    "placed": Placed,
}  # fmt: skip
_LEFT_OUT = ("fabrics",)
MOST_PARTS = 2_500


def read_layout(entry: dict[str, Any]) -> Layout:
    """A layout from JSON, checked. Raises `ChartError` naming the field."""
    kind = entry.get("kind", "straight_set")
    if kind not in LAYOUTS:
        raise ChartError(f"There is no layout called “{kind}”.", "kind")
    values = {key: value for key, value in entry.items() if key != "kind"}
    layout = _made(LAYOUTS[kind], values)
    layout.check()
    return layout


def write_layout(layout: Layout) -> dict[str, Any]:
    """JSON that `read_layout` reads back as the same layout."""
    values = {
        field.name: _plain(getattr(layout, field.name))
        for field in dataclasses.fields(layout)  # type: ignore[arg-type]
        if field.name not in _LEFT_OUT
    }
    return {"kind": layout.kind, **values}


def _plain(value: Any) -> Any:
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {f.name: _plain(getattr(value, f.name)) for f in dataclasses.fields(value)}
    if isinstance(value, (list, tuple)):
        return [_plain(each) for each in value]
    return value


def _made(made_of: type, values: dict[str, Any], where: str = "") -> Any:
    """An instance of a dataclass from JSON, every field looked at."""
    known = {field.name: field for field in dataclasses.fields(made_of)}
    read = {}
    for name, value in values.items():
        place = f"{where}.{name}" if where else name
        if name not in known or name in _LEFT_OUT:
            raise ChartError(f"There is no “{name}” here.", place)
        read[name] = _value(known[name], value, place)
    missing = [name for name, field in known.items() if name not in read and _needed(field)]
    if missing:
        raise ChartError(f"“{missing[0]}” is missing.", where or missing[0])
    return made_of(**read)


def _needed(field: dataclasses.Field) -> bool:
    return field.default is field.default_factory is dataclasses.MISSING


def _value(field: dataclasses.Field, value: Any, place: str) -> Any:
    kind = str(field.type)
    part = _PARTS.get(field.name)
    if part is not None and kind.startswith("Sequence"):
        if not isinstance(value, list) or len(value) > MOST_PARTS:
            raise ChartError("This should be a list.", place)
        for number, each in enumerate(value):
            if not isinstance(each, dict):
                raise ChartError("This should be an object.", f"{place}[{number}]")
        return tuple(_made(part, each, f"{place}[{k}]") for k, each in enumerate(value))
    if field.name == "sides":
        if value is None:
            return None
        if not isinstance(value, list) or len(value) != 4:
            raise ChartError("Sides are four widths: top, right, bottom, left.", place)
        return tuple(_number(each, place) for each in value)
    if kind.startswith("Sequence[float]"):
        if not isinstance(value, list) or len(value) > MOST_PARTS:
            raise ChartError("This should be a list of numbers.", place)
        return tuple(_number(each, place) for each in value)
    if kind.startswith("Sequence[str]"):
        if not isinstance(value, list) or not all(isinstance(each, str) for each in value):
            raise ChartError("This should be a list of names.", place)
        return tuple(value)
    if kind == "bool":
        if not isinstance(value, bool):
            raise ChartError(f"“{value}” should be true or false.", place)
        return value
    if kind == "int":
        if isinstance(value, bool) or not isinstance(value, int):
            raise ChartError(f"“{value}” should be a whole number.", place)
        return value
    if kind == "float":
        return _number(value, place)
    if not isinstance(value, str) or len(value) > 60:
        raise ChartError("This should be a short name.", place)
    return value


def _number(value: Any, place: str) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise ChartError(f"“{value}” should be a number.", place)
    return value
