"""Borders round a body of patches: widths for each side, corners, and pieced ones that come out even."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from shapely import affinity
from shapely.geometry import Polygon, box

from chorograph_core.chart.model import ChartError, Patch

CORNERS = ("butted", "mitred", "block")
PIECINGS = ("", "squares", "triangles")
"""Plain; squares in turn; half-square triangles in a row."""
SMALLEST_PATCH = 0.25
MOST_BORDERS = 6
SIDES = ("top", "right", "bottom", "left")


@dataclass(frozen=True)
class Border:
    """One border. *width* in inches, or *sides*: one for each of top, right, bottom, left.

    *corner* is ``"butted"``, ``"mitred"`` or ``"block"``. A pieced border repeats a unit about
    *unit* inches long, fitted so that a whole number of them fills each side.
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
            raise ChartError(f"Border {number} must be at least 1/4 inch.", name)
        if self.corner not in CORNERS:
            raise ChartError(f"Border {number} is butted, mitred or has corner blocks.", name)
        if self.piecing not in PIECINGS:
            raise ChartError(f"Border {number} is plain, of squares or of triangles.", name)
        if self.piecing and self.corner == "mitred":
            raise ChartError(f"Border {number} is pieced: butt it or give it corner blocks.", name)
        if self.piecing and self.unit < SMALLEST_PATCH:
            raise ChartError(f"Border {number}: a unit is at least 1/4 inch long.", name)


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
            corners = {"tl": box(x0 - le, y0 - t, x0, y0), "tr": box(x1, y0 - t, x1 + r, y0),
                       "br": box(x1, y1, x1 + r, y1 + b), "bl": box(x0 - le, y1, x0, y1 + b)}  # fmt: skip
            for corner, shape in corners.items():
                made.append(
                    Patch(f"{name}.{corner}", shape, "corner", "stone", None, f"{name}:corner")
                )
        x0, y0, x1, y1 = x0 - le, y0 - t, x1 + r, y1 + b
    return made


def _moved(shape: Polygon, dx: float, dy: float) -> Polygon:
    return affinity.translate(shape, dx, dy)


def _sides(border: Border, x0: float, y0: float, x1: float, y1: float) -> dict[str, Polygon]:
    t, r, b, le = border.widths
    if border.corner == "mitred":
        return {
            "top": Polygon([(x0 - le, y0 - t), (x1 + r, y0 - t), (x1, y0), (x0, y0)]),
            "right": Polygon([(x1 + r, y0 - t), (x1 + r, y1 + b), (x1, y1), (x1, y0)]),
            "bottom": Polygon([(x1 + r, y1 + b), (x0 - le, y1 + b), (x0, y1), (x1, y1)]),
            "left": Polygon([(x0 - le, y1 + b), (x0 - le, y0 - t), (x0, y0), (x0, y1)]),
        }
    wide = (x0, x1) if border.corner == "block" else (x0 - le, x1 + r)
    return {
        "top": box(wide[0], y0 - t, wide[1], y0),
        "right": box(x1, y0, x1 + r, y1),
        "bottom": box(wide[0], y1, wide[1], y1 + b),
        "left": box(x0 - le, y0, x0, y1),
    }


def _pieced(border: Border, name: str, side: str, shape: Polygon, along: bool) -> list[Patch]:
    """One side of a border, whole or in units that come out even."""
    fabric = "border" + name.rstrip()[-1] if name[-1].isdigit() else "border1"
    if not border.piecing:
        return [Patch(f"{name}.{side}", shape, "border", fabric, None, f"{name}:{side}")]
    x0, y0, x1, y1 = shape.bounds
    length = x1 - x0 if along else y1 - y0
    count = max(1, round(length / border.unit))
    step = length / count
    made = []
    for k in range(count):
        a, b = k * step, (k + 1) * step
        unit = (x0 + a, y0, x0 + b, y1) if along else (x0, y0 + a, x1, y0 + b)
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
