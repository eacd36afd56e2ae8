"""Addresses of the work view."""

from django.urls import path

from studio.addresses import one_of
from studio.workbench import panels, views

one_of("step", "undo", "redo")
one_of("change", *views.CHANGES)

urlpatterns = [
    path("jobs/<uuid:job_id>/", views.work, name="work"),
    path("jobs/<uuid:job_id>/board/", views.panel, name="board"),
    path("jobs/<uuid:job_id>/linework/", views.linework, name="linework"),
    path("jobs/<uuid:job_id>/drawer/", panels.drawer, name="drawer"),
    path("jobs/<uuid:job_id>/tray/", panels.tray, name="tray"),
    path("jobs/<uuid:job_id>/figures/", panels.figures, name="figures"),
    path("jobs/<uuid:job_id>/cutter/", panels.cutter, name="cutter"),
    path("jobs/<uuid:job_id>/on-top/", panels.on_top, name="on-top"),
    path("jobs/<uuid:job_id>/block/", panels.block_panel, name="block-panel"),
    path("jobs/<uuid:job_id>/place/", panels.place_panel, name="place"),
    path("jobs/<uuid:job_id>/place/look/", panels.place_look, name="place-look"),
    path("jobs/<uuid:job_id>/applique/", panels.applique_panel, name="applique"),
    path("jobs/<uuid:job_id>/applique/look/", panels.applique_look, name="applique-look"),
    path("jobs/<uuid:job_id>/preview/", views.preview, name="preview"),
    path("jobs/<uuid:job_id>/keep/", views.keep, name="keep"),
    path("jobs/<uuid:job_id>/<step:which>/", views.step_back, name="step-back"),
    path("jobs/<uuid:job_id>/change/<change:what>/", views.change, name="change"),
]
