"""Which studio a request is for. Every view that shows studio data goes through here."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse

from studio.accounts.models import Studio


def for_studio(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Let only signed-in people in; set ``request.studio`` to the studio they work in."""

    @wraps(view)
    @login_required
    def guarded(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        studio = Studio.objects.filter(memberships__person=request.user).order_by("pk").first()
        if studio is None:
            raise Http404("You do not work in any studio yet.")
        request.studio = studio
        return view(request, *args, **kwargs)

    guarded.for_studio = True
    return guarded
