"""The calendar: hours, days off, what is promised, and the file for other calendars."""

from __future__ import annotations

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from chorograph_core.estimating import schedule
from chorograph_core.estimating.price import WITHOUT_LEVEL
from studio.accounts.access import for_studio
from studio.accounts.models import named
from studio.accounts.once import once
from studio.agenda.beside import notes_by_day
from studio.agenda.diary import calendar_of, promises_of, week_of
from studio.agenda.forms import DayOffForm, OwnWeekForm, WeekForm
from studio.agenda.models import DayOff, OwnWeek, Week
from studio.agenda.month import weeks_ahead
from studio.answers import as_file
from studio.prices.lists import core_prices, prices_of


@for_studio
@require_http_methods(["GET", "POST"])
@once
def calendar(request: HttpRequest) -> HttpResponse:
    """Weeks ahead with the jobs in them; a POST sets the hours or adds days off."""
    studio = request.studio
    week = Week.objects.filter(studio=studio).first() or Week(studio=studio)
    hours = WeekForm(_for(request, "hours"), instance=week)
    off = DayOffForm(_for(request, "off"), instance=DayOff(studio=studio))
    status = 200
    people = named(studio)
    kept = {each.member_id: each for each in OwnWeek.objects.filter(member__studio=studio)}
    # Who works alone is at one machine at a time.
    others = [
        OwnWeekForm(name, member, kept.get(member.pk), _for(request, f"own-{member.pk}"))
        for name, member in (people if len(people) > 1 else {}).items()
    ]
    if request.method == "POST":
        asked = {"off": off, **{form.prefix: form for form in others}}
        form: forms.BaseForm = asked.get(request.POST.get("what", ""), hours)
        if form.is_valid():
            form.save()
            return redirect("calendar")
        status = 400
    today = timezone.localdate()
    work = week_of(studio)
    booked = schedule(promises_of(studio, core_prices(prices_of(studio))), work, today)
    notes = notes_by_day(studio, request.user, booked, work, today)
    days_off = studio.days_off.filter(last__gte=today)
    context = {
        "hours": hours, "others": others, "off": off, "days_off": days_off, "booked": booked,
        "weeks": weeks_ahead(booked, work, today, notes), "today": today, "without_level": WITHOUT_LEVEL,
    }  # fmt: skip
    return render(request, "agenda/calendar.html", context, status=status)


def _for(request: HttpRequest, what: str):
    return request.POST if request.method == "POST" and request.POST.get("what") == what else None


@for_studio
@require_POST
def drop_day_off(request: HttpRequest, item_id: int) -> HttpResponse:
    """Work on those days after all."""
    get_object_or_404(DayOff, pk=item_id, studio=request.studio).delete()
    return redirect("calendar")


@for_studio
@require_GET
def calendar_ics(request: HttpRequest) -> HttpResponse:
    """The calendar as an iCalendar file."""
    return as_file(calendar_of(request.studio), "chorograph", "ics")
