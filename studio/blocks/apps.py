"""The studio's own blocks."""

from django.apps import AppConfig


class BlocksConfig(AppConfig):
    """Blocks drafted on the board, saved to the studio."""

    name = "studio.blocks"
    label = "blocks"
    default_auto_field = "django.db.models.BigAutoField"
