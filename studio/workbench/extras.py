"""What other rooms show on the work view, so that the workbench need not know them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job

Shown = Callable[[Job, CoreJob], dict[str, Any]]
_shown: list[Shown] = []


def on_board(provider: Shown) -> Shown:
    """Hand what the decorated function returns to the templates of the work view."""
    if provider not in _shown:
        _shown.append(provider)
    return provider


def extras(job: Job, core: CoreJob) -> dict[str, Any]:
    """What all other rooms show of *job*."""
    found: dict[str, Any] = {}
    for provider in _shown:
        found |= provider(job, core)
    return found
