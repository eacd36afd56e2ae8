"""Guides that a motif follows: drawn by hand, taken from a seam, or laid by a circle."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.chart import alike
from chorograph_core.designs.curves import resample, tidy
from chorograph_core.designs.engine.sides import Side, sides_of
from chorograph_core.designs.legend import MOST_GUIDES, Guide
from chorograph_core.designs.own_strokes import crossings_of
from chorograph_core.designs.pointed import swinging_line, swinging_ring
from chorograph_core.designs.sides import sides_of as sides_of_border
from chorograph_core.designs.space import Space, polygons
from chorograph_core.zones import Zone

SHORTEST = 1.0
"""Inches of a guide in the zones it is for."""
STEADY = 0.6
"""Inches over which the trembling of a hand is smoothed away."""
OFF = 0.02
MOST = 400
"""Points of a guide."""


class GuideError(ValueError):
    """There is no guide in what was given; a sentence."""


def drawn_guide(points: Sequence[tuple[float, float]], zones: Sequence[Polygon]) -> Guide:
    """A guide from a line drawn by hand, inches. Raises `GuideError`."""
    line = tidy(np.asarray(points, float).reshape(-1, 2), 1e-3)
    if len(line) < 2:
        raise GuideError("One point is no guide; draw a line through the zone.")
    inches = float(np.hypot(*np.diff(line, axis=0).T).sum())
    even = resample(line, min(0.1, inches / 8))
    steady = (
        gaussian_filter1d(even, STEADY / 0.1 / 2, axis=0, mode="nearest")
        if len(even) > 12
        else even
    )
    steady[0], steady[-1] = even[0], even[-1]
    return _checked(steady, zones)


def circle_guide(zone: Polygon, across: float) -> Guide:
    """A circle of *across* inches about the middle of *zone*, from its top round to where it began."""
    (x, y), _ = Space(zone).middle
    turn = np.linspace(-math.pi / 2, 1.5 * math.pi, 73)
    return _checked(
        np.array([x, y]) + across / 2 * np.column_stack([np.cos(turn), np.sin(turn)]), [zone]
    )


def seam_guide(zones: Sequence[Polygon], raw_edge: BaseGeometry | None = None) -> Guide:
    """The longest seam between *zones*; of one alone its longest side, the *raw_edge* of the top only where
    it has no other: nothing is sewn to it there."""
    if len(zones) == 1:
        straight = sides_of(Space(zones[0]))

        def rank(side: Side) -> tuple[bool, float]:
            line = shapely.linestrings(side.points)
            middle = shapely.line_interpolate_point(line, 0.5, normalized=True)
            sewn = raw_edge is None or raw_edge.distance(middle) > OFF
            return sewn, round(side.length, 3)

        longest = max(straight, key=rank)
        return _checked(longest.points, zones)
    shared = []
    for k, one in enumerate(zones):
        for other in zones[k + 1 :]:
            line = one.boundary.intersection(other.buffer(1e-4).boundary.buffer(2e-3))
            shared += [part for part in shapely.get_parts(line) if part.geom_type == "LineString"]
    merged = shapely.line_merge(shapely.union_all(shared)) if shared else None
    lines = (
        []
        if merged is None
        else [p for p in shapely.get_parts(merged) if p.geom_type == "LineString"]
    )
    if not lines:
        raise GuideError("These zones have no seam between them; choose zones that touch.")
    return _checked(shapely.get_coordinates(max(lines, key=lambda line: line.length)), zones)


def shape_guide(zones: Sequence[Polygon]) -> Guide:
    """All round the largest shape that lies on one of *zones*. Raises `GuideError` where none does."""
    rings = [Polygon(ring) for zone in zones for ring in zone.interiors]
    if not rings:
        raise GuideError(
            "No shape lies on the chosen zones; choose the ground that lies round one."
        )
    return _checked(shapely.get_coordinates(max(rings, key=lambda each: each.area).exterior), zones)


def points_guides(
    members: Sequence[Zone], over: str, patches: Sequence[Polygon]
) -> tuple[Guide, ...]:
    """Lines through zones that swing with the points of the piecing: one through all that touch where a
    motif is laid *over* the region, one along each side of a border, one for each zone where sisters vary,
    else one for each kind of zone, whose sisters have the same. Those along which nothing points have none.
    Raises `GuideError` where that is so of all."""
    if over in ("region", "sides"):
        groups = sides_of_border(members) if over == "sides" else [list(members)]
        shapes = [
            region
            for group in groups
            for region in polygons(shapely.union_all([z.polygon for z in group], grid_size=1e-5))
        ]
    else:
        every = [zone.polygon for zone in members]
        if over != "varied":
            classes = alike(every)
            every = [every[classes.members(k)[0]] for k in range(max(classes.classes) + 1)]
        shapes = sorted(every, key=lambda shape: -shape.area)
    found, refused = [], None
    for shape in shapes[:MOST_GUIDES]:
        try:
            found.append(points_guide(shape, patches))
        except GuideError as error:
            refused = refused or error
    if not found:
        raise refused or GuideError("Choose zones first, then their guide.")
    return tuple(found)


def points_guide(zone: Polygon, patches: Sequence[Polygon]) -> Guide:
    """A line through *zone*, or all round it, that swings with the points of the piecing beside it; *patches*
    are those of the top."""
    near = [each for each in patches
            if each.distance(zone) < OFF and each.intersection(zone).area < 0.5 * each.area]  # fmt: skip
    line = (swinging_ring if zone.interiors else swinging_line)(zone, near)
    if line is None:
        raise GuideError(
            "No points of the piecing lie along these zones, or they are no straight strips; draw the guide."
        )
    return _checked(line, [zone])


def _checked(line: np.ndarray, zones: Sequence[Polygon]) -> Guide:
    if crossings_of(
        line if len(line) < 400 else resample(line, shapely.linestrings(line).length / 399)
    ):
        raise GuideError("The guide crosses itself; draw it in one way.")
    drawn = shapely.simplify(shapely.linestrings(line), OFF, preserve_topology=False)
    held = max((drawn.intersection(zone.buffer(OFF)).length for zone in zones), default=0.0)
    if held < SHORTEST:
        raise GuideError("The guide hardly touches the chosen zones; lay it through them.")
    points = shapely.get_coordinates(drawn)
    if len(points) > MOST:
        points = resample(line, drawn.length / (MOST - 1))
    return tuple((round(float(x), 3), round(float(y), 3)) for x, y in points)
