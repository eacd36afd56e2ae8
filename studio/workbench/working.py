"""How a job is worked: schools, mixes of them, orders of one's own, changes that help."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.steering.helping import read_help, with_help
from chorograph_core.steering.schools import QUESTIONS, as_mix
from studio.asking import EditError
from studio.plain import plain
from studio.workbench.edits import drawn_first


def _words_of(key: str) -> dict[str, str]:
    """The answers to a question on which quilters differ, in words."""
    (question,) = [each for each in QUESTIONS if each.key == key]
    return {answer.key: answer.name for answer in question.answers}


SCHOOLS, TECHNIQUES = _words_of("stabilise"), _words_of("technique")
EDGES, DAYS, OVERSIZED = _words_of("edges"), _words_of("days"), _words_of("oversized")
"""What may be chosen beside the route; all questions stand on the page of ways of working."""


def choose_school(
    core: CoreJob, school: str, technique: str, edges: str, days: str = "", oversized: str = ""
) -> CoreJob:
    """The questions that are answered beside the route. What is empty stays as it is."""
    return choose_mix(core, {"stabilise": school, "technique": technique, "edges": edges,
                             "days": days, "oversized": oversized})  # fmt: skip


def choose_mix(core: CoreJob, values: Any) -> CoreJob:
    """Work by other answers where quilters differ; what is not answered stays. The client decides about her
    appliqué, in the intake."""
    mix = {question.key: values.get(question.key, "") for question in QUESTIONS
           if question.key != "applique" and values.get(question.key)}  # fmt: skip
    try:
        return as_mix(core, mix)
    except KeyError:
        raise EditError("Choose one of the answers that are offered.") from None


def take_help(core: CoreJob, asked: str) -> CoreJob:
    """One of the changes that were tried and would help, or several together."""
    try:
        read = json.loads(asked)
        changed = core
        for each in read if isinstance(read, list) and read else [read]:
            changed = with_help(changed, read_help(each))
    except (ValueError, TypeError, AttributeError) as error:
        raise EditError(str(error) or "This is no change that was offered.") from None
    for before, after in zip(core.legend, changed.legend, strict=True):
        if before is not after and before.layers != after.layers:
            drawn_first(changed, after.id, DrawingCache())
    return changed


MOST_RUNS, LONGEST_NAME = 400, 260


def runs_from(values: Any, name: str = "run") -> tuple[str, ...]:
    """Names of runs in the order that was asked for."""
    names = tuple(plain(each, LONGEST_NAME) for each in values.getlist(name)[: MOST_RUNS + 1])
    if not 2 <= len(names) <= MOST_RUNS or len(set(names)) < len(names) or "" in names:
        raise EditError("Put two or more different lines in order.")
    return names


def choose_order(core: CoreJob, order: tuple[str, ...], instead: Sequence[str] = ()) -> CoreJob:
    """Do the runs at a station, and at all that are alike, in this order; *instead* of another that was
    given to them."""
    asked = {one.key(k) for one in job_linework(core) for k in range(len(one.linework.runs))}
    if not set(order) <= asked:
        raise EditError("These lines are no longer there; plan the route again.")
    kept = drop_order(drop_order(core, tuple(instead)), order)
    return replace(core, policy=replace(core.policy, orders=(*kept.policy.orders, order)))


def drop_order(core: CoreJob, order: tuple[str, ...]) -> CoreJob:
    """Leave the order of these runs to the planner again."""
    others = tuple(o for o in core.policy.orders if frozenset(o) != frozenset(order))
    return replace(core, policy=replace(core.policy, orders=others))
