"""Addresses of what stands beside the machine."""

from django.urls import path

from studio.stitching import changing_views, log_views, views

urlpatterns = [
    path("stitch-worker.js", views.worker, name="stitch-worker"),
    path("stitch.webmanifest", views.manifest, name="stitch-manifest"),
    path("jobs/<uuid:job_id>/stitch/", views.stitch, name="stitch"),
    path("jobs/<uuid:job_id>/stitch/plan/", views.followed_plan, name="stitch-plan"),
    path("jobs/<uuid:job_id>/stitch/taps/", views.taps, name="stitch-taps"),
    path("jobs/<uuid:job_id>/stitch/rest/", views.rest, name="stitch-rest"),
    path("jobs/<uuid:job_id>/stitch/change/", changing_views.change_card, name="change-card"),
    path(
        "jobs/<uuid:job_id>/stitch/change/keep/", changing_views.change_design, name="change-design"
    ),
    path("jobs/<uuid:job_id>/log/", log_views.log, name="log"),
    path("jobs/<uuid:job_id>/log/rates/", log_views.use_rates, name="use-rates"),
    path("lesson/", log_views.lesson, name="lesson"),
    path("lesson/take/", log_views.take_lesson, name="take-lesson"),
]
