"""Addresses of the price list."""

from django.urls import path

from studio.prices import views

urlpatterns = [
    path("prices/", views.price_list, name="prices"),
]
