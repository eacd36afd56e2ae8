"""The calendar page, its forms and its file."""

from dataclasses import replace
from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from chorograph_core.estimating import Measures, Wishes
from studio.agenda.diary import promises_of, week_of
from studio.agenda.models import DayOff
from studio.bookings.models import Booking
from studio.jobs.revisions import change_job
from studio.prices.lists import core_prices, prices_of
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_plan, make_studio


class CalendarTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        cls.other, (cls.berta,) = make_studio("Barn", "berta")
        cls.job = make_job(cls.studio, cls.anna)
        cls.today = timezone.localdate()

    def setUp(self):
        self.client.force_login(self.anna)

    def hours(self, **changes):
        data = {f"hours_{k}": "5" for k in range(7)} | {"long_day": "6", "what": "hours"}
        return self.client.post(reverse("calendar"), {**data, **changes})

    def off(self, first, last, **more):
        data = {"what": "off", "first": first, "last": last, **more}
        return self.client.post(reverse("calendar"), data)

    def due(self, days: int):
        iso = (self.today + timedelta(days=days)).isoformat()
        change_job(self.job.pk, None, self.anna, lambda core: replace(core, due=iso), "due")
        self.job.refresh_from_db()

    def test_hours_and_days_off_are_kept(self):
        self.assertRedirects(self.hours(hours_5="2.5"), reverse("calendar"))
        self.off(self.today.isoformat(), (self.today + timedelta(days=2)).isoformat(), why="fair")
        week = week_of(self.studio)
        self.assertEqual(week.hours[5], 2.5)
        self.assertEqual(week.off, {self.today + timedelta(days=k) for k in range(3)})
        self.assertContains(self.client.get(reverse("calendar")), "fair")
        self.client.post(reverse("drop-day-off", args=[DayOff.objects.get().pk]))
        self.assertEqual(week_of(self.studio).off, frozenset())

    def test_what_cannot_be_is_refused(self):
        for changes in (
            {"hours_0": "25"},
            {"hours_1": "-1"},
            {"hours_2": "noon"},
            {"long_day": "nan"},
        ):
            self.assertEqual(self.hours(**changes).status_code, 400)
        iso = self.today.isoformat()
        for first, last in ((iso, "2000-01-01"), ("x", iso), (iso, "2999-01-01"), ("", "")):
            self.assertEqual(self.off(first, last).status_code, 400)
        self.assertFalse(DayOff.objects.exists())

    def test_another_studios_day_off_stays(self):
        theirs = DayOff.objects.create(studio=self.other, first=self.today, last=self.today)
        self.assertEqual(
            self.client.post(reverse("drop-day-off", args=[theirs.pk])).status_code, 404
        )

    def test_a_planned_route_says_the_hours_and_stitched_jobs_are_gone(self):
        stock(self.studio)
        prices = core_prices(prices_of(self.studio))
        (guessed,) = promises_of(self.studio, prices)
        area = self.job.width * self.job.height
        self.assertAlmostEqual(guessed.hours, area / 400 + 1.5)
        plan = make_plan(self.job)
        (planned,) = promises_of(self.studio, prices)
        self.assertAlmostEqual(planned.hours, plan.figures["minutes"] / 60 + 1.5)
        Booking.objects.create(
            job=self.job, thread=self.studio.threads.first(), yards=1, state="out"
        )
        self.assertEqual(promises_of(self.studio, prices), [])

    def test_the_measured_size_counts_and_repairs_do(self):
        def measured(core):
            measures = Measures((20, 20, 20), (30, 30, 30))
            wishes = Wishes(level="full", repair_hours=2)
            return replace(core, intake=replace(core.intake, measures=measures, wishes=wishes))

        change_job(self.job.pk, None, self.anna, measured, "measured")
        (own,) = promises_of(self.studio, core_prices(prices_of(self.studio)))
        self.assertAlmostEqual(own.hours, 20 * 30 / 380 + 1.5 + 2)
        self.assertContains(self.client.get(reverse("jobs")), "20″ × 30″")

    def test_late_jobs_are_shown_late_and_written_in_the_file(self):
        self.hours(**{f"hours_{k}": "0.5" for k in range(7)})
        self.due(1)
        page = self.client.get(reverse("calendar"))
        self.assertContains(page, "late")
        events = Calendar.from_ical(self.client.get(reverse("calendar-ics")).content).walk("VEVENT")
        titles = [str(event["summary"]) for event in events]
        self.assertTrue(any("is due (ends" in title for title in titles))
        self.assertTrue(any("A small top: 0.5 h" in title for title in titles))
        self.client.force_login(self.berta)
        self.assertNotContains(self.client.get(reverse("calendar-ics")), "small top")
