"""Addresses of the list of jobs."""

from django.urls import path

from studio.jobs import views

urlpatterns = [
    path("jobs/", views.job_list, name="jobs"),
    path("jobs/import/", views.import_job, name="import-job"),
    path("jobs/seen/", views.notices_seen, name="notices-seen"),
    path("jobs/resting/", views.resting, name="resting"),
    path("jobs/<uuid:job_id>/more/", views.more, name="job-more"),
    path("jobs/<uuid:job_id>/more/keep/", views.keep_job, name="job-keep"),
    path("jobs/<uuid:job_id>/archive.json", views.export_job, name="export-job"),
]
