"""Tests of the core. How long one example takes is nobody's promise here: times belong in bench/."""

import os
from typing import TypeVar

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")

FEWER = int(os.environ.get("CHOROGRAPH_FEWER", "1"))
"""By how many the examples of each property are divided where somebody waits."""

T = TypeVar("T")


def examples(count: int) -> int:
    """How many examples of a property are tried: *count*, or fewer where somebody waits."""
    return max(min(count, 2), count // FEWER)


def long(test: T) -> T:
    """Marks a test that takes its time, several seconds by itself: ``./chorograph test --full`` runs it, as
    continuous integration does."""
    test.tags = {"long", *getattr(test, "tags", ())}  # type: ignore[attr-defined]
    return test
