"""Mail about people: each says for which studio, or for which person, it was written."""

from __future__ import annotations

import logging
from datetime import timedelta
from smtplib import SMTPException

from django.contrib.auth import get_user_model
from django.contrib.auth.forms import PasswordResetForm
from django.core.mail import EmailMessage
from django.db import transaction
from django.template.loader import render_to_string
from django.utils import timezone

from studio.accounts.models import PasswordLetter

log = logging.getLogger(__name__)

MOST_LETTERS, EVERY = 3, timedelta(hours=1)
"""Letters with a way to a new password that somebody gets in so long a time."""
FOR_STUDIO, FOR_PERSON = "X-Chorograph-Studio", "X-Chorograph-Person"
"""Headers that hold a number: an address says nothing of who may read a mail, since everybody writes down her
own."""


def write(to: str, subject: str, text: str, about: dict[str, int]) -> bool:
    """Send a mail through the mail settings; *about* holds one of the headers. False where the mail server
    took it from nobody: that is written into the log, and what asked for the mail goes on."""
    headers = {name: str(number) for name, number in about.items()}
    try:
        EmailMessage(subject, text, to=[to], headers=headers).send()
    except (OSError, SMTPException):
        log.exception("a mail could not be sent")
        return False
    return True


class ForgottenForm(PasswordResetForm):
    """Django's own, whose mail says whose password it leads to."""

    def send_mail(
        self, subject_template_name, email_template_name, context, from_email, to_email,
        html_email_template_name=None,
    ) -> None:  # fmt: skip
        """Send the way to a new password. Who asks again and again sends no flood: the page says the same, no
        letter goes."""
        person, now = context["user"], timezone.now()
        with transaction.atomic():
            get_user_model().objects.select_for_update().get(pk=person.pk)
            PasswordLetter.objects.filter(sent__lt=now - EVERY).delete()
            if PasswordLetter.objects.filter(person=person).count() >= MOST_LETTERS:
                return
            PasswordLetter.objects.create(person=person, sent=now)
        subject = " ".join(render_to_string(subject_template_name, context).split())
        text = render_to_string(email_template_name, context)
        write(to_email, subject, text, {FOR_PERSON: person.pk})
