"""While the database is being started again, pages ask for a moment's patience."""

from __future__ import annotations

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

PAGE = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta http-equiv="refresh" content="3">
<title>One moment · Chorograph</title>
<style nonce="NONCE">body{background:#EFE8D8;color:#1E2B3C;font-family:Georgia,serif;display:grid;
place-items:center;min-height:90vh;margin:0}main{max-width:30rem;padding:2rem}
h1{font-size:2rem;margin:0 0 .5rem}</style></head>
<body><main><h1>One moment</h1><p>A part of Chorograph is being started again. Nothing that was kept is
lost. This page tries by itself every few seconds; what you had just sent may have to be sent again.</p>
</main></body></html>
"""


def server_error(request: HttpRequest) -> HttpResponse:
    """The page for what nobody foresaw: a moment's patience where the database is away."""
    if isinstance(sys.exc_info()[1], (OperationalError, InterfaceError)):
        page = PAGE.replace("NONCE", str(getattr(request, "csp_nonce", "")))
        return HttpResponse(page, status=503, headers={"Retry-After": "3"})
    page = render_to_string("500.html", {"number": getattr(request, "id", ""), "request": request})
    return HttpResponse(page, status=500)
