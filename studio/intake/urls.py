"""Addresses of the consult."""

from django.urls import path

from studio.intake import views

urlpatterns = [
    path("jobs/consult/", views.new_consult, name="new-consult"),
    path("jobs/<uuid:job_id>/intake/", views.intake, name="intake"),
    path("jobs/<uuid:job_id>/intake/look/", views.look, name="intake-look"),
    path("jobs/<uuid:job_id>/consult-sheet/", views.consult_sheet, name="consult-sheet"),
    path("jobs/<uuid:job_id>/consult-sheet.pdf", views.consult_sheet_pdf, name="consult-sheet-pdf"),
]
