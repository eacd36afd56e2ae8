"""Junk to every address: a sentence and a status of its own, never an error of ours."""

from __future__ import annotations

import contextlib
import random
from collections import Counter

from bench.table import table
from bench.trials.world import World

ASKED = 1500
LEFT_OUT = ("sign-out", "end-sessions", "leave-studio")
"""What would end the trial."""
JUNK = ["", "0", "-1", "nan", "inf", "1e308", "9" * 300, "\0", "漢字", "'; drop", "<script>", "1/0", "[]",
        "{}", "null", "3 3/8", "a,b", "../../etc/passwd", "%s%n", "{{7*7}}", "2030-13-45"]  # fmt: skip
FIELDS = ["base", "zones", "what", "name", "title", "thread", "text", "points", "day", "price", "kind", "key",
          "amount", "next", "seconds", "from", "to", "role", "code", "file", "q"]  # fmt: skip


def main(here: World) -> None:
    """Print what came back."""
    from django.urls import NoReverseMatch, get_resolver, reverse

    chance, statuses = random.Random(5), Counter()
    person = here.people[0]
    paths = []
    for room in get_resolver().url_patterns:
        for pattern in getattr(room, "url_patterns", [room]):
            values = {"job_id": person.jobs[1], "kind": "thread", "key": "swirls", "name": "jobs",
                      "which": "undo", "what": "join", "act": "touch", "signed": "x", "uidb64": "MQ",
                      "token": "x-y", "number": 1, "item_id": 1, "own_id": 1, "member_id": 1,
                      "invitation_id": 1}  # fmt: skip
            given = {each: values.get(each, person.jobs[1]) for each in pattern.pattern.converters}
            if pattern.name and pattern.name not in LEFT_OUT:
                with contextlib.suppress(NoReverseMatch):
                    paths.append(reverse(pattern.name, kwargs=given))
    broken = []
    for k in range(ASKED):
        path = paths[k % len(paths)] if k < len(paths) * 4 else chance.choice(paths)
        sent = {chance.choice(FIELDS): chance.choice(JUNK) for _ in range(chance.randint(0, 6))}
        answer = here.ask(person, path, sent if k % 3 else None)
        statuses[answer.status] += 1
        if answer.status >= 500 or not answer.status:
            broken.append((path, sent))
    rows = [[status, count] for status, count in sorted(statuses.items())]
    table(f"{ASKED} requests of junk to {len(paths)} addresses", ["status", "answers"], rows)
    assert not broken, broken[:5]
