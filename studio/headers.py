"""Response headers that keep other people's scripts out of a studio's pages."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


class ContentSecurity:
    """Adds a content security policy: everything comes from this server or not at all."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.setdefault("Content-Security-Policy", POLICY)
        return response
