"""Sessions that know whose they are, so that a person sees where she is signed in and can end it.

After "Extending database-backed session engines" in Django's documentation.
"""

from __future__ import annotations

from datetime import UTC, datetime

from django.contrib.auth import SESSION_KEY
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

AGENT, MADE, SEEN = "agent", "made", "seen"
EVERY = 15 * 60
"""Seconds after which it is written down again that somebody is there."""


class SessionStore(DatabaseStore):
    """Django's own, with the person and her browser beside the data."""

    @classmethod
    def get_model_class(cls):
        from studio.accounts.models import Session

        return Session

    def create_model_instance(self, data):
        """The row for *data*."""
        row = super().create_model_instance(data)
        person = data.get(SESSION_KEY)
        row.person_id = int(person) if person is not None else None
        row.agent = str(data.get(AGENT, ""))[:200]
        for name in (MADE, SEEN):
            if name in data:
                setattr(row, name, datetime.fromtimestamp(data[name], UTC))
        return row


@receiver(user_logged_in)
def signed_in(sender, request: HttpRequest, **more) -> None:
    """Write down where and when."""
    now = timezone.now().timestamp()
    request.session[AGENT] = request.headers.get("User-Agent", "")[:200]
    request.session[MADE] = request.session[SEEN] = now


def seen(request: HttpRequest) -> None:
    """Somebody is there: written down now and then."""
    now = timezone.now().timestamp()
    if now - request.session.get(SEEN, now) > EVERY:
        request.session[SEEN] = now
