"""What happened on a job in another installation, taken in with it. Each thing is shown or reckoned with once
before it is kept: what cannot be is left out, with the reason."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Iterator
from typing import Any

from django.core.exceptions import ValidationError
from django.db import IntegrityError, models, transaction
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.dateparse import parse_date, parse_datetime

from chorograph_core.job import Job as CoreJob
from chorograph_core.steering.standing import as_it_is_now
from studio.carrying.history import TAP
from studio.finishing.models import Invoice, Measured
from studio.finishing.views import billed
from studio.job_log.models import Entry
from studio.jobs.models import Job
from studio.prices.lists import prices_of
from studio.prices.models import Prices
from studio.progress.models import Told
from studio.quotes.models import Acceptance, Quote
from studio.quotes.printing import context as quoted
from studio.stitching.job_times import log_of_job, parts_of_log
from studio.stitching.models import Tap
from studio.workbench.linework import DRAWINGS

MOST = 50_000
"""Rows of a kind that one job may bring."""
LARGEST_TEXT = 20_000
Fault = Callable[[str], None]


def take_history(job: Job, core: CoreJob, author, given: Any, fault: Fault) -> int:
    """Take in what *given* tells of *job*; how many things were. What is not sound is told to *fault*."""
    if not isinstance(given, dict):
        fault("what happened on it could not be read. Left out.")
        return 0
    count = sum(_sound(lambda row=row: _entry(job, row), fault) for row in _rows(given, "book"))
    for key, model, link, show in (
        ("quotes", Quote, "supersedes", _show_quote), ("invoices", Invoice, "replaces", _show_invoice),
    ):  # fmt: skip
        for row in _rows(given, key):
            count += _sound(
                lambda row=row, m=model, n=link, s=show: _frozen(job, m, n, row, s), fault
            )
    for row in _rows(given, "measured"):
        count += _sound(lambda row=row: _measured(job, author, row), fault)
    count += _sound(lambda: _taps(job, core, author, list(_rows(given, "taps"))), fault)
    count += _sound(lambda: _stands(job, core, author, given.get("stands")), fault)
    _state(job, given)
    return count


def _rows(values: dict[str, Any], key: str) -> Iterator[dict[str, Any]]:
    rows = values.get(key)
    return (row for row in (rows if isinstance(rows, list) else [])[:MOST] if isinstance(row, dict))


def _sound(keep: Callable[[], int], fault: Fault) -> int:
    """What *keep* keeps, whole or not at all."""
    try:
        with transaction.atomic():
            return keep()
    except ValidationError as error:
        fault(f"{' '.join(error.messages)[:160]} Left out.")
    except (IntegrityError, ValueError, TypeError, KeyError, AttributeError, ArithmeticError,
            LookupError, RecursionError) as error:  # fmt: skip
        fault(f"{str(error)[:160] or 'it is not whole'}. Left out.")
    return 0


def _at(row: dict[str, Any], name: str = "at") -> datetime.datetime:
    found = parse_datetime(str(row.get(name)))
    if found is None or not 1990 < found.year < 2200:
        raise ValueError("When it was is no time")
    return found if found.tzinfo else timezone.make_aware(found)


def _text(value: Any, most: int = LARGEST_TEXT) -> str:
    return str(value or "").replace("\0", "")[:most]


def _checked(row: Any) -> Any:
    """*row*, whose fields hold what they may; what may be nothing, or is text of any kind, is left alone."""
    free = {field.name for field in row._meta.concrete_fields
            if field.generated or field.is_relation or isinstance(field, models.JSONField)
            or (field.null and getattr(row, field.attname) is None)
            or (isinstance(field, models.TextField | models.CharField) and not field.choices)}  # fmt: skip
    row.clean_fields(exclude=free)
    return row


def _made(row: models.Model, at: datetime.datetime | None = None) -> Any:
    """*row* kept, as made *at* that time."""
    _checked(row).save()
    if at is not None:
        type(row)._default_manager.filter(pk=row.pk).update(at=at)
    return row


def _entry(job: Job, row: dict[str, Any]) -> int:
    who = _text(row.get("who"), 200)
    if str(row.get("text")).startswith("Taken in with its studio."):
        return 0
    entry = Entry(job=job, kind=_text(row.get("kind"), 8), text=_text(row.get("text")), who=who)
    _made(entry, _at(row))
    return 1


def _frozen(
    job: Job, model: Any, link: str, row: dict[str, Any], show: Callable[[Any], str]
) -> int:
    """A quote or an invoice under its own number, shown once before it is kept."""
    number, document = int(row["number"]), row["document"]
    name = model._meta.verbose_name
    if not isinstance(document, dict) or not 0 < number < 1_000_000:
        raise ValueError(f"{name} {number} is not whole")
    if model.objects.filter(studio=job.studio, number=number).exists():
        raise ValueError(f"there is a {name} {number} here already")
    before = row.get(link)
    earlier = model.objects.filter(job=job, number=before).first() if before else None
    made = model(studio=job.studio, job=job, number=number, document=document, **{link: earlier})
    made.save()
    model.objects.filter(pk=made.pk).update(at=_at(row))
    accepted = row.get("accepted")
    if isinstance(accepted, dict):
        level, by = _text(accepted.get("level"), 20), _text(accepted.get("name"), 120)
        taken = Acceptance(quote=made, level=level, name=by)
        if level not in {each["key"] for each in document["levels"]}:
            raise ValueError(f"{name} {number} was accepted at a level that it has not")
        _made(taken, _at(accepted))
    show(model.objects.get(pk=made.pk))
    field = "last_number" if model is Quote else "last_invoice"
    prices = Prices.objects.select_for_update().get(pk=prices_of(job.studio).pk)
    if getattr(prices, field) < number:
        Prices.objects.filter(pk=prices.pk).update(**{field: number})
    return 1


def _show_quote(quote: Quote) -> str:
    return render_to_string("quotes/quote.html", {**quoted(quote), "printing": True})


def _show_invoice(invoice: Invoice) -> str:
    return render_to_string("finishing/invoice.html", {**billed(invoice), "printing": True})


def _measured(job: Job, author, row: dict[str, Any]) -> int:
    sides = {}
    for name in ("widths", "heights"):
        values = row[name]
        if len(values) != 3 or not any(values):
            raise ValueError("the tape at the end is not whole")
        sides[name] = [None if each is None else float(each) for each in values]
        if not all(each is None or 0 < each < 400 for each in sides[name]):
            raise ValueError("the tape at the end measures no quilt")
    _made(Measured(job=job, author=author, **sides), _at(row))
    return 1


def _taps(job: Job, core: CoreJob, author, rows: list[dict[str, Any]]) -> int:
    """All of them, or none: a log is one thing. Their plan stays behind, what their legs were is in them."""
    made = []
    for row in rows:
        values = {name: row.get(name) for name in TAP} | {"at": _at(row)}
        values["claimed"] = _at(row, "claimed") if row.get("claimed") else None
        values |= {"text": _text(row.get("text"), 500), "device": _text(row.get("device"), 40)}
        tap = Tap(job=job, author=author, plan=None, **values)
        if not isinstance(tap.facts, dict):
            raise ValueError("a tap does not say what its leg was")
        made.append(_checked(tap))
    Tap.objects.bulk_create(made, batch_size=2000)
    parts_of_log(log_of_job(job), core)
    return len(made)


def _stands(job: Job, core: CoreJob, author, row: Any) -> int:
    if not isinstance(row, dict):
        return 0
    told = Told(
        job=job, author=author, kind=row["kind"], says=_text(row.get("says"), 300), state=row["state"],
        layers=row["layers"], minutes=float(row["minutes"]), by_taps=bool(row.get("by_taps")),
    )  # fmt: skip
    as_it_is_now(core, told.standing(), told.layers, DRAWINGS)
    _made(told)
    return 1


def _state(job: Job, given: dict[str, Any]) -> None:
    """Closed on a day, put away, at a level of work."""
    closed = parse_date(str(given["closed"])) if given.get("closed") else None
    away = timezone.now() if given.get("away") is True else None
    level = _text(given.get("level"), 20)
    Job.objects.filter(pk=job.pk).update(closed=closed, away=away, level=level)
