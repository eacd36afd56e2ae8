"""Stitch in the ditch: exactly in the seams round a zone."""

from __future__ import annotations

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit, Linework, Parameter, Run
from chorograph_core.designs.placing import moves_along

NEAR_EDGE = 0.02


class InTheDitch(Design):
    """Every seam round the zone. Shared seams are stitched once: the route sees to that."""

    key = "ditch"
    name = "In the ditch"
    family = "ruler"
    stroke = "along the seam on its low side; once for each seam, whoever asks for it"
    frames = True
    parameters = (
        Parameter(
            "keep", "What the next layer keeps", "length", 0.0, 0.0, 2.0, 0.0625,
            help="How far the next layer stays inside the ditch.",
        ),
    )  # fmt: skip

    def fits(self, space, settings=None):
        """Any zone with a seam can be stitched in the ditch."""
        lines = _ditches(space)
        if not lines:
            return Fit(0.0, ("there is no seam round this zone",))
        around = sum(shapely.length(shapely.linestrings(line)) for line in lines)
        return Fit(0.8, (f"holds {around:.0f}″ of seam and hides in it",))

    def draw(self, space, settings, seed=0, doorways=None):
        """One run for each unbroken stretch of seam."""
        runs, moves = [], []
        for line in _ditches(space):
            closed = bool(np.hypot(*(line[0] - line[-1])) < 1e-6)
            runs.append(Run(line, "ditch", in_ditch=True, closed=closed))
            moves += moves_along(line, space.foot_radius, "straight edge", "needle in the ditch")
        return Linework(tuple(runs), (), tuple(moves))

    def remaining(self, space, settings):
        """The zone, shrunk by what the next layer should keep."""
        return space.inset(self.clean(settings)["keep"])


def _ditches(space) -> list[np.ndarray]:
    """The zone's edge without what lies on the raw edge of the top."""
    border = space.polygon.boundary
    if space.raw_edge is not None:
        border = border.difference(space.raw_edge.buffer(NEAR_EDGE, cap_style="flat"))
        border = shapely.line_merge(border) if border.geom_type == "MultiLineString" else border
    parts = [part for part in shapely.get_parts(border) if part.length > 0.05]
    return [shapely.get_coordinates(part) for part in parts]
