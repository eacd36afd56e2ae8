"""What rooms hand in to a room below them, which so need not know them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Generic, TypeVar

Handed = TypeVar("Handed", bound=Callable[..., Any])


class HandedIn(Generic[Handed]):
    """Functions that were handed in, in order: a decorator for those who hand in, and something to go
    through for those who ask."""

    def __init__(self) -> None:
        self._all: list[Handed] = []

    def __call__(self, provider: Handed) -> Handed:
        if provider not in self._all:
            self._all.append(provider)
        return provider

    def __iter__(self) -> Iterator[Handed]:
        return iter(self._all)
