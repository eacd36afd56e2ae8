"""Addresses of photographs."""

from django.urls import path

from studio.photos import views

urlpatterns = [
    path("jobs/<uuid:job_id>/photos/", views.photos, name="photos"),
    path("jobs/<uuid:job_id>/photos/<uuid:photo_id>.jpg", views.photo, name="photo"),
    path("jobs/<uuid:job_id>/photos/<uuid:photo_id>/drop/", views.drop_photo, name="drop-photo"),
]
