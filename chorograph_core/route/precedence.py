"""Wishes of a person: what comes before what, and where one does not go; and those that contradict each
other."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.route.bundles import Bundle
from chorograph_core.route.model import Stage, Step, Wish

if TYPE_CHECKING:
    from chorograph_core.route.network import Network
    from chorograph_core.route.stations import Station
    from chorograph_core.route.works import Work

CLOSED = 1000.0
"""Minutes that a way counts more on which one is not to go: more than any cut."""
ALONG = 0.06
"""Inches from a zone within which a way lies along its edge."""
PASSED = 0.5
"""Inches that may lie along a zone that is gone round: from its corner to the door beside it."""


def close(network: Network, wishes: Sequence[Wish], shapes: Mapping[str, Polygon]) -> None:
    """Let nobody go along the seams of zones that are to be gone round."""
    around = [shapes[zone] for wish in wishes if wish.kind == "around" for zone in wish.zones
              if zone in shapes]  # fmt: skip
    if not around or not len(network.links):
        return
    edges = shapely.union_all([shape.boundary for shape in around]).buffer(ALONG)
    shapely.prepare(edges)
    there = shapely.intersects(edges, shapely.points(network.middles))
    for number in np.flatnonzero(there).tolist():
        if network.links[number].kind != "open":
            network.links[number].price += CLOSED
    network.settle()


def wished_before(
    bundles: Sequence[Bundle], wishes: Sequence[Wish], stage: Stage
) -> list[frozenset[int]]:
    """For each bundle of *stage* those that a person wants before it."""
    return _wanted(
        [zones_of(bundle) for bundle in bundles], [w for w in wishes if _meant(w, stage)]
    )


def _meant(wish: Wish, stage: Stage) -> bool:
    """Whether a wish about an order speaks of what is done in a stage."""
    return wish.thread in ("", stage.thread) and (wish.kind != "kept" or stage.kind == "fill")


def arranged(places: Sequence[Station], wishes: Sequence[Wish]) -> list[Station]:
    """Places in the order given, as far as wishes do not want another; as they are where those go in a
    circle."""
    wanted = _wanted([set(place.zones) for place in places], wishes)
    if not any(wanted):
        return list(places)
    left, order = list(range(len(places))), []
    while left:
        ready = next((k for k in left if wanted[k].isdisjoint(left)), None)
        if ready is None:
            return list(places)
        left.remove(ready)
        order.append(places[ready])
    return order


def _wanted(zones: Sequence[set[str]], wishes: Sequence[Wish]) -> list[frozenset[int]]:
    found: list[set[int]] = [set() for _ in zones]
    for wish in wishes:
        mine = {k for k, each in enumerate(zones) if not each.isdisjoint(wish.zones)}
        if wish.kind == "kept":
            turns = _turns(wish, zones)
            for k, turn in turns.items():
                found[k] |= {j for j, other in turns.items() if other < turn}
            continue
        others = _others(wish, zones, mine, wishes)
        for k in others if wish.kind in ("before", "first") else mine:
            found[k] |= (mine if wish.kind in ("before", "first") else others) - {k}
    return [frozenset(each) for each in found]


def _turns(wish: Wish, zones: Sequence[set[str]]) -> dict[int, int]:
    """When each place that a wish to keep an order speaks of has its turn: that of its first zone."""
    at = {zone: number for number, zone in reversed(list(enumerate(wish.zones)))}
    there = {k: [at[zone] for zone in each if zone in at] for k, each in enumerate(zones)}
    return {k: min(numbers) for k, numbers in there.items() if numbers}


def _others(
    wish: Wish, zones: Sequence[set[str]], mine: set[int], wishes: Sequence[Wish]
) -> set[int]:
    if wish.kind == "before":
        return {k for k, each in enumerate(zones) if not each.isdisjoint(wish.others)} - mine
    if wish.kind in ("first", "last"):
        # Of several that are wished first none comes before the others.
        alike = {zone for other in wishes if other.kind == wish.kind for zone in other.zones}
        return {k for k, each in enumerate(zones) if each.isdisjoint(alike)} if mine else set()
    return set()


def zones_of(bundle: Bundle) -> set[str]:
    """The zones in which something of a bundle is stitched."""
    found: set[str] = set()
    for trail in map(bundle.trail, bundle.trails):
        figure = trail.drawn.figure if trail.drawn is not None else None
        found |= {trail.zone} if figure is None else set(figure.zones)
    return found or set(bundle.station.zones)


def contradiction(wishes: Sequence[Wish]) -> tuple[int, ...]:
    """The places of wishes that cannot all be kept, since they go in a circle; empty where none do."""
    for number, wish in enumerate(wishes):
        for earlier in range(number):
            if _against(wishes[earlier], wish):
                return (earlier, number)
    follows: dict[str, dict[str, int]] = {}
    for number, wish in enumerate(wishes):
        for zone, other in _pairs(wish):
            follows.setdefault(zone, {}).setdefault(other, number)
    for begin in sorted(follows):
        circle = _circle(begin, follows)
        if circle:
            return tuple(sorted(set(circle)))
    return ()


def _pairs(wish: Wish) -> Iterable[tuple[str, str]]:
    """What a wish wants before what, zone by zone."""
    if wish.kind == "before":
        return itertools.product(wish.zones, wish.others)
    return itertools.pairwise(wish.zones) if wish.kind == "kept" else ()


def _against(one: Wish, two: Wish) -> bool:
    """Whether two wishes say the opposite of the same zones."""
    pair = {one.kind, two.kind}
    if one.thread and two.thread and one.thread != two.thread:
        return False
    mine, theirs = set(one.zones), set(two.zones)
    if pair == {"before"}:
        return not mine.isdisjoint(two.others) and not theirs.isdisjoint(one.others)
    if pair == {"first", "last"}:
        return not mine.isdisjoint(theirs)
    if one.kind == two.kind and one.kind in ("first", "last"):
        return mine != theirs and mine.isdisjoint(theirs)
    if pair in ({"before", "first"}, {"before", "last"}):
        before, end = (one, two) if one.kind == "before" else (two, one)
        wrong = before.others if end.kind == "first" else before.zones
        right = before.zones if end.kind == "first" else before.others
        return not set(wrong).isdisjoint(end.zones) and set(right).isdisjoint(end.zones)
    if pair in ({"kept", "first"}, {"kept", "last"}):
        kept, end = (one, two) if one.kind == "kept" else (two, one)
        # Those that come at the end stand there in the part that is kept as well.
        order = kept.zones if end.kind == "first" else kept.zones[::-1]
        inside = [zone in end.zones for zone in order]
        return any(not earlier and later for earlier, later in itertools.pairwise(inside))
    return False


def _circle(begin: str, follows: Mapping[str, Mapping[str, int]]) -> list[int]:
    """The wishes by which a zone would come before itself."""
    seen: dict[str, list[int]] = {begin: []}
    queue = [begin]
    for zone in queue:
        for other, number in follows.get(zone, {}).items():
            if other == begin:
                return [*seen[zone], number]
            if other not in seen:
                seen[other] = [*seen[zone], number]
                queue.append(other)
    return []


def unkept(
    works: Sequence[Work],
    steps: Sequence[Step],
    wishes: Sequence[Wish],
    shapes: Mapping[str, Polygon],
    figures: Mapping[str, Sequence[str]],
) -> dict[int, str]:
    """Which wishes a route does not keep, by their place, and why in a sentence. *figures* are the zones
    under what was drawn over many."""
    found: dict[int, str] = {}
    for number, wish in enumerate(wishes):
        meant = [work for work in works if _meant(wish, work.stage)]
        stages = [[zones_of(bundle) for bundle in work.bundles] for work in meant]
        if not set(wish.zones) & shapes.keys():
            found[number] = "The zones that it speaks of are gone."
        elif wish.kind == "before":
            why = _not_before(stages, wish)
            if why:
                found[number] = why
        elif wish.kind == "kept":
            if _mixed_up(stages, wish):
                found[number] = "Their threads, passes or ways of working want another order now."
        elif wish.kind in ("first", "last") and _parted(meant, stages, wish):
            found[number] = (
                "What else lies in their pass is stitched apart from them, in its own turn."
            )
        elif wish.kind == "around":
            there = [shapes[zone] for zone in wish.zones if zone in shapes]
            if travelled(steps, there) > PASSED * len(wish.zones):
                found[number] = "Some of the travel finds no other way, not even with a cut."
        if number not in found and _out_of_turn(steps, wish, wishes, figures):
            found[number] = "Another wish, or the order of layers, wants it otherwise in one place."
    return found


def _out_of_turn(
    steps: Sequence[Step], wish: Wish, wishes: Sequence[Wish], figures: Mapping[str, Sequence[str]]
) -> bool:
    """Whether what is filled in one thread and pass of the zones that a wish speaks of does not come before,
    or after, what it should: places go by all that lies in them, and may have to obey two wishes."""
    if wish.kind not in ("before", "first", "last", "kept"):
        return False
    alike = {zone for each in wishes if each.kind == wish.kind for zone in each.zones}
    fills = [
        ((step.thread, step.reach), step.station, set(figures.get(step.zone, (step.zone,))))
        for step in steps
        if step.kind == "stitch" and step.zone and not step.seams
        and wish.thread in ("", step.thread)
    ]  # fmt: skip
    if wish.kind == "kept":
        return _mixed_places(fills, wish)
    with_them = {(turn, place) for turn, place, under in fills if not under.isdisjoint(alike)}
    mine: dict[tuple, list[int]] = {}
    theirs: dict[tuple, list[int]] = {}
    for number, (turn, place, under) in enumerate(fills):
        if not under.isdisjoint(wish.zones):
            mine.setdefault(turn, []).append(number)
        elif not under.isdisjoint(wish.others) or (
            wish.kind != "before" and (turn, place) not in with_them
        ):
            theirs.setdefault(turn, []).append(number)
    one, two = (theirs, mine) if wish.kind == "last" else (mine, theirs)
    return any(max(one[turn]) > min(two[turn]) for turn in mine.keys() & theirs.keys())


def _mixed_places(fills: Sequence[tuple[tuple, str, set[str]]], wish: Wish) -> bool:
    """Whether places, each with its zones in a thread and pass, are not filled in the order that is kept."""
    at = {zone: number for number, zone in reversed(list(enumerate(wish.zones)))}
    there: dict[tuple, dict[str, list[int]]] = {}
    turns: dict[tuple, dict[str, int]] = {}
    for number, (turn, place, under) in enumerate(fills):
        mine = [at[zone] for zone in under if zone in at]
        if mine:
            there.setdefault(turn, {}).setdefault(place, []).append(number)
            first = turns.setdefault(turn, {})
            first[place] = min(*mine, first.get(place, len(wish.zones)))
    for turn, places in there.items():
        order = sorted(places, key=turns[turn].__getitem__)
        if any(max(places[a]) > min(places[b]) for a, b in itertools.pairwise(order)):
            return True
    return False


def _mixed_up(stages: Sequence[Sequence[set[str]]], wish: Wish) -> bool:
    """Whether something of a part that is to be kept is done in an earlier stage than what is before it."""
    turns = [_turns(wish, each).values() for each in stages]
    there = [(min(each), max(each)) for each in turns if each]
    return any(before[1] > after[0] for before, after in itertools.pairwise(there))


def _parted(works: Sequence[Work], stages: Sequence[Sequence[set[str]]], wish: Wish) -> bool:
    """Whether something in the same thread and pass is done in another go, on the wrong side of the zones."""
    wanted = set(wish.zones)
    mine = [k for k, each in enumerate(stages) if any(not z.isdisjoint(wanted) for z in each)]
    theirs = [k for k, each in enumerate(stages) if any(z.isdisjoint(wanted) for z in each)]
    for k, j in itertools.product(mine, theirs):
        one, two = works[k].stage, works[j].stage
        same = one.kind == two.kind == "fill" and one.thread == two.thread
        # What the quilt is rolled under lies in every pass.
        meets = one.reach == two.reach or one.through or two.through
        wrong = j > k if wish.kind == "last" else j < k
        if same and meets and wrong:
            return True
    return False


def _not_before(stages: Sequence[Sequence[set[str]]], wish: Wish) -> str:
    mine = [
        k for k, each in enumerate(stages) for zones in each if not zones.isdisjoint(wish.zones)
    ]
    theirs = [
        k for k, each in enumerate(stages) for zones in each if not zones.isdisjoint(wish.others)
    ]
    if not mine or not theirs:
        return "" if mine or theirs else "Nothing is stitched in these zones."
    shared = any(
        not zones.isdisjoint(wish.zones) and not zones.isdisjoint(wish.others)
        for each in stages for zones in each
    )  # fmt: skip
    if shared:
        return "They lie in one place, on one path: put the path in an order of your own."
    if max(mine) > min(theirs):
        return "They are stitched in other threads or passes, whose order the way of working says."
    return ""


def travelled(steps: Sequence[Step], shapes: Sequence[Polygon]) -> float:
    """Inches of travel, other than a design's own, along and through some zones."""
    if not shapes:
        return 0.0
    there = shapely.union_all(shapes).buffer(ALONG / 2)
    lines = [shapely.linestrings(step.points) for step in steps
             if step.kind == "travel" and not step.run and len(step.points) > 1]  # fmt: skip
    return float(sum(shapely.length(shapely.intersection(lines, there)))) if lines else 0.0
