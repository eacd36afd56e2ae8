"""The bench table as a Django app."""

from django.apps import AppConfig


class SumsConfig(AppConfig):
    """Sums of ruler work without a job, and templates true to size."""

    name = "studio.sums"
