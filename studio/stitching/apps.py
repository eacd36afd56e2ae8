from django.apps import AppConfig


class StitchingConfig(AppConfig):
    """At the machine, and what it took."""

    name = "studio.stitching"
    label = "stitching"

    def ready(self) -> None:
        from studio.stitching import own_hand  # noqa: F401
