"""Addresses of ways of working."""

from django.urls import path

from studio.schools import parts, views, wishes

urlpatterns = [
    path("jobs/<uuid:job_id>/schools/", views.schools, name="schools"),
    path("jobs/<uuid:job_id>/schools/price/", views.price, name="schools-price"),
    path("jobs/<uuid:job_id>/plan/part/", parts.part, name="plan-part"),
    path("jobs/<uuid:job_id>/wishes/", wishes.panel, name="wishes"),
    path("jobs/<uuid:job_id>/wishes/cost/", wishes.cost, name="wish-cost"),
    path("jobs/<uuid:job_id>/wishes/over/", wishes.over_cost, name="over-cost"),
    path("jobs/<uuid:job_id>/wishes/cost/<slug:key>/", wishes.told, name="wish-told"),
]
