from django.apps import AppConfig


class HouseConfig(AppConfig):
    """How a studio is called, writes, prints and works."""

    name = "studio.house"
    label = "house"
