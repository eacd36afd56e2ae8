"""Wishes: the order in which a person wants the runs at a station, and what it costs."""

from __future__ import annotations

from collections.abc import Sequence

from chorograph_core.route.bundles import Bundle, Likeness
from chorograph_core.route.model import RunOrder


def wished_order(
    members: Sequence[tuple[Bundle, list[Likeness]]], orders: Sequence[RunOrder]
) -> list[int] | None:
    """The order asked for in a class of alike bundles, as runs of its first one; None where none is, or
    where it cannot be: an inner layer before the outer one of its zone."""
    wanted = {frozenset(order): order for order in orders}
    if not wanted:
        return None
    for bundle, how in members:
        numbers = {bundle.trail(number).key: number for number in bundle.trails}
        order = wanted.get(frozenset(numbers))
        if order is None or bundle.links or len(numbers) != len(bundle.trails):
            continue
        if filled_before_framed(bundle, order):
            return None
        back = {theirs: mine for mine, theirs in how[0].trails.items()}
        return [back[numbers[name]] for name in order]
    return None


def filled_before_framed(bundle: Bundle, order: Sequence[str]) -> str:
    """The zone in which *order* has an inner layer before an outer one; empty where there is none."""
    trails = {bundle.trail(number).key: bundle.trail(number) for number in bundle.trails}
    deepest: dict[str, int] = {}
    for name in order:
        trail = trails[name]
        if trail.layer < deepest.get(trail.zone, -1):
            return trail.zone
        deepest[trail.zone] = max(trail.layer, deepest.get(trail.zone, -1))
    return ""
