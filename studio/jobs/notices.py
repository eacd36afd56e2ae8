"""What stands above the list of jobs, handed in by the rooms that know it: what clients said, first steps."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest

from studio.handing_in import HandedIn

hears: HandedIn[Callable[[HttpRequest], list[Any]]] = HandedIn()
"""Shows what the decorated function returns, the newest first, above the list of jobs."""
leads: HandedIn[Callable[[HttpRequest], list[Any]]] = HandedIn()
"""Shows the steps that the decorated function returns above the list of jobs."""


def steps_for(request: HttpRequest) -> list[Any]:
    """Steps for whoever begins."""
    return [each for provider in leads for each in provider(request)]


def said_lately(request: HttpRequest) -> list[Any]:
    """All of it, the newest first."""
    return [each for provider in hears for each in provider(request)]
