from django.apps import AppConfig


class CarryingConfig(AppConfig):
    """What a studio has, out in open formats and in again."""

    name = "studio.carrying"
    label = "carrying"

    def ready(self) -> None:
        from studio.carrying import posters  # noqa: F401
