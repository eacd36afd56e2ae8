from django.apps import AppConfig


class ChartingConfig(AppConfig):
    """Charts: from numbers, a drawing or a photograph."""

    name = "studio.charting"
    label = "charting"
