"""Addresses of what is taken out and in."""

from django.urls import path

from studio.carrying import views

urlpatterns = [
    path("studio/carrying/", views.carrying, name="carrying"),
    path("studio/carrying/quotes.csv", views.table, {"name": "quotes"}, name="table-quotes"),
    path("studio/carrying/<slug:name>.csv", views.table, name="table"),
    path("studio/carrying/threads/", views.threads, name="threads-in"),
    path("studio/carrying/studio.zip", views.studio_data, name="studio-data"),
    path("studio/carrying/studio/in/", views.studio_data_in, name="studio-data-in"),
    path("studio/carrying/calendar/", views.calendar_key, name="calendar-key"),
    path("jobs/<uuid:job_id>/drawing.svg", views.drawing, name="drawing-svg"),
    path("schemas/archive.json", views.schema, {"name": "archive"}, name="schema-archive"),
    path("schemas/route.json", views.schema, {"name": "route"}, name="schema-route"),
    path("calendar/<uuid:key>.ics", views.calendar_feed, name="calendar-feed"),
]
