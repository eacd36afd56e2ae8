"""The outbox, to be read."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from studio.accounts.access import for_studio
from studio.accounts.models import Role
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
    """Mail to people of the studio. A link to a new password is as good as the password: the owner alone sees
    it."""
    if request.role != Role.OWNER:
        return []
    addresses = [*request.studio.memberships.values_list("person__email", flat=True),
                 *request.studio.invitations.values_list("email", flat=True)]  # fmt: skip
    return list(Mail.objects.filter(to__in=[each for each in addresses if each])[:50])
