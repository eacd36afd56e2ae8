"""Settings of a design: a frozen dataclass whose fields say what they may be and how they are shown."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any, Literal, Self

from chorograph_core.measure import LengthError, format_length, parse_length

ParameterKind = Literal["length", "angle", "share", "count", "choice", "stroke"]

ROUNDED = 0.02
"""Inches: half a millimetre, by which a limit told in centimetres may be off."""


class SettingError(ValueError):
    """A setting cannot be used. *field* is its key, the message a sentence for the quilter."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field


def refuse_thousands(count: float, most: float, label: str, field: str, things: str) -> None:
    """Raise `SettingError` at the setting *field*, called *label*, where more than *most* *things* would
    be drawn: nobody stitches so many, and a page would wait for them."""
    if count > most:
        raise SettingError(f"{label}: there would be thousands of {things} here.", field)


MOST_STROKE_POINTS = 240
FARTHEST = 8.0
"""How far from its unit box a point of a stroke may lie."""


def read_stroke(text: Any, field: str = "stroke") -> list[tuple[float, float]]:
    """Points of a stroke as text: ``"0,1 .5,-1 1,1"``; raises `SettingError` for what is none."""
    pairs = str(text).split()
    try:
        points = [(float(x), float(y)) for x, y in (pair.split(",") for pair in pairs)]
    except ValueError:
        raise SettingError(
            "Own motif: its points are written like 0,1 0.5,-1 1,1.", field
        ) from None
    if not 2 <= len(points) <= MOST_STROKE_POINTS:
        words = f"Own motif: a stroke has between 2 and {MOST_STROKE_POINTS} points."
        raise SettingError(words, field)
    if not all(math.isfinite(each) and abs(each) <= FARTHEST for point in points for each in point):
        raise SettingError("Own motif: a point lies far outside its box.", field)
    if len(set(points)) < 2:
        raise SettingError("Own motif: one point is no stroke.", field)
    return points


def write_stroke(points: Any) -> str:
    """Points (n, 2) as text, to thousandths."""
    return " ".join(f"{round(float(x), 3):g},{round(float(y), 3):g}" for x, y in points)


@dataclass(frozen=True)
class Parameter:
    """One setting of a design, as a page asks for it.

    *kind* is ``"length"`` (inches), ``"angle"`` (degrees), ``"share"`` (a ratio, also written as
    percent), ``"count"`` or ``"choice"``. *low* and *high* are inclusive.
    A ``"stroke"`` is a line of one's own as text; *strokes* says of which kind.
    """

    key: str
    label: str
    kind: ParameterKind
    default: Any
    low: float = 0.0
    high: float = 0.0
    step: float = 0.0
    choices: tuple[tuple[str, str], ...] = ()
    help: str = ""
    strokes: str = ""

    def clean(self, value: Any, unit: str = "in") -> Any:
        """Return *value* as the right type and within range, or raise `SettingError`; *unit* is what a
        bare number of a written length means, and how the message speaks."""
        if self.kind == "choice":
            if value not in {key for key, _ in self.choices}:
                names = ", ".join(name for _, name in self.choices)
                raise SettingError(f"{self.label}: choose one of {names}.", self.key)
            return value
        if self.kind == "stroke":
            return write_stroke(read_stroke(value, self.key)) if value or self.default else ""
        try:
            number = self._number(value, unit)
        except (LengthError, ValueError, TypeError, OverflowError) as error:
            what = str(error) if isinstance(error, LengthError) else f"“{value}” is not a number."
            raise SettingError(f"{self.label}: {what[:200]}", self.key) from None
        if self.kind == "length" and unit == "cm":
            # A limit is told in millimetres: who writes it as it was told is not refused.
            near = min(max(number, self.low), self.high)
            number = near if abs(near - number) <= ROUNDED else number
        if not self.low <= number <= self.high:
            low, high = self.show(self.low, unit), self.show(self.high, unit)
            raise SettingError(f"{self.label} goes from {low} to {high}.", self.key)
        return round(number) if self.kind == "count" else number

    def _number(self, value: Any, unit: str) -> float:
        if self.kind == "length" and isinstance(value, str):
            return parse_length(value, unit)
        if not isinstance(value, str):
            return float(value)
        text = value.strip()
        if self.kind == "share" and text.endswith("%"):
            return float(text[:-1]) / 100
        return float(text.rstrip("°").strip().replace("−", "-"))

    def nearest(self, value: Any) -> Any:
        """The good value nearest to *value*: within range, or the default for what is no value."""
        try:
            return self.clean(value)
        except SettingError:
            pass
        if self.kind in ("choice", "stroke") or isinstance(value, str):
            return self.default
        try:
            number = min(max(float(value), self.low), self.high)
        except (TypeError, ValueError, OverflowError):
            return self.default
        if not math.isfinite(number):
            return self.default
        return round(number) if self.kind == "count" else number

    def show(self, value: Any, unit: str = "in") -> str:
        """Print *value* for people."""
        if self.kind == "length":
            return format_length(float(value), unit, 16)
        if self.kind == "angle":
            return f"{value:g}°"
        if self.kind == "share":
            return f"{100 * value:g}%"
        if self.kind == "stroke":
            return f"{len(str(value).split())} points" if value else "none"
        if self.kind == "choice":
            return dict(self.choices).get(value, str(value))
        return f"{value:g}"


def _setting(label: str, kind: ParameterKind, default: Any, help: str = "", **more: Any) -> Any:
    parameter = Parameter("", label, kind, default, help=help, **more)
    return field(default=default, metadata={"parameter": parameter})


def length_setting(
    label: str, default: float, low: float, high: float, step: float = 1 / 16, help: str = ""
) -> Any:
    """A length in inches."""
    return _setting(label, "length", default, help, low=low, high=high, step=step)


def angle_setting(
    label: str, default: float, low: float, high: float, step: float, help: str = ""
) -> Any:
    """An angle in degrees."""
    return _setting(label, "angle", default, help, low=low, high=high, step=step)


def share_setting(
    label: str, default: float, low: float, high: float, step: float, help: str = ""
) -> Any:
    """A ratio, shown in percent."""
    return _setting(label, "share", default, help, low=low, high=high, step=step)


def count_setting(label: str, default: int, low: int, high: int, help: str = "") -> Any:
    """A whole number."""
    return _setting(label, "count", default, help, low=low, high=high, step=1)


def choice_setting(label: str, choices: tuple[tuple[str, str], ...], help: str = "") -> Any:
    """One of a few, the first by default: (key, name) pairs."""
    return _setting(label, "choice", choices[0][0], help, choices=choices)


def hand_setting() -> Any:
    """How much a motif may vary as a hand does."""
    return share_setting("By hand", 0.2, 0.0, 1.0, 0.05,
                         help="How much units differ from each other; 0 as if drafted.")  # fmt: skip


def stroke_setting(label: str, default: str, strokes: str, help: str = "") -> Any:
    """A line of one's own: ``"strip"`` for one along a strip, ``"figure"`` for one in a round; may be none
    where there is none by default."""
    return _setting(
        label, "stroke", default and write_stroke(read_stroke(default)), help, strokes=strokes
    )


def margin_setting() -> Any:
    """How far freehand work stays inside the seam."""
    return length_setting("Room to the seam", 0.125, 0.0, 2.0,
                  help="How far the stitching stays inside the seam.")  # fmt: skip


_PARAMETERS: dict[type, tuple[Parameter, ...]] = {}
"""What is known of each kind of settings: pages and plans ask for it thousands of times."""


@dataclass(frozen=True)
class Settings:
    """What a design's own settings derive from."""

    @classmethod
    def parameters(cls) -> tuple[Parameter, ...]:
        """The settings in the order of the dataclass."""
        known = _PARAMETERS.get(cls)
        if known is None:
            known = _PARAMETERS[cls] = tuple(
                replace(each.metadata["parameter"], key=each.name)
                for each in fields(cls)
                if "parameter" in each.metadata
            )
        return known

    @classmethod
    def cleaned(cls, given: Mapping[str, Any], design: str, unit: str = "in") -> Self:
        """All settings, defaults filled in; raises `SettingError` for one that cannot be. *unit* is
        that of bare numbers among written lengths."""
        known = {parameter.key: parameter for parameter in cls.parameters()}
        for key in given:
            if key not in known:
                raise SettingError(f"{design} has no setting called “{key[:60]}”.", key)
        return cls(**{key: known[key].clean(value, unit) for key, value in given.items()})

    @classmethod
    def settled(cls, given: Mapping[str, Any]) -> tuple[dict[str, Any], tuple[str, ...]]:
        """The good values nearest to *given*, and a sentence for each that was changed."""
        known = {parameter.key: parameter for parameter in cls.parameters()}
        kept: dict[str, Any] = {}
        said = []
        for key, value in given.items():
            parameter = known.get(key)
            if parameter is None:
                said.append(f"the setting “{str(key)[:60]}” is no longer there")
                continue
            kept[key] = parameter.nearest(value)
            same = kept[key] == value or (
                isinstance(value, str) and parameter.nearest(value) == value
            )
            if not same and not _reads_as(parameter, value, kept[key]):
                known_number = isinstance(value, (int, float)) and abs(value) < 1e9
                was = parameter.show(value) if known_number else f"“{value}”"
                said.append(f"{parameter.label.lower()} {was} became {parameter.show(kept[key])}")
        return kept, tuple(said)


def _reads_as(parameter: Parameter, value: Any, kept: Any) -> bool:
    """Whether *value* was only written otherwise, such as 3/4 for 0.75."""
    try:
        return bool(parameter.clean(value) == kept)
    except SettingError:
        return False
