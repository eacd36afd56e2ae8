"""The studio's calendar as an iCalendar file (RFC 5545): days at the machine, due dates, days off."""

from __future__ import annotations

import datetime
from collections.abc import Callable, Iterable

from icalendar import Calendar, Event

from chorograph_core.estimating import Booked

PRODUCT = "-//Chorograph//Calendar//EN"


def calendar_file(
    name: str,
    booked: Iterable[Booked],
    days_off: Iterable[tuple[datetime.date, str]],
    stamp: datetime.datetime,
    say: Callable[[str], str] = str,
) -> bytes:
    """All-day events: each job on each of its days with the hours, its due date, days off.

    The identifiers stay the same from one file to the next, so that a calendar that takes the file
    in again moves the events rather than doubling them. *say* tells a phrase in the studio's language.
    """
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for each in booked:
        title, key = each.promise.title, each.promise.key
        for number, (day, hours) in enumerate(each.days, 1):
            calendar.add_component(
                _event(f"{key}-day-{number}", f"{title}: {say(f'{hours:.1f} h')}", day, stamp)
            )
        for number, (day, hours) in enumerate(each.away, 1):
            told = f"{title}: {say(f'{hours:.1f} h')}, {each.promise.away_by}"
            calendar.add_component(_event(f"{key}-away-{number}", told, day, stamp))
        if each.promise.due is not None:
            days = "day" if each.late == 1 else "days"
            late = f" {say(f'(ends {each.late} {days} late)')}" if each.late else ""
            calendar.add_component(
                _event(f"{key}-due", f"{title} {say('is due')}{late}", each.promise.due, stamp)
            )
    for day, why in days_off:
        calendar.add_component(_event(f"off-{day.isoformat()}", why or say("Day off"), day, stamp))
    return calendar.to_ical()


def _event(key: str, title: str, day: datetime.date, stamp: datetime.datetime) -> Event:
    event = Event()
    event.add("uid", f"{key}@chorograph")
    event.add("summary", title)
    event.add("dtstart", day)
    event.add("dtend", day + datetime.timedelta(days=1))
    event.add("dtstamp", stamp)
    event.add("transp", "TRANSPARENT")
    return event
