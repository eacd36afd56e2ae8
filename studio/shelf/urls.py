"""Addresses of the shelf."""

from django.urls import path

from studio.shelf import views

urlpatterns = [
    path("shelf/", views.shelf, name="shelf"),
    path("shelf/<slug:kind>/", views.item, name="shelf-new"),
    path("shelf/<slug:kind>/<int:item_id>/", views.item, name="shelf-item"),
    path("shelf/<slug:kind>/<int:item_id>/drop/", views.drop_item, name="shelf-drop"),
]
