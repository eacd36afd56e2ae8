from django.apps import AppConfig


class JobLogConfig(AppConfig):
    """The job book: every fact, decision and change, searchable."""

    name = "studio.job_log"
    label = "job_log"
