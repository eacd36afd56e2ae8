"""Borders round a body of patches: widths for each side, corners, and pieced ones that come out even."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from shapely import affinity
from shapely.geometry import Polygon, box

from chorograph_core.chart.model import ChartError, Patch
from chorograph_core.measure import format_length

CORNERS = ("butted", "mitred", "block")
PIECINGS = ("", "squares", "triangles")
"""Plain; squares in turn; half-square triangles in a row."""
SMALLEST_PATCH = 0.25
MOST_BORDERS = 6
SIDES = ("top", "right", "bottom", "left")


@dataclass(frozen=True)
class Border:
    """One border. *width* in inches, or *sides*: one for each of top, right, bottom, left.

    *corner* is ``"butted"``, ``"mitred"`` or ``"block"``. A pieced border repeats a unit exactly *unit*
    inches long; what is left of a side that they do not fill goes into a plain spacer at both its
    ends (see `border_notes`).
    """

    width: float
    corner: str = "butted"
    sides: tuple[float, float, float, float] | None = None
    piecing: str = ""
    unit: float = 0.0

    @property
    def widths(self) -> tuple[float, float, float, float]:
        """Widths at the top, right, bottom, left."""
        return self.sides or (self.width,) * 4

    def check(self, name: str, number: int) -> None:
        """Raise `ChartError` at field *name* for what cannot be."""
        if not all(map(math.isfinite, (*self.widths, self.unit))):
            raise ChartError(f"Border {number}: a width is not a number.", name)
        if min(self.widths) < SMALLEST_PATCH:
            raise ChartError(f"Border {number} must be at least 1/4″.", name)
        if self.corner not in CORNERS:
            raise ChartError(f"Border {number} is butted, mitred or has corner blocks.", name)
        if self.piecing not in PIECINGS:
            raise ChartError(f"Border {number} is plain, of squares or of triangles.", name)
        if self.piecing and self.unit < SMALLEST_PATCH:
            raise ChartError(f"Border {number}: a unit is at least 1/4″ long.", name)


def around(borders: Sequence[Border]) -> tuple[float, float, float, float]:
    """Sums of the borders' widths at the top, right, bottom, left."""
    sums = [sum(border.widths[k] for border in borders) for k in range(4)]
    return sums[0], sums[1], sums[2], sums[3]


def framed(
    patches: Sequence[Patch], width: float, height: float, borders: Sequence[Border],
    prefix: str = "border",
) -> list[Patch]:  # fmt: skip
    """*patches* of a body *width* by *height*, moved to make room, and the borders round them."""
    top, _, _, left = around(borders)
    made = [
        Patch(p.id, _moved(p.polygon, left, top), p.role, p.fabric, p.block, p.cell, p.kind)
        for p in patches
    ] if left or top else list(patches)  # fmt: skip
    x0, y0, x1, y1 = left, top, left + width, top + height
    for number, border in enumerate(borders, 1):
        t, r, b, le = border.widths
        name = f"{prefix}{number}"
        for side, shape in _sides(border, x0, y0, x1, y1).items():
            along = side in ("top", "bottom")
            made += _pieced(border, name, side, shape, along)
        if border.corner == "block":
            for corner, shape in _corners(border, x0, y0, x1, y1).items():
                made.append(
                    Patch(f"{name}.{corner}", shape, "corner", "stone", None, f"{name}:corner")
                )
        x0, y0, x1, y1 = x0 - le, y0 - t, x1 + r, y1 + b
    return made


def _moved(shape: Polygon, dx: float, dy: float) -> Polygon:
    return affinity.translate(shape, dx, dy)


def _sides(border: Border, x0: float, y0: float, x1: float, y1: float) -> dict[str, Polygon]:
    """The sides of a border. Each begins with its inner edge and goes round the same way: laid upon each
    other as they are alike, they lie as they do round the top, not upside down."""
    t, r, b, le = border.widths
    # How far beyond the body sides go along their outer edge, and along their inner one.
    mitred, butted = border.corner == "mitred", border.corner == "butted"
    out_le, out_r = (le, r) if mitred or butted else (0.0, 0.0)
    in_le, in_r = (le, r) if butted else (0.0, 0.0)
    out_t, out_b = (t, b) if mitred else (0.0, 0.0)
    return {
        "top": Polygon([(x1 + in_r, y0), (x0 - in_le, y0), (x0 - out_le, y0 - t),
                        (x1 + out_r, y0 - t)]),
        "right": Polygon([(x1, y1), (x1, y0), (x1 + r, y0 - out_t), (x1 + r, y1 + out_b)]),
        "bottom": Polygon([(x0 - in_le, y1), (x1 + in_r, y1), (x1 + out_r, y1 + b),
                           (x0 - out_le, y1 + b)]),
        "left": Polygon([(x0, y0), (x0, y1), (x0 - le, y1 + out_b), (x0 - le, y0 - out_t)]),
    }  # fmt: skip


def _corners(border: Border, x0: float, y0: float, x1: float, y1: float) -> dict[str, Polygon]:
    """The corner blocks of a border, each begun at its inner corner, for the same reason."""
    t, r, b, le = border.widths
    return {
        "tl": Polygon([(x0, y0), (x0 - le, y0), (x0 - le, y0 - t), (x0, y0 - t)]),
        "tr": Polygon([(x1, y0), (x1, y0 - t), (x1 + r, y0 - t), (x1 + r, y0)]),
        "br": Polygon([(x1, y1), (x1 + r, y1), (x1 + r, y1 + b), (x1, y1 + b)]),
        "bl": Polygon([(x0, y1), (x0, y1 + b), (x0 - le, y1 + b), (x0 - le, y1)]),
    }


EASED = 1 / 16
"""Inches that a whole side of units may be off: that much is eased in, unseen."""


def _units(length: float, unit: float) -> tuple[int, float]:
    """How many units a side of *length* takes, and what is left for each of two spacers (0: none).

    A spacer too narrow to sew takes a unit's place instead.
    """
    count = max(0, round(length / unit))
    if count and abs(length - count * unit) <= EASED:
        return count, 0.0
    count = max(0, math.floor(length / unit + 1e-9))
    rest = (length - count * unit) / 2
    if count > 1 and rest < SMALLEST_PATCH:
        count, rest = count - 1, rest + unit / 2
    return count, rest


def border_notes(
    borders: Sequence[Border], width: float, height: float, units: str = "in"
) -> list[str]:
    """What to know of pieced borders round a body *width* by *height*: where units do not fill a side,
    how long it is, how long it would have to be, and what makes it so."""
    found = []
    for number, border in enumerate(borders, 1):
        top, right, bottom, left = border.widths
        across = width if border.corner != "butted" else width + left + right
        sides = {"top and bottom": across, "sides": height}
        width, height = width + left + right, height + top + bottom
        if not border.piecing or border.unit <= 0:
            continue
        show = lambda inches: format_length(inches, units, 16)  # noqa: E731
        for name, length in sides.items():
            count, rest = _units(length, border.unit)
            if not rest:
                continue
            more = (math.floor(length / border.unit) + 1) * border.unit
            coping = (more - length) / 2
            found.append(
                f"Border {number}, {name}: {show(length)} is no whole number of units of "
                f"{show(border.unit)}. {count} of them and a spacer of {show(rest)} at both ends fill "
                f"it; with a plain strip of {show(coping)} before it on either hand it would be "
                f"{show(more)}, {round(more / border.unit)} units."
            )
    return found


def _pieced(border: Border, name: str, side: str, shape: Polygon, along: bool) -> list[Patch]:
    """One side of a border, whole or in units with spacers at its ends."""
    fabric = "border" + name.rstrip()[-1] if name[-1].isdigit() else "border1"
    if not border.piecing:
        return [Patch(f"{name}.{side}", shape, "border", fabric, None, f"{name}:{side}")]
    made = []
    if border.corner == "mitred":
        # Units run from inner corner to inner corner; the corners beyond are cut on the slant.
        ring = list(shape.exterior.coords)[:-1]
        inner_last, inner_first, outer_first, outer_last = ring
        for k, corner in enumerate(
            _slants(outer_first, outer_last, inner_last, inner_first, along)
        ):
            made.append(
                Patch(f"{name}.{side}.m{k}", corner, "border", fabric, None, f"{name}:mitre")
            )
        xs, ys = zip(*(outer_first, outer_last, inner_last, inner_first), strict=True)
        (ix0, ix1), (iy0, iy1) = (sorted(p[i] for p in (inner_first, inner_last)) for i in (0, 1))
        x0, x1 = (ix0, ix1) if along else (min(xs), max(xs))
        y0, y1 = (min(ys), max(ys)) if along else (iy0, iy1)
    else:
        x0, y0, x1, y1 = shape.bounds
    length = x1 - x0 if along else y1 - y0
    count, rest = _units(length, border.unit)
    step = border.unit if rest else length / max(count, 1)

    def stretch(a: float, b: float) -> tuple[float, float, float, float]:
        return (x0 + a, y0, x0 + b, y1) if along else (x0, y0 + a, x1, y0 + b)

    if not count:
        return [*made, Patch(f"{name}.{side}", box(x0, y0, x1, y1), "border", fabric, None,
                             f"{name}:{side}")]  # fmt: skip
    for k, (a, b) in enumerate([(0.0, rest), (length - rest, length)] if rest else []):
        made.append(Patch(f"{name}.{side}.s{k}", box(*stretch(a, b)), "border", fabric, None,
                          f"{name}:spacer"))  # fmt: skip
    for k in range(count):
        unit = stretch(rest + k * step, rest + (k + 1) * step)
        if border.piecing == "squares":
            made.append(Patch(f"{name}.{side}.{k}", box(*unit), "border",
                              fabric if k % 2 else "a", None, f"{name}:square{k % 2}"))  # fmt: skip
            continue
        u0, v0, u1, v1 = unit
        halves = ([(u0, v0), (u1, v0), (u0, v1)], [(u1, v0), (u1, v1), (u0, v1)])
        for n, points in enumerate(halves):
            made.append(Patch(f"{name}.{side}.{k}.{n}", Polygon(points), "border",
                              fabric if n else "a", None, f"{name}:half{n}"))  # fmt: skip
    return made


def _slants(outer_first, outer_last, inner_last, inner_first, along: bool) -> list[Polygon]:
    """The two triangles of a mitred side beyond its inner corners."""
    found = []
    for outer, inner in ((outer_first, inner_first), (outer_last, inner_last)):
        foot = (inner[0], outer[1]) if along else (outer[0], inner[1])
        found.append(Polygon([outer, foot, inner]))
    return found
