"""A figure that passes shapes in its way: in front of them, behind them, or by turns, as a rope winds."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.behind import covered
from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import choice_setting
from chorograph_core.designs.space import Space, polygons

HAIR = 1e-3


def passing_setting():
    """How a figure passes the shapes that lie in its way."""
    return choice_setting("Passing shapes", (
        ("front", "in front of them"), ("behind", "behind them"),
        ("turns", "behind one, in front of the next"), ("other", "in front of one, behind the next"),
    ), help="Where it is laid over shapes and what they lie on, as one.")  # fmt: skip


def shapes_in(space: Space) -> list[Polygon]:
    """The zones of a region that lie in a hole of another: what was sewn or pieced on its ground."""
    grounds = [Polygon(ring) for part in space.parts for ring in part.interiors]
    return [
        part for part in space.parts
        if any(hole.buffer(HAIR).covers(part) for hole in grounds)
    ]  # fmt: skip


def passing(space: Space, linework: Linework, how: str) -> Linework:
    """*linework* as it shows where it passes behind some of the shapes of a region, in the order in which its
    lines come upon them."""
    shapes = shapes_in(space)
    if how == "front" or not shapes or not linework.runs:
        return linework
    line = np.vstack([run.points for run in linework.runs])

    def met(shape: Polygon) -> int:
        return int(np.argmin(shapely.distance(shape, shapely.points(line))))

    order = sorted(shapes, key=met)
    hidden = order if how == "behind" else order[(0 if how == "turns" else 1) :: 2]
    if not hidden:
        return linework
    parts = polygons(space.polygon.difference(shapely.union_all(hidden)))
    return covered(linework, parts[0]) if parts else linework
