"""Families of parallel straight lines that come out even across a zone."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Linework
from chorograph_core.designs.linking import linked_variants
from chorograph_core.designs.settings import choice_setting
from chorograph_core.designs.space import Space
from chorograph_core.measure import format_inches
from chorograph_core.rulers import straight_ruler

SHORTEST = 0.1875
"""Inches. Shorter ends of lines in a corner are left out: no ruler can be laid there."""


def measured_from() -> Any:
    """What angles are measured from."""
    return choice_setting("Measured from", (("zone", "the zone's longest side"),
                                    ("top", "the top's upper edge")))  # fmt: skip


def fitting_setting() -> Any:
    """How lines are fitted across a zone."""
    return choice_setting(
        "Fitting",
        (("even", "come out even"), ("centre", "centre the remainder"),
         ("start", "start at the edge")),
        help="Even changes the spacing a little so that no odd gap is left.",
    )  # fmt: skip


@dataclass(frozen=True)
class Family:
    """Lines of one direction: each (2, 2) from edge to edge, and their real spacing in inches."""

    lines: list[np.ndarray]
    spacing: float
    angle: float

    def sentence(self) -> str:
        """The real spacing as a fraction."""
        return f"{len(self.lines)} lines, {format_inches(self.spacing, 16)} apart"


def position_of(spacing: float, space: Space) -> str:
    """What sets a line *spacing* inches from the last one: an etched line on it, as far as the ruler
    has that line."""
    etched = straight_ruler(space.rulers).etched_line(spacing, space.foot_radius)
    if etched is None:
        wanted = format_inches(max(0.0, spacing - space.foot_radius), 16)
        return f"a mark {wanted} from the edge on the last line: no etched line lies there"
    if etched == 0:
        return "the ruler's edge on the last line"
    return f"the {format_inches(etched, 16)} line on the last line"


def in_turn(lines: list[np.ndarray], space: Space, position: str) -> tuple[Linework, ...]:
    """The same lines in one run, begun and ended elsewhere (`Design.variants`)."""
    return tuple(
        Linework((replace(run, position=position),))
        for run in linked_variants(lines, space.polygon)
    )


def fitted(width: float, wished: float, fitting: str) -> tuple[float, float]:
    """Spacing and first offset, in inches, for lines across *width*.

    Even: n = round(W / s), spacing W / n, a line on neither edge. Centre: the remainder is halved.
    """
    if fitting == "even":
        spacing = width / max(1, round(width / wished))
        return spacing, spacing
    if fitting == "centre":
        count = max(1, math.floor(width / wished + 1e-9))
        rest = width - (count - 1) * wished
        return wished, rest / 2
    return wished, wished


def base_angle(polygon: Polygon, relative: str) -> float:
    """Direction, in radians, that angle 0 means: the longest side of the zone or the top's edge."""
    if relative == "top":
        return 0.0
    ring = shapely.get_coordinates(polygon.simplify(0.02).exterior)
    sides = np.diff(ring, axis=0)
    lengths = np.hypot(*sides.T)
    longest = sides[int(np.argmax(np.round(lengths, 4)))]
    # Nearly level stays level: the longest side's direction, folded to a half turn.
    return math.atan2(longest[1], longest[0]) % math.pi


def family(polygon: Polygon, angle: float, wished: float, fitting: str) -> Family:
    """Lines at *angle* radians across *polygon*, wished *wished* inches apart."""
    along = np.array([math.cos(angle), math.sin(angle)])
    across = np.array([-along[1], along[0]])
    points = shapely.get_coordinates(polygon)
    low, high = (points @ across).min(), (points @ across).max()
    spacing, offset = fitted(high - low, wished, fitting)
    reach = (points @ along).min() - 1, (points @ along).max() + 1
    at = np.arange(low + offset, high - 1e-6, spacing)
    if not len(at):
        at = np.array([(low + high) / 2])
    rows = [np.array([reach[0] * along + h * across, reach[1] * along + h * across]) for h in at]
    cut = shapely.intersection(shapely.linestrings(rows), polygon)
    lines = [
        shapely.get_coordinates(part)
        for row in cut
        for part in shapely.get_parts(row)
        if part.geom_type == "LineString" and part.length >= SHORTEST
    ]
    return Family(lines, float(spacing), angle)
