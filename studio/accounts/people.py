"""Who works in a studio: invited, let in, given another role, let go."""

from __future__ import annotations

from datetime import timedelta

from django import forms
from django.core import signing
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from studio.accounts.letters import FOR_STUDIO, write
from studio.accounts.models import Invitation, Membership, Role, Studio
from studio.languages.telling import told
from studio.writing import written_as, written_day

DAYS_OPEN = 14
"""Days that an invitation is open."""
MOST_OPEN = 20
"""Invitations of a studio that may be open at once."""
_SALT = "chorograph.invitation"


class PeopleError(ValueError):
    """What cannot be done about people. The message says why."""


def invite(studio: Studio, author, role: str, email: str = "") -> Invitation:
    """Make an invitation; `letter` writes to whom it is for."""
    if role not in Role.values:
        raise PeopleError("Choose what she may do here.")
    if email:
        try:
            forms.EmailField().clean(email)
        except ValidationError:
            raise PeopleError("This is no address that a letter can go to.") from None
    now = timezone.now()
    if studio.invitations.filter(used__isnull=True, expires__gt=now).count() >= MOST_OPEN:
        raise PeopleError("Many invitations are open already; take one back first.")
    return Invitation.objects.create(
        studio=studio,
        author=author,
        role=role,
        email=email,
        expires=now + timedelta(days=DAYS_OPEN),
    )


def signed_key(invitation: Invitation) -> str:
    """What stands in the link."""
    return signing.dumps(invitation.key.hex, salt=_SALT)


def invitation_of(signed: str) -> Invitation | None:
    """The invitation that a link stands for; None for a link that is not one of ours."""
    try:
        key = signing.loads(signed, salt=_SALT)
    except signing.BadSignature:
        return None
    return Invitation.objects.select_related("studio").filter(key=key).first()


def write_letter(invitation: Invitation, address: str) -> bool:
    """Send the link to whom it is for, through the mail settings; False where it could not be sent."""
    if invitation.email:
        with written_as(invitation.studio.locale):
            until = written_day(invitation.expires, "long_year")
            text = told(
                f"{invitation.studio} asks you to join it in Chorograph. This link is for you alone "
                f"and works once, until {until}:\n\n{address}\n"
            )
            subject = told(f"Come and work in {invitation.studio}")
        return write(invitation.email, subject, text, {FOR_STUDIO: invitation.studio_id})
    return True


def join(invitation: Invitation, person) -> Membership:
    """Let *person* in by an invitation. Raises PeopleError."""
    with transaction.atomic():
        row = Invitation.objects.select_for_update().get(pk=invitation.pk)
        if not row.open:
            raise PeopleError("This invitation was used already, or is too old. Ask for another.")
        if Membership.objects.filter(studio=row.studio, person=person).exists():
            raise PeopleError("You work in this studio already.")
        row.used = timezone.now()
        row.save(update_fields=["used"])
        return Membership.objects.create(studio=row.studio, person=person, role=row.role)


def give_role(studio: Studio, member: int, role: str) -> None:
    """Let somebody do more, or less. Raises PeopleError."""
    if role not in Role.values:
        raise PeopleError("Choose what she may do here.")
    with transaction.atomic():
        row = _member(studio, member)
        if role != Role.OWNER:
            _keep_an_owner(studio, row)
        row.role = role
        row.save(update_fields=["role"])


def let_go(studio: Studio, member: int) -> None:
    """Take somebody out of the studio; what she did stays. Raises PeopleError."""
    with transaction.atomic():
        row = _member(studio, member)
        _keep_an_owner(studio, row)
        row.delete()


def _member(studio: Studio, member: int) -> Membership:
    # The studio's row is the lock: two owners cannot let each other go.
    Studio.objects.select_for_update().get(pk=studio.pk)
    row = Membership.objects.filter(studio=studio, pk=member).first()
    if row is None:
        raise PeopleError("She does not work here any more.")
    return row


def _keep_an_owner(studio: Studio, row: Membership) -> None:
    others = Membership.objects.filter(studio=studio, role=Role.OWNER).exclude(pk=row.pk)
    if row.role == Role.OWNER and not others.exists():
        raise PeopleError("Somebody has to own the studio: make another one its owner first.")
