"""The shelf: forms, what a job reserves, and cones that cannot hold less than nothing."""

from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal

from django.db import IntegrityError, connection, transaction
from django.test import TestCase, TransactionTestCase
from django.urls import reverse

from chorograph_core.rulers.outlines import outline_of
from chorograph_core.tests import long
from studio.bookings.models import Booking
from studio.bookings.stock import StockError, book_out, needs_of, reserve
from studio.shelf.choices import core_ruler
from studio.shelf.forms import KINDS
from studio.shelf.models import Thread
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_plan, make_studio


class ShelfPageTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        cls.other, (cls.berta,) = make_studio("Barn", "berta")
        stock(cls.studio)
        stock(cls.other)

    def setUp(self):
        self.client.force_login(self.anna)

    def filled(self, kind, item):
        page = self.client.get(reverse("shelf-item", args=[kind, item.pk]))
        form = page.context["form"]
        values = {name: form[name].value() for name in form.fields}
        del values["seen"]  # the mark of one item says nothing about another
        return {k: v for k, v in values.items() if v not in (None, False)}

    @long
    def test_every_kind_can_be_put_there_corrected_and_taken_away(self):
        for kind, (model, *_rest) in KINDS.items():
            with self.subTest(kind):
                item = model.objects.filter(studio=self.studio).first()
                values = self.filled(kind, item)
                answer = self.client.post(
                    reverse("shelf-new", args=[kind]), {**values, "name": "quite new"}
                )
                self.assertRedirects(answer, reverse("shelf"))
                made = model.objects.get(name="quite new")
                self.assertEqual(made.studio, self.studio)
                self.assertContains(self.client.get(reverse("shelf")), "quite new")
                self.client.post(
                    reverse("shelf-item", args=[kind, made.pk]), {**values, "name": "renamed"}
                )
                self.assertTrue(model.objects.filter(pk=made.pk, name="renamed").exists())
                self.client.post(reverse("shelf-drop", args=[kind, made.pk]))
                self.assertFalse(model.objects.filter(pk=made.pk).exists())

    def test_what_cannot_be_is_refused_at_its_field(self):
        for kind, field, value, word in (
            ("thread", "left", "-5", "below zero"), ("thread", "weight", "0", "more than zero"),
            ("thread", "colour", "blue", "#2b3a55"), ("thread", "cone", "lots", "number"),
            ("batting", "length", "-1", "below zero"), ("batting", "gap", "NaN", "number"),
            ("ruler", "etched", "1/4 fish", "not a length"), ("ruler", "margin", "50", "Nothing of the edge"),
            ("marker", "hours", "-2", "more than zero"), ("bobbin", "count", "-3", "greater than"),
            ("machine", "throat", "0", "more than zero"), ("machine", "kind", "hovering", "valid choice"),
        ):  # fmt: skip
            item = KINDS[kind][0].objects.filter(studio=self.studio).first()
            answer = self.client.post(reverse("shelf-item", args=[kind, item.pk]),
                                      {**self.filled(kind, item), field: value})  # fmt: skip
            with self.subTest(f"{kind} {field}"):
                self.assertEqual(answer.status_code, 400)
                self.assertIn(word, str(answer.context["form"].errors[field]))
                self.assertContains(answer, value, status_code=400)

    def test_a_shape_needs_its_figures(self):
        ruler = self.studio.rulers.filter(shape="straight").first()
        values = self.filled("ruler", ruler)
        for shape, field in (("arc", "convex"), ("s", "period"), ("circle", "convex")):
            answer = self.client.post(
                reverse("shelf-new", args=["ruler"]), {**values, "shape": shape}
            )
            self.assertIn(field, answer.context["form"].errors)

    def test_a_ruler_is_drawn_to_scale_and_told_by_what_it_stitches(self):
        ruler = self.studio.rulers.filter(shape="straight").first()
        values = {**self.filled("ruler", ruler), "name": "our ring", "shape": "circle", "convex": "3",
                  "concave": "2.5", "taped": "5/8"}  # fmt: skip
        self.assertEqual(
            self.client.post(reverse("shelf-new", args=["ruler"]), values).status_code, 302
        )
        made = self.studio.rulers.get(name="our ring")
        page = self.client.get(reverse("shelf-item", args=["ruler", made.pk]))
        self.assertContains(
            page, "outside of the circle stitches 3 1/4″, inside of the circle stitches 2 1/4″"
        )
        core = core_ruler(made)
        self.assertEqual((core.taped, core.shape), ((0.625,), "circle"))
        plate = outline_of(core)
        self.assertAlmostEqual(plate.area, 3.1416 * (9 - 6.25), delta=0.03)
        wave = {**values, "name": "w", "shape": "s", "period": "4", "height": "3"}
        answer = self.client.post(reverse("shelf-new", args=["ruler"]), wave)
        self.assertIn("half as high", str(answer.context["form"].errors["height"]))

    def test_etched_lines_stay_the_lengths_they_are(self):
        ruler = self.studio.rulers.filter(shape="straight").first()
        address = reverse("shelf-item", args=["ruler", ruler.pk])
        for typed, kept in (("1/4, 1, 1 1/2", "1/4, 1, 1 1/2"), ("1/4 1 2", "1/4, 1, 2"),
                            ("3/4″ 1 1/2″", "3/4, 1 1/2"), ("", "")):  # fmt: skip
            values = {**self.filled("ruler", ruler), "etched": typed, "edges": "one long side"}
            self.assertEqual(self.client.post(address, values).status_code, 302)
            ruler.refresh_from_db()
            self.assertEqual((ruler.etched, ruler.edges), (kept, "one long side"))
            self.assertEqual(self.filled("ruler", ruler)["etched"], kept)

    def test_another_studios_things_are_not_there(self):
        for kind, (model, *_rest) in KINDS.items():
            theirs = model.objects.filter(studio=self.other).first()
            self.assertEqual(
                self.client.get(reverse("shelf-item", args=[kind, theirs.pk])).status_code, 404
            )
            self.assertEqual(
                self.client.post(reverse("shelf-drop", args=[kind, theirs.pk])).status_code, 404
            )
        theirs = self.other.bobbins.first()
        machine = self.studio.machines.first()
        answer = self.client.post(reverse("shelf-item", args=["machine", machine.pk]),
                                  {**self.filled("machine", machine), "bobbin": theirs.pk})  # fmt: skip
        self.assertIn("bobbin", answer.context["form"].errors)
        self.assertEqual(self.client.get("/shelf/moon/").status_code, 404)
        self.assertEqual(self.client.post("/shelf/moon/1/drop/").status_code, 404)

    def test_two_threads_of_one_name_get_keys_of_their_own(self):
        item = self.studio.threads.get(key="indigo")
        for _ in range(2):
            self.client.post(
                reverse("shelf-new", args=["thread"]),
                {**self.filled("thread", item), "name": "Fog"},
            )
        keys = set(self.studio.threads.filter(name="Fog").values_list("key", flat=True))
        self.assertEqual(keys, {"fog", "fog-2"})

    def test_a_thin_ruler_is_warned_of(self):
        self.studio.rulers.update(thickness="0.125")
        self.assertContains(self.client.get(reverse("shelf")), "Too thin")


class StockTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        stock(cls.studio)
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)

    def test_planning_reserves_top_and_bobbin(self):
        plan = make_plan(self.job)
        held = {b.thread.key: b.yards for b in Booking.objects.filter(job=self.job)}
        self.assertEqual(set(held), set(plan.figures["thread_yards"]))
        for key, yards in plan.figures["thread_yards"].items():
            self.assertAlmostEqual(float(held[key]), 2 * yards, delta=0.11)
        before = self.studio.threads.get(key="indigo").left
        self.assertRedirects(self.client.post(reverse("job-thread", args=[self.job.pk])),
                             reverse("job-thread", args=[self.job.pk]))  # fmt: skip
        self.assertEqual(self.studio.threads.get(key="indigo").left, before - held["indigo"])
        self.assertIn("Thread taken off the shelf", self.job.book.first().text)
        again = self.client.post(reverse("job-thread", args=[self.job.pk]))
        self.assertContains(again, "Nothing is reserved", status_code=409)

    def test_running_short_is_said_before_with_what_to_buy(self):
        thread = self.studio.threads.get(key="indigo")
        other = make_job(self.studio, self.anna)
        reserve(other, {"indigo": 900})
        reserve(self.job, {"indigo": 600, "clear": 5, "unknown": 3})
        need = next(need for need in needs_of(self.job) if need.key == "indigo")
        # 1,900 yd are there, 1,800 are the other job's, 1,200 are needed, a cone holds 1,100.
        self.assertEqual((need.free, need.short, need.buy), (Decimal(100), Decimal(1100), 1))
        self.assertContains(
            self.client.get(reverse("job-thread", args=[self.job.pk])), "buy 1 cone of 1,100 yd"
        )
        self.assertContains(self.client.get(reverse("shelf")), "runs short")
        make_plan(self.job)
        thread.bookings.filter(job=other).update(yards=1890)
        page = self.client.get(reverse("work", args=[self.job.pk]) + "?stage=route")
        self.assertContains(page, "indigo 40 runs short.")
        reserve(self.job, {"clear": 5})
        self.assertEqual([need.key for need in needs_of(self.job)], ["clear"])
        thread.refresh_from_db()
        self.assertEqual(thread.left, 1900)

    def test_no_job_misses_more_than_it_takes(self):
        reserve(make_job(self.studio, self.anna), {"indigo": 1500})
        reserve(self.job, {"indigo": 60})
        (need,) = needs_of(self.job)
        # 3,000 yd are promised of 1,900: what the other job lacks is not lacking here.
        self.assertEqual((need.free, need.short, need.buy), (Decimal(0), Decimal(120), 1))

    def test_one_thread_too_few_takes_none_of_any(self):
        reserve(self.job, {"clear": 5, "indigo": 99_999})
        answer = self.client.post(reverse("job-thread", args=[self.job.pk]))
        self.assertContains(answer, "indigo 40: 199998 yd are needed", status_code=409)
        self.assertEqual(self.studio.threads.get(key="clear").left, 2600)
        self.assertEqual(Booking.objects.filter(state="out").count(), 0)

    def test_the_database_itself_refuses(self):
        for change in ({"left": -1},):
            with self.assertRaises(IntegrityError), transaction.atomic():
                Thread.objects.filter(studio=self.studio).update(**change)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Booking.objects.create(thread=self.studio.threads.first(), job=self.job, yards=-1)


class AtOnceTests(TransactionTestCase):
    def test_the_last_yards_go_to_one_of_two(self):
        studio, (anna,) = make_studio("Loft", "anna")
        stock(studio)
        Thread.objects.update(left=100)
        jobs = [make_job(studio, anna) for _ in range(4)]
        for job in jobs:
            reserve(job, {"indigo": 35, "clear": 10})

        def out(job):
            try:
                return book_out(job, anna)
            except StockError as error:
                return error
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            results = list(pool.map(out, jobs))
        self.assertEqual(sum(isinstance(each, list) for each in results), 1)
        left = dict(studio.threads.values_list("key", "left"))
        self.assertEqual((left["indigo"], left["clear"]), (30, 80))
