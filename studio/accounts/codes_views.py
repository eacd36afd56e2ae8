"""Pages about the code besides the password: giving it, taking it into use, giving it up."""

from __future__ import annotations

from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_http_methods, require_POST

from studio.accounts import codes
from studio.accounts.access import for_studio
from studio.accounts.models import Session

BACKEND = "django.contrib.auth.backends.ModelBackend"


@never_cache
@sensitive_post_parameters("code")
@require_http_methods(["GET", "POST"])
def give_code(request: HttpRequest) -> HttpResponse:
    """After the password: the code."""
    person = get_user_model().objects.filter(pk=codes.waiting(request), is_active=True).first()
    if person is None:
        return redirect("sign-in")
    further = request.POST.get("next") or request.GET.get("next", "")
    if request.method == "GET":
        return render(request, "accounts/code.html", {"next": further})
    if not codes.right_code(person, request.POST.get("code", "")):
        fault = (
            "This code is not right, or not any more. After each wrong one, wait a little longer."
        )
        return render(request, "accounts/code.html", {"next": further, "fault": fault}, status=401)
    login(request, person, backend=BACKEND)
    return redirect(_safe(request, further))


def _safe(request: HttpRequest, address: str) -> str:
    """*address*, if it leads nowhere else."""
    ours = url_has_allowed_host_and_scheme(address, {request.get_host()}, request.is_secure())
    return address if address and ours else reverse("jobs")


@for_studio
@sensitive_post_parameters("code")
@require_http_methods(["GET", "POST"])
def second_step(request: HttpRequest) -> HttpResponse:
    """Take a code besides the password into use."""
    fault, status = "", 200
    if request.method == "POST" and not codes.has_codes(request.user):
        reserve = codes.confirmed(request.user, request.POST.get("code", ""))
        if reserve is not None:
            others = Session.objects.filter(person=request.user)
            others.exclude(session_key=request.session.session_key).delete()
            return render(request, "accounts/reserve.html", {"reserve": reserve})
        fault, status = "This is not what the app shows now. Look, and type it again.", 422
    context: dict = {"fault": fault, "on": codes.has_codes(request.user)}
    if context["on"]:
        context["left"] = codes.reserve_left(request.user)
    else:
        device = codes.begun(request.user)
        context |= {"picture": codes.picture(device), "spelled": codes.spelled(device)}
    return render(request, "accounts/second_step.html", context, status=status)


@for_studio
@sensitive_post_parameters("password")
@require_POST
def change_codes(request: HttpRequest) -> HttpResponse:
    """New reserve codes, or the password alone again: for who knows the password."""
    if not request.user.check_password(request.POST.get("password", "")):
        context = {
            "on": True,
            "left": codes.reserve_left(request.user),
            "wrong": "This is not your password.",
        }
        return render(request, "accounts/second_step.html", context, status=422)
    if request.POST.get("what") == "reserve" and codes.has_codes(request.user):
        reserve = codes.fresh_reserve(request.user)
        return render(request, "accounts/reserve.html", {"reserve": reserve})
    codes.taken_away(request.user)
    return redirect("yourself")
