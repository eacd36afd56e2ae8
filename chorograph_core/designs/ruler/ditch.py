"""Stitch in the ditch: exactly in the seams round a zone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.designs.settings import Settings, length_setting

NEAR_EDGE = 0.02
"""Inches within which a side of a zone lies along the raw edge."""
AT_EDGE = 0.002
"""Inches from the raw edge at which a seam ends that runs up to it."""
IN_THE_DITCH = "the needle in the ditch, the edge a foot's radius beside it"


@dataclass(frozen=True)
class DitchSettings(Settings):
    """What the next layer keeps from the ditch."""

    keep: float = length_setting("What the next layer keeps", 0.0, 0.0, 2.0,
                         help="How far the next layer stays inside the ditch.")  # fmt: skip


class InTheDitch(Design[DitchSettings]):
    """Every seam round the zone. Shared seams are stitched once: the route sees to that."""

    key = "ditch"
    name = "In the ditch"
    family = "ruler"
    stroke = "along the seam on its low side; once for each seam, whoever asks for it"
    role = "ditch"
    # Ditches run up to the raw edge and depend on where it is, so they are never shared.
    looks_round = True
    settings_type = DitchSettings

    def fits(self, space, settings=None):
        """Any zone with a seam can be stitched in the ditch."""
        lines = _ditches(space)
        if not lines:
            return Fit(0.0, ("there is no seam round this zone",))
        around = sum(shapely.length(shapely.linestrings(line)) for line in lines)
        return Fit(0.8, (f"holds {around:.0f}″ of seam and hides in it",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run for each unbroken stretch of seam."""
        runs = []
        for line in _ditches(space):
            closed = bool(np.hypot(*(line[0] - line[-1])) < 1e-6)
            runs.append(Run(line, "ditch", in_ditch=True, closed=closed, position=IN_THE_DITCH))
        return Linework(tuple(runs))

    def remaining(self, space, settings=None):
        """The zone, shrunk by what the next layer should keep."""
        return space.inset(self.clean(settings).keep)


def _ditches(space) -> list[np.ndarray]:
    """The zone's edge without what lies on the raw edge of the top."""
    border = space.polygon.boundary
    raw = space.raw_edge
    if raw is not None and shapely.dwithin(border, raw, NEAR_EDGE):
        # A seam that meets the raw edge on a slant is no part of it, however near it is by then.
        rings = [shapely.get_coordinates(ring) for ring in shapely.get_parts(border)]
        sides = shapely.linestrings(
            np.concatenate([np.stack([r[:-1], r[1:]], axis=1) for r in rings])
        )
        along = shapely.covers(raw.buffer(NEAR_EDGE), sides)
        border = shapely.union_all(sides[~along]).difference(raw.buffer(AT_EDGE, cap_style="flat"))
        border = shapely.line_merge(border) if border.geom_type == "MultiLineString" else border
    parts = [part for part in shapely.get_parts(border) if part.length > 0.05]
    return [shapely.get_coordinates(part) for part in parts]
