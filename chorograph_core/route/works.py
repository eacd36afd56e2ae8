"""What is done when: stages in the order of the policy, and what there is to do in each."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely

from chorograph_core.designs.linework import RULED
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.ground import Ground, KnownPrices
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.model import Kind, Policy, Stage
from chorograph_core.route.network import Trail
from chorograph_core.route.passes import Pass
from chorograph_core.route.paths import Option
from chorograph_core.route.precedence import arranged, wished_before
from chorograph_core.route.stations import BESIDE, Station


@dataclass
class Work:
    """What is done in one stage: bundles and the seams between them, with the *ways* through each
    bundle that may be taken, over the *ground* of their network, *prices* on which are found once."""

    stage: Stage
    reached: Pass
    ground: Ground
    seams: list[int]
    bundles: list[Bundle] = field(default_factory=list)
    classes: list[int] = field(default_factory=list)
    ways: list[list[Option]] = field(default_factory=list)
    grounds: list[Ground] = field(default_factory=list)
    wished: list[frozenset[int]] = field(default_factory=list)
    _apart: np.ndarray | None = None

    def __post_init__(self) -> None:
        self.prices = KnownPrices(self.ground)

    def apart(self) -> np.ndarray:
        """Which bundles (n, n) lie at places that do not follow from each other."""
        if self._apart is None or len(self._apart) != len(self.bundles):
            shapes = np.array([bundle.station.shape for bundle in self.bundles], object)
            self._apart = shapely.distance(shapes[:, None], shapes[None]) >= BESIDE
        return self._apart

    def after(self) -> list[frozenset[int]] | None:
        """For each bundle those that come before it: where a figure lies over zones, what has their outer
        layers comes before what has their inner ones; and what is wished. None where any order will do."""
        over = any(bundle.station.figure for bundle in self.bundles)
        if not over:
            return self.wished if any(self.wished) else None
        layers = [_layers_in(bundle) for bundle in self.bundles]
        needed = [
            frozenset(
                j
                for j, outer in enumerate(layers)
                if any(max(outer[zone]) < min(inner[zone]) for zone in outer.keys() & inner.keys())
            )
            for inner in layers
        ]
        # A wish does not overrule what the layers ask for.
        wished = self.wished or [frozenset()] * len(needed)
        return [
            need | frozenset(j for j in wish if k not in needed[j])
            for k, (need, wish) in enumerate(zip(needed, wished, strict=True))
        ]


def _layers_in(bundle: Bundle) -> dict[str, set[int]]:
    """The layers that a bundle has of each zone."""
    found: dict[str, set[int]] = defaultdict(set)
    for trail in map(bundle.trail, bundle.trails):
        for zone in zones_under(trail):
            found[zone].add(trail.layer)
    return found


def zones_under(trail: Trail) -> tuple[str, ...]:
    """The zones that a run lies in: one, or all that its figure lies over."""
    figure = trail.drawn.figure if trail.drawn is not None else None
    return (trail.zone,) if figure is None else figure.zones


def works_of(lay: Layout, policy: Policy, lies: int = 0) -> list[Work]:
    """All that is done, stage by stage, without the ways through it; *lies* is the pass under the machine, if
    the quilt is on it."""
    groups = techniques_of(lay, policy)
    runs: dict[tuple, list[int]] = defaultdict(list)
    for number, (trail, reach, (_, name)) in enumerate(
        zip(lay.network.trails, lay.pass_of_trail, groups, strict=True)
    ):
        assert trail.drawn is not None
        runs[trail.drawn.thread, name, reach, number in lay.through].append(number)
    ditches: dict[tuple, list[int]] = defaultdict(list)
    for thread, numbers in lay.required.items():
        for number in numbers:
            ditches[thread, lay.pass_of_link[number]].append(number)
    return [
        _gathered(lay, stage, policy, runs, ditches)
        for stage in stages_of(lay, policy, groups, lies)
    ]


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


def stages_of(
    lay: Layout, policy: Policy, groups: list[tuple[int, str]], lies: int = 0
) -> list[Stage]:
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
    # Who has basted the whole quilt stands at its lower end.
    basted = policy.days == "basted" and len(lay.passes) > 1
    numbers = [each.number for each in lay.passes][:: -1 if basted else 1]
    there = _stages_with_work(lay, policy, groups)
    if lies:
        numbers = _from_where_it_lies(numbers, lies, {stage.reach for stage in there})
    made: list[Stage] = []
    if policy.stabilise == "zone":
        made = _by_place(lay, sorts, numbers, policy)
    elif policy.stabilise != "quilt":
        made = [
            Stage(kind, thread, reach, group) for reach in numbers for kind, thread, group in sorts
        ]
    else:
        made = _swept(sorts, sorted(numbers) if lies else numbers, lies, there)
    if lay.through:
        made = _rolled_after(lay, policy, made, sorts)
    if policy.edges == "border":
        made = [one for stage in made for one in _border_first(stage)]
    return [stage for stage in made if stage in there]


def _swept(
    sorts: Sequence[tuple[Kind, str, str]], numbers: Sequence[int], lies: int, there: set[Stage]
) -> list[Stage]:
    """Kind after kind through all passes in which it has work, each from that end by which all of them
    together roll least; *lies* is the pass under the machine."""
    worked = {(one.kind, one.thread, "" if one.technique == BORDER else one.technique, one.reach)
              for one in there}  # fmt: skip
    kinds = [[Stage(kind, thread, reach, group) for reach in numbers
              if (kind, thread, group, reach) in worked]
             for kind, thread, group in sorts]  # fmt: skip
    spans = [(mine[0].reach, mine[-1].reach) for mine in kinds if mine]
    # Rolls until now, and the ways round, by the end at which the last kind was left.
    found: dict[int, tuple[int, tuple[bool, ...]]] = {
        lies or (spans[0][0] if spans else 0): (0, ())
    }
    for first, last in spans:
        ways: dict[int, tuple[int, tuple[bool, ...]]] = {}
        for at, (rolls, turned) in found.items():
            for begin, end, back in ((first, last, False), (last, first, True)):
                more = rolls + abs(at - begin) + abs(end - begin)
                if end not in ways or more < ways[end][0]:
                    ways[end] = (more, (*turned, back))
        found = ways
    _, turned = min(found.values(), key=lambda each: each[0])
    some = [mine for mine in kinds if mine]
    return [
        one for mine, back in zip(some, turned, strict=True) for one in mine[:: -1 if back else 1]
    ]


def _from_where_it_lies(numbers: list[int], lies: int, worked: set[int]) -> list[int]:
    """Passes in the order in which they are done, from the one under the machine: on to the last with work,
    then what lies before; or the other way where that end is nearer."""
    low, high = min(worked, default=lies), max(worked, default=lies)
    ahead = [k for k in numbers if k >= lies]
    behind = [k for k in reversed(numbers) if k < lies]
    ahead, behind = sorted(ahead), sorted(behind, reverse=True)
    return behind + ahead if lies - low < high - lies and low < lies else ahead + behind


def _rolled_after(
    lay: Layout, policy: Policy, made: Sequence[Stage], sorts: Sequence[tuple[Kind, str, str]]
) -> list[Stage]:
    """What the quilt is rolled under comes when the outer layers of all passes are there, and before what
    is stitched over it in any of them."""
    if policy.stabilise != "zone":
        levels = range(1 + max(_levels(lay), default=0))
        made = [replace(stage, level=level) for stage in made for level in levels]
    every = [one for stage in made for one in (stage, replace(stage, through=True))]
    turn = {each: k for k, each in enumerate(sorts)} if policy.technique != "mixed" else {}
    return sorted(
        every,
        key=lambda one: (
            one.level,
            turn.get((one.kind, one.thread, one.technique), 0),
            one.through,
        ),
    )


BORDER = "border seam"
"""What the stage is called in which the seam of the border is locked straight."""


def _border_first(stage: Stage) -> list[Stage]:
    """The seam of the border before the other ditches of a pass."""
    first = stage.kind == "ditch" and not stage.place
    return [replace(stage, technique=BORDER), stage] if first else [stage]


def _stages_with_work(lay: Layout, policy: Policy, groups: list[tuple[int, str]]) -> set[Stage]:
    by_place = policy.stabilise == "zone"
    there = set()
    for thread, links in lay.required.items():
        for number in links:
            technique = BORDER if policy.edges == "border" and number in lay.border else ""
            inside = by_place and not technique and number in lay.inner
            place = lay.stations[lay.inner[number]].key if inside else ""
            there.add(Stage("ditch", thread, lay.pass_of_link[number], technique, place))
    levels = _levels(lay) if by_place or lay.through else [0] * len(groups)
    each = zip(lay.network.trails, lay.pass_of_trail, groups, levels, strict=True)
    for number, (trail, reach, (_, name), level) in enumerate(each):
        assert trail.drawn is not None
        place = lay.stations[lay.station_of[trail.zone]].key if by_place else ""
        through = number in lay.through
        there.add(Stage("fill", trail.drawn.thread, reach, name, place, level, through))
    return there


def _by_place(
    lay: Layout, sorts: Sequence[tuple[Kind, str, str]], numbers: Sequence[int], policy: Policy
) -> list[Stage]:
    """Pass by pass the seams, then place after place its ditches and its fillings, along one row and
    back along the next, or as it is wished."""
    made: list[Stage] = []
    ditches = [each for each in sorts if each[0] == "ditch"]
    for reach in numbers:
        made += [Stage(kind, thread, reach, group) for kind, thread, group in ditches]
        places = arranged(_along_rows(lay.stations), policy.wishes)
        # What lies over many places comes after what is inside them, then what is stitched after it.
        for level in range(1 + max(_levels(lay), default=0)):
            for station in (*(p for p in places if not p.figure), *(p for p in places if p.figure)):
                made += [
                    Stage(kind, thread, reach, group, station.key, level)
                    for kind, thread, group in sorts
                ]
    return made


def _along_rows(stations: Sequence[Station]) -> list[Station]:
    """Stations along one row and back along the next."""
    middles = np.array([station.middle for station in stations]).reshape(-1, 2)
    order = np.argsort(middles[:, 1], kind="stable").tolist()
    rows: list[list[int]] = []
    for k in order:
        if rows and middles[k, 1] - middles[rows[-1][0], 1] < SAME_ROW:
            rows[-1].append(k)
        else:
            rows.append([k])
    found = []
    for number, row in enumerate(rows):
        row.sort(key=lambda k: float(middles[k, 0]), reverse=bool(number % 2))
        found += [stations[k] for k in row]
    return found


SAME_ROW = 2.0
"""Inches that the middles of places in one row lie apart down the quilt at most."""


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
        below = [lowest[zone, trail.drawn.thread] for zone in zones_under(trail)]
        own[k] = max([own[k], *(r for each in below for layer, r in each if layer < trail.layer)])
        for each in below:
            each.append((trail.layer, own[k]))
    return [(rank, words[rank]) for rank in own]


def _in_turn(lay: Layout, groups: list[tuple[int, str]], thread: str) -> list[str]:
    """The names of the groups that a thread has work in, in their order."""
    there = {
        group
        for trail, group in zip(lay.network.trails, groups, strict=True)
        if trail.drawn is not None and trail.drawn.thread == thread
    }
    return [name for _, name in sorted(there)]


def _gathered(
    lay: Layout, stage: Stage, policy: Policy, runs: Mapping[tuple, Sequence[int]],
    ditches: Mapping[tuple, Sequence[int]],
) -> Work:  # fmt: skip
    """The bundles of a stage, and the seams that belong to no station; *runs* are the trails of each thread,
    group and pass, rolled under the needle or not, *ditches* the links of each thread and pass."""
    by_place, bordered = policy.stabilise == "zone", policy.edges == "border"
    reached = next(one for one in lay.passes if one.number == stage.reach)
    each = lay.whole if stage.through else reached
    terrain = lay.on_seams if stage.kind == "ditch" else lay.on_network
    work = Work(stage, each, terrain.ground(each), [])
    links: dict[int, list[int]] = defaultdict(list)
    trails: dict[tuple[int, int], list[int]] = defaultdict(list)
    levels = _levels(lay)
    if stage.kind == "ditch":
        for number in ditches.get((stage.thread, stage.reach), ()):
            if bordered and (number in lay.border) != (stage.technique == BORDER):
                continue
            station = None if stage.technique == BORDER else lay.inner.get(number)
            if by_place and stage.place != ("" if station is None else lay.stations[station].key):
                continue
            if station is None:
                work.seams.append(number)
            else:
                links[station].append(number)
    else:
        leveled = by_place or bool(lay.through)
        for number in runs.get((stage.thread, stage.technique, stage.reach, stage.through), ()):
            station = lay.station_of[lay.network.trails[number].zone]
            if by_place and lay.stations[station].key != stage.place:
                continue
            if not leveled or levels[number] == stage.level:
                # What is stitched before a figure and what after it are two goes.
                trails[station, levels[number]].append(number)
    for station, level in sorted({*((station, 0) for station in links), *trails}):
        bundle = Bundle(terrain.network, lay.stations[station], tuple(trails[station, level]),
                        tuple(links[station]))  # fmt: skip
        work.bundles.append(bundle)
        work.grounds.append(terrain.station_ground(station, each))
    if policy.wishes:
        work.wished = wished_before(work.bundles, policy.wishes, work.stage)
    return work


def _levels(lay: Layout) -> list[int]:
    """Found once for a layout."""
    if lay.over is None:
        lay.over = _found_levels(lay)
    return lay.over


def _found_levels(lay: Layout) -> list[int]:
    """For each run the number of layers of its zone stitched before it that reach beyond the zone's own
    place: figures, and what the quilt is rolled under."""
    over: dict[str, set[int]] = defaultdict(set)
    for number, trail in enumerate(lay.network.trails):
        figure = trail.drawn.figure if trail.drawn is not None else None
        if figure is not None or number in lay.through:
            for zone in zones_under(trail):
                over[zone].add(trail.layer)
    if not over:
        return [0] * len(lay.network.trails)
    return [
        sum(layer < trail.layer for layer in over.get(zones_under(trail)[0], ()))
        for trail in lay.network.trails
    ]
