"""Wishes of the route: read, told in words, kept and taken back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from chorograph_core.job import Job as CoreJob
from chorograph_core.route.model import Wish
from chorograph_core.route.precedence import contradiction
from studio.asking import EditError

KINDS = {
    "first": "first",
    "last": "last",
    "before": "before the others",
    "around": "no travel along their seams",
    "drawn": "begun and ended where they are drawn",
}
"""What may be wished of zones, in words."""
MOST = 60


def wish_values(wish: Wish) -> dict[str, Any]:
    """A wish as plain values; `wish_from` reads them back."""
    return {"kind": wish.kind, "zones": list(wish.zones), "others": list(wish.others),
            "thread": wish.thread}  # fmt: skip


def wish_from(values: Mapping[str, Any]) -> Wish:
    """The wish that was written by `wish_values`."""
    return Wish(values["kind"], tuple(values["zones"]), tuple(values["others"]),
                values.get("thread", ""))  # fmt: skip


def asked_wish(
    core: CoreJob, kind: str, zones: Sequence[str], others: Sequence[str], thread: str = ""
) -> Wish:
    """What was wished of some zones, in one *thread* or in all. Raises EditError."""
    if thread and thread not in {each.key for each in core.threads}:
        raise EditError("This thread is no longer in the job; mark the part again.")
    there = {zone.id for zone in core.zones}
    mine = tuple(name for name in zones if name in there)
    if kind not in {*KINDS, "kept"}:
        raise EditError("Say what you wish of them.", "kind")
    if not mine:
        raise EditError("Touch the zones on the sheet first.")
    if kind != "before":
        return Wish(kind, mine, thread=thread)
    theirs = tuple(name for name in others if name in there and name not in set(mine))
    if not theirs:
        raise EditError("Touch those that come after them on the sheet, other ones than these.")
    return Wish("before", mine, theirs, thread)


def wish_in_words(core: CoreJob, wish: Wish) -> str:
    """A wish as a sentence."""
    mine = _named(core, wish.zones)
    threads = {thread.key: thread.name for thread in core.threads}
    only = f", in {threads.get(wish.thread, wish.thread)}" if wish.thread else ""
    told = {
        "first": f"{mine} first in their thread and pass",
        "last": f"{mine} last in their thread and pass",
        "before": f"{mine} before {_named(core, wish.others)}",
        "around": f"no travel along the seams of {mine}",
        "drawn": f"{mine} begun and ended where drawn",
        "kept": f"{mine} in the order they have",
    }[wish.kind]
    return told + only


def _named(core: CoreJob, zones: Sequence[str]) -> str:
    names = {zone.id: zone.label or zone.id for zone in core.zones}
    told = list(dict.fromkeys(names.get(zone, "a zone that is gone") for zone in zones))
    if len(told) <= 2:
        return " and ".join(told)
    return f"{told[0]} and {len(zones) - 1} more"


def refuse_contradiction(wishes: Sequence[Wish], core: CoreJob) -> None:
    """Raise EditError that names the wishes that cannot all be kept."""
    places = contradiction(wishes)
    if places:
        told = "; ".join(wish_in_words(core, wishes[place]) for place in places)
        raise EditError(f"These wishes contradict each other: {told}. Take one of them back.")


def with_wish(core: CoreJob, wish: Wish) -> CoreJob:
    """The job with one wish more, unless it has it. Raises EditError."""
    if wish in core.policy.wishes:
        return core
    if len(core.policy.wishes) >= MOST:
        raise EditError(f"More than {MOST} wishes are no plan any more; take some back.")
    wishes = (*core.policy.wishes, wish)
    refuse_contradiction(wishes, core)
    return replace(core, policy=replace(core.policy, wishes=wishes))


def without_wish(core: CoreJob, number: int) -> CoreJob:
    """The job with a wish taken back. Raises EditError."""
    wishes = core.policy.wishes
    if not 0 <= number < len(wishes):
        raise EditError("This wish is gone already.")
    kept = (*wishes[:number], *wishes[number + 1 :])
    return replace(core, policy=replace(core.policy, wishes=kept))
