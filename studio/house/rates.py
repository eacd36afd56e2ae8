"""The studio's rates as figures that can be written by hand: kept as multiples of the defaults, as the log
teaches them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from chorograph_core.estimating.own_rates import LEAST, MOST, NAMES, SECONDS, rates_with
from chorograph_core.measure import CM_PER_INCH
from chorograph_core.reckon import Rates
from studio.accounts.models import Studio
from studio.asking import EditError


@dataclass(frozen=True)
class Line:
    """A rate: its key and name, the figure that counts and the *default*, and what they are in."""

    key: str
    name: str
    value: float
    default: float
    what: str

    @property
    def text(self) -> str:
        """The figure as it stands in its field."""
        return f"{self.value:.4g}"

    @property
    def by_default(self) -> str:
        return f"{self.default:.4g}"


def _of(rates: Rates, key: str) -> float:
    if key in rates.speeds:
        return rates.speeds[key]
    return float(getattr(rates, "unpick" if key == "unpick" else SECONDS[key][0]))


def lines_of(studio: Studio) -> list[Line]:
    """Every rate, as it counts for new jobs."""
    own, plain = rates_with(studio.factors), Rates()
    long = CM_PER_INCH if studio.units == "cm" else 1.0
    lines = []
    for key, name in NAMES.items():
        speed = key in plain.speeds or key == "unpick"
        by = long if speed else 1.0
        what = ("cm" if studio.units == "cm" else "inches") + " a minute" if speed else "seconds"
        if key == "unmark":
            what = "minutes"
        lines.append(Line(key, name, by * _of(own, key), by * _of(plain, key), what))
    return lines


def factors_from(studio: Studio, values: Mapping[str, str]) -> dict[str, float]:
    """The factors that the figures written by hand make. Raises EditError at the field."""
    made: dict[str, float] = {}
    for line in lines_of(studio):
        text = str(values.get(f"rate_{line.key}", "")).strip().replace(",", ".")
        if not text or text == line.text:
            if line.key in studio.factors:
                made[line.key] = studio.factors[line.key]
            continue
        try:
            number = float(text)
        except ValueError:
            says = f"{line.name.capitalize()}: “{text[:40]}” is no number."
            raise EditError(says, f"rate_{line.key}") from None
        if not 0 < number < 1e6:
            raise EditError(f"{line.name.capitalize()} is more than nothing.", f"rate_{line.key}")
        factor = line.default / number if line.what.endswith("a minute") else number / line.default
        if not LEAST <= factor <= MOST:
            raise EditError(f"{line.name.capitalize()}: nobody is five times quicker or slower than "
                            f"{line.by_default} {line.what}.", f"rate_{line.key}")  # fmt: skip
        if abs(factor - 1) > 1e-3:
            made[line.key] = round(factor, 4)
    return made
