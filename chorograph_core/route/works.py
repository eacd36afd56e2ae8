"""What is done when: stages in the order of the policy, and what there is to do in each."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np

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

    def __len__(self) -> int:
        return len(self.bundles) + len(self.seams)


def stages_of(lay: Layout, policy: Policy) -> list[Stage]:
    """What is done one after the other, as data, in the order of the policy.

    ``"quilt"``: ditches of the whole quilt, thread by thread, then fillings; the quilt is rolled
    through for each, down and up by turns. Else all that is to be done in a pass before the next.
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
    kinds += [("fill", thread) for thread in fills]
    numbers = [each.number for each in lay.passes]
    if policy.stabilise != "quilt":
        made = [(kind, thread, reach) for reach in numbers for kind, thread in kinds]
    else:
        made, down = [], True
        for kind, thread in kinds:
            made += [(kind, thread, reach) for reach in (numbers if down else numbers[::-1])]
            down = not down
    there = lay.worked()
    return [Stage(*each) for each in made if each in there]


def gathered(lay: Layout, stage: Stage) -> Work:
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
            if trail.drawn.thread == stage.thread and lay.pass_of_trail[number] == stage.reach:
                trails[lay.station_of[trail.zone]].append(number)
    for station in sorted({*links, *trails}):
        bundle = Bundle(terrain.network, lay.stations[station], tuple(trails[station]),
                        tuple(links[station]))  # fmt: skip
        work.bundles.append(bundle)
        work.grounds.append(terrain.station_ground(station, each))
    return work
