"""Tests of the core. How long one example takes is nobody's promise here: times belong in bench/."""

import os
from typing import TypeVar

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")

QUICK = bool(os.environ.get("CHOROGRAPH_QUICK"))
"""Whether somebody waits: fewer examples of each property, and nothing that is `long`."""

T = TypeVar("T")


def examples(count: int) -> int:
    """How many examples of a property are tried: *count*, or a few where somebody waits."""
    return max(2, count // 8) if QUICK else count


def long(test: T) -> T:
    """Marks a test that takes its time, several seconds by itself: ``./chorograph test --full`` runs it, as
    continuous integration does."""
    test.tags = {"long", *getattr(test, "tags", ())}  # type: ignore[attr-defined]
    return test
