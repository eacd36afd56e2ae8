from django.apps import AppConfig


class SchoolsConfig(AppConfig):
    """Ways of working priced side by side on a quilt, and what would help most."""

    name = "studio.schools"
    label = "schools"
