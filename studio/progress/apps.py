from django.apps import AppConfig


class ProgressConfig(AppConfig):
    """Where the work on a quilt stands, as it was told."""

    name = "studio.progress"
    label = "progress"
