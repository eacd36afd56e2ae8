"""Secondary figures: shapes that only appear where blocks meet, offered as ready zones."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from chorograph_core.chart import Chart, alike
from chorograph_core.zones.divide import join, touching
from chorograph_core.zones.model import Zone

MOST_BLOCKS = 4
"""Blocks that meet at one corner; what spans more is a ground."""
MOST_PATCHES = 16
"""A figure of more patches than this is a ground, not a figure."""


@dataclass(frozen=True)
class Figures:
    """Alike figures between blocks: each one's zone ids, what they are called, square inches."""

    members: tuple[tuple[str, ...], ...]
    label: str
    area: float


def secondary_figures(chart: Chart, zones: Sequence[Zone]) -> list[Figures]:
    """Groups of zones of one fabric that touch across block borders, alike groups together.

    Only whole patches in blocks count. The most numerous come first.
    """
    by_fabric: dict[str, list[Zone]] = defaultdict(list)
    for zone in zones:
        if zone.kind == "patch" and len(zone.patches) == 1:
            patch = chart.patch(zone.patches[0])
            if patch.block is not None:
                by_fabric[patch.fabric].append(zone)
    found: list[tuple[str, list[Zone], Zone]] = []
    for fabric, members in by_fabric.items():
        for group in touching([zone.polygon for zone in members]):
            if not 2 <= len(group) <= MOST_PATCHES:
                continue
            parts = [members[k] for k in group]
            if not 2 <= len({chart.patch(z.patches[0]).block for z in parts}) <= MOST_BLOCKS:
                continue
            found.append((fabric, parts, join(parts, "figure")))
    classes = alike([whole.polygon for _, _, whole in found]).classes
    groups: dict[tuple[str, int], list[int]] = defaultdict(list)
    for k, ((fabric, _, _), number) in enumerate(zip(found, classes, strict=True)):
        groups[fabric, number].append(k)
    made = []
    for (fabric, _), numbers in groups.items():
        whole = found[numbers[0]][2]
        name = chart.fabric(fabric).name
        made.append(
            Figures(
                tuple(tuple(zone.id for zone in found[k][1]) for k in numbers),
                f"{name}, {len(found[numbers[0]][1])} patches each", whole.polygon.area,
            )
        )  # fmt: skip
    return sorted(made, key=lambda each: (-len(each.members), -each.area))
