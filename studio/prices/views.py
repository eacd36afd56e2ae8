"""The studio's price list."""

from __future__ import annotations

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from studio.accounts.access import for_studio
from studio.prices.forms import LevelForms, PricesForm
from studio.prices.lists import prices_of


@for_studio
@require_http_methods(["GET", "POST"])
def price_list(request: HttpRequest) -> HttpResponse:
    """The studio's price list."""
    prices = prices_of(request.studio)
    form = PricesForm(request.POST or None, instance=prices, units=request.studio.units)
    levels = LevelForms(request.POST or None, instance=prices,
                        form_kwargs={"units": request.studio.units})  # fmt: skip
    status = 200
    if request.method == "POST":
        with transaction.atomic():
            # Both are looked at here, in the transaction: the page shows the faults of both.
            if all([form.is_valid(), levels.is_valid()]):
                form.save()
                levels.save()
                return redirect("prices")
        status = 400
    return render(request, "prices/prices.html", {"form": form, "levels": levels}, status=status)
