from django.apps import AppConfig


class FinishingConfig(AppConfig):
    """Measured again, billed, and closed into the book."""

    name = "studio.finishing"
    label = "finishing"
