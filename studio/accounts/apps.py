from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Studios and who works in them."""

    name = "studio.accounts"
    label = "accounts"
