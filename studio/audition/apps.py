"""The audition as a Django app."""

from django.apps import AppConfig


class AuditionConfig(AppConfig):
    """Candidates for a place, drawn where they would lie; a start for a whole quilt."""

    name = "studio.audition"

    def ready(self) -> None:
        from studio.audition import starting  # noqa: F401
