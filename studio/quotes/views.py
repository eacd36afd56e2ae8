"""Price list, quotes, and the page behind a client's link."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.html import escape
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from moneyed import Money

from chorograph_core.job import Job as CoreJob
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.addresses import whole_address
from studio.answers import as_file
from studio.jobs.asked import job_for
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.jobs.stages import rail
from studio.quotes import documents, printing
from studio.quotes.hands import by_own_hand
from studio.quotes.models import ClientLink, Quote
from studio.quotes.pricing import Dated, dated_offers
from studio.writing import write_as


def _quotes(job: Job):
    return Quote.objects.filter(job=job).select_related("acceptance", "superseded_by", "author")


@for_studio
@require_http_methods(["GET", "POST"])
@once
def quotes(request: HttpRequest, job_id) -> HttpResponse:
    """A job's quotes; a POST issues a new one."""
    job = job_for(request, job_id)
    message, status = "", 200
    if request.method == "POST":
        try:
            anew = bool(request.POST.get("anew"))
            documents.issue(job, request.user, request.POST.getlist("levels"), anew)
            return redirect("quotes", job.pk)
        except documents.QuoteError as error:
            message, status = str(error), 422
    return _quotes_page(request, job, message, status)


def _quotes_page(request, job: Job, message: str, status: int = 200) -> HttpResponse:
    core = core_job(job)
    issued = list(_quotes(job).prefetch_related("links"))
    for each in issued:
        for link in each.links.all():
            path = reverse("client", args=[documents.signed(link)])
            link.address = whole_address(request, path)
    last = issued[0] if issued else None
    offers = dated_offers(job, core)
    context = {
        "job": job, "core": core, "stage": "quote", "units": request.studio.units,
        "rail": rail(job, core), "quotes": issued, "days_held": documents.DAYS_OPEN,
        "accepted": last if last is not None and last.accepted is not None else None,
        "offers": offers, "message": message, **_by_hand(job, core, offers),
        "letters": job.letters.all()[:5],
    }  # fmt: skip
    return render(request, "quotes/quotes.html", context, status=status)


def _by_hand(job: Job, core: CoreJob, offers: Sequence[Dated]) -> dict[str, Any]:
    """How long it takes by the studio's own hand, and what an hour then brings at the level that is
    planned."""
    hand = by_own_hand(job, core)
    planned = next((dated.offer for dated in offers if dated.planned), None)
    if hand is None or planned is None:
        return {"hand": hand}
    besides = max(planned.hours[0] - float(job.planned["minutes"]) / 60, 0.0)
    worst, best = hand.hourly(float(planned.total.amount), besides)
    currency = planned.total.currency
    return {
        "hand": hand,
        "hourly": (Money(round(worst, 2), currency), Money(round(best, 2), currency)),
    }


def _quote(request: HttpRequest, job_id, number: int) -> Quote:
    return get_object_or_404(_quotes(job_for(request, job_id)), number=number)


@for_studio
@require_GET
def quote(request: HttpRequest, job_id, number: int) -> HttpResponse:
    """One quote as it was issued."""
    return render(request, "quotes/quote.html", printing.context(_quote(request, job_id, number)))


@for_studio
@require_GET
def quote_pdf(request: HttpRequest, job_id, number: int) -> HttpResponse:
    """One quote as PDF."""
    found = _quote(request, job_id, number)
    return as_file(printing.pdf(found), f"quote {found.number}", "pdf")


@for_studio
@require_POST
def make_link(request: HttpRequest, job_id, number: int) -> HttpResponse:
    """Make a link to a quote, and put the letter with it in the outbox."""
    found = _quote(request, job_id, number)
    try:
        days = forms.IntegerField().clean(request.POST.get("days") or documents.DAYS_OPEN)
        link = documents.make_link(found, request.user, days)
    except (documents.QuoteError, forms.ValidationError) as error:
        message = (
            str(error) if isinstance(error, documents.QuoteError) else "Days is a whole number."
        )
        return _quotes_page(request, found.job, message, 422)
    address = whole_address(request, reverse("client", args=[documents.signed(link)]))
    documents.write_letter(link, request.user, address)
    return redirect("quotes", found.job_id)


@for_studio
@require_POST
def revoke_link(request: HttpRequest, job_id, number: int) -> HttpResponse:
    """Take the open link to a quote back."""
    found = _quote(request, job_id, number)
    for link in ClientLink.objects.filter(quote=found, revoked__isnull=True):
        documents.revoke(link, request.user)
    return redirect("quotes", found.job_id)


@require_http_methods(["GET", "POST"])
def client(request: HttpRequest, signed: str) -> HttpResponse:
    """What a client sees: her quote and nothing else. No sign-in; the signed link is the key."""
    try:
        link = documents.link_of(signed)
    except documents.LinkClosed as closed:
        return _apart(render(request, "quotes/closed.html", {"message": str(closed)}, status=410))
    if link is None:
        message = "This link is not right. Please open it again from the studio's letter."
        return _apart(render(request, "quotes/closed.html", {"message": message}, status=404))
    found = link.quote
    write_as(found.studio.locale)
    message, status = "", 200
    if request.method == "POST":
        name = request.POST.get("name", "")
        try:
            if request.POST.get("do") == "comment":
                documents.comment(found, name, request.POST.get("text", ""))
                return _apart(redirect(f"{reverse('client', args=[signed])}?said=1"))
            documents.accept(found.pk, request.POST.get("level", ""), name)
            return _apart(redirect("client", signed))
        except documents.QuoteError as error:
            message, status = str(error), 409
    context = {
        **printing.context(found), "link": link, "message": message, "typed": request.POST,
        "said": "said" in request.GET, "address": escape(request.path),
    }  # fmt: skip
    return _apart(render(request, "quotes/client.html", context, status=status))


def _apart(response: HttpResponse) -> HttpResponse:
    """Headers for a page whose address is a key: not kept, told to no other host, not indexed."""
    response["Cache-Control"] = "no-store"
    # Not "no-referrer": browsers would then hide the origin of the form, which Django must see.
    response["Referrer-Policy"] = "same-origin"
    response["X-Robots-Tag"] = "noindex, nofollow"
    return response
