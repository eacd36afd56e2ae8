"""Words in addresses that are one of a few, and whole addresses for letters."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest
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


def whole_address(request: HttpRequest, path: str) -> str:
    """The whole address of *path*, for letters: under the configured address of the installation, else under
    the one that was asked for."""
    if settings.PUBLIC_ADDRESS:
        return settings.PUBLIC_ADDRESS.rstrip("/") + path
    return request.build_absolute_uri(path)
