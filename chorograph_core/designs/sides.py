"""The sides of a border that is pieced: which of its zones lie on which; figures over them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.space import polygons
from chorograph_core.zones import Zone

CORNER = 0.02
"""Share of a border's length by which a zone may lie nearer to one edge than to the next, in a corner."""


def sides_of(members: Sequence[Zone]) -> list[list[Zone]]:
    """*members* by the edge of all of them that each lies nearest to: top, right, bottom, left, as far as
    there are any. What lies in a corner belongs to the top or the bottom, which are mostly sewn on last."""
    if not members:
        return []
    shapes = [zone.polygon for zone in members]
    x0, y0, x1, y1 = shapely.total_bounds(shapes)
    middles = shapely.get_coordinates(shapely.centroid(shapes))
    from_edges = np.column_stack(
        [middles[:, 1] - y0, x1 - middles[:, 0], y1 - middles[:, 1], middles[:, 0] - x0]
    )
    from_edges[:, (0, 2)] -= CORNER * max(x1 - x0, y1 - y0)
    side = from_edges.argmin(axis=1)
    groups = [[zone for zone, at in zip(members, side, strict=True) if at == k] for k in range(4)]
    return [group for group in groups if group]


def largest_figure(
    members: Sequence[Zone], over: str, limit: BaseGeometry
) -> tuple[Polygon, tuple[Polygon, ...]]:
    """The largest of the regions that *members* make within *limit*, laid *over* all that touch
    (``"region"``) or along each side (``"sides"``), and the parts that are the zones' own. Of members that
    lie beyond the limit the largest as it is."""
    found: list[tuple[Polygon, list[Zone]]] = []
    for group in sides_of(members) if over == "sides" else [list(members)]:
        whole = shapely.union_all([zone.polygon for zone in group], grid_size=1e-5)
        found += [(each, group) for each in polygons(whole.intersection(limit))]
    if not found:
        one = max((zone.polygon for zone in members), key=lambda shape: shape.area)
        return one, (one,)
    whole, group = max(found, key=lambda each: each[0].area)
    parts = [part for zone in group for part in polygons(zone.polygon.intersection(whole))]
    return whole, tuple(parts)
