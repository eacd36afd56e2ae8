"""What stands above the list of jobs, handed in by the rooms that know it: what clients said, first steps."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest

Hears = Callable[[HttpRequest], list[Any]]
_hears: list[Hears] = []


def hears(provider: Hears) -> Hears:
    """Show what the decorated function returns above the list of jobs."""
    if provider not in _hears:
        _hears.append(provider)
    return provider


_leads: list[Hears] = []


def leads(provider: Hears) -> Hears:
    """Show the steps that the decorated function returns above the list of jobs."""
    if provider not in _leads:
        _leads.append(provider)
    return provider


def steps_for(request: HttpRequest) -> list[Any]:
    """Steps for whoever begins."""
    return [each for provider in _leads for each in provider(request)]


def said_lately(request: HttpRequest) -> list[Any]:
    """All of it, the newest first."""
    return [each for provider in _hears for each in provider(request)]
