"""Families of lines across a zone: one line laid again and again, straight or curved."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.engine.fitting import Places, places
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.linking import link_along_edge, linked_variants
from chorograph_core.designs.settings import SettingError, choice_setting
from chorograph_core.designs.space import Space
from chorograph_core.measure import format_inches
from chorograph_core.rulers import straight_ruler

SHORTEST = 0.1875
"""Inches. Shorter ends of lines in a corner are left out: no ruler can be laid there."""


def measured_from() -> Any:
    """What angles are measured from."""
    return choice_setting("Measured from", (
        ("zone", "the zone's longest side"), ("short", "its shortest side"),
        ("axis", "its axis of symmetry"), ("top", "the top's upper edge"),
    ))  # fmt: skip


@dataclass(frozen=True)
class Family:
    """Lines of one direction: each (n, 2) from edge to edge, and where they lie across the zone."""

    lines: list[np.ndarray]
    places: Places
    angle: float

    @property
    def spacing(self) -> float:
        """The widest gap that comes again and again, in inches."""
        return self.places.spacing

    def sentence(self) -> str:
        """The real spacing as a fraction."""
        return self.places.sentence(len(self.lines))


def position_of(spacing: float, space: Space) -> str:
    """What sets a line *spacing* inches from the last one: an etched line on it, as far as the ruler
    has that line; the side of the foot where that is as far."""
    if abs(spacing - space.foot_radius) < 1 / 64:
        return "the side of the foot against the last line"
    etched = straight_ruler(space.rulers).etched_line(spacing, space.foot_radius)
    if etched is None:
        wanted = format_inches(max(0.0, spacing - space.foot_radius), 16)
        return f"a mark {wanted} from the edge on the last line: no etched line lies there"
    return f"the {format_inches(etched, 16)} line on the last line"


def positions_of(gaps: Sequence[float], space: Space) -> str:
    """How a ruler is laid for gaps that come in turn."""
    return ", then ".join(dict.fromkeys(position_of(gap, space) for gap in gaps))


def in_turn(lines: list[np.ndarray], space: Space, position: str) -> tuple[Linework, ...]:
    """The same lines in one run, begun and ended elsewhere (`Design.variants`)."""
    return tuple(
        Linework((replace(run, position=position),))
        for run in linked_variants(lines, space.polygon)
    )


def linked(
    lines: Sequence[np.ndarray], polygon: Polygon, position: str, technique: str = "straight",
    start_near: tuple[float, float] | None = None,
) -> list[Run]:  # fmt: skip
    """*lines* one after another along the edge of *polygon*, each laid by *position*."""
    made = link_along_edge(lines, polygon, technique, start_near=start_near)
    return [replace(run, position=position) for run in made]


def fitted_places(width: float, spacing: float, fitting: str, rhythm: str = "even") -> Places:
    """As `places`, but says in words why there are none.

    Raises `SettingError` that names the spacing.
    """
    try:
        return places(width, spacing, fitting, rhythm)
    except ValueError:
        words = f"Spacing: at {format_inches(spacing, 16)} there would be thousands of lines here."
        raise SettingError(words, "spacing") from None


def family(
    polygon: Polygon, angle: float, spacing: float, fitting: str, rhythm: str = "even"
) -> Family:
    """Straight lines at *angle* radians across *polygon*, wished *spacing* inches apart."""
    along = np.array([math.cos(angle), math.sin(angle)])
    across = np.array([-along[1], along[0]])
    points = shapely.get_coordinates(polygon)
    low, high = (points @ across).min(), (points @ across).max()
    at = fitted_places(float(high - low), spacing, fitting, rhythm)
    reach = (points @ along).min() - 1, (points @ along).max() + 1
    rows = [
        np.array([reach[0] * along + h * across, reach[1] * along + h * across])
        for h in low + at.at
    ]
    return Family(cut_to(rows, polygon), at, angle)


def cut_to(
    lines: Sequence[np.ndarray], polygon: Polygon, shortest: float = SHORTEST
) -> list[np.ndarray]:
    """What of each line lies in *polygon*, in its own direction, pieces under *shortest* left out."""
    if not len(lines):
        return []
    made: list[np.ndarray] = []
    drawn = shapely.linestrings(np.concatenate(lines), indices=np.repeat(
        np.arange(len(lines)), [len(line) for line in lines]))  # fmt: skip
    for line, cut in zip(drawn, shapely.intersection(drawn, polygon), strict=True):
        if shapely.equals_exact(line, cut):
            made.append(shapely.get_coordinates(cut))
            continue
        whole = cut if cut.geom_type == "LineString" else shapely.line_merge(cut)
        parts = [
            shapely.get_coordinates(part)
            for part in shapely.get_parts(whole)
            if part.geom_type == "LineString" and part.length >= shortest
        ]
        for part in parts:
            ends = shapely.line_locate_point(line, shapely.points(part[[0, -1]]))
            made.append(part[::-1] if ends[0] > ends[1] else part)
    return made
