"""Quotes as frozen documents: issue, supersede, accept; and the links that lead to them."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import replace

from django.core import signing
from django.db import IntegrityError, transaction
from django.utils import timezone

from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job
from studio.languages.telling import told
from studio.outbox.models import Letter
from studio.plain import plain
from studio.quotes.frozen import numbered
from studio.quotes.holding import DAYS_HELD, held_until, note_held
from studio.quotes.models import Acceptance, ClientLink, Quote
from studio.quotes.pricing import Dated, dated_offers
from studio.templatetags.measures import money
from studio.writing import written_as, written_day

SALT = "chorograph.client-link"
FEWEST, MOST = 2, 4
DAYS_OPEN = DAYS_HELD
"""Days that a link is open unless somebody says otherwise: as long as the dates are held."""


class QuoteError(ValueError):
    """It cannot be done. The message says why."""


def issue(job: Job, author, levels: Sequence[str], anew: bool = False) -> Quote:
    """Freeze a quote with two to four *levels* (keys), in place of the job's last one.

    An accepted quote is only followed by another when the client wants something else: *anew*. It
    stays, with its acceptance, in the list and in the book.
    """
    core = core_job(job)
    offers = [dated for dated in dated_offers(job, core) if dated.offer.level.key in levels]
    if not FEWEST <= len(offers) <= MOST:
        raise QuoteError("Choose two to four levels to put side by side.")
    with transaction.atomic():
        # Accepting locks the job, too: an acceptance cannot slip in between.
        number = numbered(job, "last_number").last_number
        last = Quote.objects.filter(job=job).order_by("-number").first()
        if last is not None and last.accepted is not None and not anew:
            day = written_day(last.acceptance.at, "long")
            raise QuoteError(
                f"Quote {last.number} was accepted on {day}. If the client wants "
                f"more, issue anew: the accepted one stays as it is, and stands until she accepts the "
                f"new one."
            )
        quote = Quote.objects.create(
            studio=job.studio, job=job, number=number, author=author,
            document=_document(job, core, offers), supersedes=last,
        )  # fmt: skip
        if last is not None:
            last.links.filter(revoked__isnull=True).update(revoked=timezone.now())
        names = ", ".join(f"{d.offer.level.name} {money(d.offer.total)}" for d in offers)
        instead = f", in place of {last.number}" if last else ""
        record(job, "quote", f"Quote {quote.number} issued{instead}: {names}.", author)
        note_held(job)
    return quote


def _document(job: Job, core: CoreJob, offers: Sequence[Dated]) -> dict:
    """Everything the quote's page shows, as plain JSON that no later change can reach."""
    width, height = core.size
    return {
        "studio": job.studio.name, "address": job.studio.address,
        "title": core.title, "client": core.client, "due": core.due,
        "width": width, "height": height, "units": job.studio.units,
        "currency": offers[0].offer.total.currency.code,
        "frame": f"0 0 {core.chart.width:g} {core.chart.height:g}",
        "drawing": [[core.chart.fabric(p.fabric).colour, outline_path(p.polygon, 2)]
                    for p in core.chart.patches],
        "levels": [_level(dated) for dated in offers],
    }  # fmt: skip


def _level(dated: Dated) -> dict:
    made = dated.offer
    return {
        "key": made.level.key, "name": made.level.name, "detail": made.level.detail,
        "lines": [{"name": li.name, "detail": li.detail, "amount": str(li.amount.amount)}
                  for li in made.lines],
        "tax": str(made.tax.amount), "total": str(made.total.amount),
        "hours": [round(h, 2) for h in made.hours],
        "earliest": dated.earliest.isoformat() if dated.earliest else "",
        "booked": round(dated.hours, 2), "planned": dated.planned,
    }  # fmt: skip


def accept(quote_id: int, level: str, name: str) -> Acceptance:
    """Take one level of a quote. Raises `QuoteError` if it was taken, or is no longer the newest.

    Of two who accept at the same moment the database lets one through.
    """
    name = plain(name, 120)
    if not name:
        raise QuoteError("Please write your name.")
    with transaction.atomic():
        job_id = Quote.objects.values_list("job", flat=True).get(pk=quote_id)
        Job.objects.select_for_update().get(pk=job_id)
        quote = Quote.objects.select_for_update(of=("self",)).select_related("job").get(pk=quote_id)
        known = {each["key"]: each for each in quote.document["levels"]}
        if held_until(quote) < timezone.localdate():
            raise QuoteError(
                "The dates of this quote are no longer held. Please ask the studio for a new one."
            )
        if level not in known:
            raise QuoteError("Please choose one of the levels.")
        if Quote.objects.filter(supersedes=quote).exists():
            raise QuoteError(
                "There is a newer quote in place of this one. Please ask for its link."
            )
        earlier = Acceptance.objects.filter(quote=quote).first()
        if earlier is not None:
            raise QuoteError(_taken(known, earlier))
        try:
            with transaction.atomic():
                made = Acceptance.objects.create(quote=quote, level=level, name=name)
        except IntegrityError:  # pragma: no cover - the lock above comes first
            raise QuoteError(_taken(known, Acceptance.objects.get(quote=quote))) from None
        chosen = known[level]
        record(quote.job, "client", f"Quote {quote.number} accepted: {chosen['name']}, "
               f"{money(chosen['total'], quote.document['currency'])}.", who=made.name)  # fmt: skip
        note_held(quote.job)
        change_job(quote.job_id, None, None, lambda core: _agreed(core, chosen),
                   f"Level agreed by quote {quote.number}: {chosen['name']}")  # fmt: skip
    return made


def _agreed(core: CoreJob, level: dict) -> CoreJob:
    """The level is agreed, and with it its date: the later of what was wanted and what is honest."""
    wishes = replace(core.intake.wishes, level=level["key"])
    due = max(core.due, level["earliest"]) if core.due else level["earliest"]
    return replace(core, due=due, intake=replace(core.intake, wishes=wishes))


def _taken(known: dict, earlier: Acceptance) -> str:
    return (f"This quote was accepted by {earlier.name} on {written_day(earlier.at, 'long')}: "
            f"{known[earlier.level]['name']}. Nothing was changed.")  # fmt: skip


MOST_A_MINUTE, MOST_A_DAY = 5, 40
"""Comments behind one link, or any of a job's."""


def comment(quote: Quote, name: str, text: str) -> None:
    """Keep what a client writes in the job book."""
    text = plain(text, 4000)
    if not text:
        raise QuoteError("Please write something first.")
    now = timezone.now()
    said = quote.job.book.filter(kind="client", author__isnull=True)
    if (said.filter(at__gt=now - datetime.timedelta(minutes=1)).count() >= MOST_A_MINUTE
            or said.filter(at__gt=now - datetime.timedelta(days=1)).count() >= MOST_A_DAY):  # fmt: skip
        raise QuoteError(
            "That was a lot in a short time. Please wait a little, or call the studio."
        )
    record(quote.job, "client", text, who=plain(name, 120) or "Client")


def make_link(quote: Quote, author, days: int = DAYS_OPEN) -> ClientLink:
    """A new link to *quote*; an earlier one leads nowhere from now on."""
    if quote.newer is not None:
        raise QuoteError("This quote was superseded; make a link to the newest.")
    if not 1 <= days <= 365:
        raise QuoteError("A link may be open for one day to a year.")
    with transaction.atomic():
        # Two links made at the same moment come one after the other; the later one is open.
        Quote.objects.select_for_update(of=("self",)).get(pk=quote.pk)
        quote.links.filter(revoked__isnull=True).update(revoked=timezone.now())
        expires = timezone.now() + datetime.timedelta(days=days)
        link = ClientLink.objects.create(quote=quote, author=author, expires=expires)
        record(quote.job, "client", f"Link to quote {quote.number} made, open until "
               f"{written_day(expires, 'long_year')}.", author)  # fmt: skip
        note_held(quote.job)
    return link


def revoke(link: ClientLink, author) -> None:
    """From now on the link leads nowhere."""
    changed = ClientLink.objects.filter(pk=link.pk, revoked__isnull=True).update(
        revoked=timezone.now()
    )
    if changed:
        record(link.quote.job, "client", f"Link to quote {link.quote.number} revoked.", author)
        note_held(link.quote.job)


def signed(link: ClientLink) -> str:
    """The link's key as it stands in the address: signed, so that none can be guessed or altered."""
    return signing.Signer(salt=SALT).sign(link.key)


class LinkClosed(Exception):
    """The link was good once. The message says why it no longer is."""


def link_of(text: str) -> ClientLink | None:
    """The open link behind an address; None if it was never good. Raises `LinkClosed`."""
    try:
        key = signing.Signer(salt=SALT).unsign(text)
    except signing.BadSignature:
        return None
    links = ClientLink.objects.select_related("quote__job__studio", "quote__acceptance",
                                              "quote__superseded_by")  # fmt: skip
    link = links.filter(key=key).first()
    if link is None:
        return None
    if link.revoked is not None or link.quote.job.dropped is not None:
        raise LinkClosed("This link was taken back. Please ask the studio for a new one.")
    if link.expires <= timezone.now():
        raise LinkClosed(
            f"This link was open until {written_day(link.expires, 'long_year')}. "
            "Please ask the studio for a new one."
        )
    if link.seen is None:
        ClientLink.objects.filter(pk=link.pk).update(seen=timezone.now())
        record(link.quote.job, "client", f"Quote {link.quote.number} looked at for the first "
               f"time.", who=link.quote.job.client or "Client")  # fmt: skip
    return link


def write_letter(link: ClientLink, author, address: str) -> Letter:
    """Put a letter with the link in the outbox."""
    quote = link.quote
    core = quote.document
    # A client reads what the studio writes, whoever sends it.
    with written_as(quote.job.studio.locale):
        letter = Letter.objects.create(
            job=quote.job, to=core["client"] or quote.job.title, author=author,
            subject=f"{told(f'Quote {quote.number}')}: {core['title']}",
            text=told(
                f"Dear {core['client'] or 'client'},\n\n"
                f"the drawing of your top, the levels of work and their prices are here:\n\n"
                f"{address}\n\n"
                f"You can accept one of them there, or ask. The page is open until "
                f"{written_day(link.expires, 'long_year')}.\n\n{core['studio']}"
            ),
        )  # fmt: skip
    record(quote.job, "mail", f"Letter in the outbox: {letter.subject}.", author)
    return letter
