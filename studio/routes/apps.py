from django.apps import AppConfig


class RoutesConfig(AppConfig):
    """Routes: planned in the worker, kept by the content they were planned from."""

    name = "studio.routes"
    label = "routes"

    def ready(self) -> None:
        from studio.routes import printing  # noqa: F401
