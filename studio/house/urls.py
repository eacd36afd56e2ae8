"""Addresses of what a studio is, and how it works."""

from django.urls import path

from studio.house import views

urlpatterns = [
    path("studio/", views.house, name="house"),
    path("studio/ways/", views.ways, name="house-ways"),
    path("studio/rates/", views.rates, name="house-rates"),
]
