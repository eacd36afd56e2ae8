"""Kinds of place that a chart itself shows: alike zones of one cloth, by what they look like."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import Chart, Patch, alike, sides_of_outline
from chorograph_core.zones.model import Kind, Zone

ALIKE_BOXES = 1.005
"""Times the smallest box up to which another is as small."""
LONG = 2.6
"""Length over breadth from which a rectangle is a strip."""
NAMES = {"sashing": "sashing strip", "cornerstone": "cornerstone", "border": "border side",
         "setting": "setting triangle", "applique": "appliqué shape", "spacer": "spacer"}  # fmt: skip
ROUND = ("circle", "half circle", "quarter circle")
"""What is cut out of a side or a strip is neither."""
BACKGROUND = "background"
ANYTHING = ("piece", "curved piece", "four-sided piece", "picture frame")
"""Words for what has no shape to speak of: what flows round the piecing is its background."""
PIECED = {"triangle": "border triangle", "square": "border square", "diamond": "border diamond",
          "kite": "border kite"}  # fmt: skip
"""Pieces of a pieced border are no sides of it."""
SPACER = ":spacer"
"""How the cell of a patch ends that fills what the units of a border leave."""
SIDE = 3.0
"""Times its width that a piece of a border is long from which on it is a side: others are pieced."""
FRAMED = 0.4
"""Share of what lies within its outer edge that is not its own for a piece to be a frame; else something
lies on it."""

BROAD = 0.6
"""How much of the way across an end of a wedge counts where an end is round or pointed."""
BEYOND = 0.45
"""Share of a wedge that such an end may be."""
CONVERGES = math.radians(3), math.radians(80)
"""How much two sides of a wedge run towards each other."""


@dataclass(frozen=True)
class Place:
    """A kind of place: what it is called when there is one of it, the size of the smallest box round it in
    inches, its cloth, its zones by id, one of them to show, and the part its patches play in the chart (empty
    where that differs)."""

    name: str
    size: tuple[float, float]
    fabric: str
    zones: tuple[str, ...]
    shape: Polygon
    role: str = ""

    @property
    def is_ground(self) -> bool:
        """Whether it is background: what flows round the piecing, or has no shape to speak of."""
        return self.name in (BACKGROUND, *ANYTHING) and self.role not in ("border", "applique")

    @property
    def names(self) -> str:
        """What several of it are called."""
        return plural(self.name)


def plural(name: str) -> str:
    """
    >>> plural("square"), plural("setting triangle"), plural("patch")
    ('squares', 'setting triangles', 'patches')
    """
    return f"{name}es" if name.endswith(("ch", "x", "s")) else f"{name}s"


def places_of(
    chart: Chart, zones: Sequence[Zone], classes: Sequence[int] | None = None
) -> list[Place]:
    """The kinds of place among *zones*, the one that covers most first; *classes* as of `alike`, where they
    are known."""
    known = alike([zone.polygon for zone in zones]).classes if classes is None else classes
    groups: dict[tuple[int, str, str], list[Zone]] = {}
    for zone, number in zip(zones, known, strict=True):
        patch = chart.patch(zone.patches[0]) if zone.patches else None
        role = _role(patch) if patch is not None and len(zone.patches) == 1 else ""
        fabric = patch.fabric if patch is not None else ""
        groups.setdefault((number, fabric, role), []).append(zone)
    found = []
    for (_, fabric, role), members in groups.items():
        shape = members[0].polygon
        name = _named(role, shape, members[0].kind)
        size = upright(shape) if role == "applique" else size_of(shape)
        found.append(Place(name, size, fabric, tuple(zone.id for zone in members), shape, role))
    return sorted(found, key=lambda place: -place.shape.area * len(place.zones))


def sides_together(places: Sequence[Place]) -> list[list[Place]]:
    """Places that are one to a quilter: the sides of a border together (as wide, of one cloth), whatever
    their lengths and whatever is cut out of them, all else by itself; what covers most first."""
    groups: dict[object, list[Place]] = {}
    for number, place in enumerate(places):
        long, wide = max(place.size), min(place.size)
        side = place.name == NAMES["border"] and place.role == "border" and long >= SIDE * wide
        key = ("border", place.fabric, round(wide * 8)) if side else number
        groups.setdefault(key, []).append(place)

    def covers(group: list[Place]) -> float:
        return sum(place.shape.area * len(place.zones) for place in group)

    return sorted(groups.values(), key=lambda group: -covers(group))


def _role(patch: Patch) -> str:
    return "spacer" if patch.cell.endswith(SPACER) else str(patch.role)


def _named(role: str, shape: Polygon, kind: Kind) -> str:
    word = shape_word(shape)
    if kind == "part" and word in ROUND:
        return word
    if kind == "negative" and word in ANYTHING:
        return BACKGROUND
    return (PIECED.get(word) if role == "border" else None) or NAMES.get(role) or word


def size_of(shape: Polygon) -> tuple[float, float]:
    """Length and breadth of the smallest box round *shape*, inches; of two as small that along which it is
    shorter: half a square is measured along its two sides, however it is turned.

    >>> [round(inches, 3) for inches in size_of(Polygon([(0, 4), (4, 0), (8, 4)]))]
    [5.657, 5.657]
    """
    hull = shapely.get_coordinates(shape.convex_hull)
    sides = np.diff(hull, axis=0)
    sides = sides[np.hypot(*sides.T) > 1e-9]
    along = sides / np.hypot(*sides.T)[:, None]
    # A smallest box has a side in common with the hull (Freeman and Shapira 1975).
    across = np.column_stack([-along[:, 1], along[:, 0]])
    boxes = np.sort([np.ptp(hull @ way.T, axis=0) for way in (along, across)], axis=0)
    areas = boxes.prod(axis=0)
    small = np.flatnonzero(areas < areas.min() * ALIKE_BOXES)
    broad, long = boxes[:, small[np.argmin(np.round(boxes[1, small], 6))]].tolist()
    return long, broad


def upright(shape: Polygon) -> tuple[float, float]:
    """How wide and how high *shape* is as it lies, inches: a heart is measured from top to point."""
    x0, y0, x1, y1 = shape.bounds
    return x1 - x0, y1 - y0


def _four_sided(sides: np.ndarray) -> str:
    """By its sides in order: all alike, or alike in two pairs that touch."""

    def same(a: float, b: float) -> bool:
        return bool(abs(a - b) < 0.02 * max(a, b))

    a, b, c, d = sides.tolist()
    if same(a, b) and same(b, c) and same(c, d):
        return "diamond"
    return (
        "kite" if (same(a, b) and same(c, d)) or (same(b, c) and same(d, a)) else "four-sided piece"
    )


def shape_word(shape: Polygon) -> str:
    """What a quilter would call it by its outline alone.

    >>> from shapely.geometry import box
    >>> shape_word(box(0, 0, 3, 3)), shape_word(box(0, 0, 12, 2)), shape_word(box(0, 0, 4, 3))
    ('square', 'strip', 'rectangle')
    """
    ring = sides_of_outline(shape)[:-1]
    long, broad = size_of(shape)
    full = shape.area / max(long * broad, 1e-9)
    if shape.interiors:
        core = sum(Polygon(ring).area for ring in shape.interiors)
        return "picture frame" if core > FRAMED * (shape.area + core) else "background"
    if full > 0.97 and len(ring) <= 8:
        return "square" if long < 1.03 * broad else "strip" if long > LONG * broad else "rectangle"
    into, onto = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    turn = np.abs(
        np.arctan2(into[:, 0] * onto[:, 1] - into[:, 1] * onto[:, 0], (into * onto).sum(axis=1))
    )
    corners = int((turn > np.radians(20)).sum())
    if len(ring) > 12 and corners <= 1:
        return "circle" if long < 1.03 * broad and full > 0.77 else "round piece"
    if len(ring) == 3:
        return "triangle"
    if is_wedge(ring):
        return "wedge"
    if (
        corners == 2
        and len(ring) > 6
        and abs(long / broad - 2) < 0.05
        and abs(full - math.pi / 4) < 0.02
    ):
        return "half circle"
    if corners == 3 and len(ring) > 6 and long < 1.03 * broad and abs(full - math.pi / 4) < 0.02:
        return "quarter circle"
    if (len(ring) > 8 and corners <= 4) or 2 <= corners < len(ring):
        return "curved piece"
    if len(ring) == 4:
        return _four_sided(np.hypot(*onto.T))
    if shape.area < 0.97 * shape.convex_hull.area:
        return "piece"
    return {5: "pentagon", 6: "hexagon", 8: "octagon"}.get(len(ring), "piece")


def is_wedge(ring: np.ndarray) -> bool:
    """Whether the corners (n, 2) of an outline are those of a wedge, as of a fan or a plate: two of its three
    longest sides are straight, alike, and run towards each other; what joins them at either end is shorter,
    or round or pointed and not much farther across.

    >>> is_wedge(np.array([(0, 0), (10, 0), (8, 2), (2, 2)]))
    False
    >>> is_wedge(np.array([(3, -0.5), (10, -2), (10.6, 0), (10, 2), (3, 0.5)]))
    True
    """
    steps = np.roll(ring, -1, axis=0) - ring
    inches = np.hypot(*steps.T)
    longest = sorted(np.argsort(inches, kind="stable")[-3:].tolist())
    return len(ring) >= 4 and any(
        _converge(ring, steps, inches, one, two) for one, two in itertools.combinations(longest, 2)
    )


def _converge(ring: np.ndarray, steps: np.ndarray, inches: np.ndarray, one: int, two: int) -> bool:
    """Whether sides *one* and *two* of a *ring* are those of a wedge."""
    count = len(ring)
    if two - one in (1, count - 1) or abs(inches[one] - inches[two]) > 0.03 * inches[one]:
        return False
    ends = np.array([inches[one + 1 : two].sum(), inches[:one].sum() + inches[two + 1 :].sum()])
    if count > 4:
        beyond = ring[one + 1 : two + 1], np.roll(ring, -two - 1, axis=0)[: one - two + count]
        if max(_area(end) for end in beyond) > BEYOND * _area(ring):
            return False
        ends = BROAD * np.array([float(np.hypot(*(end[-1] - end[0]))) for end in beyond])
    # Gone round, one leads out and the other home.
    turn = math.acos(float(np.clip(-steps[one] @ steps[two] / inches[one] / inches[two], -1, 1)))
    return bool(CONVERGES[0] < turn < CONVERGES[1] and max(ends) < 0.95 * inches[one])


def _area(ring: np.ndarray) -> float:
    return float(shapely.area(shapely.polygons(ring))) if len(ring) > 2 else 0.0


def sisters_of(chart: Chart, zones: Sequence[Zone], names: Sequence[str]) -> list[str]:
    """The other zones of the same kinds of place as *names*."""
    chosen = set(names)
    areas = [zone.polygon.area for zone in zones if zone.id in chosen]
    # Only those of about its area can be alike.
    near = [zone for zone in zones
            if any(abs(zone.polygon.area - area) < 0.02 * area + 0.1 for area in areas)]  # fmt: skip
    kinds = [place.zones for place in places_of(chart, near)]
    return [name for kind in kinds if chosen & set(kind) for name in kind if name not in chosen]
