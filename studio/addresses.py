"""Words in addresses that are one of a few."""

from __future__ import annotations

from django.urls import register_converter


class _OneOf:
    regex = ""

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


def one_of(name: str, *words: str) -> None:
    """Let ``<name:…>`` in an address stand for one of *words*."""
    register_converter(type(name, (_OneOf,), {"regex": "|".join(words)}), name)
