"""Addresses of the audition."""

from django.urls import path

from studio.audition import views

urlpatterns = [
    path("jobs/<uuid:job_id>/audition/", views.audition, name="audition"),
    path("jobs/<uuid:job_id>/audition/take/", views.take, name="audition-take"),
    path("jobs/<uuid:job_id>/audition.pdf", views.paper, name="audition-pdf"),
    path("jobs/<uuid:job_id>/proposal/", views.proposal, name="proposal"),
    path("jobs/<uuid:job_id>/proposal.svg", views.proposal_picture, name="proposal-picture"),
    path("motifs/<slug:key>/practice.pdf", views.practice, name="practice"),
    path("jobs/<uuid:job_id>/balance/", views.balance, name="balance"),
]
