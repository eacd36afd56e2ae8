"""Addresses of the job book."""

from django.urls import path

from studio.job_log import views

urlpatterns = [
    path("find/", views.find, name="find"),
    path("jobs/<uuid:job_id>/book/", views.book, name="book"),
]
