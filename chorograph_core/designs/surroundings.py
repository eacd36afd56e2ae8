"""What lies round a zone: its seams and their low sides, its neighbours, its cloth."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
import shapely
from shapely import STRtree

from chorograph_core.chart import Chart, Fabric, Patch, Seam, seams
from chorograph_core.chart.side_by_side import lying_beside
from chorograph_core.designs.space import Space, SpaceSeam
from chorograph_core.zones import Zone

TOUCHES = 0.05
"""Inches that two zones must share to be neighbours: more than a corner."""


class Surroundings:
    """The seams and the zones of one top, found when the first design asks for them."""

    def __init__(self, chart: Chart, zones: Sequence[Zone]) -> None:
        self._chart, self._zones = chart, list(zones)

    @cached_property
    def _seams(self) -> dict[str, list[Seam]]:
        by_patch: dict[str, list[Seam]] = defaultdict(list)
        for seam in seams(self._chart):
            for patch in (seam.left, seam.right):
                if patch:
                    by_patch[patch].append(seam)
        return by_patch

    @cached_property
    def _tree(self) -> STRtree:
        return STRtree([zone.polygon for zone in self._zones])

    def told(self, space: Space, zone: Zone) -> Space:
        """*space* with what lies round *zone*, whose shape it has."""
        edge = self._chart.outline.exterior
        return replace(space, raw_edge=edge, around=_Round(self, zone))

    def seams_of(self, zone: Zone) -> tuple[SpaceSeam, ...]:
        """Every seam between the zone and what is not in it."""
        own, found = set(zone.patches), []
        for patch in zone.patches:
            for seam in self._seams.get(patch, ()):
                beyond = seam.right if seam.left == patch else seam.left
                if beyond not in own:
                    line = shapely.get_coordinates(seam.line)
                    low = self._low(seam, patch, beyond)
                    found.append(SpaceSeam(seam.id, line, beyond, low))
        return tuple(found)

    def neighbours_of(self, zone: Zone) -> tuple[str, ...]:
        """The zones that share an edge with it, by id, in the order of the top."""
        near, shared = lying_beside(zone.polygon, self._tree)
        names = [self._zones[k].id for k in near[shared > TOUCHES]]
        return tuple(name for name in names if name != zone.id)

    def _low(self, seam: Seam, patch: str, beyond: str) -> bool | None:
        """Whether *patch* lies on the low side. Where nobody felt the seam, the allowance is taken
        to be pressed towards the darker fabric, as it mostly is, so the lighter one is low."""
        if seam.low:
            return seam.low == patch
        if not beyond:
            return None
        here, there = (_lightness(self._chart.fabric(self._chart.patch(p).fabric))
                       for p in (patch, beyond))  # fmt: skip
        return None if abs(here - there) < 0.02 else here > there

    def fabric_of(self, zone: Zone) -> Fabric | None:
        """The cloth of the zone's first patch."""
        if not zone.patches:
            return None
        return self._chart.fabric(self._chart.patch(zone.patches[0]).fabric)

    @cached_property
    def _middles(self) -> dict[str, np.ndarray]:
        """The middle (2,) of the block of each patch that is of one."""
        blocks: dict[tuple[int, int], list[Patch]] = defaultdict(list)
        for patch in self._chart.patches:
            if patch.block is not None:
                blocks[patch.block].append(patch)
        found: dict[str, np.ndarray] = {}
        for patches in blocks.values():
            x0, y0, x1, y1 = shapely.total_bounds([patch.polygon for patch in patches])
            found |= dict.fromkeys(
                (patch.id for patch in patches), np.array([x0 + x1, y0 + y1]) / 2
            )
        return found

    def middle_round(self, zone: Zone) -> np.ndarray | None:
        """The middle (2,) of the block that the zone is of; None where it is of none, or of several."""
        middles = [self._middles.get(patch) for patch in zone.patches]
        first = next(iter(middles), None)
        return first if all(each is first for each in middles) else None

    def grain_of(self, zone: Zone) -> float | None:
        """Where the threads of the cloth run: patches are cut along the grain of the outer edges of
        their block, so that of the block counts, and that of the top where there is none."""
        if not zone.patches:
            return None
        first = self._chart.patch(zone.patches[0])
        if first.block is None:
            return 0.0
        whole = shapely.union_all(
            [p.polygon for p in self._chart.patches if p.block == first.block]
        )
        box = shapely.get_coordinates(shapely.oriented_envelope(whole))
        side = box[1] - box[0]
        return float(np.arctan2(side[1], side[0]) % (np.pi / 2))


class _Round:
    """What lies round one zone, found when it is asked for."""

    def __init__(self, top: Surroundings, zone: Zone) -> None:
        self._top, self._zone = top, zone

    @cached_property
    def seams(self) -> tuple[SpaceSeam, ...]:
        return self._top.seams_of(self._zone)

    @cached_property
    def neighbours(self) -> tuple[str, ...]:
        return self._top.neighbours_of(self._zone)

    @cached_property
    def fabric(self) -> Fabric | None:
        return self._top.fabric_of(self._zone)

    @cached_property
    def grain(self) -> float | None:
        return self._top.grain_of(self._zone)


def _lightness(fabric: Fabric) -> float:
    """Luma of a colour ``#rrggbb``, 0 to 1 (ITU-R BT.601)."""
    red, green, blue = (int(fabric.colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    return 0.299 * red + 0.587 * green + 0.114 * blue
