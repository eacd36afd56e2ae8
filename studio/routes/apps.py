from django.apps import AppConfig


class RoutesConfig(AppConfig):
    """Routes: planned in the worker, kept by the content they were planned from."""

    name = "studio.routes"
    label = "routes"
