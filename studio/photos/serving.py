"""Kept pictures as answers, to people of their studio alone."""

from __future__ import annotations

from django.http import FileResponse, Http404

from studio.photos.keeping import storage


def picture(name: str) -> FileResponse:
    """The JPEG kept under a *name*; the caller has asked whose it is. Raises `Http404` when it is gone."""
    try:
        file = storage().open(name)
    except FileNotFoundError:
        raise Http404("The file of this picture is gone.") from None
    response = FileResponse(file, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    response["Content-Disposition"] = "inline"
    return response
