"""Addresses of papers that the worker makes."""

from django.urls import path

from studio.papers import views

urlpatterns = [path("jobs/<uuid:job_id>/papers/<slug:kind>/", views.paper, name="paper")]
