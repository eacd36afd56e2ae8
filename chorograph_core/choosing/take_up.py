"""What stitching takes up: how much smaller a quilt comes out, whether a full border is eased by what is laid
on it, and where an open area rises among dense stitching.

Between two lines *a* inches apart the cloth lies over the batting as a flat parabola, as high as half its
loft. Its length is a (1 + 8 h² / 3 a²) for a height h, which for h = loft / 2 is 2 loft² / 3 a² more. Lines
run in all directions: half of it is taken from either.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import STRtree

from chorograph_core.chart.side_by_side import lying_beside
from chorograph_core.estimating import fullness
from chorograph_core.job import Job
from chorograph_core.measure import format_density, format_length
from chorograph_core.zones import Zone

MOST = 0.1
"""Share that stitching takes up at most: then the batting is flat."""
PLAIN_LOFT = 0.09
OPENER = 4.0
"""A zone so many times less dense than what lies round it rises."""
NARROW = 0.5
"""Inches across a place up to which the ditch round it holds it, since nobody sees what is in it."""
LEAST = 4.0
"""Square inches of a zone that is worth a word."""
TOUCHES = 0.5
"""Inches of edge that two zones share to lie beside each other."""
NAMED = 6
WORTH = 0.002
"""Share of fullness that nobody sees."""


@dataclass(frozen=True)
class Eased:
    """A side whose border is fuller than the body: the share it is *full*, what is stitched on it takes up
    (*taken*), the density on it now and the one that takes all of it."""

    side: str
    full: float
    taken: float
    density: float
    wanted: float


@dataclass(frozen=True)
class Rising:
    """A zone that rises: its id and name, its density, that of what lies round it."""

    zone: str
    name: str
    density: float
    around: float


@dataclass(frozen=True)
class TakeUp:
    """What is expected: shares of width and height, the size the quilt comes out at (inches), sides with
    fullness, zones that rise, and what is to be said."""

    width: float
    height: float
    size: tuple[float, float]
    eased: tuple[Eased, ...]
    rising: tuple[Rising, ...]
    said: tuple[str, ...]


def taken_up(density: float, loft: float) -> float:
    """The share of its length that cloth stitched at *density* (inches a square inch) over batting of *loft*
    inches loses in either direction.

    >>> round(taken_up(2.0, 0.125), 4)
    0.0208
    """
    return min(MOST, (loft * max(density, 0.0)) ** 2 / 3)


def density_for(share: float, loft: float) -> float:
    """The density that takes up *share*: the other way round."""
    return math.sqrt(3 * min(max(share, 0.0), MOST)) / max(loft, 1e-6)


def take_up_of(core: Job, densities: Mapping[str, float], units: str = "in") -> TakeUp:
    """What the stitching of *core*, of these *densities* by zone, takes up."""
    batting = core.intake.batting
    loft = batting.loft * batting.layers if batting else PLAIN_LOFT
    zones = list(core.zones)
    shares = np.array([taken_up(densities[zone.id], loft) for zone in zones])
    shapes = np.array([zone.polygon for zone in zones], dtype=object)
    x0, y0, x1, y1 = core.chart.outline.bounds
    width = _across(shapes, shares, (x0, y0, x1, y1), 0)
    height = _across(shapes, shares, (x0, y0, x1, y1), 1)
    size = ((x1 - x0) * (1 - width), (y1 - y0) * (1 - height))
    eased = _eased(core, zones, densities, loft)
    rising = _rising(core, zones, shapes, densities)
    said = [_size_said(core, size, units)] if shares.any() else []
    said += [_eased_said(each, units) for each in eased]
    outer, inner = _edge_and_middle(shapes, shares, core)
    pull = (outer - inner) * (x1 - x0)
    if abs(pull) > 0.25:
        word = "edge draws in" if pull > 0 else "middle draws in"
        other = "the middle: it will cup" if pull > 0 else "the edge: it will wave"
        said.append(f"The {word} {format_length(abs(pull), units, 8)} more than {other}.")
    if rising:
        count = f"{len(rising)} open zones rise" if len(rising) > 1 else "One open zone rises"
        said.append(f"{count} among stitching {OPENER:.0f} times as dense and more: "
                    "large ones bulge, and sag with time. Give them a few holding lines.")  # fmt: skip
    return TakeUp(width, height, size, eased, rising[:NAMED], tuple(said))


def _across(shapes: np.ndarray, shares: np.ndarray, bounds, axis: int) -> float:
    """The largest mean share along a strip across the quilt: a third of it at a time, since a quilt is as
    narrow as where it is drawn in most."""
    x0, y0, x1, y1 = bounds
    found = []
    for k in range(3):
        low, high = k / 3, (k + 1) / 3
        strip = (
            shapely.box(x0, y0 + (y1 - y0) * low, x1, y0 + (y1 - y0) * high) if axis == 0
            else shapely.box(x0 + (x1 - x0) * low, y0, x0 + (x1 - x0) * high, y1)
        )  # fmt: skip
        areas = shapely.area(shapely.intersection(shapes, strip))
        found.append(float((areas * shares).sum() / max(float(areas.sum()), 1e-9)))
    return max(found)


def _edge_and_middle(shapes: np.ndarray, shares: np.ndarray, core: Job) -> tuple[float, float]:
    outline = core.chart.outline
    x0, y0, x1, y1 = outline.bounds
    inner = outline.buffer(-min(x1 - x0, y1 - y0) / 6, join_style="mitre")
    middle = shapely.area(shapely.intersection(shapes, inner))
    edge = shapely.area(shapes) - middle
    return (float((edge * shares).sum() / max(float(edge.sum()), 1e-9)),
            float((middle * shares).sum() / max(float(middle.sum()), 1e-9)))  # fmt: skip


def _eased(
    core: Job, zones: Sequence[Zone], densities: Mapping[str, float], loft: float
) -> tuple[Eased, ...]:
    roles = {patch.id: patch.role for patch in core.chart.patches}
    found = []
    for each in fullness(core.intake.measures):
        if each.share <= WORTH:
            continue
        inches = area = 0.0
        for zone in zones:
            if not any(roles.get(patch) == "border" for patch in zone.patches):
                continue
            if side_of(core.chart.outline.bounds, zone) == each.side:
                inches += densities[zone.id] * zone.polygon.area
                area += zone.polygon.area
        density = inches / area if area else 0.0
        wanted = density_for(each.share, loft)
        found.append(Eased(each.side, each.share, taken_up(density, loft), density, wanted))
    return tuple(found)


def side_of(bounds: tuple[float, float, float, float], zone: Zone) -> str:
    """The side of a top of these *bounds* that a zone lies nearest to."""
    x0, y0, x1, y1 = bounds
    spot = zone.polygon.centroid
    away = {"top": spot.y - y0, "bottom": y1 - spot.y, "left": spot.x - x0, "right": x1 - spot.x}
    return min(away, key=lambda side: away[side])


def is_held(zone: Zone) -> bool:
    """Whether a zone is that narrow that the ditch round it holds it, whatever is in it.

    >>> [is_held(Zone("z", shapely.box(0, 0, *size))) for size in ((40, 0.5), (40, 0.75), (1, 1))]
    [True, False, False]
    """
    shape = zone.polygon
    # A circle in it is no wider than that; round shapes and squares are looked at more closely.
    if 2 * shape.area / shape.length > NARROW:
        return False
    return (
        2 * float(shapely.maximum_inscribed_circle(shape, tolerance=0.01).length) <= NARROW + 0.01
    )


def _rising(
    core: Job, zones: Sequence[Zone], shapes: np.ndarray, densities: Mapping[str, float]
) -> tuple[Rising, ...]:
    tree = STRtree(shapes)
    found = []
    for k, zone in enumerate(zones):
        own = densities[zone.id]
        if zone.polygon.area < LEAST or zone.id in core.untouchable or is_held(zone):
            continue
        beside = [
            (j, inches)
            for j, inches in zip(*lying_beside(zone.polygon, tree), strict=True)
            if j != k and inches > TOUCHES
        ]
        whole = sum(inches for _, inches in beside)
        if not whole:
            continue
        around = sum(densities[zones[j].id] * inches for j, inches in beside) / whole
        if around > 0.5 and around > OPENER * own:
            found.append((zone.polygon.area, Rising(zone.id, zone.label or zone.id, own, around)))
    return tuple(one for _, one in sorted(found, key=lambda each: -each[0]))


def _size_said(core: Job, size: tuple[float, float], units: str) -> str:
    was = " × ".join(format_length(side, units, 4) for side in core.size)
    now = " × ".join(format_length(side, units, 4) for side in size)
    return f"Expect {now} after quilting, of {was} now."


def _eased_said(each: Eased, units: str) -> str:
    side = f"The {each.side} border is {each.full:.1%} full"
    if each.taken >= each.full - WORTH:
        return f"{side}; what is stitched on it takes up {each.taken:.1%}: the fullness goes."
    now = format_density(each.density, units)
    if each.full > MOST:
        return f"{side}: no stitching takes that up; talk with the client."
    wanted = format_density(each.wanted, units)
    return (f"{side}; what is stitched on it takes up {each.taken:.1%} ({now}): "
            f"{wanted} would take all of it, or a tuck the rest.")  # fmt: skip
