"""One quilt on two machines: what of it goes to the other one, and the route through both.

The first machine stabilises and bastes; on a frame the whole quilt is basted before anything else, so that
it can be taken off. What is handed over is stitched afterwards on the other, each place's basting taken out
first. Between the two the thread is cut and the quilt is carried over, once: it is never loaded again for
what was forgotten, which is then stitched where the quilt lies.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
from msgspec import Meta

from chorograph_core.designs.legend import LayerLinework, ZoneId
from chorograph_core.reckon import Machine
from chorograph_core.route.model import Floor, Policy, Route, State, Step, Wish

MOVED = "moved"
"""What is done, by its name, once the quilt lies under the other machine."""
LATER = "What comes before them is stitched on the other machine, afterwards."


@dataclass(frozen=True)
class Handover:
    """What of a quilt is stitched on another *machine*: whole *zones*, *who* stitches there."""

    machine: Machine
    zones: Annotated[tuple[ZoneId, ...], Meta(min_length=1, max_length=20_000)]
    who: Annotated[str, Meta(max_length=120)] = ""


@dataclass(frozen=True)
class Turn:
    """Which part of a quilt's work a plan is: *first* is the machine on which it was basted, where that was
    another one, and *stays* the linework of its part; *last* whether nothing comes after it; *paths* how many
    paths have a letter already; *thread* the one to baste in, where nothing else is done; *keep* the zones in
    which the first machine leaves the basting, for the other."""

    first: Machine | None = None
    stays: Sequence[LayerLinework] = ()
    last: bool = True
    paths: int = 0
    thread: str = ""
    keep: Collection[str] = ()


ALL_OF_IT = Turn()


def on_frame_first(policy: Policy) -> Policy:
    """The way of working of a quilt that is to be taken off its frame: all of it basted at first."""
    return replace(policy, days="basted")


def handed(drawn: Sequence[LayerLinework], zones: Collection[str]) -> tuple[list, list]:
    """What of some linework stays, and what goes to the other machine: that of *zones*, and figures that lie
    in nothing else."""
    there = set(zones)
    stays: list[LayerLinework] = []
    goes: list[LayerLinework] = []
    for one in drawn:
        under = one.figure.zones if one.figure is not None else (one.zone,)
        (goes if there.issuperset(under) else stays).append(one)
    return stays, goes


def in_turn(
    drawn: Sequence[LayerLinework],
    machine: Machine,
    handover: Handover,
    policy: Policy,
    state: State,
    plan: Callable[[Sequence[LayerLinework], Machine, Policy, State, Turn], Route],
) -> Route:
    """The route through both machines, each part made by *plan*; where the quilt was carried over, all that
    is left is stitched there. Raises what *plan* raises."""
    policy = on_frame_first(policy)
    stays, goes = handed(drawn, handover.zones)
    if MOVED in state.done:
        route = plan(
            drawn, handover.machine, policy, state, Turn(machine, stays, keep=handover.zones)
        )
        return replace(route, passes=_another(route.passes, 0))
    if not goes:
        return plan(stays, machine, policy, state, ALL_OF_IT)
    one = plan(
        stays, machine, policy, state, Turn(last=False, thread=goes[0].thread, keep=handover.zones)
    )
    # Its bobbins stay with the first machine; lines that were begun on it go on as they are.
    over = State(one.end.done | {MOVED}, begun=state.begun, sewn=state.sewn)
    two = plan(
        goes,
        handover.machine,
        policy,
        over,
        Turn(machine, stays, paths=len(one.paths), keep=handover.zones),
    )
    if not two.steps:
        return one
    return _joined(one, two, handover.machine, policy.wishes, goes)


def _joined(
    one: Route, two: Route, machine: Machine, wishes: Sequence[Wish], goes: Sequence[LayerLinework]
) -> Route:
    reaches = max((each.number for each in one.passes), default=0)
    move = Step(
        "move", np.empty((0, 2)), machine.rates.move, thread="", run=MOVED, reach=reaches + 1,
        reason=f"the rest is stitched on the {machine.name}",
    )  # fmt: skip
    after = [replace(step, reach=step.reach + reaches) for step in two.steps]
    inches = dict(one.thread_inches)
    for thread, more in two.thread_inches.items():
        inches[thread] = inches.get(thread, 0.0) + more
    away = {zone for each in goes
            for zone in (each.figure.zones if each.figure is not None else (each.zone,))}  # fmt: skip
    notes = {**one.notes, **two.notes, **_too_late(wishes, away)}
    notes = {number: why for number, why in notes.items() if not _by_turns(wishes[number], away)}
    return Route(
        [*one.steps, move, *after], _sum(one.floor, two.floor), one.zones + two.zones,
        one.seconds + two.seconds, notes, [*one.drawn, *two.drawn], inches, two.end,
        (*one.passes, *_another(two.passes, reaches)), (*one.paths, *two.paths), one.laying,
        {**one.figures, **two.figures}, tuple(sorted({*one.redrawn, *two.redrawn})),
        lambda: _sum(one.bounded().floor, two.bounded().floor),
    )  # fmt: skip


def _another(passes, after: int):
    return tuple(replace(each, number=each.number + after, another=True) for each in passes)


def _sum(one: Floor, two: Floor) -> Floor:
    return Floor(
        one.links + two.links, one.changes + two.changes, (*one.stages, *two.stages),
        one.rolls + two.rolls, one.lookups + two.lookups, one.layings + two.layings,
        one.together + two.together,
    )  # fmt: skip


def _by_turns(wish: Wish, away: set[str]) -> bool:
    """Whether the turns of the machines keep a wish by themselves."""
    return wish.kind == "before" and away.isdisjoint(wish.zones) and away.issuperset(wish.others)


def _too_late(wishes: Sequence[Wish], away: Collection[str]) -> dict[int, str]:
    """Wishes that something of the other machine comes before what stays."""
    return {
        number: LATER
        for number, wish in enumerate(wishes)
        if wish.kind == "before"
        and not set(wish.zones).isdisjoint(away)
        and not set(wish.others) <= set(away)
    }
