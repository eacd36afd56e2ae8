"""All addresses: every room has its own. Those under jobs/ answer only for the person's studio."""

from django.conf import settings
from django.urls import include, path, reverse_lazy
from django.views.generic import RedirectView

from studio import alive

ROOMS = [
    "accounts", "house", "jobs", "charting", "intake", "photos", "workbench", "routes", "quotes", "prices",
    "agenda", "job_log", "outbox", "bookings", "shelf", "blocks", "sums", "audition", "motifs",
    "papers", "schools", "stitching", "finishing", "carrying", "helping",
]  # fmt: skip

handler500 = "studio.moment.server_error"

_ADMIN = []
if settings.ADMIN:
    from django.contrib import admin

    from studio import administering  # noqa: F401

    _ADMIN = [path("admin/", admin.site.urls)]

urlpatterns = [
    *_ADMIN,
    path("", RedirectView.as_view(url=reverse_lazy("jobs"))),
    path("health/", alive.health, name="health"),
    path("ready/", alive.ready, name="ready"),
    *(path("", include(f"studio.{room}.urls")) for room in ROOMS),
]
