"""Addresses of ways of working."""

from django.urls import path

from studio.schools import views

urlpatterns = [
    path("jobs/<uuid:job_id>/schools/", views.schools, name="schools"),
    path("jobs/<uuid:job_id>/schools/price/", views.price, name="schools-price"),
]
