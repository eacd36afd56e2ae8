"""Shapes and tops that tests share: regular ones and ugly ones."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import MultiPoint, Point, Polygon, box

from chorograph_core.chart import Chart, Fabric, Patch
from chorograph_core.designs import designs
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.zones import zones_from_patches

UGLY = {
    "strip": box(0, 0, 12, 1.5),
    "square": box(0, 0, 6, 6),
    "triangle": Polygon([(0, 0), (6, 0), (0, 6)]),
    "mitred": Polygon([(0, 0), (30, 0), (25, 5), (5, 5)]),
    "bent": Polygon([(0, 0), (14, 0), (14, 10), (11, 10), (11, 3), (0, 3)]),
    "curved": Point(0, 0).buffer(8).difference(Point(0, 0).buffer(5)).intersection(box(0, 0, 9, 9)),
    "holed": box(0, 0, 10, 10).difference(Point(5, 5).buffer(2)),
    "tiny": box(0, 0, 0.5, 0.4),
    "sliver": Polygon([(0, 0), (20, 0.3), (0, 0.6)]),
    "hourglass": Polygon([(0, 0), (6, 0), (3.1, 3), (6, 6), (0, 6), (2.9, 3)]),
    "star": Polygon(
        [
            (5 + r * np.cos(a), 5 + r * np.sin(a))
            for a, r in zip(np.linspace(0, 2 * np.pi, 11)[:-1], [5, 2] * 5, strict=True)
        ]
    ),
}


def small_top(
    rows: int = 2, columns: int = 2, blocks=("sawtooth_star", "nine_patch")
) -> StraightSet:
    """A small sashed top with a mitred border."""
    return StraightSet(rows, columns, 9, blocks, 1.5, False, True, (Border(3, "mitred"),))


def designed(survey: StraightSet, edge_finish: str = "binding") -> Job:
    """A job on *survey* in which every zone has a design and a ditch, in two threads."""
    from dataclasses import replace

    from chorograph_core.route import Policy

    chart = survey.chart()
    zones = tuple(zones_from_patches(chart))
    ditch = Layer("ditch", {}, "clear", 10)
    plans = {
        "crosshatch": lambda p: p.fabric == "b" and p.block,
        "inset_echo": lambda p: p.fabric == "c" and p.block,
        "meander": lambda p: p.fabric == "a" and p.kind != "nine_patch",
        "loops": lambda p: p.fabric == "a",
        "ribbon_candy": lambda p: p.role == "sashing",
        "parallel": lambda p: p.role == "cornerstone",
        "half_feather": lambda p: p.role == "border",
    }
    taken: set[str] = set()
    legend = []
    for key, wanted in plans.items():
        ids = [z.id for z in zones if z.id not in taken and wanted(chart.patch(z.patches[0]))]
        taken.update(ids)
        thread = "bracken" if key in ("ribbon_candy", "half_feather") else "indigo"
        if ids:
            layer = Layer(key, {}, thread, version=designs()[key].version)
            legend.append(Entry(key, key, tuple(ids), (ditch, layer)))
    job = Job("A small top", chart, zones, survey=survey, legend=tuple(legend))
    return replace(job, policy=Policy(edge_finish=edge_finish, effort=0))


def free_chart() -> Chart:
    """Patches no layout makes: a bent one, a holed one with its filling, a tiny one."""
    hole = Point(14, 6).buffer(2.5, quad_segs=6)
    return Chart(
        box(0, 0, 20, 12),
        (
            Patch("bent", Polygon([(0, 0), (8, 0), (8, 3), (3, 3), (3, 12), (0, 12)])),
            Patch("rest", Polygon([(8, 3), (8, 12), (3, 12), (3, 3)])),
            Patch("ground", box(8, 0, 20, 12).difference(hole)),
            Patch("disc", hole),
        ),
    )


def irregular_top(count: int = 40, size: tuple[float, float] = (48.0, 56.0), seed: int = 7):
    """A top that follows no rule: *count* cells round relaxed points, neighbours of other colours."""
    rng = np.random.default_rng(seed)
    frame = box(0, 0, *size)
    points = rng.uniform((2, 2), (size[0] - 2, size[1] - 2), (count, 2))
    for _ in range(3):
        cells = [cell.intersection(frame) for cell in
                 shapely.voronoi_polygons(MultiPoint(points), extend_to=frame).geoms]  # fmt: skip
        points = np.array([cell.centroid.coords[0] for cell in cells])
    colours = (
        "#33506b",
        "#b04a3a",
        "#e3c878",
        "#5d7f56",
        "#d8d0c0",
        "#7a5b86",
        "#c98b3a",
        "#2f2f38",
    )
    given: list[int] = []
    for k, cell in enumerate(cells):
        near = {given[j] for j in range(k) if cells[j].distance(cell) < 1e-6}
        given.append(next(c for c in range(len(colours)) if c not in near))
    fabrics = tuple(Fabric(f"f{k}", f"fabric {k + 1}", colour) for k, colour in enumerate(colours))
    patches = tuple(Patch(f"p{k}", cell, fabric=f"f{c}") for k, (cell, c) in
                    enumerate(zip(cells, given, strict=True)))  # fmt: skip
    return Chart(frame, patches, fabrics=fabrics)
