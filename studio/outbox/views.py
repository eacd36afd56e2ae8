"""The outbox, to be read."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from studio.accounts.access import for_studio
from studio.outbox.models import Letter


@for_studio
@require_GET
def outbox(request: HttpRequest) -> HttpResponse:
    """The studio's letters, newest first."""
    letters = Letter.objects.filter(job__studio=request.studio).select_related("job", "author")
    return render(request, "outbox/outbox.html", {"letters": letters[:100]})
