"""Balance: how evenly a whole quilt is stitched, by halves, rings, blocks and zones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.reckon import evenness

RINGS = 3
HALVES = 1.35
"""Densities of two halves so many times apart are worth a word."""
CUPS, WAVES = 1.6, 0.6
"""The outer ring against the middle: above the first edges pull in, below the second they wave."""
OUT = 2.5
"""A zone so many times denser than the mean of the quilt, or so many times less, is an outlier."""
MOST = 6
WIDEST = 4.0
"""Inches between lines that most battings forgive, as long as none is chosen."""


@dataclass(frozen=True)
class Part:
    """A part of the quilt: what it is called, and inches stitched a square inch in it."""

    name: str
    density: float


@dataclass(frozen=True)
class Outlier:
    """A zone unlike the rest: its id, what it is called, its density and how many times the mean that is."""

    zone: str
    name: str
    density: float
    times: float


@dataclass(frozen=True)
class Balance:
    """The *mean* of the quilt, its *parts*, the density of each zone by id, zones unlike the rest, zones
    that leave more open than the batting allows (id, name, inches), and what is to be said of it all."""

    mean: float
    parts: tuple[Part, ...]
    zones: dict[str, float]
    outliers: tuple[Outlier, ...]
    open: tuple[tuple[str, str, float], ...]
    said: tuple[str, ...]


def balance_of(core: Job, drawn: Sequence[LayerLinework], units: str = "in") -> Balance:
    """How evenly *drawn* lies over the quilt. Ditches are not counted: they hold, and do not fill."""
    even = evenness(core.zones, drawn)
    shapes = np.array([zone.polygon for zone in core.zones], dtype=object)
    density = np.array([even[zone.id].density for zone in core.zones])
    areas = shapely.area(shapes)
    mean = float((density * areas).sum() / max(areas.sum(), 1e-9))
    parts = _parts(core.chart.outline, shapes, density)
    outliers = _outliers(core, density, areas, mean)
    batting = core.intake.batting
    most = batting.gap if batting else WIDEST
    wide = [(zone.id, zone.label or zone.id, even[zone.id].gap) for zone in core.zones
            if zone.id not in core.untouchable and even[zone.id].gap > most]  # fmt: skip
    wide.sort(key=lambda each: -each[2])
    said = _said({part.name: part.density for part in parts}, mean, wide, most, units)
    named = {zone.id: float(value) for zone, value in zip(core.zones, density, strict=True)}
    return Balance(mean, parts, named, outliers, tuple(wide[:MOST]), said)


def _parts(outline: Polygon, shapes: np.ndarray, density: np.ndarray) -> tuple[Part, ...]:
    x0, y0, x1, y1 = outline.bounds
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    named: list[tuple[str, BaseGeometry]] = [
        ("left half", box(x0, y0, x, y1)), ("right half", box(x, y0, x1, y1)),
        ("upper half", box(x0, y0, x1, y)), ("lower half", box(x0, y, x1, y1)),
    ]  # fmt: skip
    step = min(x1 - x0, y1 - y0) / (2 * RINGS)
    rings = [outline, *(outline.buffer(-step * k, join_style="mitre") for k in range(1, RINGS))]
    for k, name in enumerate(("outer ring", "ring between", "middle")):
        inner = rings[k + 1] if k + 1 < RINGS else Polygon()
        named.append((name, rings[k].difference(inner)))
    return tuple(Part(name, _density_in(shape, shapes, density)) for name, shape in named)


def _density_in(shape: BaseGeometry, shapes: np.ndarray, density: np.ndarray) -> float:
    """What lies in *shape*: a zone that reaches into it counts by the share of it that does."""
    areas = shapely.area(shapely.intersection(shapes, shape))
    return float((density * areas).sum() / max(float(areas.sum()), 1e-9))


def _outliers(
    core: Job, density: np.ndarray, areas: np.ndarray, mean: float
) -> tuple[Outlier, ...]:
    if mean <= 0:
        return ()
    found = []
    for zone, value, area in zip(core.zones, density.tolist(), areas.tolist(), strict=True):
        if zone.id in core.untouchable or area < 1.0:
            continue
        times = value / mean
        if times > OUT or times < 1 / OUT:
            found.append(Outlier(zone.id, zone.label or zone.id, value, times))
    # The largest first: a small one hardly pulls.
    size = dict(zip([zone.id for zone in core.zones], areas.tolist(), strict=True))
    found.sort(key=lambda each: -size[each.zone] * abs(np.log(max(each.times, 0.02))))
    return tuple(found[:MOST])


def _said(part: dict[str, float], mean: float, wide, most: float, units: str) -> tuple[str, ...]:
    said = []
    for one, two in (("left half", "right half"), ("upper half", "lower half")):
        dense, thin = (one, two) if part[one] >= part[two] else (two, one)
        if part[thin] > 0 and part[dense] / part[thin] > HALVES:
            times = part[dense] / part[thin]
            words = f"The {dense} is stitched {times:.1f} times as densely as the {thin}"
            said.append(f"{words}: it is drawn in more, and the quilt will not lie square.")
    if part["middle"] > 0:
        times = part["outer ring"] / part["middle"]
        if times > CUPS:
            words = f"The edge is {times:.1f} times as dense as the middle"
            said.append(f"{words}: edges pull in and the middle bulges.")
        elif times < WAVES:
            words = f"The middle is {1 / max(times, 0.01):.1f} times as dense as the edge"
            said.append(f"{words}: the edge will wave.")
    if wide:
        zones = f"{len(wide)} zones leave" if len(wide) > 1 else "One zone leaves"
        said.append(f"{zones} more than {format_length(most, units)} open.")
    if not said and mean > 0:
        said.append("Even: no half, ring or zone pulls against the others.")
    return tuple(said)
