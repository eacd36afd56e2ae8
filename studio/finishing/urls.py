"""Addresses of what is done when the last stitch is."""

from django.urls import path

from studio.finishing import views

urlpatterns = [
    path("jobs/<uuid:job_id>/finish/", views.finish, name="finish"),
    path("jobs/<uuid:job_id>/invoices/<int:number>/", views.invoice, name="invoice"),
    path("jobs/<uuid:job_id>/invoices/<int:number>.pdf", views.invoice_pdf, name="invoice-pdf"),
    path("jobs/<uuid:job_id>/care/", views.care, name="care"),
]
