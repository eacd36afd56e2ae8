from django.apps import AppConfig


class QuotesConfig(AppConfig):
    """Prices, frozen quotes, and the page a client sees."""

    name = "studio.quotes"
    label = "quotes"
