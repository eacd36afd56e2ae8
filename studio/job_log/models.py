"""The job book: what happened on a job, who did it and when; and each job's facts, to search in."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.search import SearchVector, SearchVectorField
from django.db import models

from studio.jobs.models import Job, Revision

LANGUAGE = "english"
"""How PostgreSQL takes words apart: endings off, small words left out."""


OF_OURS = ("Quote ", "Link to quote ", "Audition, ")
"""How lines begin that Chorograph writes beside what people write."""


class Entry(models.Model):
    """One line of the book. Never altered. *who* is set where no member of the studio did it."""

    KINDS = [
        ("change", "Change"),
        ("note", "Note"),
        ("photo", "Photograph"),
        ("quote", "Quote"),
        ("client", "Client"),
        ("thread", "Thread"),
        ("mail", "Mail"),
        ("work", "Work"),
    ]

    PRICED = ("change", "quote", "client", "mail")
    """Kinds of line in which money may stand."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="book")
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    who = models.CharField(max_length=200, blank=True)
    kind = models.CharField(max_length=8, choices=KINDS)
    text = models.TextField()
    revision = models.ForeignKey(Revision, null=True, on_delete=models.CASCADE, related_name="+")
    search = models.GeneratedField(
        expression=SearchVector("text", config=LANGUAGE),
        output_field=SearchVectorField(),
        db_persist=True,
    )

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [
            GinIndex(fields=["search"], name="book_entry_words"),
            models.Index(fields=["job", "-at"], name="book_entry_order"),
        ]

    def __str__(self) -> str:
        return f"{self.kind}: {self.text[:60]}"

    def save(self, *args, **kwargs) -> None:
        """Append only."""
        if self.pk is not None:
            raise TypeError("An entry in the job book is never changed.")
        super().save(*args, **kwargs)

    @property
    def in_own_words(self) -> bool:
        """Whether it says what somebody wrote, and not what Chorograph writes down."""
        return self.kind in ("note", "client") and not self.text.startswith(OF_OURS)


class Facts(models.Model):
    """What a job is like now, as words: written anew with every revision."""

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="facts")
    text = models.TextField()
    search = models.GeneratedField(
        expression=SearchVector("text", config=LANGUAGE),
        output_field=SearchVectorField(),
        db_persist=True,
    )

    class Meta:
        indexes = [GinIndex(fields=["search"], name="book_facts_words")]

    def __str__(self) -> str:
        return f"facts of {self.job_id}"
