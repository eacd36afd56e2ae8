from django.apps import AppConfig


class HelpingConfig(AppConfig):
    """The guide, to be read and searched beside the work."""

    name = "studio.helping"
    label = "helping"

    def ready(self) -> None:
        from studio.helping import first_hours  # noqa: F401
