"""The demo studio: an invented scenario with three jobs in different stages."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import replace

from chorograph_core.chart import Chart, Fabric, Patch
from chorograph_core.chart.applique import lay
from chorograph_core.chart.shapes import STAMPS, placed
from chorograph_core.designs import designs
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import (
    PALETTE,
    Border,
    Layout,
    OffsetRows,
    OnPoint,
    OpenField,
    Placed,
    StraightSet,
)
from chorograph_core.zones import run_behind, zones_from_patches
from studio.demo.intakes import with_leaves

PASSWORD = "linen-and-thread"
STUDIO = "The Lantern Loft"
ADDRESS = "Ropewalk 3\nTarn Hollow"
PEOPLE = [("rosalind", "Rosalind", "owner"), ("imke", "Imke", "quilter")]

_CLEAR = Layer("ditch", {}, "clear", 10)
_STARS = ("sawtooth_star", "quarter_star", "pinwheel")


def _layer(key: str, thread: str, spi: float = 11, **settings) -> Layer:
    return Layer(key, settings, thread, spi, version=designs()[key].version)


def _sampler_rules() -> list[tuple[str, Callable[[Patch], bool], tuple[Layer, ...]]]:
    """What the sampler's legend says: name, which patches, which layers; the first that fits."""
    return [
        ("Block centres",
         lambda p: (p.fabric == "b" and p.kind in ("sawtooth_star", "square_in_square"))
         or (p.kind == "quarter_star" and p.cell.endswith("r1c1.0")),
         (_CLEAR, _layer("crosshatch", "indigo", spacing=0.75))),
        ("Snowballs", lambda p: p.kind == "snowball" and p.fabric == "a",
         (_CLEAR, _layer("wreath", "indigo", 12, pitch=1.0, margin=0.375, count=24, inside=14),
          _layer("swirls", "indigo", 12, size=1.25, gap=0.25))),
        ("Points", lambda p: p.fabric == "c" or p.kind == "snowball",
         (_CLEAR, _layer("inset_echo", "indigo", first=0.25))),
        ("Grounds", lambda p: p.fabric == "a" and p.kind in (*_STARS, "square_in_square"),
         (_CLEAR, _layer("swirls", "indigo", 12, size=1.5, gap=0.3125))),
        ("Dark squares", lambda p: p.fabric == "b" and p.kind == "nine_patch",
         (_CLEAR, _layer("flower", "indigo", 12, petals=8, centre=0.26, margin=0.25))),
        ("Light squares", lambda p: p.fabric == "a" and p.kind == "nine_patch",
         (_CLEAR, _layer("parallel", "indigo", spacing=0.5, angle=45))),
        ("Dash bars", lambda p: p.fabric == "b" and p.kind == "churn_dash",
         (_CLEAR, _layer("parallel", "indigo", spacing=0.375))),
        ("Path and dash grounds", lambda p: p.fabric == "a" and p.block is not None,
         (_CLEAR, _layer("meander", "indigo", 12, gap=0.5))),
        ("Path and wheel pieces", lambda p: p.fabric == "b" and p.block is not None,
         (_CLEAR, _layer("inset_echo", "indigo", first=0.25, spacing=0.5, count=2))),
        ("Sashing", lambda p: p.role == "sashing",
         (_CLEAR, _layer("ribbon_candy", "bracken"))),
        ("Cornerstones", lambda p: p.role == "cornerstone",
         (_CLEAR, _layer("crosshatch", "bracken", spacing=0.5))),
        ("Narrow border", lambda p: p.cell.startswith("border1"),
         (_CLEAR, _layer("parallel", "bracken", spacing=0.5))),
        ("Feather border", lambda p: p.cell.startswith("border2"),
         (_CLEAR, _layer("feather", "bracken", 12, pitch=1.0, swings=4, sway=0.4, channel=0.25))),
    ]  # fmt: skip


def _assigned(core: CoreJob, rules) -> CoreJob:
    groups: dict[str, list[str]] = {name: [] for name, _, _ in rules}
    for zone in core.zones:
        patch = core.chart.patch(zone.patches[0])
        for name, fits, _ in rules:
            if fits(patch):
                groups[name].append(zone.id)
                break
    legend = tuple(
        Entry(f"e{k}", name, tuple(groups[name]), layers)
        for k, (name, _, layers) in enumerate(rules, 1)
        if groups[name]
    )
    return core.with_legend(legend)


def _core(title: str, client: str, days: int, survey: Layout) -> CoreJob:
    chart = survey.chart()
    due = (datetime.date.today() + datetime.timedelta(days=days)).isoformat()
    return CoreJob(title, chart, tuple(zones_from_patches(chart)), client, due, survey)


def sampler() -> CoreJob:
    """A sashed sampler of twenty blocks with two borders, every zone with a design."""
    blocks = (
        "sawtooth_star", "nine_patch", "churn_dash", "pinwheel", "square_in_square", "snowball",
        "quarter_star", "winding_path", "nine_patch",
    )  # fmt: skip
    survey = StraightSet(5, 4, 12, blocks, 1.5, False, True, (Border(1.5), Border(5, "mitred")))
    return _assigned(
        _core("Kelp Road Sampler", "the Tarn Hollow guild", 24, survey), _sampler_rules()
    )


def pinwheels() -> CoreJob:
    """A top that is half designed."""
    survey = StraightSet(7, 6, 6, ("pinwheel", "plain"), 0, False, False, (Border(4, "mitred"),))
    core = _core("Windmill Throw", "Odalys F.", 40, survey)
    chart = with_leaves(core.chart)
    core = replace(core, chart=chart, zones=tuple(zones_from_patches(chart)))
    rules = [
        ("Wheels", lambda p: p.kind == "pinwheel" and p.fabric == "b",
         (_CLEAR, _layer("inset_echo", "indigo", first=0.25))),
        ("Plain squares", lambda p: p.kind == "plain" and p.role != "applique",
         (_CLEAR, _layer("meander", "indigo", gap=0.5))),
    ]  # fmt: skip
    return _assigned(core, rules)


def nursery() -> CoreJob:
    """A top that has only been charted."""
    survey = StraightSet(4, 4, 9, ("nine_patch",), 2, True, True, (Border(3.5),))
    return _core("Nine Ducks Cot Quilt", "Brannoch family", 61, survey)


def meadow() -> CoreJob:
    """An on-point top with sashing and floating points, charted only."""
    survey = OnPoint(3, 3, 9, ("sawtooth_star", "hourglass_star"), "plain", 1.25, True, 0.75,
                     (Border(1.5), Border(4, "mitred")))  # fmt: skip
    return _core("Salt Meadow", "Ilvane and Corben", 75, survey)


def lagoon() -> Layout:
    """A quiet modern top: a wide plain field, one pinwheel, and shapes sewn on (see `lagoon_sewn`)."""
    fabrics = (Fabric("a", "sand", "#e9dfc8", 0.0, True), Fabric("b", "deep water", "#3f6070", 0.1),
               *PALETTE[2:])  # fmt: skip
    return OpenField(45, 56, (Placed(29, 39, 10, "pinwheel"),), (), fabrics)


def lagoon_sewn(chart: Chart) -> Chart:
    """The lagoon's sun, moon, birds and leaves."""
    shapes = [
        ("berry", 15, 14, 15, 0, False, "sun", "#c98b3a"), ("moon", 9, 37, 10, 18, False, "moon", "#8fa6ad"),
        ("bird", 8.5, 30, 24, -14, False, "bird", "#3f6070"), ("bird", 6, 14, 36, 8, True, "bird", "#3f6070"),
        ("leaf", 9, 8, 47, 40, False, "leaf", "#6f8a5a"), ("leaf", 9, 14, 49.5, 12, False, "leaf", "#6f8a5a"),
        ("leaf", 8, 20, 48, -24, False, "leaf", "#6f8a5a"),
    ]  # fmt: skip
    for key, height, x, y, turn, mirror, name, colour in shapes:
        laid = placed([STAMPS[key].shape(height)], x, y, turn, mirror)
        chart = lay(chart, laid, Fabric(name, name, colour, 0.1), name)
    return chart


def lagoon_legend(core: CoreJob, names: dict[str, str]) -> CoreJob:
    """Long lines that run behind everything sewn on; *names* say what each traced zone is."""
    sewn = [zone for zone in core.zones if zone.id in names]
    ground = max(core.zones, key=lambda zone: zone.polygon.area)
    behind = run_behind(ground, [zone.polygon for zone in sewn])
    zones = tuple(behind if zone.id == ground.id else zone for zone in core.zones)
    kinds = {
        "Sun": ("sun", _layer("inset_echo", "bracken", first=0.75, spacing=1.25, count=0)),
        "Birds": ("bird", _layer("inset_echo", "indigo", first=0.375)),
        "Leaves": ("leaf", _layer("inset_echo", "bracken", first=0.25)),
        "Moon": ("moon", _layer("inset_echo", "indigo", first=0.375)),
    }
    legend = [Entry("e1", "Still water", (ground.id,),
                    (_CLEAR, _layer("parallel", "indigo", 10, spacing=1.0, angle=0)))]  # fmt: skip
    for number, (title, (name, layer)) in enumerate(kinds.items(), 2):
        ids = tuple(zone for zone, what in names.items() if what == name)
        legend.append(Entry(f"e{number}", title, ids, (_CLEAR, layer)))
    return replace(core, zones=zones).with_legend(tuple(legend))


def terraces() -> CoreJob:
    """Offset rows with half blocks at the ends and a pieced border, charted only."""
    survey = OffsetRows(6, 4, 9, ("churn_dash", "friendship_star"), 1,
                        (Border(2), Border(2.25, "block", None, "triangles", 2.25)))  # fmt: skip
    return _core("Terraces", "Mirelle", 90, survey)
