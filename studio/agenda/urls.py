"""Addresses of the calendar."""

from django.urls import path

from studio.agenda import views

urlpatterns = [
    path("calendar/", views.calendar, name="calendar"),
    path("calendar.ics", views.calendar_ics, name="calendar-ics"),
    path("calendar/off/<int:item_id>/drop/", views.drop_day_off, name="drop-day-off"),
]
