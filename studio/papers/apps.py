from django.apps import AppConfig


class PapersConfig(AppConfig):
    """Papers that take longer than a request may: made by the worker, kept until the job is another."""

    name = "studio.papers"
    label = "papers"
