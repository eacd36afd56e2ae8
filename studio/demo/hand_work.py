"""A hanging of freehand work alone: lanterns with feathers fanned behind them, a motif for every sash.
What is fine goes to a sit-down machine."""

from __future__ import annotations

from dataclasses import replace

from chorograph_core.chart import Fabric
from chorograph_core.chart.applique import lay
from chorograph_core.chart.shapes import STAMPS, placed
from chorograph_core.designs.legend import Entry
from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route.handing_over import Handover
from chorograph_core.zones import Zone, zones_from_patches
from studio.demo.tops import _CLEAR, _core, _layer

BLOCK, SASH, BORDER = 15.0, 2.5, 5.0
LANTERN = 6.0
LIT = ((0, 0), (0, 2), (2, 0), (2, 2))
"""The blocks, by row and column, on which a lantern is sewn."""
FINE = ("Behind the lanterns", "Lanterns")
SIT_DOWN = Machine("sit-down machine", "sit-down", throat=18, backing_allowance=2, bobbin_yards=35)
"""The other machine of the studio, as it stands on the shelf."""


def lanterns() -> CoreJob:
    """Nine plain squares, sashed; lanterns on the four corners; a border of swings all round."""
    survey = StraightSet(3, 3, BLOCK, ("plain",), SASH, False, True, (Border(BORDER, "mitred"),))
    core = _core("Fen Lanterns", "Sunniva O.", 33, survey)
    chart = core.chart
    for row, column in LIT:
        shape = placed([STAMPS["berry"].shape(LANTERN)], *_middle(row, column))
        chart = lay(chart, shape, Fabric("lantern", "lantern", "#c98b3a", 0.15), "lantern")
    core = replace(core, chart=chart, zones=tuple(zones_from_patches(chart)))
    # Spines and middles are drawn with a pen that fades within hours.
    core = replace(core, policy=replace(core.policy, pen="fading"))
    core = core.with_legend(tuple(_legend(core)))
    fine = [zone for entry in core.legend for zone in entry.zones if entry.name in FINE]
    return replace(core, handover=Handover(SIT_DOWN, tuple(fine), "Imke"))


def _middle(row: int, column: int) -> tuple[float, float]:
    step = BLOCK + SASH
    return (BORDER + BLOCK / 2 + column * step, BORDER + BLOCK / 2 + row * step)


def _legend(core: CoreJob) -> list[Entry]:
    kinds: dict[str, list[Zone]] = {}
    for zone in core.zones:
        kinds.setdefault(core.chart.patch(zone.patches[0]).role, []).append(zone)
    squares = [zone for zone in kinds["background"] if zone.polygon.area > 60]
    behind = [zone for zone in squares if zone.polygon.interiors]
    plain = [zone for zone in squares if not zone.polygon.interiors]
    x, y = _middle(1, 1)
    centre = min(
        plain, key=lambda zone: abs(zone.polygon.centroid.x - x) + abs(zone.polygon.centroid.y - y)
    )
    rest = [zone for zone in plain if zone is not centre]
    upright = [zone for zone in rest if abs(zone.polygon.centroid.x - x) < 1]
    level = [zone for zone in rest if zone not in upright]
    entries = [
        ("Behind the lanterns", behind,
         _layer("fanned_feathers", "indigo", 12, count=8, pitch=0.625, margin=0.1875)),
        ("Lanterns", kinds["applique"], _layer("wavy_rows", "bracken", way="round", gap=0.625, height=0.1875,
                                               period=2.0)),
        ("Middle", [centre], _layer("wreath", "indigo", 12, pitch=0.875, margin=0.5, count=28, inside=16,
                                      plumes="stacked"),
         _layer("pebbles", "indigo", 12, size=0.5)),
        ("Marsh wind", upright, _layer("breeze", "indigo", gap=0.375, figure="both", bundle=6.0)),
        ("Water", level, _layer("wavy_rows", "bracken", band="pebbles", rows=3, wide=0.625)),
        ("Cornerstones", kinds["cornerstone"], _layer("flower", "bracken", 12, petals=6)),
        ("Border", kinds["border"],
         replace(_layer("u_swing", "bracken", lenses="middle", pitch=0.45), over="region")),
    ]  # fmt: skip
    made = [
        Entry(f"e{number}", name, tuple(zone.id for zone in zones), (_CLEAR, *layers))
        for number, (name, zones, *layers) in enumerate(entries, 1)
    ]
    sashes = sorted(
        kinds["sashing"],
        key=lambda zone: (round(zone.polygon.centroid.y), round(zone.polygon.centroid.x)),
    )
    motifs = ("wishbone", "ribbon_candy", "figure_eights", "cursive_loops", "own_strip", "rope")
    names = ("Wishbone", "Ribbon candy", "Figure-eights", "Cursive loops", "Own vine", "Rope")
    for turn, (key, name) in enumerate(zip(motifs, names, strict=True)):
        ids = tuple(zone.id for zone in sashes[turn :: len(motifs)])
        made.append(
            Entry(f"s{turn + 1}", f"Sashes, {name.lower()}", ids, (_CLEAR, _layer(key, "indigo")))
        )
    return made
