"""Wishes: what was wanted before something else comes before it, and nobody goes where it was not wished."""

from __future__ import annotations

import itertools
from collections import defaultdict

import shapely

from chorograph_core.route.replay.measuring import NEAR

BESIDE = 0.5
"""Inches along a zone to be gone round that a step from a corner to a door may take."""


def wished_faults(policy, steps, shapes, figures, unkept=()) -> list[str]:
    """Every wish is kept, but those of which the route says that it could not."""
    faults = []
    for number, wish in enumerate(policy.wishes):
        if number in unkept:
            continue
        if wish.kind == "around":
            there = [shapes[zone] for zone in wish.zones if zone in shapes]
            inches = _gone_along(steps, there)
            if inches > BESIDE * max(len(there), 1):
                faults.append(f"{inches:.1f} inches of travel go where they were not wished")
        elif wish.kind != "drawn":
            alike = {
                zone for other in policy.wishes if other.kind == wish.kind for zone in other.zones
            }
            faults += _order(wish, alike, steps, figures)
    return faults


def _order(wish, alike, steps, figures) -> list[str]:
    """In each thread and pass, what is filled of the zones comes before, or after, what it should. A place is
    done in one go, so that what shares one with them goes with them; what is first or last by another wish,
    *alike* of both, may lie before and after."""
    fills = [(number, step, _under(step, figures)) for number, step in enumerate(steps, 1)
             if step.kind == "stitch" and not step.seams and step.zone
             and wish.thread in ("", step.thread)]  # fmt: skip
    if wish.kind == "kept":
        return _same_order(wish, fills)
    wanted = set(wish.zones)
    places = {
        (s.thread, s.reach, s.station) for _, s, under in fills if not under.isdisjoint(alike)
    }
    mine: dict[tuple, list[int]] = defaultdict(list)
    theirs: dict[tuple, list[int]] = defaultdict(list)
    for number, step, under in fills:
        where = (step.thread, step.reach)
        if not under.isdisjoint(wanted):
            mine[where].append(number)
            continue
        if wish.kind == "before":
            other = not under.isdisjoint(wish.others)
        else:
            other = (*where, step.station) not in places
        if other:
            theirs[where].append(number)
    faults = []
    for where in mine.keys() & theirs.keys():
        first, second = (theirs, mine) if wish.kind == "last" else (mine, theirs)
        if max(first[where]) > min(second[where]):
            faults.append(
                f"step {max(first[where])}: comes after what it was wished {wish.kind} of"
            )
    return faults


def _same_order(wish, fills) -> list[str]:
    """Place after place in each thread and pass, each when the first of its zones has its turn."""
    turns: dict[tuple, dict[str, int]] = defaultdict(dict)
    spans: dict[tuple, dict[str, list[int]]] = defaultdict(lambda: defaultdict(list))
    for number, step, under in fills:
        mine = [k for k, zone in enumerate(wish.zones) if zone in under]
        if mine:
            where = (step.thread, step.reach)
            turns[where][step.station] = min(*mine, turns[where].get(step.station, len(wish.zones)))
            spans[where][step.station].append(number)
    faults = []
    for where, there in turns.items():
        order = sorted(there, key=there.__getitem__)
        for before, after in itertools.pairwise(order):
            if max(spans[where][before]) > min(spans[where][after]):
                faults.append(
                    f"step {min(spans[where][after])}: comes before what it was to be kept after"
                )
    return faults


def _under(step, figures) -> set[str]:
    return set(figures[step.zone].zones) if step.zone in figures else {step.zone}


def _gone_along(steps, shapes) -> float:
    """Inches of travel along the edge of zones or through them, that belong to no run."""
    if not shapes:
        return 0.0
    ground = shapely.union_all(shapes).buffer(NEAR)
    return float(sum(
        shapely.intersection(shapely.linestrings(step.points), ground).length
        for step in steps if step.kind == "travel" and not step.run and len(step.points) > 1
    ))  # fmt: skip
