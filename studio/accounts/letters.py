"""Mail about people: each says for which studio, or for which person, it was written."""

from __future__ import annotations

from django.contrib.auth.forms import PasswordResetForm
from django.core.mail import EmailMessage
from django.template.loader import render_to_string

FOR_STUDIO, FOR_PERSON = "X-Chorograph-Studio", "X-Chorograph-Person"
"""Headers that hold a number: an address says nothing of who may read a mail, since everybody writes down her
own."""


def write(to: str, subject: str, text: str, about: dict[str, int]) -> None:
    """Send a mail through the mail settings; *about* holds one of the headers."""
    headers = {name: str(number) for name, number in about.items()}
    EmailMessage(subject, text, to=[to], headers=headers).send()


class ForgottenForm(PasswordResetForm):
    """Django's own, whose mail says whose password it leads to."""

    def send_mail(
        self, subject_template_name, email_template_name, context, from_email, to_email,
        html_email_template_name=None,
    ) -> None:  # fmt: skip
        """Send the way to a new password."""
        subject = " ".join(render_to_string(subject_template_name, context).split())
        text = render_to_string(email_template_name, context)
        write(to_email, subject, text, {FOR_PERSON: context["user"].pk})
