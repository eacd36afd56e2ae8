"""Addresses of quotes and the page behind a link."""

from django.urls import path

from studio.quotes import views

urlpatterns = [
    path("for-you/<str:signed>/", views.client, name="client"),
    path("jobs/<uuid:job_id>/quotes/", views.quotes, name="quotes"),
    path("jobs/<uuid:job_id>/quotes/<int:number>/", views.quote, name="quote"),
    path("jobs/<uuid:job_id>/quotes/<int:number>.pdf", views.quote_pdf, name="quote-pdf"),
    path("jobs/<uuid:job_id>/quotes/<int:number>/link/", views.make_link, name="make-link"),
    path("jobs/<uuid:job_id>/quotes/<int:number>/revoke/", views.revoke_link, name="revoke-link"),
]
