"""Stations: places with work of their own, each small enough to be kept in mind.

A block, a strip of sashing, a cornerstone, a side of a border; where a top has no such parts, a
cluster of neighbouring zones, halved along its longer side until it is small enough.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.chart import Chart
from chorograph_core.route.passes import Pass, holding
from chorograph_core.zones import Zone

MOST_ZONES = 16
"""Zones in a cluster: about what a hand learns as one path."""
WIDEST = 18.0
"""Inches that a cluster measures at most."""
MOSTLY = 0.7
"""Share of a top from end to end that something takes up which lies along all of it."""
MOST_IN_BLOCK = 150
"""Zones up to which a block is one station whatever it is made of."""

_NAMES = {"sashing": "sashing", "cornerstone": "cornerstone", "border": "border",
          "corner": "corner block", "applique": "appliqué", "background": "setting piece"}  # fmt: skip


BESIDE = 3.0
"""Inches between two stations within which one follows from the other."""


@dataclass(frozen=True)
class Station:
    """A place of the top: its *name* for a quilter, the zones in it by id, and the *parts* it is put together
    of. A *cluster* is no part that the piecing shows: neighbours gathered so that they can be kept in mind.
    A *figure* lies over other stations: what is drawn over many zones as one."""

    key: str
    name: str
    zones: tuple[str, ...]
    parts: tuple[Polygon, ...]
    cluster: bool = False
    figure: bool = False

    @cached_property
    def shape(self) -> BaseGeometry:
        """All of it."""
        return shapely.union_all(self.parts, grid_size=1e-4)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        left, top, right, bottom = shapely.total_bounds(self.parts).tolist()
        return left, top, right, bottom

    def follows(self, last: Station) -> bool:
        """Whether who comes from the *last* one need not look where this one lies."""
        return bool(self.shape.distance(last.shape) < BESIDE)

    @cached_property
    def middle(self) -> np.ndarray:
        """Middle of its bounds, (2,)."""
        x0, y0, x1, y1 = self.bounds
        return np.array([(x0 + x1) / 2, (y0 + y1) / 2])


def stations_of(chart: Chart, zones: Sequence[Zone], passes: Sequence[Pass] = ()) -> list[Station]:
    """Every zone in one station, in reading order. Neighbours are gathered within the *passes*: what
    two passes have to be rolled for is better two places."""
    gathered: dict[tuple[str, str], list[Zone]] = defaultdict(list)
    for zone in zones:
        gathered[_part(chart, zone)].append(zone)
    made: list[Station] = []
    counts: dict[str, int] = defaultdict(int)
    groups = []
    for (kind, name), members in gathered.items():
        small = kind == "block" and len(members) <= MOST_IN_BLOCK
        small = small or kind.startswith("one")
        parts = [members] if small else _gathered(members, passes)
        # The one zone of a border's side is a part of the piecing.
        cluster = not small and len(members) > 1
        groups += [(kind, name, part, cluster) for part in parts]
    groups.sort(key=lambda group: _reading(group[2]))
    alike = Counter(name for _, name, _, _ in groups)
    for kind, name, part, cluster in groups:
        title = name
        if kind != "block" and alike[name] > 1:
            counts[name] += 1
            title = f"{name} {counts[name]}"
        names, shapes = tuple(zone.id for zone in part), tuple(zone.polygon for zone in part)
        made.append(Station(part[0].id, title, names, shapes, cluster))
    return made


def figure_stations(figures: Mapping[str, Sequence[str]], zones: Sequence[Zone]) -> list[Station]:
    """A station for each figure: *figures* has the zones under each, by its key. Each is called by where it
    lies, those that lie in the same place by a number besides."""
    shapes = {zone.id: zone.polygon for zone in zones}
    top = shapely.total_bounds(list(shapes.values()))
    made = []
    for key, under in figures.items():
        parts = tuple(shapes[zone] for zone in under if zone in shapes)
        name = f"all {len(under)} zones as one"
        if len(figures) > 1 and parts and (where := _lies(shapely.total_bounds(parts), top)):
            name = f"all {len(under)} zones as one {where}"
        made.append(Station(key, name, tuple(under), parts, figure=True))
    shared = {name for name, many in Counter(one.name for one in made).items() if many > 1}
    return [
        replace(one, name=f"{one.name} ({number})") if one.name in shared else one
        for number, one in enumerate(made, 1)
    ]


def _lies(box: np.ndarray, top: np.ndarray) -> str:
    """Where a *box* (left, top, right, bottom) lies on a *top*; empty where it takes up most of it."""
    size = top[2:] - top[:2]
    wide, tall = (box[2:] - box[:2]) >= MOSTLY * size
    across, down = ((box[:2] + box[2:]) / 2 - top[:2]) / size
    if wide and tall:
        return ""
    if wide and abs(down - 0.5) > 0.5 - MOSTLY / 2:
        return "at the top" if down < 0.5 else "at the bottom"
    if tall and abs(across - 0.5) > 0.5 - MOSTLY / 2:
        return "on the left" if across < 0.5 else "on the right"
    return "in the middle" if abs(across - 0.5) < 0.2 and abs(down - 0.5) < 0.2 else ""


def _part(chart: Chart, zone: Zone) -> tuple[str, str]:
    """What a zone is a part of: (kind, name), the same for all that belong together."""
    patches = [chart.patch(name) for name in zone.patches]
    blocks = {patch.block for patch in patches}
    if len(blocks) == 1 and (block := next(iter(blocks))) is not None:
        return "block", f"block {block[0] + 1}.{block[1] + 1}"
    roles = {patch.role for patch in patches}
    if len(patches) == 1 and patches[0].role == "border":
        # The side is the first two words of its name, whatever it is pieced of.
        side = ".".join(patches[0].id.split(".")[:2])
        return "side", re.sub(r"(?<=[a-z])(?=\d)", " ", side).replace(".", " ")
    if len(roles) == 1 and (role := next(iter(roles))) in _NAMES:
        return "one" + zone.id, _NAMES[role]
    return "area", "area"


def _gathered(zones: list[Zone], passes: Sequence[Pass]) -> list[list[Zone]]:
    """Clusters of the zones of each pass, those that no pass holds by themselves."""
    by_pass: dict[int, list[Zone]] = defaultdict(list)
    for zone in zones:
        held = holding(passes, *zone.polygon.bounds[1::2])
        by_pass[held[0] if held else 0].append(zone)
    return [part for members in by_pass.values() for part in _halved(members)]


def _halved(zones: list[Zone]) -> list[list[Zone]]:
    """Clusters of neighbouring zones, none too many or too wide, where it can be helped."""
    bounds = np.array([zone.polygon.bounds for zone in zones])
    size = bounds[:, 2:].max(axis=0) - bounds[:, :2].min(axis=0)
    if len(zones) == 1 or (len(zones) <= MOST_ZONES and size.max() <= WIDEST):
        return [zones]
    middles = (bounds[:, :2] + bounds[:, 2:]) / 2
    axis = int(np.argmax(size))
    rank = np.argsort(middles[:, axis], kind="stable")
    along = middles[rank, axis]
    # Between two rows, not in the middle of one: half of a row is no neighbour of the other.
    steps = np.flatnonzero(np.diff(along) > 0.25 * np.diff(along).max()) + 1
    half = int(steps[np.argmin(np.abs(steps - len(zones) / 2))]) if len(steps) else len(zones) // 2
    return [
        *_halved([zones[k] for k in sorted(rank[:half])]),
        *_halved([zones[k] for k in sorted(rank[half:])]),
    ]


def _reading(zones: list[Zone]) -> tuple[float, float]:
    x, y = zones[0].polygon.bounds[:2]
    return round(y, 1), round(x, 1)
