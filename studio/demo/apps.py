from django.apps import AppConfig


class DemoConfig(AppConfig):
    """The demo studio; nothing imports it."""

    name = "studio.demo"
    label = "demo"
