"""The batting: how large it must be, and whether it will show through the top."""

from __future__ import annotations

from collections.abc import Iterable

from chorograph_core.chart import Fabric

LIGHT, DARK = 78.0, 32.0
"""CIE lightness above which a fabric or batting is light, below which it is dark."""


def batting_size(width: float, height: float, allowance: float) -> tuple[float, float]:
    """Width and height in inches that the batting of a top must have."""
    return (width + 2 * allowance, height + 2 * allowance)


def batting_short(
    needed: tuple[float, float], have: tuple[float, float]
) -> tuple[float, float, bool]:
    """How much a batting of size *have* is short of *needed*, and whether it lies turned."""
    ways = []
    for turned, size in ((False, have), (True, have[::-1])):
        ways.append((max(0.0, needed[0] - size[0]), max(0.0, needed[1] - size[1]), turned))
    return min(ways, key=lambda way: way[0] + way[1])


def roll_short(needed: tuple[float, float], roll: float) -> float:
    """How much a roll *roll* inches wide is short of the narrower side that is needed; 0 if it is
    wide enough one way round."""
    return max(0.0, min(needed) - roll)


def lightness(colour: str) -> float:
    """CIE 1976 lightness L* (0 black to 100 white) of a colour ``#rrggbb``, from sRGB."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    y = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
    return 116 * y ** (1 / 3) - 16 if y > 216 / 24389 else y * 24389 / 27


def fabric_notes(batting_colour: str, fabrics: Iterable[Fabric]) -> list[str]:
    """Sentences about a batting that would show through, or beard through, the top's fabrics."""
    known = sorted(fabrics, key=lambda fabric: lightness(fabric.colour))
    if not known:
        return []
    inside = lightness(batting_colour)
    darkest, lightest = known[0], known[-1]
    notes = []
    if inside < DARK and lightness(lightest.colour) > LIGHT:
        notes.append(
            f"A dark batting greys light fabric: hold a scrap under “{lightest.name}”, or take a "
            f"white one."
        )
    if inside > LIGHT and lightness(darkest.colour) < DARK:
        notes.append(
            f"A white batting can send pale fibres through dark fabric: look at “{darkest.name}”, "
            f"or take a dark one."
        )
    return notes
