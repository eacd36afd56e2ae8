"""A form that is sent twice does its work once: the second answer is that of the first."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from functools import wraps

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from studio.accounts.models import Sent


def once(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Let a POST with the same ``once`` (see the template tag) through only one time.

    The view runs in a transaction that holds the token; whoever comes second waits for it and is led
    where the first one was. A view that refuses the form leaves its token free for the next try.
    """

    @wraps(view)
    def guarded(request: HttpRequest, *args, **kwargs) -> HttpResponse:
        token = _token(request)
        if token is None:
            return view(request, *args, **kwargs)
        try:
            with transaction.atomic():
                sent = Sent.objects.create(token=token, person=request.user)
                response = view(request, *args, **kwargs)
                if response.status_code == 302:
                    sent.location = response["Location"][:300]
                    sent.save(update_fields=["location"])
                else:
                    sent.delete()
                return response
        except IntegrityError:
            first = Sent.objects.filter(token=token, person=request.user).first()
            if first is None:
                raise
            return redirect(first.location)

    return guarded


def _token(request: HttpRequest) -> uuid.UUID | None:
    try:
        return uuid.UUID(request.POST.get("once", "")) if request.method == "POST" else None
    except ValueError:
        return None
