"""Pictures of the media folder as answers, to people of their studio alone."""

from __future__ import annotations

from pathlib import Path

from django.http import FileResponse, Http404


def picture(path: Path | str) -> FileResponse:
    """The JPEG at *path*; the caller has asked whose it is. Raises `Http404` when it is gone."""
    try:
        file = Path(path).open("rb")  # noqa: SIM115 - the response closes it
    except FileNotFoundError:
        raise Http404("The file of this picture is gone.") from None
    response = FileResponse(file, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    response["Content-Disposition"] = "inline"
    return response
