"""Intakes of the demo studio's jobs: a rippled border, an appliqué ban, a backing too narrow."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from shapely import affinity
from shapely.geometry import Polygon

from chorograph_core.chart import Chart, Fabric, Patch
from chorograph_core.estimating import Backing, Batting, Condition, Intake, Measures, Wishes
from chorograph_core.job import Job as CoreJob
from chorograph_core.reckon import Machine


def sampler_intake(core: CoreJob, today: str, batting: Batting) -> CoreJob:
    """Borders fuller than the body: one to ease, one that wants a tuck."""
    intake = Intake(
        today, "12 Weir Cottages, Tarn Hollow; rings in the evening",
        Measures(
            (65.375, 65.75, 65.5), (79.0, 79.125, 79.125), (102.75, 102.5),
            (68.375, 80.25, 69.5, 80.0), (65.5, 79.0, 65.5, 79.0),
        ),
        (
            Condition("loose_threads", True, "dark ones behind the light squares"),
            Condition("open_seams", True, "third row, left of the snowball, 1 inch"),
        ),
        Backing("client", 76.0, 90.0, 42.0, "grey leaf print, one seam down"),
        batting,
        Wishes("soft curves against straight lines", "full", "raffle in spring", "",
               repair_hours=0.5, note="The guild wants the borders flat. Anything goes but hearts."),
    )  # fmt: skip
    return replace(core, intake=intake)


def throw_intake(core: CoreJob, today: str, batting: Batting, machine: Machine) -> CoreJob:
    """The client does not want her appliqué stitched; only its outline."""
    intake = Intake(
        today, "by letter only",
        Measures((44.25, 44.0, 44.0), (50.0, 50.0, 50.125), (66.75, 66.5)),
        (Condition("fragile", True, "leaves cut from an old dress"),
         Condition("bleeding", True, "the green ran in the basin")),
        Backing("studio", None, None, 42.0, "plain oat"),
        batting,
        Wishes("open, airy", "light", "wedding in January", "300",
               note="Please do not sew on the leaves. Outline them if you must."),
    )  # fmt: skip
    policy = replace(core.policy, applique="outline")
    return replace(core, intake=intake, policy=policy, machine=machine)


def nursery_intake(core: CoreJob, today: str, batting: Batting) -> CoreJob:
    """The backing brought along is too narrow."""
    intake = Intake(
        today, "",
        Measures((53.0, 53.25, 53.0), (53.0, 53.0, 53.0), (75.125, 75.0)),
        (Condition("unpressed", True), Condition("marks", True, "blue pen along the sashing")),
        Backing("client", 54.0, 64.0, 42.0, "ducks on white, no more to be had"),
        batting,
        Wishes("simple, soft", "", "a birth in February"),
    )  # fmt: skip
    return replace(core, intake=intake)


def with_leaves(chart: Chart) -> Chart:
    """Two leaves sewn onto every other plain square."""
    t = np.linspace(-1, 1, 13)
    bow = 1 - t * t
    leaf = Polygon([*zip(t * 1.9, bow * 0.7, strict=True),
                    *zip(-t[1:-1] * 1.9, -bow[1:-1] * 0.7, strict=True)])  # fmt: skip
    patches: list[Patch] = []
    for patch in chart.patches:
        row, column = patch.block or (0, 0)
        if patch.kind != "plain" or (row + column // 2) % 2:
            patches.append(patch)
            continue
        middle = patch.polygon.centroid
        ground, leaves = patch.polygon, []
        for number, (angle, dx, dy) in enumerate(((-38, -0.68, -0.86), (-30, 0.68, 0.86))):
            shape = affinity.translate(affinity.rotate(leaf, angle, origin=(0, 0)),
                                       middle.x + dx, middle.y + dy)  # fmt: skip
            leaves.append(Patch(f"{patch.id}.leaf{number}", shape, "applique", "leaf", patch.block,
                                f"leaf{number}", "plain"))  # fmt: skip
            ground = ground.difference(shape)
        patches += [replace(patch, polygon=ground), *leaves]
    fabrics = (*chart.fabrics, Fabric("leaf", "old dress, green", "#6f8a5a", 0.2))
    return Chart(chart.outline, tuple(patches), fabrics)
