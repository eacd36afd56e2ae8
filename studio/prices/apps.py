from django.apps import AppConfig


class PricesConfig(AppConfig):
    """The price list of a studio."""

    name = "studio.prices"
    label = "prices"
