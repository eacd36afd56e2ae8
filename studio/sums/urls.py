"""Addresses of the bench table."""

from django.urls import path

from studio.sums import views

urlpatterns = [
    path("sums/", views.bench, name="sums"),
    path("sums/template.pdf", views.arc_template, name="arc-template"),
    path("jobs/<uuid:job_id>/template.pdf", views.zone_template, name="zone-template"),
]
