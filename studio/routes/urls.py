"""Addresses of routes and what is printed of them."""

from django.urls import path

from studio.routes import telling, views

urlpatterns = [
    path("jobs/<uuid:job_id>/plan/", views.plan, name="plan"),
    path("jobs/<uuid:job_id>/plan/leave/", views.leave, name="plan-leave"),
    path("jobs/<uuid:job_id>/plan/state/", views.state, name="plan-state"),
    path("jobs/<uuid:job_id>/plan/steps/", views.steps, name="plan-steps"),
    path("jobs/<uuid:job_id>/plan/why/", views.reason, name="plan-why"),
    path("jobs/<uuid:job_id>/plan/panel/", views.panel, name="plan-panel"),
    path("jobs/<uuid:job_id>/plan/path/<str:key>/", views.path, name="plan-path"),
    path("jobs/<uuid:job_id>/plan/price/", views.order_cost, name="plan-price"),
    path("jobs/<uuid:job_id>/standing/here/", telling.here, name="standing-here"),
    path("jobs/<uuid:job_id>/standing/otherwise/", telling.otherwise, name="standing-otherwise"),
    path("jobs/<uuid:job_id>/standing/back/", telling.back, name="standing-back"),
    path("jobs/<uuid:job_id>/standing/rest/", telling.rest, name="standing-rest"),
    path("jobs/<uuid:job_id>/run-sheet/", views.run_sheet, name="run-sheet"),
    path("jobs/<uuid:job_id>/route.json", views.route_file, {"kind": "json"}, name="route-json"),
    path("jobs/<uuid:job_id>/route.svg", views.route_file, {"kind": "svg"}, name="route-svg"),
]
