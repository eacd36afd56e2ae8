"""The floor of a route: what no route over the same linework can do without that goes through the same
places, in the same passes and order of stages, each in one go."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from chorograph_core.reckon import Machine
from chorograph_core.route.bound import path_bound
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.ground import Ground
from chorograph_core.route.holding import basted_first
from chorograph_core.route.laying_out import Layout
from chorograph_core.route.model import Floor, Policy
from chorograph_core.route.network import Trail
from chorograph_core.route.pairing import (
    islands_bound,
    pairing_bound,
    pairing_bound_leaving,
    pairs_within,
)
from chorograph_core.route.passes import holding
from chorograph_core.route.place_orders import NEAR_SUMS, order_bound
from chorograph_core.route.places import Place, Places
from chorograph_core.route.steps import StepWriter
from chorograph_core.route.straightest import over_lines
from chorograph_core.route.thread_turns import turns_of
from chorograph_core.route.travel_costs import travel_costs
from chorograph_core.route.walks import Pricing, islands_of, odd_nodes
from chorograph_core.route.works import BORDER, Work, path_of

ALL_SUMS = 6_000_000_000
"""Sums that may be spent on the orders of all stages together."""


def floor_of(
    lay: Layout, works: Sequence[Work], machine: Machine, policy: Policy, writer: StepWriter,
    starts: Sequence[bool], travel: bool = True, layings: bool = True, fewest: Fewest | None = None,
) -> Floor:  # fmt: skip
    """The floor by kind; *works* is all that is done, *starts* says which of it cannot but begin with the
    needle up, *writer* wrote the steps; *fewest* knows how often the ruler is laid along what. Without
    *travel* nothing is said of what travel and cuts lose at least, which takes longest to find; of a first
    answer it is said for any order whatever, which is less. Without *layings* nothing is said of those of
    the ruler."""
    held = _passes_held(lay, works)
    if policy.stabilise != "quilt":
        held = {"": [each for members in held.values() for each in members]}
    stages: Sequence[tuple[str, float]] = ()
    together = 0.0
    fewest = fewest or Fewest(lay.seams, machine.rates.reach, lay.passes)
    if travel and policy.effort == 0:
        whole = policy.stabilise == "quilt"
        stages = _whole(lay, works, machine) if whole else _one_by_one(lay, works, starts, machine)
    elif travel:
        stages, together = _place_by_place(lay, works, starts, machine, fewest)
    rolls = least_rolls(held.values())
    if basted_first(machine, policy) and works:
        rolls += len(lay.passes) - 1
    turns = turns_of((work.stage for work in works if work.bundles or work.seams), policy)
    return Floor(
        writer.link_price, writer.least_changes(turns), tuple(stages),
        rolls * machine.roll_seconds / 60, _least_lookups(lay, works, machine),
        _least_layings(works, fewest) if layings else 0, together,
    )  # fmt: skip


def _place_by_place(
    lay: Layout, works: Sequence[Work], starts: Sequence[bool], machine: Machine, fewest: Fewest
) -> tuple[list[tuple[str, float]], float]:
    """What each kind of stage loses at least in travel and cuts: in every pass along the seams, then from
    place to place, each in one go, by whatever doors and in whatever order. And how much more, in all, since
    who goes the shortest way looks for places that do not follow, and lays the ruler more often."""
    cut, laying = machine.cut_seconds / 60, machine.rates.ruler_move / 60
    found: dict[str, float] = defaultdict(float)
    together = 0.0
    there = [(bundle, work.ground) for work in works for bundle in work.bundles]
    known = Places(cut, there, laying, fewest)
    for number, work in enumerate(works):
        ahead = None
        if number + 1 < len(works) and not starts[number + 1]:
            ahead = _ahead(lay, work, works[number + 1], cut)
        places = [known.of(bundle, work.ground) for bundle in work.bundles]
        ruled = [known.ruled(bundle, work.ground, place)
                 for bundle, place in zip(work.bundles, places, strict=True)]  # fmt: skip
        # From the seams one goes on to the first of the places, by a door that is of use either way, or to
        # what comes after.
        onto = ahead
        if places and work.seams:
            onto = _to_any(work.ground, [*places, *ruled], cut)
        seams = ditch_bound(work.ground, work.seams, cut, onto)
        together += straight_over(work, fewest, cut, laying, onto, seams)
        minutes = starts[number] * cut + seams
        if places:
            order = partial(
                order_bound, ground=work.ground, cut=cut, after=work.after(), leaving=ahead,
                sums=min(NEAR_SUMS, ALL_SUMS / len(works)),
            )  # fmt: skip
            looking = machine.rates.find_place / 60 * work.apart()
            more = bool(looking.any()) or any(
                one is not two for one, two in zip(ruled, places, strict=True)
            )
            # Where there is more to it, what ways alone cost is not told as nearly.
            least = order(places, quick=more)
            minutes += least
            if more:
                together += max(0.0, order(ruled, looking=looking) - least)
        found[work.stage.name] += minutes
    return list(found.items()), together


def straight_over(
    work: Work, fewest: Fewest, cut: float, laying: float, leaving: Pricing | None, least: float
) -> float:
    """What going along the seams of a pass loses more than the *least* way with the fewest layings: who
    breaks none of their lines goes further, who breaks one lays the ruler once more."""
    if not (laying and work.seams):
        return 0.0
    ends = np.unique(work.ground.network.ends[np.asarray(work.seams, int)]).tolist()
    onto = 0.0 if leaving is None else min(map(leaving, ends))
    whole = over_lines(fewest, work.seams, work.ground, cut, least + laying - onto)
    return min(laying, max(0.0, whole + onto - least))


def _to_any(ground: Ground, places: Sequence[Place], cut: float) -> Pricing:
    """What it costs at least to go on from a node to whichever of *places* is nearest."""
    near = ground.nearest({int(node) for place in places for node in place.nodes}, cut)
    return lambda node: near.get(node, cut)


def _ahead(lay: Layout, work: Work, after: Work, cut: float) -> Pricing:
    """What it costs at least to go on from a node of the network of *work* to anything in *after*."""
    goals = set(after.ground.network.ends[after.seams].ravel().tolist())
    if not after.seams:
        for bundle in after.bundles:
            goals.update(bundle.network.ends[list(bundle.links)].ravel().tolist())
            for trail in map(bundle.trail, bundle.trails):
                goals.update((*trail.heads, *trail.tails))
    there = {lay.with_doorways(node, after.stage.kind) for node in goals}
    if None in there:
        return lambda node: 0.0
    both = lay.on_network.ground_of_both(work.reached, after.reached)
    near = both.nearest(sorted(n for n in there if n is not None), cut)

    def price(node: int) -> float:
        mine = lay.with_doorways(node, work.stage.kind)
        return 0.0 if mine is None or mine in there else near.get(mine, cut)

    return price


def _whole(lay: Layout, works: Sequence[Work], machine: Machine) -> list[tuple[str, float]]:
    """The same in any order, over the whole quilt at once."""
    cut = machine.cut_seconds / 60
    ground = Ground(lay.seams, range(len(lay.seams.links)))
    stages: list[tuple[str, float]] = []
    for thread, required in lay.required.items():
        stages.append((f"ditch:{thread}", ditch_bound(ground, required, cut) + cut))
    for thread, trails in _fills(lay).items():
        # A thread that is in the needle already need not be started again.
        start = 0.0 if thread in lay.required else cut
        stages.append((f"fill:{thread}", fill_bound(lay, trails, machine, quick=True) + start))
    return stages


def _one_by_one(
    lay: Layout, works: Sequence[Work], starts: Sequence[bool], machine: Machine
) -> list[tuple[str, float]]:
    """In any order within each stage. Where a thread has ditches and fillings by turns, what leads from one
    of its ditches to the next may be a filling, and no travel: stages say nothing of each other."""
    cut = machine.cut_seconds / 60
    found: dict[str, float] = defaultdict(float)
    for work, begins in zip(works, starts, strict=True):
        links = [*work.seams, *(number for bundle in work.bundles for number in bundle.links)]
        trails = [bundle.trail(number) for bundle in work.bundles for number in bundle.trails]
        found[work.stage.name] += begins * cut + (
            fill_bound(lay, trails, machine, quick=True)
            if trails
            else ditch_bound(work.ground, links, cut)
        )
    return list(found.items())


def _fills(lay: Layout) -> dict[str, list[Trail]]:
    """The runs that are no ditches, by thread."""
    found: dict[str, list[Trail]] = defaultdict(list)
    for trail in lay.network.trails:
        assert trail.drawn is not None
        found[trail.drawn.thread].append(trail)
    return found


def ditch_bound(
    ground: Ground, required: Sequence[int], cut: float, leaving: Pricing | None = None
) -> float:
    """Lower bound in minutes on travel and cuts, the first start left out, of any walks over the
    *required* links of *ground*: odd ends must be paired, islands must be reached. With what it costs to go
    on from where they end, where *leaving* says so for each node."""
    if not required:
        return 0.0
    odd = odd_nodes(ground.network, required)
    pairs = pairs_within(ground, odd, cut)
    islands = islands_bound(ground, islands_of(ground.network, required), cut)
    if leaving is None:
        return max(pairing_bound(pairs, len(odd), cut), islands)
    ends = np.unique(ground.network.ends[np.asarray(required, int)]).tolist()
    anywhere = min(leaving(node) for node in ends)
    onto = np.array([leaving(node) for node in odd])
    return max(pairing_bound_leaving(pairs, len(odd), cut, onto, anywhere), islands + anywhere)


def fill_bound(lay: Layout, trails: list[Trail], machine: Machine, quick: bool = False) -> float:
    """Lower bound in minutes on what joins *trails*, the first start left out."""
    if len(trails) < 2:
        return 0.0
    cut = machine.cut_seconds / 60
    costs = travel_costs(lay.network, lay.network.matrix(), trails, cut)
    return path_bound(trails, costs, quick)


def _passes_held(lay: Layout, works: Sequence[Work]) -> dict[str, list[tuple[int, int]]]:
    """For each kind of stage the first and last pass that holds each thing in it."""
    found: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for work in works:
        stage = work.stage
        if stage.technique == BORDER:
            # The seam of the border is locked in the same passes as the other ditches: no rolling for it.
            stage = replace(stage, technique="")
        seams = [*work.seams, *(number for bundle in work.bundles for number in bundle.links)]
        spans = [(lay.seams.tops[number], lay.seams.bottoms[number]) for number in seams]
        for bundle in work.bundles:
            levels = [bundle.trail(n).run.points[:, 1] for n in bundle.trails]  # type: ignore[union-attr]
            spans += [(each.min(), each.max()) for each in levels]
        for span in spans:
            held = holding(lay.passes, *span)
            if held:
                found[stage.name].append((held[0], held[-1]))
    return dict(found)


def least_rolls(held: Iterable[Sequence[tuple[int, int]]]) -> int:
    """Rolls between the passes in which everything can be done, kind after kind, each thing *held* by (first,
    last) passes: who does all of a kind comes at least as far as each first one, and at least as far back as
    each last one."""
    found: dict[int, int] | None = None
    for members in held:
        far = max((first for first, _ in members), default=0)
        near = min((last for _, last in members), default=0)
        if not members:
            continue
        # Where all of it can be done in one pass, that may be any from *far* to *near*.
        ends = [(at, at) for at in range(far, near + 1)] or [(near, far), (far, near)]
        reached: dict[int, int] = {}
        for begin, end in ends:
            coming = [rolls + abs(at - begin) for at, rolls in found.items()] if found else [0]
            more = min(coming) + abs(end - begin)
            reached[end] = min(more, reached.get(end, more))
        found = reached
    return min(found.values()) if found else 0


def _least_lookups(lay: Layout, works: Sequence[Work], machine: Machine) -> float:
    """The seams of a pass are read once; in each kind of stage so is every kind of place, and every other
    place is looked at."""
    rates = machine.rates
    kinds = {path_of(lay, work, k) for work in works for k in range(len(work.bundles))}
    reads = len(kinds) + sum(bool(work.seams) for work in works)
    others = sum(len(work.bundles) for work in works) - len(kinds)
    # Where to see how a known path lies takes longer than to read it, nobody need know it.
    return (reads * rates.read_path + others * min(rates.place_path, rates.read_path)) / 60


def _least_layings(works: Sequence[Work], fewest: Fewest) -> int:
    """Each straight line of the seams of a pass, and of the ditches inside a place, is laid once for every
    length of the ruler."""
    return sum(
        fewest.along(links)
        for work in works
        for links in (work.seams, *(bundle.links for bundle in work.bundles))
        if links
    )
