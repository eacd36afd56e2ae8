"""The way through the first hours: steps that each do something real, ticked by what is there or by hand."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import Exists, OuterRef
from django.http import HttpRequest
from django.urls import reverse

from studio.jobs.models import Job
from studio.jobs.notices import leads
from studio.quotes.models import Quote
from studio.stitching.models import Tap

HIDDEN = "hidden"


@dataclass(frozen=True)
class Step:
    """A step: its *key*, what is done, why, and where; *done*, and whether it is ticked by hand
    (*looked*)."""

    key: str
    title: str
    why: str
    address: str
    done: bool
    looked: bool = False


@leads
def first_steps(request: HttpRequest) -> list[Step]:
    """The steps, as long as they are of use: until all are done, or put out of sight."""
    ticked = request.membership.steps
    if HIDDEN in ticked:
        return []
    jobs = Job.objects.here().filter(studio=request.studio).annotate(
        quoted=Exists(Quote.objects.filter(job=OuterRef("pk"))),
        tapped=Exists(Tap.objects.filter(job=OuterRef("pk"))),
    )  # fmt: skip
    rows = list(jobs.values("pk", "zones", "assigned", "planned", "quoted", "tapped")[:50])
    latest = rows[0]["pk"] if rows else None

    def at(name: str, query: str = "") -> str:
        return reverse(name, args=[latest]) + query if latest else reverse("new-job")

    steps = [
        Step("machine", "Your machine", "its throat, foot and bobbins decide reach and ruler work",
             reverse("shelf") + "#machines", "machine" in ticked, True),
        Step("threads", "Threads and battings", "a plan says beforehand what will not reach",
             reverse("shelf"), "threads" in ticked, True),
        Step("rulers", "Rulers", "layouts use those that you own", reverse("shelf") + "#rulers",
             "rulers" in ticked, True),
        Step("prices", "Prices and hours", "what a quote says, and when you can be done",
             reverse("prices"), "prices" in ticked, True),
        Step("top", "A first top", "from its numbers; with a client beside you begin with a consult",
             reverse("new-job"), any(row["zones"] > 1 for row in rows)),
        Step("designs", "Its designs", "touch a kind of place, choose from the tray",
             at("work", "?stage=designs"), any(row["assigned"] for row in rows)),
        Step("route", "Its route", "minutes, rolls, thread, and a run sheet", at("work", "?stage=route"),
             any(row["planned"] for row in rows)),
        Step("quote", "Its quote", "levels side by side, with honest dates", at("quotes"),
             any(row["quoted"] for row in rows)),
        Step("stitch", "At the machine", "on a tablet, one thing after the other", at("stitch"),
             any(row["tapped"] for row in rows)),
    ]  # fmt: skip
    if not request.may_price:
        steps = [step for step in steps if step.key not in ("prices", "quote")]
    return [] if all(step.done for step in steps) else steps
