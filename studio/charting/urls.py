"""Addresses of charting."""

from django.urls import path

from studio.addresses import one_of
from studio.charting import drawing_views as drawing
from studio.charting import tracing_views as tracing
from studio.charting import views

one_of("trace", "touch", "drop", "take", "drag", "part", "join", "undo")

urlpatterns = [
    path("jobs/new/", views.new_job, name="new-job"),
    path("jobs/new/preview/", views.preview_job, name="preview-job"),
    path("jobs/<uuid:job_id>/chart/", views.chart_job, name="chart"),
    path("jobs/<uuid:job_id>/chart/drawing/", drawing.chart_from_drawing, name="chart-drawing"),
    path(
        "jobs/<uuid:job_id>/chart/drawing/<int:reading_id>/",
        drawing.drawing_state,
        name="drawing-state",
    ),
    path("jobs/<uuid:job_id>/chart/photo/", tracing.choose, name="chart-photo"),
    path("jobs/<uuid:job_id>/chart/photo/<uuid:tracing_id>/", tracing.trace, name="trace"),
    path(
        "jobs/<uuid:job_id>/chart/photo/<uuid:tracing_id>/flat.jpg",
        tracing.flat,
        name="trace-flat",
    ),
    path(
        "jobs/<uuid:job_id>/chart/photo/<uuid:tracing_id>/<trace:act>/",
        tracing.change,
        name="trace-change",
    ),
]
