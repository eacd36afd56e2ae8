"""Addresses of the motifs."""

from django.urls import path

from studio.motifs import views

urlpatterns = [
    path("motifs/", views.motif_list, name="motifs"),
    path("motifs/own/", views.own, name="own-motif-new"),
    path("motifs/own/look/", views.look, name="own-motif-look"),
    path("motifs/own/<int:own_id>/", views.own, name="own-motif"),
    path("motifs/own/<int:own_id>/drop/", views.drop, name="own-motif-drop"),
    path("motifs/<slug:key>/", views.card, name="motif"),
    path("motifs/<slug:key>/attempt/", views.attempt, name="motif-attempt"),
]
