"""All addresses: every room has its own. Those under jobs/ answer only for the person's studio."""

from django.urls import include, path, reverse_lazy
from django.views.generic import RedirectView

ROOMS = [
    "accounts", "house", "jobs", "charting", "intake", "photos", "workbench", "routes", "quotes", "prices",
    "agenda", "job_log", "outbox", "bookings", "shelf", "blocks", "sums", "audition", "motifs",
    "schools", "stitching", "finishing",
]  # fmt: skip

handler500 = "studio.moment.server_error"

urlpatterns = [
    path("", RedirectView.as_view(url=reverse_lazy("jobs"))),
    *(path("", include(f"studio.{room}.urls")) for room in ROOMS),
]
