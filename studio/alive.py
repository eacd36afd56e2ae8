"""Whether this web server lives, and whether it can serve: for whoever watches over it."""

from __future__ import annotations

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET


@never_cache
@require_GET
def health(request: HttpRequest) -> HttpResponse:
    """It lives."""
    return HttpResponse("alive\n", content_type="text/plain")


@never_cache
@require_GET
def ready(request: HttpRequest) -> HttpResponse:
    """It lives, and the database answers and has its tables."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM accounts_studio")
    except DatabaseError:
        return HttpResponse("the database does not answer\n", status=503, content_type="text/plain")
    return HttpResponse("ready\n", content_type="text/plain")
