"""What clients said behind their links, shown above the list of jobs until it was seen."""

from __future__ import annotations

from django.http import HttpRequest

from studio.job_log.models import Entry
from studio.jobs.notices import hears

MOST = 8
"""Things that are shown at once."""


@hears
def clients_said(request: HttpRequest) -> list[Entry]:
    """Acceptances, questions and first looks since somebody last saw them, the newest first."""
    if not request.may_price:
        return []
    said = Entry.objects.filter(job__studio=request.studio, kind="client", author__isnull=True,
                                at__gt=request.membership.heard)  # fmt: skip
    return list(said.select_related("job")[:MOST])
