from django.apps import AppConfig


class OutboxConfig(AppConfig):
    """The outbox: mail that would have been sent."""

    name = "studio.outbox"
    label = "outbox"
