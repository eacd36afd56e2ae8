"""Search all job books of a studio: "which thread did I use on that blue sampler"."""

from __future__ import annotations

from dataclasses import dataclass, field

from django.contrib.postgres.search import SearchHeadline, SearchQuery, SearchRank
from django.db import connection
from django.db.models import Case, IntegerField, QuerySet, Value, When
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from studio.accounts.models import Studio
from studio.job_log.models import LANGUAGE, Entry, Facts
from studio.jobs.models import Job

MOST_JOBS = 20
MOST_LINES = 4
_OPEN, _SHUT = "\x02", "\x03"


@dataclass
class Found:
    """A job with what was found: *facts* that hold a word, the *rest*, and lines of its book."""

    job: Job
    score: float
    facts: SafeString = field(default_factory=lambda: mark_safe(""))
    rest: SafeString = field(default_factory=lambda: mark_safe(""))
    lines: list[tuple[Entry, SafeString]] = field(default_factory=list)


def search(studio: Studio, words: str, priced: bool = True) -> list[Found]:
    """Jobs whose facts or book hold at least half of *words*, those with most of them first; lines with money
    only where they are *priced*.

    Where no job holds half of them, any that holds one is better than nothing.
    """
    roots = _roots(words)
    half = (len(roots) + 1) // 2
    if not roots:
        return []
    hidden = ("change",) if priced else Entry.PRICED
    return _found(studio, roots, half, hidden) or _found(studio, roots, 1, hidden)


def _found(studio: Studio, roots: list[str], least: int, hidden: tuple[str, ...]) -> list[Found]:
    found: dict = {}
    for fact in _matching(Facts.objects.filter(job__studio=studio), roots, least).select_related(
        "job"
    )[:MOST_JOBS]:
        lines = fact.headline.splitlines()
        told, rest = ("\n".join(line for line in lines if (_OPEN in line) == marked)
                      for marked in (True, False))  # fmt: skip
        score = fact.hits + float(fact.rank)
        found[fact.job_id] = Found(fact.job, score, _marked(told), _marked(rest))
    lines = _matching(
        Entry.objects.filter(job__studio=studio).exclude(kind__in=hidden), roots, least
    )
    for entry in lines.select_related("job", "author")[: MOST_JOBS * MOST_LINES]:
        score = entry.hits + float(entry.rank)
        one = found.setdefault(entry.job_id, Found(entry.job, score))
        one.score = max(one.score, score)
        if len(one.lines) < MOST_LINES:
            one.lines.append((entry, _marked(entry.headline)))
    return sorted(found.values(), key=lambda one: -one.score)[:MOST_JOBS]


def _roots(words: str) -> list[str]:
    """The roots PostgreSQL finds in *words*, small words left out, quoted for a query."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT lexeme FROM unnest(to_tsvector(%s::regconfig, %s))", [LANGUAGE, words[:300]]
        )
        return [
            "'" + row[0].replace("'", "''").replace("\\", "\\\\") + "'" for row in cursor.fetchall()
        ][:16]


def _matching(rows: QuerySet, roots: list[str], least: int) -> QuerySet:
    """Rows holding at least *least* of the roots, with *hits*, *rank* and a *headline*."""
    any_of = SearchQuery(" | ".join(roots), search_type="raw", config="simple")
    marks = {"start_sel": _OPEN, "stop_sel": _SHUT, "highlight_all": True}
    hits = sum(
        (Case(When(search=SearchQuery(root, search_type="raw", config="simple"), then=Value(1)),
              default=Value(0), output_field=IntegerField()) for root in roots),
        start=Value(0, output_field=IntegerField()),
    )  # fmt: skip
    return (
        rows.filter(search=any_of)
        .annotate(
            hits=hits, rank=SearchRank("search", any_of),
            headline=SearchHeadline("text", any_of, config=LANGUAGE, **marks),
        )
        .filter(hits__gte=least)
        .order_by("-hits", "-rank", "-pk")
    )  # fmt: skip


def _marked(text: str) -> SafeString:
    """The text made safe, the found words marked."""
    safe = escape(text).replace(_OPEN, "<mark>").replace(_SHUT, "</mark>")
    return mark_safe(safe)
