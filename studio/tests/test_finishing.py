"""The last stage: the tape laid once more, what was agreed billed and frozen, thread off the shelf,
closed."""

from __future__ import annotations

from decimal import Decimal

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from chorograph_core.tests import long
from studio.agenda.diary import promises_of
from studio.bookings.models import Booking
from studio.finishing.models import Invoice, Measured
from studio.job_log.models import Entry
from studio.prices.lists import core_prices, prices_of
from studio.quotes import documents
from studio.shelf.models import Thread
from studio.stitching.models import Tap
from studio.tests.helpers import ChangingCase, make_job, make_plan, make_studio


class FinishCase(ChangingCase):
    def page(self):
        return self.client.get(reverse("finish", args=[self.job.pk]))

    def do(self, what, status=302, **values):
        answer = self.client.post(reverse("finish", args=[self.job.pk]), {"what": what, **values})
        self.assertEqual(answer.status_code, status, answer.content[:200])
        return answer

    def accepted(self):
        quote = documents.issue(self.job, self.anna, ["light", "full"])
        documents.accept(quote.pk, "full", "Mara")
        return quote


class TapeTests(FinishCase):
    def test_what_was_foretold_stands_beside_what_is_true(self):
        page = self.page()
        self.assertContains(page, "foretold after quilting")
        width, _ = page.context["expected"]
        self.assertTrue(0 < self.core.size[0] - width < 1)
        self.do("measure", width0="20 1/2", width1="20 1/4", height1="29")
        measured = Measured.objects.get()
        # By hand: the mean of 20.5 and 20.25.
        self.assertEqual(measured.size, (20.375, 29))
        self.assertContains(self.page(), "20 3/8")
        self.assertTrue(Entry.objects.filter(text__contains="Measured when it was done").exists())

    def test_what_no_tape_says_is_told_at_its_place(self):
        for values, field in (
            ({}, "width1"), ({"width0": "wide"}, "width0"), ({"width0": "20"}, "height1"),
            ({"width0": "20", "height2": "1"}, "height2"), ({"width1": "nan", "height1": "9"}, "width1"),
        ):  # fmt: skip
            answer = self.do("measure", 422, **values)
            with self.subTest(values):
                self.assertContains(answer, f'id="f-{field}"', status_code=422)
                self.assertContains(answer, 'aria-invalid="true"', status_code=422)
                for typed in values.values():
                    self.assertContains(answer, typed, status_code=422)
        self.assertFalse(Measured.objects.exists())

    def test_in_a_centimetre_studio_no_inch_is_seen(self):
        self.studio.units = "cm"
        self.studio.save()
        self.do("measure", width1="52", height1="74,5")
        self.assertAlmostEqual(Measured.objects.get().size[0], 52 / 2.54, places=3)
        self.assertNotContains(self.page(), "″")


class InvoiceTests(FinishCase):
    @long
    def test_it_is_what_was_agreed_and_its_extras_frozen_and_numbered(self):
        quote = self.accepted()
        level = next(each for each in quote.document["levels"] if each["key"] == "full")
        self.do(
            "bill", extra0="a sleeve", amount0="18,50", extra1="a thread left over", amount1="-3"
        )
        first = Invoice.objects.get()
        # By hand: the quote's own total, and 15.50 of work, which is not taxed here.
        self.assertEqual(
            Decimal(first.document["total"]), Decimal(level["total"]) + Decimal("15.50")
        )
        self.assertEqual((first.number, first.document["quoted"]["number"]), (1, quote.number))
        for name in ("invoice", "invoice-pdf"):
            answer = self.client.get(reverse(name, args=[self.job.pk, 1]))
            self.assertEqual(answer.status_code, 200)
        self.assertTrue(answer.content.startswith(b"%PDF"))
        # A dearer list tomorrow reaches nothing that is issued.
        prices = prices_of(self.studio)
        prices.tax, prices.taxed = 10, "all"
        prices.save()
        page = self.client.get(reverse("invoice", args=[self.job.pk, 1]))
        self.assertContains(page, "a sleeve")
        self.assertNotContains(page, "Tax")
        with self.assertRaises(TypeError):
            first.save()
        self.do("bill", extra0="a sleeve", amount0="20")
        second = Invoice.objects.get(number=2)
        self.assertEqual(second.replaces, first)
        self.assertEqual(Decimal(second.document["total"]), Decimal(level["total"]) + Decimal("22"))
        self.assertContains(
            self.client.get(reverse("invoice", args=[self.job.pk, 1])), "Replaced by"
        )

    def test_without_a_quote_it_is_billed_by_lines_of_ones_own(self):
        self.assertContains(self.do("bill", 422), "at least one line", status_code=422)
        self.do("bill", extra0="edge to edge", amount0="140")
        self.assertEqual(Invoice.objects.get().document["total"], "140.00")

    def test_amounts_that_are_none_are_told_and_what_was_typed_stays(self):
        for values, says in (
            ({"extra0": "a sleeve", "amount0": "much"}, "like 12.50"), ({"amount0": "3"}, "this amount"),
            ({"extra0": "a", "amount0": "1e999"}, "like 12.50"), ({"extra0": "a", "amount0": "0"}, "like"),
            ({"extra0": "off", "amount0": "-5"}, "is taken off"), ({"extra0": "a", "amount0": "NaN"}, "like"),
        ):  # fmt: skip
            answer = self.do("bill", 422, **values)
            with self.subTest(values):
                self.assertContains(answer, says, status_code=422)
                for typed in values.values():
                    self.assertContains(answer, f'value="{typed}"', status_code=422)
        self.assertFalse(Invoice.objects.exists())
        prices = prices_of(self.studio)
        self.assertEqual(prices.last_invoice, 0)
        self.assertContains(self.do("dance", 422), "Choose one", status_code=422)

    def test_what_an_hour_brought_is_what_the_log_and_the_work_say(self):
        self.do("bill", extra0="quilting", amount0="120")
        self.assertIsNone(self.page().context["earned"])
        self.client.post(
            reverse("log", args=[self.job.pk]), {"what": "all of it", "took": "2 h 30"}
        )
        # By hand: 120 by two and a half hours.
        self.assertEqual(self.page().context["earned"], Decimal("48"))

    def test_batting_and_thread_are_nothing_that_an_hour_brought(self):
        quote = self.accepted()
        level = next(each for each in quote.document["levels"] if each["key"] == "full")
        self.do("bill", extra0="a sleeve", amount0="20")
        self.client.post(reverse("log", args=[self.job.pk]), {"what": "all of it", "took": "2 h"})
        goods = [li for li in level["lines"] if li["name"] in ("Batting", "Thread", "Binding")]
        self.assertTrue(goods)
        work = sum(Decimal(li["amount"]) for li in level["lines"] if li not in goods) + 20
        self.assertEqual(self.page().context["earned"], work / 2)


class EndTests(FinishCase):
    def setUp(self):
        super().setUp()
        for key in ("indigo", "bracken", "clear"):
            Thread.objects.create(
                studio=self.studio, key=key, name=key, weight=40, cone=1000, left=1000
            )
        make_plan(self.job)

    def test_thread_is_taken_off_by_what_was_used(self):
        planned = dict(Booking.objects.values_list("thread__key", "yards"))
        self.assertContains(
            self.do("thread", 422, **{"used-indigo": "lots"}), "Yards are", status_code=422
        )
        self.do("thread", **{"used-indigo": "12,5"})
        left = dict(Thread.objects.values_list("key", "left"))
        self.assertEqual(left["indigo"], Decimal("987.5"))
        self.assertEqual(left["bracken"], 1000 - planned["bracken"])
        self.assertContains(self.do("thread", 422), "Nothing is reserved", status_code=422)

    def test_a_closed_job_holds_no_days_and_can_be_taken_up_again(self):
        prices = core_prices(prices_of(self.studio))
        self.assertEqual(len(promises_of(self.studio, prices)), 1)
        self.do("close")
        self.assertContains(self.do("close", 422), "closed already", status_code=422)
        self.assertEqual(promises_of(self.studio, prices), [])
        listed = self.client.get(reverse("jobs"))
        self.assertContains(listed, "Closed")
        self.do("reopen")
        self.assertEqual(len(promises_of(self.studio, prices)), 1)
        # It comes after those that are still to be done.
        other = make_job(self.studio, self.anna)
        self.do("close")
        self.assertEqual(next(iter(self.client.get(reverse("jobs")).context["jobs"])), other)

    def test_the_care_sheet_says_what_is_inside(self):
        page = self.client.get(reverse("care", args=[self.job.pk]))
        self.assertContains(page, "indigo 40")
        self.assertContains(page, "must not hang")

    def test_a_long_log_asks_no_more_of_the_database(self):
        with CaptureQueriesContext(connection) as few:
            self.page()
        Tap.objects.bulk_create(
            Tap(job=self.job, key=f"00000000-0000-0000-0000-{n:012}", device="x", kind="note",
                at="2026-01-01T00:00Z") for n in range(200)
        )  # fmt: skip
        with CaptureQueriesContext(connection) as many:
            self.page()
        self.assertEqual(len(few), len(many))

    def test_it_is_nobody_elses(self):
        _, (berta,) = make_studio("Barn")
        self.do("bill", extra0="quilting", amount0="120")
        self.client.force_login(berta)
        for name, more in (("finish", []), ("invoice", [1]), ("invoice-pdf", [1]), ("care", [])):
            answer = self.client.get(reverse(name, args=[self.job.pk, *more]))
            self.assertEqual(answer.status_code, 404)
