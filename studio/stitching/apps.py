from django.apps import AppConfig


class StitchingConfig(AppConfig):
    """At the machine, and what it took."""

    name = "studio.stitching"
    label = "stitching"
