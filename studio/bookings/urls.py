"""Addresses of thread taken off the shelf."""

from django.urls import path

from studio.bookings import views

urlpatterns = [
    path("jobs/<uuid:job_id>/thread/", views.job_thread, name="job-thread"),
]
