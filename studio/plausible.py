"""What no browser sends is turned away with a word before anything looks at it."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from studio.languages.telling import told
from studio.writing import locale_for, write_as

LONGEST_ADDRESS = 8_000


def plausible(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable:
    """Middleware: forms are in UTF-8 (or say nothing), addresses are short and hold no zeros."""

    def answer(request: HttpRequest) -> HttpResponse:
        # Threads serve one request after the other: nobody writes as the one before.
        write_as(locale_for(request.META.get("HTTP_ACCEPT_LANGUAGE", "")[:200]))
        charset = (request.content_params or {}).get("charset", "utf-8").lower()
        if charset not in ("utf-8", "utf8", "us-ascii"):
            return _refused(415, "This page reads forms in UTF-8 only.")
        if len(request.get_full_path()) > LONGEST_ADDRESS or "\0" in request.path:
            return _refused(400, "This address cannot be right.")
        return get_response(request)

    return answer


def _refused(status: int, why: str) -> HttpResponse:
    return HttpResponse(told(why), status=status, content_type="text/plain; charset=utf-8")
