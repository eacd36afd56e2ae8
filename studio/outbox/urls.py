"""Addresses of the outbox."""

from django.urls import path

from studio.outbox import views

urlpatterns = [
    path("outbox/", views.outbox, name="outbox"),
]
