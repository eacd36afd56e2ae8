"""A studio's price list and its levels of work."""

from __future__ import annotations

from decimal import Decimal

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from studio.accounts.models import Studio
from studio.numbers import number

NOT_BELOW = MinValueValidator(Decimal(0), "A price cannot be below zero.")
ABOVE = MinValueValidator(Decimal("0.1"), "This must be more than zero.")
CURRENCIES = [
    ("USD", "US dollar"), ("CAD", "Canadian dollar"), ("AUD", "Australian dollar"),
    ("NZD", "New Zealand dollar"), ("GBP", "Pound sterling"), ("EUR", "Euro"),
    ("CHF", "Swiss franc"), ("SEK", "Swedish krona"), ("NOK", "Norwegian krone"),
    ("DKK", "Danish krone"), ("JPY", "Japanese yen"),
]  # fmt: skip


class Prices(models.Model):
    """A studio's price list; its levels are `PriceLevel` rows."""

    TAXED = [("none", "nothing"), ("goods", "materials only"), ("all", "everything")]
    ROUNDING = [("0.01", "a hundredth"), ("0.05", "five hundredths"), ("1.00", "a whole")]

    studio = models.OneToOneField(Studio, on_delete=models.CASCADE, related_name="prices")
    currency = models.CharField("Currency", max_length=3, choices=CURRENCIES, default="USD")
    wished_hourly = number("Wished for an hour", 8, 2, NOT_BELOW, default=38)
    setup_hours = number("Hours to set up a job", 5, 2, NOT_BELOW, default=Decimal("1.5"))
    batting_area = number("Batting, a square inch", 13, 9, NOT_BELOW, default=Decimal("0.0065"))
    thread_yard = number("Thread, a yard", 12, 8, NOT_BELOW, default=Decimal("0.012"))
    binding_inch = number("Binding, an inch of edge", 12, 7, NOT_BELOW, default=Decimal("0.22"))
    binding_pace = number("Binding, inches of edge an hour", 10, 4, ABOVE, default=90)
    repair_hour = number("Repairs, an hour", 8, 2, NOT_BELOW, default=35)
    rush = number("Rush, percent of the work", 5, 1, NOT_BELOW, default=25)
    tax = models.DecimalField(
        "Tax, percent", max_digits=5, decimal_places=2, default=0,
        validators=[NOT_BELOW, MaxValueValidator(100, "Tax over 100%% cannot be.")],
    )  # fmt: skip
    taxed = models.CharField("Taxed is", max_length=5, choices=TAXED, default="goods")
    tax_included = models.BooleanField("Prices hold the tax already", default=False)
    rounding = models.CharField("Totals rounded to", max_length=5, choices=ROUNDING, default="0.01")
    last_number = models.PositiveIntegerField(default=0, editable=False)
    last_invoice = models.PositiveIntegerField(default=0, editable=False)

    def __str__(self) -> str:
        return f"prices of {self.studio_id}"


class PriceLevel(models.Model):
    """One level of work in a price list."""

    BASES = [("area", "by square inch"), ("hour", "by the hour")]

    prices = models.ForeignKey(Prices, on_delete=models.CASCADE, related_name="levels")
    place = models.PositiveSmallIntegerField(default=0)
    key = models.SlugField(max_length=20)
    name = models.CharField("Level", max_length=40)
    detail = models.CharField("What it is", max_length=160, blank=True)
    basis = models.CharField("Priced", max_length=4, choices=BASES, default="area")
    rate = number("Rate", 14, 9, NOT_BELOW)
    minimum = number("At least", 9, 2, NOT_BELOW)
    slow = models.PositiveIntegerField(
        "Square inches an hour, slow", validators=[MinValueValidator(1)]
    )
    quick = models.PositiveIntegerField("quick", validators=[MinValueValidator(1)])
    density = models.FloatField("Inches of line a square inch", validators=[MinValueValidator(0.0)])

    class Meta:
        ordering = ["place", "pk"]
        constraints = [models.UniqueConstraint(fields=["prices", "key"], name="level_key_once")]

    def __str__(self) -> str:
        return self.name
