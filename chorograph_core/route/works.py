"""What is done when: stages in the order of the policy, and what there is to do in each."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np

from chorograph_core.designs.contract import RULED
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.model import Kind, Policy, Stage
from chorograph_core.route.passes import Pass
from chorograph_core.route.paths import Option


@dataclass
class Work:
    """What is done in one stage: bundles and the seams between them, with the *ways* through each
    bundle that may be taken, over the *ground* of their network."""

    stage: Stage
    reached: Pass
    ground: Ground
    seams: list[int]
    bundles: list[Bundle] = field(default_factory=list)
    classes: list[int] = field(default_factory=list)
    ways: list[list[Option]] = field(default_factory=list)
    grounds: list[Ground] = field(default_factory=list)


def works_of(lay: Layout, policy: Policy) -> list[Work]:
    """All that is done, stage by stage, without the ways through it."""
    groups = techniques_of(lay, policy)
    return [_gathered(lay, stage, groups) for stage in stages_of(lay, policy, groups)]


def path_of(lay: Layout, work: Work, k: int) -> tuple:
    """What all places share that are done by the same path as bundle *k* of *work*, whichever of the
    paths of its class that is."""
    bundle = work.bundles[k]
    trails = [bundle.trail(number) for number in bundle.trails]
    if trails and len({trail.key for trail in trails}) == 1:
        # One run is no path to learn: strips of one design are told by one name.
        drawn = trails[0].drawn
        assert drawn is not None
        return (work.stage.name, drawn.entry, drawn.layer, lay.kind_of(bundle.station))
    return (work.stage.name, work.classes[k])


def stages_of(lay: Layout, policy: Policy, groups: list[tuple[int, str]]) -> list[Stage]:
    """What is done one after the other, as data, in the order of the policy.

    ``"quilt"``: ditches of the whole quilt, thread by thread, then fillings; the quilt is rolled
    through for each, down and up by turns. Else all that is to be done in a pass before the next.
    *groups* are the `techniques_of` every run.
    """
    kinds: list[tuple[Kind, str]] = [("ditch", thread) for thread in lay.required]
    depth: dict[str, list[int]] = defaultdict(list)
    for trail in lay.network.trails:
        if trail.drawn is not None:
            depth[trail.drawn.thread].append(trail.layer)
    # Outer layers come first where threads differ: what frames a zone is stitched before its fill.
    fills = sorted(depth, key=lambda t: (np.mean(depth[t]), list(depth).index(t)))
    shared = [thread for _, thread in kinds if thread in fills]
    if shared:
        # A thread already in the needle goes on into the fillings.
        kinds.sort(key=lambda kind: kind[1] == shared[-1])
        fills.sort(key=lambda t: t != shared[-1])
    sorts: list[tuple[Kind, str, str]] = [(kind, thread, "") for kind, thread in kinds]
    sorts += [
        ("fill", thread, group) for thread in fills for group in _in_turn(lay, groups, thread)
    ]
    numbers = [each.number for each in lay.passes]
    made: list[Stage] = []
    if policy.stabilise != "quilt":
        made = [
            Stage(kind, thread, reach, group) for reach in numbers for kind, thread, group in sorts
        ]
    else:
        down = True
        for kind, thread, group in sorts:
            made += [
                Stage(kind, thread, reach, group) for reach in (numbers if down else numbers[::-1])
            ]
            down = not down
    there = {
        Stage("ditch", thread, lay.pass_of_link[number])
        for thread, links in lay.required.items()
        for number in links
    }
    for trail, reach, (_, name) in zip(lay.network.trails, lay.pass_of_trail, groups, strict=True):
        assert trail.drawn is not None
        there.add(Stage("fill", trail.drawn.thread, reach, name))
    return [stage for stage in made if stage in there]


def techniques_of(lay: Layout, policy: Policy) -> list[tuple[int, str]]:
    """For every run (rank, name) of the group it is stitched in under the policy: those of a lower rank
    come first. An inner layer never comes before an outer one, whatever it is made of."""
    if policy.technique == "mixed":
        return [(0, "")] * len(lay.network.trails)
    names: dict[str, int] = {}
    if policy.technique == "ruler":
        names = {"ruler": 0, "freehand": 1}
    own = []
    for trail in lay.network.trails:
        assert trail.run is not None and trail.drawn is not None
        if policy.technique == "ruler":
            first = next((t for _, t, kind in trail.run.pieces() if kind == "stitch"), "")
            own.append(names["ruler" if first in RULED else "freehand"])
        else:
            own.append(names.setdefault(trail.drawn.design, len(names)))
    words = {rank: name for name, rank in names.items()}
    lowest: dict[tuple[str, str], list[tuple[int, int]]] = defaultdict(list)
    order = sorted(range(len(own)), key=lambda k: lay.network.trails[k].layer)
    for k in order:
        trail = lay.network.trails[k]
        assert trail.drawn is not None
        below = lowest[trail.zone, trail.drawn.thread]
        own[k] = max([own[k], *(rank for layer, rank in below if layer < trail.layer)])
        below.append((trail.layer, own[k]))
    return [(rank, words[rank]) for rank in own]


def _in_turn(lay: Layout, groups: list[tuple[int, str]], thread: str) -> list[str]:
    """The names of the groups that a thread has work in, in their order."""
    there = {
        group
        for trail, group in zip(lay.network.trails, groups, strict=True)
        if trail.drawn is not None and trail.drawn.thread == thread
    }
    return [name for _, name in sorted(there)]


def _gathered(lay: Layout, stage: Stage, groups: list[tuple[int, str]]) -> Work:
    """The bundles of a stage, and the seams that belong to no station."""
    each = next(one for one in lay.passes if one.number == stage.reach)
    terrain = lay.on_seams if stage.kind == "ditch" else lay.on_network
    work = Work(stage, each, terrain.ground(each), [])
    links: dict[int, list[int]] = defaultdict(list)
    trails: dict[int, list[int]] = defaultdict(list)
    if stage.kind == "ditch":
        for number in lay.required[stage.thread]:
            if lay.pass_of_link[number] != stage.reach:
                continue
            station = lay.inner.get(number)
            if station is None:
                work.seams.append(number)
            else:
                links[station].append(number)
    else:
        for number, trail in enumerate(lay.network.trails):
            assert trail.drawn is not None
            mine = trail.drawn.thread == stage.thread and groups[number][1] == stage.technique
            if mine and lay.pass_of_trail[number] == stage.reach:
                trails[lay.station_of[trail.zone]].append(number)
    for station in sorted({*links, *trails}):
        bundle = Bundle(terrain.network, lay.stations[station], tuple(trails[station]),
                        tuple(links[station]))  # fmt: skip
        work.bundles.append(bundle)
        work.grounds.append(terrain.station_ground(station, each))
    return work
