"""Pages about people: who works in the studio, who may join, and oneself."""

from __future__ import annotations

from django import forms
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_required
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_http_methods, require_POST

from studio.accounts.access import CHOSEN, for_studio
from studio.accounts.codes import has_codes
from studio.accounts.models import Membership, Role, Session
from studio.accounts.newcomers import NewcomerForm
from studio.accounts.people import (
    DAYS_OPEN,
    PeopleError,
    give_role,
    invitation_of,
    invite,
    join,
    let_go,
    signed_key,
    write_letter,
)
from studio.addresses import whole_address
from studio.asking import number_or
from studio.plain import plain
from studio.writing import CHOICES, PLAIN, write_as


@for_studio
@require_http_methods(["GET", "POST"])
def people(request: HttpRequest) -> HttpResponse:
    """Who works here; a POST invites somebody."""
    if request.method == "POST":
        try:
            made = invite(request.studio, request.user, request.POST.get("role", ""),
                          plain(request.POST.get("email"), 254))  # fmt: skip
        except PeopleError as error:
            return _people(request, str(error), 422)
        if not write_letter(made, _link(request, made)):
            fault = "The letter could not be sent. The invitation stands below: give her the link yourself."
            return _people(request, fault)
        return redirect("people")
    return _people(request)


def _people(request: HttpRequest, fault: str = "", status: int = 200) -> HttpResponse:
    members = request.studio.memberships.select_related("person").order_by("pk")
    open_ones = [each for each in request.studio.invitations.filter(used__isnull=True) if each.open]
    for each in open_ones:
        each.address = _link(request, each)
    return render(request, "accounts/people.html", {
        "members": members, "roles": Role.choices, "invitations": open_ones, "fault": fault,
        "days": DAYS_OPEN, "values": request.POST,
    }, status=status)  # fmt: skip


def _link(request: HttpRequest, invitation) -> str:
    return whole_address(request, reverse("join", args=[signed_key(invitation)]))


@for_studio
@require_POST
def invitation_back(request: HttpRequest, invitation_id: int) -> HttpResponse:
    """Take an invitation back."""
    request.studio.invitations.filter(pk=invitation_id, used__isnull=True).delete()
    return redirect("people")


@for_studio
@require_POST
def member_role(request: HttpRequest, member_id: int) -> HttpResponse:
    """Let somebody do more, or less."""
    try:
        give_role(request.studio, member_id, request.POST.get("role", ""))
    except PeopleError as error:
        return _people(request, str(error), 422)
    return redirect("people")


@for_studio
@require_POST
def member_out(request: HttpRequest, member_id: int) -> HttpResponse:
    """Take somebody out of the studio."""
    try:
        let_go(request.studio, member_id)
    except PeopleError as error:
        return _people(request, str(error), 422)
    return redirect("people")


@never_cache
@sensitive_post_parameters("password")
@require_http_methods(["GET", "POST"])
def join_studio(request: HttpRequest, signed: str) -> HttpResponse:
    """Behind an invitation's link: who has a name here joins with it, who has none takes one."""
    invitation = invitation_of(signed)
    if invitation is None or not invitation.open:
        return render(request, "accounts/join_closed.html", status=404)
    write_as(invitation.studio.locale)
    form = NewcomerForm(request.POST or None, initial={"email": invitation.email})
    fault = ""
    if request.method == "POST":
        person = request.user if request.user.is_authenticated else None
        try:
            if person is None and form.is_valid():
                with transaction.atomic():
                    person = form.save()
                    join(invitation, person)
                login(request, person, backend="django.contrib.auth.backends.ModelBackend")
            elif person is not None:
                join(invitation, person)
            if person is not None:
                request.session[CHOSEN] = invitation.studio_id
                return redirect("jobs")
        except PeopleError as error:
            fault = str(error)
    status = 400 if request.method == "POST" else 200
    context = {"invitation": invitation, "form": form, "fault": fault}
    return render(request, "accounts/join.html", context, status=status)


class SelfForm(forms.ModelForm):
    """What is known of oneself, and how one reads pages in the studio one works in."""

    locale = forms.ChoiceField(
        required=False,
        label="Pages are written for you",
        choices=[(PLAIN, "as the studio does"), *(each for each in CHOICES if each[0] != PLAIN)],
    )

    class Meta:
        model = get_user_model()
        fields = ["first_name", "email"]
        labels = {
            "first_name": "What others see",
            "email": "Mail address, should you forget the password",
        }


@for_studio
@require_http_methods(["GET", "POST"])
def yourself(request: HttpRequest) -> HttpResponse:
    """Oneself: name, mail, where one is signed in, in which studios one works."""
    form = _self_form(request, request.POST or None)
    if request.method == "POST" and form.is_valid():
        form.save()
        request.membership.locale = form.cleaned_data["locale"]
        request.membership.save(update_fields=["locale"])
        return redirect("yourself")
    return _yourself(request, form, 400 if form.errors else 200)


def _self_form(request: HttpRequest, values=None) -> SelfForm:
    return SelfForm(values, instance=request.user, initial={"locale": request.membership.locale})


def _yourself(request: HttpRequest, form=None, status: int = 200, fault: str = "") -> HttpResponse:
    here = request.session.session_key
    sessions = Session.objects.filter(person=request.user).order_by("-seen")
    mine = Membership.objects.filter(person=request.user).select_related("studio").order_by("pk")
    own = next((each for each in mine if each.studio_id == request.studio.pk), None)
    return render(request, "accounts/yourself.html", {
        "form": form or _self_form(request), "sessions": sessions, "here": here,
        "mine": mine, "fault": fault, "own": own, "codes": has_codes(request.user),
    }, status=status)  # fmt: skip


@for_studio
@require_POST
def end_sessions(request: HttpRequest) -> HttpResponse:
    """Sign out elsewhere: in one browser, or in all others."""
    others = Session.objects.filter(person=request.user).exclude(
        session_key=request.session.session_key
    )
    which = request.POST.get("which", "")
    (
        others if which == "all" else others.filter(session_key__startswith=which[:12] or "-")
    ).delete()
    return redirect("yourself")


@for_studio
@require_POST
def leave(request: HttpRequest) -> HttpResponse:
    """Leave the studio one works in."""
    own = Membership.objects.get(studio=request.studio, person=request.user)
    try:
        let_go(request.studio, own.pk)
    except PeopleError as error:
        return _yourself(request, status=422, fault=str(error))
    return redirect("jobs")


@login_required
@require_POST
def choose_studio(request: HttpRequest) -> HttpResponse:
    """Work in another of one's studios."""
    wanted = number_or(request.POST, "studio", -1)
    if Membership.objects.filter(person=request.user, studio=wanted).exists():
        request.session[CHOSEN] = wanted
    return redirect("jobs")
