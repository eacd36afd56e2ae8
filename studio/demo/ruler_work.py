"""Two tops of ruler work alone: one of round plates with an arched border, one of triangles and waves."""

from __future__ import annotations

from dataclasses import replace

from chorograph_core.designs.legend import Layer
from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.route.model import Wish
from studio.demo.tops import _CLEAR, _assigned, _core, _layer


def _ground(key: str, thread: str, **settings) -> Layer:
    return _layer(key, thread, 10, **settings)


def harbour() -> CoreJob:
    """Plates of wedges among plain squares, sashed, with a border of arcs from target dots."""
    survey = StraightSet(3, 3, 13, ("plate_round", "plain"), 2, False, True,
                         (Border(1.5), Border(6, "mitred")))  # fmt: skip
    rules = [
        ("Wedges, rungs", lambda p: p.kind == "plate_round" and p.fabric == "b",
         (_CLEAR, _layer("arc_rungs", "indigo", spacing=0.5))),
        ("Wedges, rays", lambda p: p.kind == "plate_round" and p.fabric == "c",
         (_CLEAR, _layer("rays", "indigo", spacing=0.875, clear=0.75))),
        ("Plate grounds", lambda p: p.kind == "plate_round",
         (_CLEAR, _layer("curved_crosshatch", "bracken", radius=5.25, spacing=0.75))),
        ("Plain squares", lambda p: p.kind == "plain",
         (_CLEAR, _layer("petals", "indigo", points="corners", margin=0.75),
          _ground("crosshatch", "bracken", spacing=0.75))),
        ("Sashing", lambda p: p.role == "sashing",
         (_CLEAR, _layer("piano_keys", "bracken", spacing=1.0, rhythm="double"))),
        ("Cornerstones", lambda p: p.role == "cornerstone",
         (_CLEAR, _layer("cross", "bracken", lines=3, spacing=0.375))),
        ("Narrow border", lambda p: p.cell.startswith("border1"),
         (_CLEAR, _layer("parallel", "indigo", spacing=0.5, angle=0.0))),
        ("Arched border", lambda p: p.cell.startswith("border2"),
         (_CLEAR, _layer("scallops", "indigo", chord=6.5, height=2.75, pointed=0.75, parallel=0.375,
                         last=5.25))),
    ]  # fmt: skip
    return _assigned(_core("Harbour Plates", "Tamsin and Idris", 33, survey), rules)


def tideway() -> CoreJob:
    """Triangles with continuous curves and nested chevrons; waves through the whole border as one."""
    survey = StraightSet(6, 5, 8, ("hourglass", "square_in_square", "broken_dishes"), 0, False, False,
                         (Border(1, "butted"), Border(5, "butted")))  # fmt: skip
    wave = replace(
        _layer(
            "waves", "bracken", spacing=0.625, period=4.0, height=1.0, angle=0.0, relative="top"
        ),
        over="region",
    )
    rules = [
        ("Squares", lambda p: p.kind == "square_in_square" and p.fabric == "b",
         (_CLEAR, _layer("basket_weave", "indigo", cell=1.5, lines=3))),
        ("Corner triangles", lambda p: p.kind == "square_in_square",
         (_CLEAR, _layer("continuous_curve", "indigo", height=0.25))),
        ("Hourglass, dark", lambda p: p.kind == "hourglass" and p.fabric == "b",
         (_CLEAR, _layer("chevrons", "indigo", spacing=0.5, begun="side"))),
        ("Hourglass, light", lambda p: p.kind == "hourglass",
         (_CLEAR, _layer("clamshells", "indigo", width=1.5))),
        ("Dishes, dark", lambda p: p.kind == "broken_dishes" and p.fabric == "b",
         (_CLEAR, _layer("dot_to_dot", "indigo", rule="nested"))),
        ("Dishes, light", lambda p: p.kind == "broken_dishes",
         (_CLEAR, _layer("inset_echo", "indigo", first=0.375, spacing=0.375, count=0))),
        ("Narrow border", lambda p: p.cell.startswith("border1"),
         (_CLEAR, _layer("parallel", "bracken", spacing=0.25, angle=0.0))),
        ("Wave border", lambda p: p.cell.startswith("border2"), (_CLEAR, wave)),
    ]  # fmt: skip
    core = _assigned(_core("Tideway", "Lowenna", 52, survey), rules)
    # All of a pass first, and the waves of the border after everything else in it.
    waves = next(entry for entry in core.legend if entry.name == "Wave border")
    policy = replace(core.policy, stabilise="pass", wishes=(Wish("last", waves.zones),))
    return replace(core, policy=policy)
