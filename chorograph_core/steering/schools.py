"""Schools of working, each priced on this very quilt by a plan of its own.

Where quilters differ there is a question with answers; an answer makes another job of the same quilt. What
each takes is found by planning it, never by a rule of thumb; what it risks is said beside it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.drawing import EDGE_FINISHES
from chorograph_core.designs.figures import wholes
from chorograph_core.job import Job, job_linework, planned_job
from chorograph_core.route import PlanError, Route, State
from chorograph_core.route.keeping import Kept
from chorograph_core.route.marking import PENS, batches

Change = Callable[[Job], Job]
COVER, CARD, LINE = 1.6, 0.1, 0.036
"""Pages of a run sheet that its cover, the card of a path, and a thing told of the way take."""


@dataclass(frozen=True)
class Answer:
    """One way of working: its *key* within its question, its *name*, what it *risks*, and the job that is
    worked so."""

    key: str
    name: str
    risks: str
    change: Change


@dataclass(frozen=True)
class Question:
    """Where quilters differ, the *answers*, and which of them a job has (*now*)."""

    key: str
    name: str
    answers: tuple[Answer, ...]
    now: Callable[[Job], str]
    frame_only: bool = False

    def answer(self, key: str) -> Answer:
        """The answer called *key*; KeyError if there is none."""
        for each in self.answers:
            if each.key == key:
                return each
        raise KeyError(key)


def _policy(key: str, name: str, risks: str, **values) -> Answer:
    return Answer(key, name, risks, lambda job: replace(job, policy=replace(job.policy, **values)))


def _machine(key: str, name: str, risks: str, **values) -> Answer:
    return Answer(
        key, name, risks, lambda job: replace(job, machine=replace(job.machine, **values))
    )


QUESTIONS: tuple[Question, ...] = (
    Question("stabilise", "Stabilising", (
        _policy("quilt", "the whole quilt first", "rolls the quilt through once for every thread",
                stabilise="quilt"),
        _policy("pass", "all of a pass first", "changes the thread in every pass; what lies in the next can "
                "still shift a little", stabilise="pass"),
        _policy("zone", "place by place", "what is not yet stabilised beside a filled place is pushed along",
                stabilise="zone"),
    ), lambda job: "pass" if job.policy.stabilise == "free" else job.policy.stabilise),
    Question("technique", "Order of fillings", (
        _policy("mixed", "block by block", "another motif in the hand at every zone", technique="mixed"),
        _policy("ruler", "ruler work first, then freehand", "comes by every place twice", technique="ruler"),
        _policy("design", "one design after the other", "comes by every place as often as it has designs",
                technique="design"),
    ), lambda job: job.policy.technique),
    Question("straight", "Straight lines", (
        _policy("ruler", "ruler against the seam", "the ruler may slip; close lines show every error",
                straight="ruler"),
        _policy("lock", "channel lock where they run with the frame", "straight in space, not along a seam "
                "that is not quite straight; leaders must be square", straight="lock"),
        _policy("eye", "by eye", "every wobble shows in long lines, most on plain fabric; lines are drawn "
                "first", straight="eye"),
    ), lambda job: job.policy.straight),
    Question("edges", "Edges", (
        _policy("baste", "basted pass by pass", "basting to be taken out where no binding hides it",
                edges="baste"),
        _policy("float", "left to float", "an edge that is not held is drawn in", edges="float"),
        _policy("border", "locked by the border’s seam first", "its raw edge hangs free until it is filled",
                edges="border"),
    ), lambda job: job.policy.edges, frame_only=True),
    Question("days", "Days", (
        _policy("passes", "pass after pass", "a day ends in the middle of a pass", days="passes"),
        _policy("basted", "whole quilt basted first", "all basting is stitched once and taken out once",
                days="basted"),
    ), lambda job: job.policy.days, frame_only=True),
    Question("oversized", "Lines longer than the reach", (
        _policy("less", "whichever loses less", "some are cut, some rolled", oversized="less"),
        _policy("split", "split and cut", "a join to be hidden in every one", oversized="split"),
        _policy("roll", "rolled on and back", "the line may jump when the quilt is rolled, needle down",
                oversized="roll"),
    ), lambda job: job.policy.oversized, frame_only=True),
    Question("tails", "Tails", (
        _machine("cut", "tiny stitches and cut", "a thick spot at each start, seen with thick thread",
                 bury=False),
        _machine("bury", "long tails, buried by hand", "takes the evenings after", bury=True),
    ), lambda job: "bury" if job.machine.bury else "cut"),
    Question("reach", "Standing or sitting", (
        _machine("stand", "standing, full depth", "harder on the back at the far end of the throat",
                 seated=False),
        _machine("sit", "sitting, half depth", "the quilt is rolled more often", seated=True),
    ), lambda job: "sit" if job.machine.seated else "stand", frame_only=True),
    Question("marking", "Marking", (
        _policy("all", "everything", "marks must come out again; test the pen on a scrap", marking="all"),
        _policy("spines", "centres and spines only", "target dots are found by eye", marking="spines"),
        _policy("none", "nothing", "spacings grow and shrink unseen until it is too late", marking="none"),
    ), lambda job: job.policy.marking),
    Question("pen", "Marking with", (
        _policy("chalk", "chalk", "rubs off where the quilt is rolled", pen="chalk"),
        _policy("soluble", "water-soluble pen", "to be wetted out and dried; set for ever by an iron",
                pen="soluble"),
        _policy("fading", "air-fading pen", "gone within hours: marked just before use", pen="fading"),
        _policy("humid", "air-fading pen, humid day", "gone within an hour: marked just before use",
                pen="humid"),
        _policy("crease", "crease marker", "no colour: hard to see on prints", pen="crease"),
    ), lambda job: job.policy.pen),
    Question("retrace", "Going back over a line", (
        _policy("on", "exactly on it", "thread piles up; what misses the line shows, most in contrast thread",
                retrace="on"),
        _policy("beside", "beside it, like a ribbon", "a second line beside the first, which is meant",
                retrace="beside"),
    ), lambda job: job.policy.retrace),
    Question("applique", "Appliqué", (
        _policy("leave", "left open", "large shapes rise and may sag with time", applique="leave"),
        _policy("outline", "outline only", "large shapes may rise", applique="outline"),
        _policy("light", "light holding lines", "lines on her appliqué: only if the client allows",
                applique="light"),
        _policy("full", "quilted like the rest", "flattens it: only if the client allows", applique="full"),
    ), lambda job: job.policy.applique),
)  # fmt: skip
"""Where quilters differ, as far as it changes what a quilt takes."""


def worked(job: Job, ways: Mapping[str, str]) -> Job:
    """The job worked as a studio usually works: *ways* are answers by their questions, and ``edge_finish``.
    What is no answer any more is left as it is."""
    for question in QUESTIONS:
        found = next(
            (each for each in question.answers if each.key == ways.get(question.key)), None
        )
        if found is not None and found.key != question.now(job):
            job = found.change(job)
    finish: Any = ways.get("edge_finish")
    if finish in EDGE_FINISHES:
        job = replace(job, policy=replace(job.policy, edge_finish=finish))
    return job


@dataclass(frozen=True)
class Priced:
    """What a way of working takes on this quilt, minutes at the machine; *refused* where it cannot be."""

    minutes: float = 0.0
    rolls: int = 0
    cuts: int = 0
    layings: int = 0
    lookups: int = 0
    marking: float = 0.0
    hands: float = 0.0
    paths: int = 0
    refused: str = ""

    @property
    def pages(self) -> int:
        """Pages of the run sheet, about: the cover, a share for each path's card, and lines that lead from
        place to place. Fitted to sheets laid out on Letter; they lie within a page or a sixth of it."""
        lines = self.lookups + self.rolls + self.cuts
        return max(1, math.ceil(COVER + CARD * self.paths + LINE * lines))

    @property
    def whole(self) -> float:
        """Minutes at the machine, and those of the needle in the hand afterwards."""
        return self.minutes + self.hands


def asked_of(job: Job) -> list[Question]:
    """The questions that this quilt and machine raise. What is to be taken off its frame is basted first."""
    settled = {"days"} if job.handover is not None else set()
    if not any(patch.role == "applique" for patch in job.chart.patches):
        settled.add("applique")
    frame = job.machine.kind == "frame"
    return [
        question
        for question in QUESTIONS
        if (frame or not question.frame_only) and question.key not in settled
    ]


def as_mix(job: Job, mix: Mapping[str, str]) -> Job:
    """The job worked by the answers in *mix*; KeyError for one that nobody gives. Questions that it leaves
    out stay as they are."""
    for question in QUESTIONS:
        if question.key in mix:
            job = question.answer(mix[question.key]).change(job)
    return job


def mix_of(job: Job) -> dict[str, str]:
    """How the job is worked now."""
    return {question.key: question.now(job) for question in asked_of(job)}


def priced(
    job: Job,
    mix: Mapping[str, str],
    cache: DrawingCache,
    state: State | None = None,
    kept: Kept | None = None,
) -> Priced:
    """What *job* takes when it is worked by *mix*, from *state* on: a plan of its own, searched as little
    as a first answer is, so that ways are compared by the same search. *kept* is for one job priced in many
    ways."""
    other = as_mix(job, mix)
    quick = replace(other, policy=replace(other.policy, effort=0))
    try:
        return price_of(quick, planned_job(quick, cache, state=state, kept=kept, bound=False,
                                           layings=False))  # fmt: skip
    except PlanError as error:
        return Priced(refused=str(error))


def unplanned(
    question: str, answer: str, now: Priced, job: Job, cache: DrawingCache
) -> Priced | None:
    """The price of a way that changes nothing of the route but its marks, from what it takes *now*; None
    where it takes a plan."""
    if question == "marking":
        other = as_mix(job, {question: answer})
        drawn = wholes(job_linework(other, cache))
        rates = other.loaded_machine.rates
        marking = sum(each.seconds for each in batches(drawn, other.policy, rates)) / 60
        out = _wetting(job) * ((marking > 0) - (now.marking > 0))
        return replace(now, minutes=now.minutes - now.marking + marking + out, marking=marking)
    if question == "pen":
        other = as_mix(job, {question: answer})
        marked = now.marking > 0
        return replace(now, minutes=now.minutes + marked * (_wetting(other) - _wetting(job)))
    return None


def _wetting(job: Job) -> float:
    """Minutes that taking out the marks takes."""
    return job.machine.rates.unmark if PENS[job.policy.pen].wetted else 0.0


def price_of(job: Job, route: Route) -> Priced:
    """The figures of a route by which ways of working are compared."""
    layings = 0 if job.policy.straight == "eye" else route.layings + sum(
        step.count for step in route.steps if step.kind == "ruler"
    )  # fmt: skip
    buried = job.machine.rates.bury if job.machine.bury else 0.0
    return Priced(
        route.minutes - route.cuts * buried / 60, route.rolls, route.cuts, layings,
        sum(step.kind == "path" for step in route.steps),
        sum(step.seconds for step in route.steps if step.kind == "mark") / 60,
        route.cuts * buried / 60, len(route.paths),
    )  # fmt: skip


def by_minutes(question: Question) -> bool:
    """Whether minutes can tell which answer is the better one."""
    return question.key not in _BY_HAND


def recommended(question: Question, prices: Mapping[str, Priced], job: Job) -> tuple[str, str]:
    """The answer that this quilt speaks for, and the reason in a sentence; the present one where it is not
    worth a change."""
    now = question.now(job)
    there = {key: each for key, each in prices.items() if not each.refused}
    if now not in there:
        return now, ""
    least = min(there, key=lambda key: (round(there[key].whole), key != now))
    if question.key in _BY_HAND:
        return now, _BY_HAND[question.key]
    if question.key == "edges":
        return _edges(job, there, now)
    gain = there[now].whole - there[least].whole
    if least == now or gain < WORTH:
        return now, "nothing else saves five minutes" if least != now else "takes least"
    return least, f"saves {gain:.0f} min{_by(there[now], there[least])}"


WORTH = 5.0
"""Minutes that a change of habit must save before it is recommended."""
_BY_HAND = {
    "straight": "a hand decides: by eye is quickest and shows every wobble",
    "pen": "a scrap decides: try every pen and every wetting on one",
    "marking": "unmarked spacings cost more when they go wrong than marks take",
    "applique": "the client decides",
    "retrace": "the eye decides: where thread and fabric differ a ribbon is meant, a missed line is not",
    "reach": "the body decides",
    "tails": "what shows decides: bury where thread and fabric differ",
}  # fmt: skip
"""What no minutes decide."""


def _edges(job: Job, there: Mapping[str, Priced], now: str) -> tuple[str, str]:
    """A border that is fuller than the body is locked first; else basting is worth its minutes."""
    if job.tucks and "border" in there:
        return "border", "the tape says that the border is fuller than the body"
    if "baste" not in there:
        return now, ""
    cost = there["baste"].whole - min(each.whole for each in there.values())
    return "baste", f"{cost:.0f} min against an edge that waves"


def _by(before: Priced, after: Priced) -> str:
    """What a difference comes from, the largest first."""
    kinds = [
        (before.rolls - after.rolls, "roll"), (before.cuts - after.cuts, "cut"),
        (before.lookups - after.lookups, "look-up"), (before.layings - after.layings, "laying"),
    ]  # fmt: skip
    told = [f"{n} {word}{'s' if n != 1 else ''} less" for n, word in kinds if n > 0]
    return f": {', '.join(told[:3])}" if told else ""


def alternatives(job: Job) -> Sequence[tuple[Question, Answer]]:
    """Every answer that the job does not have now, those that change most of a plan first."""
    return [
        (question, answer)
        for question in asked_of(job)
        for answer in question.answers
        if answer.key != question.now(job)
    ]
