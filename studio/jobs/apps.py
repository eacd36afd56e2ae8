from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs: what is stored as truth, its revisions, and the work view."""

    name = "studio.jobs"
    label = "jobs"
