"""Addresses of the list of jobs."""

from django.urls import path

from studio.jobs import views

urlpatterns = [
    path("jobs/", views.job_list, name="jobs"),
    path("jobs/import/", views.import_job, name="import-job"),
    path("jobs/<uuid:job_id>/archive.json", views.export_job, name="export-job"),
]
