"""Dates, times and money as a studio writes them."""

from __future__ import annotations

import datetime
import re
import threading
from decimal import Decimal

from django.test import SimpleTestCase, TestCase
from django.urls import reverse

from studio.jobs.models import Job
from studio.quotes.documents import issue, make_link, signed
from studio.tests.helpers import make_job, make_studio
from studio.writing import (
    LOCALES,
    first_weekday,
    write_as,
    written_as,
    written_day,
    written_money,
)

DAY = datetime.datetime(2026, 11, 27, 15, 4)
KINDS = """
    day day_year weekday weekday_year long long_year full day_time day_year_time weekday_time time
""".split()  # noqa: SIM905


class WritingTests(SimpleTestCase):
    def test_as_people_write_where_they_live(self):
        for locale, day, full, time, money in (
            ("", "27 Nov", "Friday, 27 November 2026", "15:04", "$1,234.50"),
            ("en_US", "Nov 27", "Friday, November 27, 2026", "3:04\u00a0PM", "$1,234.50"),
            ("en_GB", "27 Nov", "Friday, 27 November 2026", "15:04", "US$1,234.50"),
        ):
            with self.subTest(locale), written_as(locale):
                self.assertEqual(written_day(DAY), day)
                self.assertEqual(written_day(DAY, "full"), full)
                self.assertEqual(written_day(DAY, "time"), time)
                self.assertEqual(written_day(DAY, "day_time"), f"{day}, {time}")
                self.assertEqual(written_money(Decimal("1234.5"), "USD"), money)

    def test_every_kind_in_every_place(self):
        for locale in LOCALES:
            for kind in KINDS:
                with self.subTest(locale, kind=kind), written_as(locale):
                    self.assertTrue(written_day(DAY, kind))
        with written_as("en_US"):
            self.assertEqual(first_weekday(), 6)
        self.assertEqual(first_weekday(), 0)

    def test_what_is_no_place_is_none(self):
        with written_as("xx; drop"):
            self.assertEqual(written_day(DAY), "27 Nov")

    def test_one_thread_does_not_write_as_another(self):
        found = []
        write_as("en_US")
        other = threading.Thread(target=lambda: found.append(written_day(DAY)))
        other.start()
        other.join()
        self.assertEqual((found, written_day(DAY)), (["27 Nov"], "Nov 27"))
        write_as("")


class StudioTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.job = make_job(self.studio, self.anna)
        Job.objects.filter(pk=self.job.pk).update(due=datetime.date(2030, 11, 27))
        self.client.force_login(self.anna)

    def chosen(self, locale: str, status: int = 302) -> None:
        values = {"name": "Loft", "address": "", "units": "in", "paper": "letter", "locale": locale}
        self.assertEqual(self.client.post(reverse("house"), values).status_code, status)

    def test_pages_follow_the_studio_and_the_next_request_does_not(self):
        self.assertContains(self.client.get(reverse("jobs")), "27 Nov")
        self.chosen("en_US")
        self.assertContains(self.client.get(reverse("jobs")), "Nov 27")
        self.assertContains(self.client.get(reverse("calendar")), "<th>Sun</th><th>Mon</th>")
        first = re.findall(
            r'<span class="daynum">([A-Z][a-z]{2} \d+)<',
            self.client.get(reverse("calendar")).content.decode(),
        )
        self.assertTrue(first, "the first day of a month with its month")
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        self.assertContains(self.client.get(reverse("calendar")), "<th>Mon</th><th>Tue</th>")
        self.client.force_login(self.anna)
        self.client.get(reverse("jobs"))
        self.assertEqual(written_day(DAY), "Nov 27")
        self.client.logout()
        self.client.get(reverse("sign-in"))
        self.assertEqual(written_day(DAY), "27 Nov", "a page of nobody's studio")

    def test_a_client_reads_her_quote_as_the_studio_writes(self):
        self.chosen("en_US")
        quote = issue(self.job, self.anna, ["light", "full"])
        link = make_link(quote, self.anna)
        self.client.logout()
        page = self.client.get(reverse("client", args=[signed(link)]))
        self.assertRegex(page.content.decode(), r"ready by [A-Z][a-z]+ \d+, \d{4}")

    def test_what_is_no_place_is_refused(self):
        self.chosen("xx", status=400)
