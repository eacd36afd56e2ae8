"""The last stage: measured again, billed, thread off the shelf, closed; what the client takes home."""

from __future__ import annotations

from decimal import Decimal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from chorograph_core.choosing import balance_of, take_up_of
from chorograph_core.stitching.checks import last_checks
from studio.accounts.access import for_studio
from studio.accounts.once import once
from studio.answers import as_file
from studio.asking import EditError
from studio.bookings.stock import needs_of
from studio.finishing import billing
from studio.finishing.models import Invoice
from studio.jobs.asked import job_for
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.jobs.stages import rail
from studio.paper import pdf_of
from studio.stitching.job_times import log_of_job
from studio.workbench.linework import linework_of
from studio.writing import written_as


@for_studio
@require_http_methods(["GET", "POST"])
@once
def finish(request: HttpRequest, job_id) -> HttpResponse:
    """Everything that is done when the last stitch is; a POST does one of it."""
    job = job_for(request, job_id)
    fault = None
    if request.method == "POST":
        acts = {
            "measure": lambda: billing.measure(
                job, request.POST, request.user, request.studio.units
            ),
            "thread": lambda: billing.take_thread(job, request.POST, request.user),
            "bill": lambda: billing.bill(job, request.POST, request.user),
            "close": lambda: billing.close(job, request.user),
            "reopen": lambda: billing.reopen(job, request.user),
        }
        try:
            act = acts.get(request.POST.get("what", ""))
            if act is None:
                raise EditError("Choose one of what is offered.")
            act()
            return redirect("finish", job.pk)
        except EditError as error:
            fault = error
    return _page(request, job, fault)


def _page(request: HttpRequest, job: Job, fault: EditError | None) -> HttpResponse:
    core, units = core_job(job), request.studio.units
    measured = job.measured.first()
    log = log_of_job(job)
    invoices = list(Invoice.objects.filter(job=job).select_related("replaced_by"))
    agreed = billing.accepted_level(job)
    expected = None
    if core.legend:
        found = balance_of(core, linework_of(job.head.body_id, core), units)
        expected = take_up_of(core, found.zones, units).size
    hours = Decimal(str(round(log.took / 3600, 3)))
    earned = (
        billing.worked_amount(invoices[0]) / hours if invoices and hours > Decimal("0.1") else None
    )
    context = {
        "job": job, "core": core, "stage": "finish", "rail": rail(job, core), "units": units,
        "fault": fault, "values": request.POST, "measured": measured, "expected": expected,
        "places": _places(measured, request.POST if fault else {}), "checks": last_checks(core),
        "needs": needs_of(job), "taken": job.thread_bookings.filter(state="out").select_related("thread"),
        "agreed": agreed, "invoices": invoices, "extras": range(billing.EXTRAS),
        "rows": _rows(request.POST if fault else {}), "log": log, "earned": earned,
        "currency": invoices[0].document["currency"] if invoices else "",
    }  # fmt: skip
    return render(request, "finishing/finish.html", context, status=422 if fault else 200)


def _places(measured, typed) -> list[tuple[str, str, str, float | None]]:
    """The six places of the tape: field, label, what was typed, what is known."""
    made = []
    for side, names in (
        ("width", ("top", "middle", "bottom")),
        ("height", ("left", "middle", "right")),
    ):
        known = getattr(measured, f"{side}s") if measured is not None else (None,) * 3
        for number, name in enumerate(names):
            field = f"{side}{number}"
            made.append((field, f"{side}, {name}", typed.get(field, ""), known[number]))
    return made


def _rows(typed) -> list[tuple[str, str, str, str]]:
    return [
        (f"extra{k}", typed.get(f"extra{k}", ""), f"amount{k}", typed.get(f"amount{k}", ""))
        for k in range(billing.EXTRAS)
    ]


@for_studio
@require_GET
def invoice(request: HttpRequest, job_id, number: int) -> HttpResponse:
    """One invoice as it was issued."""
    found = get_object_or_404(Invoice, job=job_for(request, job_id), number=number)
    return render(request, "finishing/invoice.html", billed(found))


@for_studio
@require_GET
def invoice_pdf(request: HttpRequest, job_id, number: int) -> HttpResponse:
    """One invoice as PDF."""
    found = get_object_or_404(Invoice, job=job_for(request, job_id), number=number)
    with written_as(request.studio.locale):
        page = pdf_of("finishing/invoice.html", billed(found), request.studio.paper)
    return as_file(page, f"invoice {found.number}", "pdf")


def billed(found: Invoice) -> dict:
    """Everything an invoice's page shows."""
    return {"invoice": found, "document": found.document, "currency": found.document["currency"]}


@for_studio
@require_GET
def care(request: HttpRequest, job_id) -> HttpResponse:
    """What the client takes home with her quilt: what it is made of, and how it is washed."""
    job = job_for(request, job_id)
    core = core_job(job)
    batting = core.intake.batting
    used = {layer.thread for entry in core.legend for layer in entry.layers}
    measured = job.measured.first()
    return render(request, "finishing/care.html", {
        "job": job, "core": core, "studio": request.studio, "units": request.studio.units,
        "batting": batting, "wool": batting is not None and "wool" in batting.name.lower(),
        "threads": [thread for thread in core.threads if thread.key in used],
        "size": measured.size if measured is not None else None,
        "wetted": core.policy.pen in ("soluble", "fading", "humid"),
    })  # fmt: skip
