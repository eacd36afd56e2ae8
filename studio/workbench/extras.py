"""What other rooms show on the work view, so that the workbench need not know them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from chorograph_core.job import Job as CoreJob
from studio.handing_in import HandedIn
from studio.jobs.models import Job

on_board: HandedIn[Callable[[Job, CoreJob], dict[str, Any]]] = HandedIn()
"""Hands what the decorated function returns to the templates of the work view."""


def extras(job: Job, core: CoreJob) -> dict[str, Any]:
    """What all other rooms show of *job*."""
    found: dict[str, Any] = {}
    for provider in on_board:
        found |= provider(job, core)
    return found
