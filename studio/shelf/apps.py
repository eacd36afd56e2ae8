from django.apps import AppConfig


class ShelfConfig(AppConfig):
    """What the studio has: threads, battings, rulers, marking tools, machines."""

    name = "studio.shelf"
    label = "shelf"
