"""Thirty tops and more of all layouts and of none, for measuring routes on."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np
from scipy.spatial import Voronoi
from shapely.geometry import Polygon, box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job
from chorograph_core.layouts import (
    BlockRow,
    BlockRows,
    Border,
    Medallion,
    OffsetRows,
    OnPoint,
    OpenField,
    Placed,
    StraightSet,
    Strip,
    Strips,
)
from chorograph_core.layouts.base import Layout
from chorograph_core.zones import zones_from_patches
from studio.demo import tops as demo

CLOSED, OPEN = ("meander", "loops", "inset_echo"), ("crosshatch", "parallel", "ribbon_candy")
BLOCKS = ("sawtooth_star", "nine_patch", "churn_dash", "pinwheel")


def tops() -> Iterator[tuple[str, Job]]:
    """Names and jobs: frame and sit-down, one to five threads, closed and open fills by turns."""
    number = 0
    for name, make in _charts():
        for kind in ("frame", "sit-down") if number % 3 else ("frame",):
            number += 1
            threads = 1 + number % 5
            fills = (CLOSED, OPEN, CLOSED + OPEN)[number % 3]
            yield f"{name}, {kind}, {threads} threads", _job(name, make(), kind, threads, fills)
    yield "demo sampler, frame", demo.sampler()
    yield "demo windmills, frame", demo.pinwheels()


def _charts() -> Iterator[tuple[str, Callable[[], Chart]]]:
    surveys: list[tuple[str, Layout]] = [
        ("two blocks", StraightSet(1, 2, 8, BLOCKS[:1], 1)),
        ("straight", StraightSet(3, 3, 9, BLOCKS[:2])),
        ("straight, sashed", StraightSet(3, 4, 8, BLOCKS, 1.25, False, True, (Border(4, "mitred"),))),
        ("straight, one block", StraightSet(5, 4, 10, ("nine_patch",), 1.5, True, True)),
        ("straight, large", StraightSet(6, 6, 8, BLOCKS[:2], 1.25, False, True, (Border(4),))),
        ("on point", OnPoint(3, 3, 8, BLOCKS[:2], "plain")),
        ("on point, sashed", OnPoint(3, 3, 9, BLOCKS[:2], "plain", 1.25, True, 0.75, (Border(3),))),
        ("offset rows", OffsetRows(4, 4, 8, BLOCKS[:2], 1, (Border(2),))),
        ("block rows", BlockRows(32, (BlockRow(8, "pinwheel"), BlockRow(8, "nine_patch")))),
        ("strips", Strips(50, tuple(Strip(w, "abc"[k % 3]) for k, w in enumerate((4, 6, 3, 8, 4))))),
        ("medallion", Medallion(14, "sawtooth_star", (Border(3), Border(4)), (Border(3, "mitred"),))),
        ("open field", OpenField(40, 50, (Placed(24, 30, 10, "pinwheel"), Placed(6, 8, 8, "nine_patch")))),
    ]  # fmt: skip
    for name, survey in surveys:
        yield name, survey.chart
    yield "cells without order", lambda: _cells(60, 44, 52, 1)
    yield "bands bent", lambda: _bent(9, 40, 44)
    yield "many small squares", lambda: _squares(14, 14, 2.5)
    yield "sampler of nine", StraightSet(3, 3, 12, demo._STARS, 2, False, True, (Border(5),)).chart
    yield "tall and narrow", StraightSet(8, 1, 9, BLOCKS, 1).chart
    yield "cells, many", lambda: _cells(160, 60, 70, 2)
    yield "wide and low", StraightSet(1, 7, 12, BLOCKS, 1).chart


def _cells(count: int, width: float, height: float, seed: int) -> Chart:
    """Irregular cells, all of one fabric: no blocks, no strips."""
    rng = np.random.default_rng(seed)
    spots = rng.random((count, 2)) * (width, height)
    mirrored = [spots * s + o for s, o in (((-1, 1), (0, 0)), ((1, -1), (0, 0)), ((-1, 1), (2 * width, 0)),
                                           ((1, -1), (0, 2 * height)))]  # fmt: skip
    cells = Voronoi(np.concatenate([spots, *mirrored]))
    whole = box(0, 0, width, height)
    patches = []
    for k in range(count):
        ring = cells.vertices[cells.regions[cells.point_region[k]]].round(4)
        patches.append(Patch(f"c{k}", Polygon(ring).intersection(whole), "field", "abc"[k % 3]))
    return Chart(whole, tuple(patches))


def _bent(count: int, width: float, height: float) -> Chart:
    """Bands with bent edges across a top."""
    xs = np.linspace(0, width, 13)
    levels = [
        np.full(13, height * k / count) + (0 < k < count) * 0.8 * np.sin(xs / 5 + k)
        for k in range(count + 1)
    ]
    patches = tuple(
        Patch(f"b{k}", Polygon([*zip(xs, levels[k], strict=True),
                                *zip(xs[::-1], levels[k + 1][::-1], strict=True)]), "field", "abc"[k % 3])
        for k in range(count)
    )  # fmt: skip
    return Chart(box(0, 0, width, height), patches)


def _squares(rows: int, columns: int, side: float) -> Chart:
    patches = []
    for r in range(rows):
        for c in range(columns):
            square = box(c * side, r * side, (c + 1) * side, (r + 1) * side)
            patches.append(Patch(f"s{r}.{c}", square, "field", "abc"[(r * 2 + c) % 3]))
    return Chart(box(0, 0, columns * side, rows * side), tuple(patches))


def _job(name: str, chart: Chart, kind: str, threads: int, fills: tuple[str, ...]) -> Job:
    """A job in which alike patches have one design; what is in the ditch has the first thread."""
    zones = tuple(zones_from_patches(chart))
    names = ("clear", "indigo", "bracken", "moss", "slate")[:threads]
    groups: dict[tuple[str, str], list[str]] = {}
    for zone in zones:
        patch = chart.patch(zone.patches[0])
        groups.setdefault((patch.role, patch.fabric), []).append(zone.id)
    rng = random.Random(name)
    legend = []
    for number, (key, ids) in enumerate(sorted(groups.items())):
        design = fills[(number + rng.randrange(len(fills))) % len(fills)]
        thread = names[(number + 1) % len(names)]
        legend.append(Entry(f"e{number}", " ".join(key), tuple(ids),
                            (Layer("ditch", {}, names[0], 10), Layer(design, {}, thread))))  # fmt: skip
    job = Job(name, chart, zones, legend=tuple(legend))
    return replace(job, machine=replace(job.machine, kind=kind))
