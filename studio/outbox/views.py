"""The outbox, to be read."""

from __future__ import annotations

from django.conf import settings
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from studio.accounts.access import for_studio
from studio.accounts.models import Membership, Role
from studio.outbox.models import Letter, Mail


@for_studio
@require_GET
def outbox(request: HttpRequest) -> HttpResponse:
    """The studio's letters, newest first."""
    letters = Letter.objects.filter(job__studio=request.studio).select_related("job", "author")
    return render(request, "outbox/outbox.html", {
        "letters": letters[:100], "mails": _mails(request), "simulated": settings.MAIL_SIMULATED,
    })  # fmt: skip


def _mails(request: HttpRequest) -> list[Mail]:
    """Mail of the studio, and to those who work nowhere else. A link to a new password is as good as the
    password: the owner alone sees it, and no owner that of somebody who is let into another studio by it."""
    if request.role != Role.OWNER:
        return []
    everywhere = Membership.objects.values("person").annotate(studios=Count("pk")).filter(studios=1)
    people = request.studio.memberships.filter(person__in=everywhere.values("person")).values(
        "person"
    )
    return list(Mail.objects.filter(Q(studio=request.studio) | Q(person__in=people))[:50])
