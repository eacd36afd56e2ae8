"""The very first page of a new installation: a studio and the person who runs it."""

from __future__ import annotations

from django import forms
from django.contrib.auth import login
from django.db import connection, transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from studio.accounts.models import Membership, Studio
from studio.accounts.newcomers import NewcomerForm
from studio.accounts.signals import studio_made
from studio.writing import locale_for

LOCK = 0x63686F72
"""Held while the first studio is made, so that two browsers cannot make two."""


class BeginForm(NewcomerForm):
    """A studio, and who begins it."""

    studio = forms.CharField(max_length=120, label="Name of the studio")
    units = forms.ChoiceField(choices=Studio.UNITS, label="Lengths in")


@require_http_methods(["GET", "POST"])
def begin(request: HttpRequest) -> HttpResponse:
    """Make the first studio. Once there is one, this page is gone."""
    if Studio.objects.exists():
        raise Http404("There is a studio already.")
    form = BeginForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        values = form.cleaned_data
        with transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_xact_lock(%s)", [LOCK])
            if Studio.objects.exists():
                raise Http404("There is a studio already.")
            studio = Studio.objects.create(
                name=values["studio"],
                units=values["units"],
                locale=locale_for(request.headers.get("Accept-Language", "")[:200]),
            )
            person = form.save()
            Membership.objects.create(studio=studio, person=person)
            studio_made.send(Studio, studio=studio)
        login(request, person, backend="django.contrib.auth.backends.ModelBackend")
        return redirect("jobs")
    return render(
        request, "accounts/begin.html", {"form": form}, status=400 if form.errors else 200
    )
