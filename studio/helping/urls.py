"""Addresses of the guide."""

from django.urls import path

from studio.helping import views

urlpatterns = [
    path("help/", views.contents, name="help"),
    path("help/first/", views.first_step, name="first-step"),
    path("help/pictures/<str:name>", views.picture, name="help-picture"),
    path("help/<slug:key>/", views.page, name="help-page"),
]
