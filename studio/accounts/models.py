"""A studio, the people who work in it, and where they are signed in."""

from __future__ import annotations

import base64
import uuid

from django.conf import settings
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models
from django.utils import timezone

from studio.writing import CHOICES, PLAIN


class Studio(models.Model):
    """Everything belongs to a studio; *units* is how it writes lengths. *factors* are the rates it accepted
    of what its log taught, as multiples of the defaults. *address* stands on its documents, which are printed
    on *paper*. *ways* are its answers to where quilters differ, by the keys of the questions: how new jobs
    are worked. *locale* is how it writes dates and money."""

    UNITS = [("in", "inches as fractions"), ("cm", "centimetres")]
    PAPERS = [("letter", "Letter"), ("a4", "A4")]

    name = models.CharField(max_length=120)
    units = models.CharField(max_length=2, choices=UNITS, default="in")
    factors = models.JSONField(default=dict, blank=True)
    address = models.TextField(max_length=500, blank=True)
    ways = models.JSONField(default=dict, blank=True)
    calendar_key = models.UUIDField(null=True, unique=True, editable=False)
    paper = models.CharField(max_length=6, choices=PAPERS, default="letter")
    locale = models.CharField(max_length=6, choices=CHOICES, default=PLAIN, blank=True)

    def __str__(self) -> str:
        return self.name


class Logo(models.Model):
    """A picture for the head of a studio's documents, as it is embedded there."""

    studio = models.OneToOneField(Studio, on_delete=models.CASCADE, related_name="logo")
    picture = models.BinaryField()

    def __str__(self) -> str:
        return f"logo of {self.studio}"

    @property
    def embedded(self) -> str:
        """The picture as an address that holds all of it."""
        return f"data:image/png;base64,{base64.b64encode(bytes(self.picture)).decode()}"


class Sent(models.Model):
    """A form that was sent and did its work, by the token its page was made with."""

    token = models.UUIDField(primary_key=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    location = models.CharField(max_length=300, blank=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)

    def __str__(self) -> str:
        return str(self.token)


class Role(models.TextChoices):
    """What a person may do in a studio."""

    OWNER = "owner", "owner: everything, and who works here"
    QUILTER = "quilter", "quilter: everything but who works here"
    HELPER = "helper", "helper: stitches and logs, sees no prices"


class Membership(models.Model):
    """That a person works in a studio, and in which *role*; *heard* is until when she has seen what clients
    said, *steps* are those of the first hours that she ticked, ``"hidden"`` once she wants to see them no
    more. *locale* is how she reads pages, where that is not as the studio does."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="memberships")
    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships"
    )
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.OWNER)
    heard = models.DateTimeField(default=timezone.now)
    steps = models.JSONField(default=list, blank=True)
    locale = models.CharField(max_length=6, choices=CHOICES, default=PLAIN, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["studio", "person"], name="once_in_a_studio")
        ]

    def __str__(self) -> str:
        return f"{self.person} in {self.studio}"

    @property
    def reads(self) -> str:
        """How pages are written for her: as she likes it, or as the studio does."""
        return self.locale or self.studio.locale

    @property
    def name(self) -> str:
        """How she is called."""
        return self.person.first_name or self.person.username


def named(studio: Studio) -> dict[str, Membership]:
    """The people of a studio by a name that is each one's own: where two are called alike, with what they
    sign in by."""
    members = list(studio.memberships.select_related("person").order_by("pk"))
    names = [each.name for each in members]
    return {
        f"{each.name} ({each.person.username})" if names.count(each.name) > 1 else each.name: each
        for each in members
    }


class Invitation(models.Model):
    """A link by which one person may join a studio, once, until it *expires*."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="invitations")
    key = models.UUIDField(unique=True, default=uuid.uuid4)
    role = models.CharField(max_length=8, choices=Role.choices, default=Role.QUILTER)
    email = models.EmailField(blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()
    used = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made"]

    def __str__(self) -> str:
        return f"{self.role} for {self.studio}"

    @property
    def open(self) -> bool:
        """Whether somebody may still join by it."""
        return self.used is None and self.expires > timezone.now()


class PasswordLetter(models.Model):
    """That a letter with the way to a new password was sent to somebody."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    sent = models.DateTimeField(default=timezone.now, db_index=True)

    def __str__(self) -> str:
        return f"to {self.person} at {self.sent}"


class Session(AbstractBaseSession):
    """Where somebody is signed in: *person*, the browser as it calls itself (*agent*), since when, and when
    it was last *seen*."""

    person = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="sessions"
    )
    agent = models.CharField(max_length=200, blank=True)
    made = models.DateTimeField(default=timezone.now)
    seen = models.DateTimeField(default=timezone.now)

    @classmethod
    def get_session_store_class(cls):
        from studio.accounts.sessions import SessionStore

        return SessionStore
