"""Securing: the edges basted within the binding allowance, pass by pass, before anything else is stitched."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence

import numpy as np
import shapely
from shapely.geometry import box

from chorograph_core.chart import Chart
from chorograph_core.reckon import Machine
from chorograph_core.route.model import Policy
from chorograph_core.route.passes import Pass

INSET = 0.125
"""Inches from the raw edge: half of what an ordinary binding covers."""
SPI = 7.0
"""Stitches an inch that hold and are easily taken out."""


def secures(machine: Machine, policy: Policy) -> bool:
    """Whether the edges are basted on this machine: a quilt that is not on a frame comes basted."""
    return machine.kind == "frame" and policy.edges == "baste"


def edge_lines(chart: Chart, passes: Sequence[Pass]) -> dict[int, list[np.ndarray]]:
    """For each pass by number the lines (n, 2) along the edge that are basted when it is reached."""
    inner = chart.outline.buffer(-INSET, join_style="mitre")
    if inner.is_empty:
        return {}
    ring = shapely.union_all(shapely.boundary(shapely.get_parts(inner)))
    left, top, right, bottom = chart.outline.bounds
    # From the middle of one overlap to the middle of the next.
    levels = [top, *((two.top + one.bottom) / 2 for one, two in itertools.pairwise(passes)), bottom]
    found: dict[int, list[np.ndarray]] = {}
    for each, (low, high) in zip(passes, itertools.pairwise(levels), strict=True):
        part = shapely.intersection(ring, box(left - 1, low, right + 1, high))
        merged = part if part.geom_type == "LineString" else shapely.line_merge(part)
        lines = [shapely.get_coordinates(line) for line in shapely.get_parts(merged)]
        found[each.number] = sorted(
            (line for line in lines if len(line) > 1), key=lambda line: float(line[:, 0].min())
        )
    return found


Tucks = Mapping[str, int]
"""How many tucks each side takes: ``"top"``, ``"right"``, ``"bottom"``, ``"left"``."""


def tuck_spots(
    chart: Chart, passes: Sequence[Pass], tucks: Tucks
) -> dict[int, list[tuple[str, np.ndarray]]]:
    """For each pass by number the tucks laid when it is first reached, as (name, where (1, 2)): spread evenly
    along their side, each in the pass that reaches furthest round it."""
    left, top, right, bottom = chart.outline.bounds
    found: dict[int, list[tuple[str, np.ndarray]]] = {}
    for side, count in tucks.items():
        for k in range(count):
            share = (k + 0.5) / count
            x, y = left + share * (right - left), top + share * (bottom - top)
            spot = {"top": (x, top), "bottom": (x, bottom), "left": (left, y), "right": (right, y)}[
                side
            ]
            there = [each for each in passes if each.holds(spot[1], spot[1])]
            home = min(
                there, key=lambda one: (abs((one.top + one.bottom) / 2 - spot[1]), one.number)
            )
            found.setdefault(home.number, []).append((f"tuck:{side}.{k + 1}", np.array([spot])))
    return found
