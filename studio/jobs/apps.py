from django.apps import AppConfig
from django.utils.module_loading import autodiscover_modules


class JobsConfig(AppConfig):
    """Jobs: what is stored as truth, its revisions, the list of them."""

    name = "studio.jobs"
    label = "jobs"

    def ready(self) -> None:
        """Let every room put its stages on the rail and listen to what it wants to hear."""
        autodiscover_modules("stage", "listening")
