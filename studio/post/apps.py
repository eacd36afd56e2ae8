from django.apps import AppConfig


class PostConfig(AppConfig):
    """The outbox: mail that would have been sent."""

    name = "studio.post"
    label = "post"
