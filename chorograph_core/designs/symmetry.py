"""The axis about which a shape is its own mirror image, and how a shape lies that has one."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

UNLIKE = 0.01
"""Share of its area by which a shape may differ from its mirror image."""
SQUARE_TO = 1e-3
"""Radians by which a side may be off an axis and still run with it, or square to it."""


def mirrored_about(polygon: Polygon, angle: float) -> bool:
    """Whether *polygon* is its own mirror image about the line through its middle at *angle* (radians)."""
    middle = np.array(polygon.centroid.coords[0])
    c, s = math.cos(2 * angle), math.sin(2 * angle)
    mirrored = shapely.transform(
        polygon, lambda p: (p - middle) @ np.array([[c, s], [s, -c]]) + middle
    )
    return bool(polygon.symmetric_difference(mirrored).area <= UNLIKE * polygon.area)


def principal_axis(polygon: Polygon) -> float | None:
    """The direction in which *polygon* reaches farthest by its second moments, radians; None where it reaches
    as far in all, as what is alike about more than two lines does. A shape that is its own mirror image about
    one line or two has them along and square to this direction."""
    middle = np.array(polygon.centroid.coords[0])
    xx = yy = xy = 0.0
    for number, ring in enumerate((polygon.exterior, *polygon.interiors)):
        x, y = (shapely.get_coordinates(ring) - middle).T
        # Moments of the triangles from the middle to each side (Green); a hole counts against its ring.
        cross = x[:-1] * y[1:] - x[1:] * y[:-1]
        sign = math.copysign(1.0, cross.sum()) * (-1 if number else 1)
        xx += sign * float((cross * (x[:-1] ** 2 + x[:-1] * x[1:] + x[1:] ** 2)).sum()) / 12
        yy += sign * float((cross * (y[:-1] ** 2 + y[:-1] * y[1:] + y[1:] ** 2)).sum()) / 12
        between = x[:-1] * y[1:] + 2 * x[:-1] * y[:-1] + 2 * x[1:] * y[1:] + x[1:] * y[:-1]
        xy += sign * float((cross * between).sum()) / 24
    if math.hypot(xx - yy, 2 * xy) < 1e-3 * (xx + yy):
        return None
    return math.atan2(2 * xy, xx - yy) / 2 % math.pi


def mirror_axes(polygon: Polygon) -> list[float]:
    """The directions, radians, of the one or two lines about which *polygon* is its own mirror image; none of
    what is alike about more than two (`principal_axis`) or about no line at all."""
    main = principal_axis(polygon)
    both = [] if main is None else [main, main + math.pi / 2]
    return [angle for angle in both if mirrored_about(polygon, angle)]


def off_axis(polygon: Polygon, angle: float, spot: np.ndarray) -> float:
    """Inches from *spot* (2,) to the line through the middle of *polygon* at *angle* (radians)."""
    x, y = spot - np.array(polygon.centroid.coords[0])
    return float(abs(x * math.sin(angle) - y * math.cos(angle)))


def lying_of(polygon: Polygon, side: float, seen: bool = True) -> float:
    """The direction by which *polygon* lies, radians folded to a half turn: that of its longest *side*; but
    where it is its own mirror image and that side runs neither with the axis nor square to it nor halfway
    between, as in a wedge or a kite, the axis or what is square to it, whichever is nearer. Of what is round,
    without a side that is *seen*, it is the way it is longest."""
    axis = principal_axis(polygon)
    if axis is None:
        return side
    quarter = math.pi / 2
    # From -45 to 45 degrees.
    off = (side - axis + quarter / 2) % quarter - quarter / 2
    # A grid along sides that meet at a right angle on the axis is alike about it too.
    fine = min(abs(off), abs(abs(off) - quarter / 2)) < SQUARE_TO
    if (seen and fine) or not any(mirrored_about(polygon, axis + k * quarter) for k in (0, 1)):
        return side
    return (side - off) % math.pi if seen else axis
