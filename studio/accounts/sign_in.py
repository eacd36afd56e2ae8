"""Signing in; where nobody works yet, the way to the first page instead."""

from __future__ import annotations

from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from studio.accounts.models import Studio


class SignIn(LoginView):
    """Django's own sign-in with our page."""

    template_name = "accounts/sign_in.html"

    def dispatch(self, request: HttpRequest, *args, **kwargs) -> HttpResponse:
        """A new installation begins with a studio."""
        if not Studio.objects.exists():
            return redirect("begin")
        return super().dispatch(request, *args, **kwargs)
