"""Holding: loose lines that keep the layers together until they are quilted, and are taken out again.

A whole quilt that is basted first gets lines across it from edge to edge; lofty batting gets one loose
serpentine down the middle of each pass.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Chart
from chorograph_core.reckon import Machine
from chorograph_core.route.model import Policy
from chorograph_core.route.passes import Pass
from chorograph_core.route.stations import Station

LOFTY = 0.2
"""Inches of batting under the foot from which on a pass is held by a serpentine."""
APART = 5.0
"""Inches between the lines of a quilt that is basted all over: a hand's breadth lies between any place
and the next line."""
EDGE = 0.5
"""Inches that such lines keep from the raw edge, which is basted by itself."""
WAVE, SWING = 9.0, 2.5
"""Inches of one wave of a serpentine, and to either side of its middle."""

Lines = Mapping[int, Sequence[np.ndarray]]


def basted_first(machine: Machine, policy: Policy) -> bool:
    """Whether the whole quilt is basted before anything else. What is not on a frame comes basted."""
    return machine.kind == "frame" and policy.days == "basted"


def hold_lines(
    chart: Chart, passes: Sequence[Pass], machine: Machine, policy: Policy
) -> dict[int, list[np.ndarray]]:
    """Lines (n, 2) that hold the layers, by the number of the pass in which they are stitched."""
    if machine.kind != "frame":
        return {}
    room = chart.outline.buffer(-EDGE, join_style="mitre")
    if room.is_empty:
        return {}
    left, top, right, bottom = room.bounds
    found: dict[int, list[np.ndarray]] = {each.number: [] for each in passes}
    xs = np.arange(left, right + 0.5, 0.5)
    if basted_first(machine, policy):
        count = max(1, math.ceil((bottom - top) / APART))
        for y in np.linspace(top, bottom, count + 1)[1:-1].tolist():
            home = next((each for each in passes if each.holds(y, y)), passes[0])
            found[home.number] += _within(room, np.array([[left, y], [right, y]]))
    elif machine.loft >= LOFTY:
        for each in passes:
            middle = (max(each.top, top) + min(each.bottom, bottom)) / 2
            swing = min(SWING, 0.3 * (each.bottom - each.top))
            wave = middle + swing * np.sin((xs - left) * 2 * np.pi / WAVE)
            found[each.number] += _within(room, np.column_stack([xs, wave]))
    return {number: lines for number, lines in found.items() if lines}


def _within(room, line: np.ndarray) -> list[np.ndarray]:
    parts = shapely.get_parts(shapely.intersection(shapely.linestrings(line), room))
    return [shapely.get_coordinates(part) for part in parts if part.length > 1.0]


def taken_out(station: str, first: Machine | None) -> str:
    """What is done, by its name, when the basting at a *station* is out: on the machine that the quilt was
    basted on, or, where *first* is that one, on the other."""
    return f"out:{station}" if first is None else f"there-out:{station}"


class Holding:
    """What still holds the layers: inches at each station, taken out when it is first gone to. Stations that
    are *gone* to already, and what lay in the shapes *out*, hold nothing any more; what lies in *keep* stays
    until a figure is stitched over it."""

    def __init__(
        self, lines: Iterable[np.ndarray], gone: Iterable[Station] = (), out: Sequence[Polygon] = (),
        keep: Polygon | None = None,
    ) -> None:  # fmt: skip
        self._keep = keep
        laid = [shapely.linestrings(line) for line in lines]
        self._whole = shapely.union_all(laid) if laid else None
        if self._whole is not None and out:
            self._whole = shapely.difference(self._whole, shapely.union_all(out))
        self.left = float(self._whole.length) if self._whole is not None else 0.0
        self._gone: set[str] = set()
        for station in gone:
            # It was taken out there before.
            self.take_out(station)

    def take_out(self, station: Station) -> float:
        """Inches that lie in a station and are there still."""
        if self._whole is None or station.key in self._gone:
            return 0.0
        self._gone.add(station.key)
        shape = station.shape
        if self._keep is not None and not station.figure:
            shape = shape.difference(self._keep)
        inches = float(shapely.intersection(self._whole, shape).length)
        # A line along the seam between two places comes out with the first of them.
        self._whole = shapely.difference(self._whole, shape)
        self.left = float(self._whole.length)
        return inches

    def take_rest(self) -> float:
        """What lies at no station that was gone to."""
        rest, self.left = self.left, 0.0
        return rest if rest > 0.5 else 0.0
