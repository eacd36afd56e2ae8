"""Ask for ways of working to be weighed, weigh them, and read what they take."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from functools import lru_cache
from typing import Any

from django.db import transaction
from django.utils import timezone

from chorograph_core.designs.caching import digest
from chorograph_core.formats import document as doc
from chorograph_core.job import Job as CoreJob
from chorograph_core.route import State
from chorograph_core.route.handing_over import Handover
from chorograph_core.route.keeping import Kept
from chorograph_core.route.model import Wish
from chorograph_core.steering.helping import best, candidates, in_words, read_help, with_help
from chorograph_core.steering.schools import (
    QUESTIONS,
    Priced,
    Question,
    alternatives,
    asked_of,
    by_minutes,
    mix_of,
    priced,
    recommended,
    unplanned,
)
from studio.asking import EditError
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import last_told
from studio.routes.models import engine
from studio.routes.planning import standing_of
from studio.schools.models import Weighed
from studio.workbench.handing import with_handover
from studio.workbench.linework import DRAWINGS
from studio.workbench.wishing import refuse_contradiction, wish_from, wish_values, with_wish

HELP = "help:"
FIRST = ("stabilise", "straight", "days")
"""Questions that are answered first: they change a plan most."""


def key_of(mix: Mapping[str, str]) -> str:
    """A mix of answers as one word."""
    return "&".join(f"{question}={answer}" for question, answer in sorted(mix.items()))


def mix_from(key: str) -> dict[str, str]:
    """The mix that a word stands for."""
    return dict(pair.split("=", 1) for pair in key.split("&") if pair)


def asked_mix(values: Mapping[str, Any], core: CoreJob) -> dict[str, str]:
    """The answers of a form in which the job would be worked otherwise than now. Raises EditError."""
    now = mix_of(core)
    mix = {}
    for question in QUESTIONS:
        answer = str(values.get(question.key, "")) or now.get(question.key, "")
        if question.key not in now or question.key == "applique" or answer == now[question.key]:
            continue
        if answer not in {each.key for each in question.answers}:
            raise EditError("Choose one of the answers that are offered.", question.key)
        mix[question.key] = answer
    return mix


def weighed_of(job: Job) -> dict[str, Weighed]:
    """All that was weighed of the job as it is and from where the work stands, by key."""
    found = Weighed.objects.filter(
        job=job, digest=job.head.work, engine=engine(), told=last_told(job)
    )
    return {each.key: each for each in found.order_by("pk")}


def ask_for_all(job: Job, core: CoreJob) -> None:
    """Have every way of working, and every change that may help, weighed on this quilt."""
    turn = {key: number for number, key in enumerate(FIRST)}
    asked = sorted(alternatives(core), key=lambda each: turn.get(each[0].key, len(turn)))
    keys = ["", *(key_of({question.key: answer.key}) for question, answer in asked)]
    keys += [HELP + json.dumps(change.values(), sort_keys=True)
             for change in candidates(core, DRAWINGS)]  # fmt: skip
    for number, key in enumerate(keys):
        _ask(job, key, number)


def ask_for_mix(job: Job, mix: Mapping[str, str]) -> Weighed:
    """Have one mix weighed, and what there is now beside it."""
    _ask(job, "", 0)
    return _ask(job, key_of(mix), 1)


def ask_for_wish(job: Job, core: CoreJob, wish: Wish) -> Weighed:
    """Have the job weighed with one wish more, and as it is beside it. Raises EditError for a wish against
    another."""
    refuse_contradiction((*core.policy.wishes, wish), core)
    _ask(job, "", 0)
    values = wish_values(wish)
    return _ask(job, f"wish:{digest([values])}", 1, values)


def ask_for_handover(job: Job, handover: Handover, form: Mapping[str, str]) -> Weighed:
    """Have the job weighed with part of it on another machine, and as it is beside it; *form* is what is sent
    again to keep it."""
    _ask(job, "", 0)
    values = {"handover": doc.write(handover), "form": dict(form)}
    return _ask(job, f"wish:{digest([values])}", 1, values)


def with_asked(core: CoreJob, values: Mapping[str, Any]) -> CoreJob:
    """The job with what was asked to be weighed: a wish more, or part of it on another machine."""
    if "handover" in values:
        return with_handover(core, doc.read(values["handover"], Handover))
    return with_wish(core, wish_from(values))


def _ask(job: Job, key: str, number: int, wish: Mapping[str, Any] | None = None) -> Weighed:
    from studio.schools.tasks import weigh

    with transaction.atomic():
        one, made = Weighed.objects.get_or_create(
            job=job, digest=job.head.work, engine=engine(), told=last_told(job), key=key,
            defaults={"wish": dict(wish or {})},
        )  # fmt: skip
        if not made and (one.state == "done" or one.waiting):
            return one
        Weighed.objects.filter(pk=one.pk).update(state="queued", asked=timezone.now(), says="")
        # Two workers share them; a route that somebody waits for comes first.
        queue = ("plans", "readings")[number % 2]
        later = weigh.configure(queue=queue, priority=-5)
        transaction.on_commit(lambda: later.defer(weighed_id=one.pk))
    return one


def carry_out(one: Weighed) -> None:
    """Plan it and keep its figures; what cannot be is kept as a sentence."""
    job = one.job
    if job.head.work != one.digest:
        one.delete()
        return
    core = core_job(job)
    try:
        if one.key.startswith(HELP):
            core = with_help(core, read_help(json.loads(one.key.removeprefix(HELP))))
        # Where it is stitched already, another design changes nothing any more.
        state, _ = standing_of(job, core, one.told)
        if one.key.startswith(HELP):
            made = priced(core, {}, DRAWINGS, state)
        elif one.wish:
            kept = _kept(job.head.body_id)
            made = priced(with_asked(core, one.wish), {}, DRAWINGS, state, kept)
        else:
            made = _of_mix(one, core, mix_from(one.key), state)
    except (KeyError, ValueError) as error:
        Weighed.objects.filter(pk=one.pk).update(state="failed", says=str(error)[:300])
        return
    Weighed.objects.filter(pk=one.pk).update(
        state="done", result=asdict(made), says=made.refused[:300]
    )


@lru_cache(maxsize=2)
def _kept(digest: str) -> Kept:
    """What plans of one document share, while it is worked in one way after another."""
    return Kept()


def _of_mix(one: Weighed, core: CoreJob, mix: Mapping[str, str], state: State) -> Priced:
    """The price of a mix: from what is known of the job as it is where the route stays the same."""
    now = price_in(Weighed.objects.filter(
        job=one.job, digest=one.digest, engine=one.engine, told=one.told, key=""
    ).first())  # fmt: skip
    if len(mix) == 1 and now is not None and state.fresh:
        ((question, answer),) = mix.items()
        known = unplanned(question, answer, now, core, DRAWINGS)
        if known is not None:
            return known
    return priced(core, mix, DRAWINGS, state, _kept(one.job.head.body_id))


@dataclass
class Row:
    """An answer in the table: its figures, what it takes *more* minutes than what there is now."""

    answer: Any
    chosen: bool
    price: Priced | None
    more: float | None
    waits: bool
    says: str = ""
    best: bool = False


@dataclass
class Part:
    """A question with its rows, and why the one that is recommended is."""

    question: Question
    rows: list[Row]
    why: str = ""
    mixable: bool = True


@dataclass
class Offered:
    """A change that would help: in words, minutes it saves, what it is taken by."""

    text: str
    saves: float
    name: str
    values: list[tuple[str, str]] = field(default_factory=list)


def table_context(job: Job, core: CoreJob, units: str, mix: Mapping[str, str]) -> dict[str, Any]:
    """Everything the page of schools shows; *mix* is what she is trying."""
    there = weighed_of(job)
    now = price_in(there.get(""))
    parts = [_part(question, core, there, now, mix) for question in asked_of(core)]
    mixed = there.get(key_of(mix)) if mix else None
    done = [key for key, each in there.items() if each.state != "queued"]
    return {
        "parts": parts,
        "now": now,
        "mix": mix,
        "mixed": price_in(mixed),
        "mix_waits": mixed is not None and mixed.waiting,
        "mix_says": mixed.says if mixed is not None else "",
        "mix_more": _more(price_in(mixed), now),
        "mix_words": _words(core, mix),
        "mix_values": sorted(mix.items()),
        "helps": _helps(core, there, now, parts, units),
        "waits": any(each.waiting for each in there.values()),
        "asked": len(there), "done": len(done),
        "helping": any(key.startswith(HELP) and each.waiting for key, each in there.items()),
    }  # fmt: skip


def _part(
    question: Question, core: CoreJob, there: Mapping[str, Weighed], now: Priced | None, mix
) -> Part:  # fmt: skip
    has = question.now(core)
    rows, prices = [], {}
    for answer in question.answers:
        one = there.get("" if answer.key == has else key_of({question.key: answer.key}))
        price = price_in(one)
        if price is not None:
            prices[answer.key] = price
        rows.append(Row(answer, mix.get(question.key, has) == answer.key, price,
                        _more(price, now), one is not None and one.waiting,
                        one.says if one is not None else ""))  # fmt: skip
    why = ""
    if len(prices) == len(question.answers):
        key, why = recommended(question, prices, core)
        for row in rows:
            row.best = row.answer.key == key and by_minutes(question)
    return Part(question, rows, why, question.key != "applique")


def _helps(core, there, now, parts: list[Part], units: str) -> list[Offered]:
    if now is None:
        return []
    saved = []
    for key, one in there.items():
        price = price_in(one)
        if key.startswith(HELP) and price is not None and not price.refused:
            saved.append((read_help(json.loads(key.removeprefix(HELP))), now.whole - price.whole))
    offered = [
        Offered(in_words(core, change, units), saves, "help",
                [("help", json.dumps(change.values(), sort_keys=True))])
        for change, saves in best(saved)
    ]  # fmt: skip
    for part in parts:
        for row in part.rows:
            if row.best and not row.chosen and row.price is not None:
                text = f"{part.question.name.lower()}: {row.answer.name}"
                offered.append(Offered(text, now.whole - row.price.whole, "mix",
                                       [(part.question.key, row.answer.key)]))  # fmt: skip
    return sorted(offered, key=lambda each: -each.saves)[:3]


def price_in(one: Weighed | None) -> Priced | None:
    """The figures of what was weighed; None where there are none yet."""
    if one is None or one.state != "done":
        return None
    # What was weighed by an older release may say more.
    known = {each.name for each in fields(Priced)}
    return Priced(**{name: value for name, value in one.result.items() if name in known})


def _more(price: Priced | None, now: Priced | None) -> float | None:
    if price is None or now is None or price.refused:
        return None
    return price.whole - now.whole


def _words(core: CoreJob, mix: Mapping[str, str]) -> str:
    by_key = {question.key: question for question in QUESTIONS}
    return ", ".join(by_key[key].answer(answer).name for key, answer in sorted(mix.items()))
