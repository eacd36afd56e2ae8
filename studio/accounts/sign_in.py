"""Signing in; where nobody works yet, the way to the first page instead."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.cache import never_cache

from studio.accounts.codes import has_codes, wait_for_code
from studio.accounts.models import Studio


class SignIn(LoginView):
    """Django's own sign-in with our page."""

    template_name = "accounts/sign_in.html"

    def dispatch(self, request: HttpRequest, *args, **kwargs) -> HttpResponse:
        """A new installation begins with a studio."""
        if not Studio.objects.exists():
            return redirect("begin")
        return super().dispatch(request, *args, **kwargs)

    def form_valid(self, form) -> HttpResponse:
        """Who gives a code besides her password is asked for it first."""
        person = form.get_user()
        if not has_codes(person):
            return super().form_valid(form)
        wait_for_code(self.request, person)
        address = reverse("sign-in-code")
        further = self.get_redirect_url()
        return redirect(f"{address}?{urlencode({'next': further})}" if further else address)

    def form_invalid(self, form) -> HttpResponse:
        """A wrong name or password is an answer of its own, not the page once more."""
        return self.render_to_response(self.get_context_data(form=form), status=401)


@never_cache
def locked(request: HttpRequest, credentials=None, *args, **kwargs) -> HttpResponse:
    """What somebody sees who tried too often."""
    minutes = round(settings.AXES_COOLOFF_TIME.total_seconds() / 60)
    answer = render(request, "accounts/locked.html", {"minutes": minutes}, status=429)
    answer["Retry-After"] = str(60 * minutes)
    return answer
