"""Stitches to the inch; where one measures in centimetres, the length of a stitch in millimetres."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from studio.asking import EditError

MM_PER_INCH = 25.4
ORDINARY = 11
LEAST, MOST = 4.0, 24.0
"""Stitches to the inch that a machine makes."""


def written_spi(spi: float, units: str) -> str:
    """How many stitches to the inch, as the studio writes it: the length of a stitch in centimetre studios.

    >>> written_spi(10, "in"), written_spi(10, "cm"), written_spi(11.04, "cm")
    ('10', '2.54', '2.3')
    """
    if units != "cm":
        return f"{spi:g}"
    # As few decimals as are read back as the same.
    tried = (f"{MM_PER_INCH / spi:.{decimals}f}" for decimals in range(1, 5))
    exact = f"{MM_PER_INCH / spi:.5g}"
    return next((f"{float(text):g}" for text in tried if _read(float(text)) == spi), exact)


def _read(millimetres: float) -> float:
    return round(MM_PER_INCH / millimetres, 2)


def offered_spi(units: str) -> str:
    """What is offered where nobody has chosen: 11 stitches to the inch, or 2.3 mm."""
    return f"{MM_PER_INCH / ORDINARY:.1f}" if units == "cm" else f"{ORDINARY}"


def spi_from(values: Mapping[str, Any], units: str) -> float:
    """Stitches to the inch of a form's field ``spi``; 11 where nothing is written. Raises EditError."""
    name = "The length of a stitch, in mm," if units == "cm" else "Stitches per inch"
    text = str(values.get("spi", "")).strip().replace(",", ".")
    try:
        number = float(text) if text else float(written_spi(ORDINARY, units))
    except ValueError:
        raise EditError(f"{name}: “{text[:40]}” is not a number.", "spi") from None
    low, high = (LEAST, MOST) if units != "cm" else (MM_PER_INCH / MOST, MM_PER_INCH / LEAST)
    if not low - 0.01 <= number <= high + 0.01:
        raise EditError(f"{name} goes from {low:.2g} to {high:.2g}.", "spi")
    spi = _read(number) if units == "cm" else number
    # Bounds are told, and met, rounded.
    return min(max(spi, LEAST), MOST)
