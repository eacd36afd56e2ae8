"""The WSGI application that gunicorn serves."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
application = get_wsgi_application()


def _warm() -> None:
    """Load what the first pages need: with gunicorn's ``--preload`` once for all its processes, and nobody
    waits for it."""
    from django.urls import get_resolver

    from chorograph_core.designs import designs
    from studio.derived import code

    _ = get_resolver().url_patterns
    designs()
    code()


_warm()
