"""Answers that are files."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from django.utils.text import slugify

KINDS = {
    "csv": "text/csv; charset=utf-8", "dxf": "image/vnd.dxf", "ics": "text/calendar; charset=utf-8",
    "json": "application/json", "pdf": "application/pdf", "png": "image/png",
    "svg": "image/svg+xml", "zip": "application/zip",
}  # fmt: skip
"""Kinds of file by the ending of their names."""


KEPT = "private, max-age=31536000, immutable"
"""What a browser is told of an answer that can never be another."""


def as_content(data: bytes, request: HttpRequest, name: str) -> HttpResponse:
    """*data* for a script. Asked for by its *name* (``?of=``) it may be kept for good: what follows from
    anything else has another name."""
    response = HttpResponse(data, content_type="application/octet-stream")
    response["Cache-Control"] = KEPT if request.GET.get("of") == name else "private, no-store"
    return response


def as_file(data: bytes | str, title: str, kind: str) -> HttpResponse:
    """*data* as a file of a *kind*, named after *title*. A PDF is shown in the browser, all else is kept."""
    response = HttpResponse(data, content_type=KINDS[kind])
    name = f"{slugify(title) or 'chorograph'}.{kind}"
    response["Content-Disposition"] = content_disposition_header(kind != "pdf", name)
    return response
