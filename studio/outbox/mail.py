"""Where mail goes as long as no mail settings are given: into the outbox, to be read there."""

from __future__ import annotations

from django.core.mail.backends.base import BaseEmailBackend

from studio.accounts.letters import FOR_PERSON, FOR_STUDIO
from studio.outbox.models import Mail


class OutboxBackend(BaseEmailBackend):
    """Keeps what would have been sent. Nothing leaves the machine."""

    def send_messages(self, messages) -> int:
        """Keep each message once for each of those it is for."""
        made = [
            Mail(to=address[:254], subject=str(message.subject)[:200], text=str(message.body),
                 studio_id=message.extra_headers.get(FOR_STUDIO),
                 person_id=message.extra_headers.get(FOR_PERSON))
            for message in messages for address in message.recipients()
        ]  # fmt: skip
        Mail.objects.bulk_create(made)
        return len(messages)
