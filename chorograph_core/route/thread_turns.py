"""How often the thread is changed at least, in whatever order threads come within what is done in one go."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import groupby

from chorograph_core.route.model import Policy, Stage


def turns_of(stages: Iterable[Stage], policy: Policy) -> list[frozenset[str]]:
    """The threads of what is done one after the other by the *policy*, in whatever order within each: all
    ditches of the quilt and then all fillings, or of each pass; or place after place. Where the quilt is
    rolled under the needle nothing is said but which threads there are."""
    worked = list(stages)
    every = [frozenset(each.thread for each in worked)] if worked else []
    by_place = policy.stabilise == "zone"
    if any(each.through or (each.level and not by_place) for each in worked):
        return every

    def turn(each: Stage) -> tuple:
        if by_place:
            return (each.reach, each.place, each.level)
        return (each.kind, 0 if policy.stabilise == "quilt" else each.reach)

    grouped = [
        (key, frozenset(each.thread for each in some)) for key, some in groupby(worked, turn)
    ]
    # What is come back to is not in the order of the policy alone.
    once = len({key for key, _ in grouped}) == len(grouped)
    return [threads for _, threads in grouped] if once else every


def least_turns(turns: Sequence[frozenset[str]], first: str = "") -> int:
    """The fewest changes of thread in which all of each turn are stitched before the next, with *first* in
    the needle (empty: none, and the first thread costs nothing).

    >>> least_turns([frozenset("a"), frozenset("bc"), frozenset("a"), frozenset("bc")])
    5
    """
    cost: dict[str, int] = {first: 0}
    for threads in turns:
        inner = len(threads) - 1
        cost = {
            last: min(
                before + (was != enter and bool(was)) + inner
                for was, before in cost.items()
                for enter in threads
                if enter != last or not inner
            )
            for last in threads
        }
    return min(cost.values())
