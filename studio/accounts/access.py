"""Which studio a request is for, and what the person may do there. Every view that shows studio data goes
through here."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.cache import add_never_cache_headers

from studio.accounts.models import Membership, Role
from studio.accounts.roles import may, why_not
from studio.accounts.sessions import seen
from studio.writing import write_as

CHOSEN = "studio"
"""Where the session keeps in which of her studios somebody works now."""


def membership_of(request: HttpRequest) -> Membership | None:
    """The studio that the person works in now: the one she chose, else her first."""
    mine = Membership.objects.filter(person=request.user).select_related("studio")
    chosen = request.session.get(CHOSEN)
    rows = sorted(mine, key=lambda row: (row.studio_id != chosen, row.studio_id))
    return rows[0] if rows else None


def in_her_language(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """For pages that belong to no studio: whoever is signed in reads them as those of her studio."""

    @wraps(view)
    def written(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        if request.user.is_authenticated and (membership := membership_of(request)) is not None:
            write_as(membership.reads)
        return view(request, *args, **kwargs)

    return written


def for_studio(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Let only signed-in people in, as far as their role goes; set ``request.studio`` and ``request.role``.
    What is answered is kept by nobody on the way."""

    @wraps(view)
    @login_required
    def guarded(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        membership = membership_of(request)
        if membership is None:
            raise Http404("You do not work in any studio yet.")
        request.studio, request.role = membership.studio, membership.role
        request.membership = membership
        write_as(membership.reads)
        request.may_price = membership.role != Role.HELPER
        seen(request)
        name = request.resolver_match.url_name if request.resolver_match else None
        if not may(membership.role, name):
            context = {"why": why_not(membership.role)}
            return render(request, "accounts/not_yours.html", context, status=403)
        response = view(request, *args, **kwargs)
        if not response.has_header("Cache-Control"):
            add_never_cache_headers(response)
        return response

    guarded.for_studio = True
    return guarded
