"""While the database is being started again, pages ask for a moment's patience."""

from __future__ import annotations

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string


def server_error(request: HttpRequest) -> HttpResponse:
    """The page for what nobody foresaw: a moment's patience where the database is away."""
    if isinstance(sys.exc_info()[1], (OperationalError, InterfaceError)):
        page = render_to_string("503.html", {"nonce": getattr(request, "csp_nonce", "")})
        return HttpResponse(page, status=503, headers={"Retry-After": "3"})
    page = render_to_string("500.html", {"number": getattr(request, "id", ""), "request": request})
    return HttpResponse(page, status=500)
