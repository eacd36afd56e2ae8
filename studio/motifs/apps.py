"""Motifs as a Django app."""

from django.apps import AppConfig


class MotifsConfig(AppConfig):
    """Every motif's stroke, slowly and in numbers; motifs of one's own; a contest with oneself."""

    name = "studio.motifs"

    def ready(self) -> None:
        from studio.motifs import practice_days  # noqa: F401
