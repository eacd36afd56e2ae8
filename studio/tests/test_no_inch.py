"""A centimetre studio: every page is walked, and none speaks of inches or yards."""

from __future__ import annotations

import re
from contextlib import suppress
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db.transaction import atomic
from django.forms.models import model_to_dict
from django.test import TestCase
from django.urls import reverse

from chorograph_core.estimating import Asked, offer
from chorograph_core.tests import long
from studio.asking import EditError
from studio.charting.tracing import begin
from studio.finishing.billing import bill
from studio.helping.guide import pages
from studio.jobs.revisions import core_job
from studio.photos.keeping import keep_photo
from studio.prices.lists import core_prices, prices_of
from studio.quotes.documents import issue
from studio.shelf.forms import KINDS
from studio.shelf.models import OwnMotif, Ruler
from studio.shelf.starting import stock
from studio.stitching.models import Tap
from studio.tests.forms import forms_in
from studio.tests.helpers import ChangingCase, make_job, make_plan, make_studio
from studio.tests.pictures import png
from studio.tests.test_access import OPEN, PDF, addresses
from studio.tests.test_blocks import keep
from studio.workbench.spi import spi_from, written_spi

INCH = re.compile(r"\d ?″|\bsq in\b|\binch(?:es)?\b(?! as fractions)|\byd\b|\byards?\b|\d ?″", re.I)
HIDDEN = re.compile(r"<(script|style|svg|title)\b.*?</\1>|<!--.*?-->", re.S)
SAID = re.compile(r'(?:title|placeholder|aria-label|value|alt)="([^"]*)"')
TAG = re.compile(r"<[^>]+>")
FIELD = re.compile(r'<(?:input|textarea)\b[^>]*?(?:value|placeholder)="[^"]*\d(?: in|/\d+)"[^>]*>')


def words_of(page: str) -> str:
    """What a page says: its text, and what its fields and drawings say."""
    bare = HIDDEN.sub(" ", page)
    return "\n".join([TAG.sub(" ", bare), *SAID.findall(page), *map(_marked, FIELD.findall(page))])


def _marked(field: str) -> str:
    """A field in which an inch stands by its word, or a fraction of one."""
    return f"{TAG.sub('', field) or field.strip('<>')} 1 inch"


class WalkCase(TestCase):
    """Every page of a studio that writes centimetres."""

    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft")
        cls.studio.units = "cm"
        cls.studio.save()
        cls.job = make_job(cls.studio, cls.anna, 1, 2)
        stock(cls.studio)
        cls.plan = make_plan(cls.job)
        photo = keep_photo(cls.job, cls.anna, SimpleUploadedFile("a.png", png()), "whole", "")
        issue(cls.job, cls.anna, ["light", "full"])
        bill(cls.job, {"extra0": "quilting", "amount0": "9"}, cls.anna)
        tracing = begin(cls.job, photo, [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)], cls.anna)
        own = keep(cls.studio).pk
        OwnMotif.objects.create(pk=own, studio=cls.studio, name="gate", stroke="0,1 .5,-1 1,1")
        cls.more = {
            "tracing_id": tracing.pk, "photo_id": photo.pk, "item_id": 0, "own_id": own, "off_id": 1,
            "thread_id": cls.studio.threads.first().pk, "reading_id": 1,
        }  # fmt: skip

    def walk(self):
        """(name, what it says) of every page."""
        self.client.force_login(self.anna)
        zone = core_job(self.job).zones[0].id
        for name, address in addresses(self.job.pk, **self.more):
            # What is for programs.
            if name in OPEN | PDF | {"export-job", "route-json", "plan-state"}:
                continue
            for given in (
                {},
                {"zones": zone},
                {"zones": zone, "seconds": "900", "plan": self.plan.pk, "leg": "6"},
            ):
                answer = self.client.get(address, given)
                kind = answer.headers.get("Content-Type", "")
                if answer.status_code == 200 and kind.startswith(("text/html", "application/json")):
                    yield name, words_of(answer.content.decode())


class NoInchTests(WalkCase):
    def test_no_page_of_the_guide_does_either(self):
        self.client.force_login(self.anna)
        for key in pages():
            says = words_of(self.client.get(reverse("help-page", args=[key])).content.decode())
            with self.subTest(key):
                self.assertEqual([says[max(0, hit.start() - 40) : hit.end() + 20]
                                  for hit in INCH.finditer(says)], [])  # fmt: skip
        found = self.client.get(reverse("help"), {"q": "basted raw edge"})
        self.assertContains(found, "0.3 cm from the raw edge")
        self.studio.units = "in"
        self.studio.save()
        found = self.client.get(reverse("help"), {"q": "basted raw edge"})
        self.assertContains(found, "1/8″ from the raw edge")

    def test_threads_from_a_table_are_looked_at_in_metres(self):
        self.client.force_login(self.anna)
        rows = "name,weight,cone_yd,left_yd\nash,40,1000,-5\nelm,40,1000,500\n"
        file = SimpleUploadedFile("threads.csv", rows.encode())
        says = words_of(self.client.post(reverse("threads-in"), {"threads": file}).content.decode())
        self.assertIn("915 m", says)
        self.assertIn("Metres left", says)
        # What the columns of a file may be called is said as it is.
        bare = says.replace("cone_yd", "").replace("left_yd", "")
        self.assertEqual(INCH.findall(bare), [])

    @long
    def test_no_page_speaks_of_inches_or_yards(self):
        seen, found = set(), {}
        for name, says in self.walk():
            seen.add(name)
            for hit in INCH.finditer(says):
                around = " ".join(says[max(0, hit.start() - 40) : hit.end() + 25].split())
                found.setdefault(name, {})[around] = None
        self.assertGreater(len(seen), 45)
        for name, around in found.items():
            with self.subTest(name):
                self.assertEqual(list(around)[:12], [])
        self.assertFalse(Tap.objects.exists())


class RefusedTests(WalkCase):
    """What is said where figures cannot be."""

    def forms(self):
        """(name of the page, its address, form) of every form that somebody types into."""
        self.client.force_login(self.anna)
        zone = core_job(self.job).zones[0].id
        seen = set()
        for name, address in addresses(self.job.pk, **self.more):
            if name in OPEN | PDF:
                continue
            answer = self.client.get(address, {"zones": zone})
            kind = answer.headers.get("Content-Type", "")
            if answer.status_code != 200 or not kind.startswith("text/html"):
                continue
            for form in forms_in(answer.content.decode()):
                here = (form.action or address, tuple(sorted(form.typed)))
                if form.typed and here not in seen:
                    seen.add(here)
                    yield name, form.action or address, form

    @long
    def test_what_is_refused_is_refused_in_centimetres(self):
        """Nothing, nought, less, too much, too fine, no figure: in every field of every form."""
        sent, refused = 0, set()
        for name, action, form in self.forms():
            for typed in ("", "0", "-1", "0.01", "99999", "rug"):
                values = form.values | dict.fromkeys(form.typed, typed)
                with self.subTest(name, action=action, typed=typed), suppress(_Undone), atomic():
                    answer = self.client.post(action, values, headers={"HX-Request": "true"})
                    sent += 1
                    self.assertLess(answer.status_code, 500)
                    says = words_of(answer.content.decode()) if not answer.streaming else ""
                    if answer.status_code >= 400 or "fault" in answer.content.decode():
                        refused.add(action)
                    self.assertEqual([says[max(0, hit.start() - 60) : hit.end() + 30]
                                      for hit in INCH.finditer(says)], [])  # fmt: skip
                    raise _Undone
        self.assertGreater(sent, 150)
        self.assertGreater(len(refused), 20)

    def test_a_layout_that_cannot_be_is_refused_in_centimetres(self):
        """Each of them, with nothing in its fields, and with far too much."""
        self.client.force_login(self.anna)
        form = self.client.get(reverse("new-job")).context["form"]
        layouts = [value for value, _ in form.fields["layout"].choices]
        start = {field.html_name: field.value() or "" for field in form}
        for layout in layouts:
            for typed in ("", "0.3", "5000"):
                fields = (
                    "block_size", "sashing", "width", "height", "length", "centre_size", "border1",
                    "strips_text", "rows_text", "rings_text", "row_sashing",
                )  # fmt: skip
                given = start | dict.fromkeys(fields, typed) | {"layout": layout}
                answer = self.client.post(reverse("preview-job"), given)
                says = words_of(answer.content.decode())
                with self.subTest(layout, typed=typed):
                    self.assertTrue(answer.context["form"].errors)
                    self.assertEqual(INCH.findall(says), [])


class _Undone(Exception):
    """Leaves a block so that nothing it did is kept."""


class MetricCase(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.studio.units = "cm"
        self.studio.save()
        stock(self.studio)
        self.client.force_login(self.anna)

    def fields(self, address):
        """What stands in the fields of the page's form."""
        form = self.client.get(address).context["form"]
        return {field.html_name: "" if field.value() is None else field.value() for field in form}


class ShelfTests(MetricCase):
    @long
    def test_what_is_opened_and_kept_stays_exactly_as_it_is(self):
        for kind in ("thread", "batting", "ruler", "bobbin", "machine"):
            for one in KINDS[kind][0].objects.filter(studio=self.studio):
                address = reverse("shelf-item", args=[kind, one.pk])
                values = {
                    name: value
                    for name, value in self.fields(address).items()
                    if value is not False
                }
                self.assertRedirects(self.client.post(address, values), reverse("shelf"))
                again = type(one).objects.get(pk=one.pk)
                with self.subTest(kind, name=one.name):
                    self.assertEqual(model_to_dict(again), model_to_dict(one))

    def test_metres_and_centimetres_are_read_as_such(self):
        thread = self.studio.threads.first()
        address = reverse("shelf-item", args=["thread", thread.pk])
        self.client.post(address, {**self.fields(address), "cone": "1000", "left": "1500"})
        thread.refresh_from_db()
        # By hand: a yard is 0.9144 m.
        self.assertEqual((thread.cone, thread.left), (Decimal("1093.6"), Decimal("1640.4")))
        self.assertContains(self.client.get(reverse("shelf")), "1,500 m")
        address = reverse("shelf-new", args=["ruler"])
        given = {"name": "edge", "shape": "straight", "length": "30", "thickness": "0.6", "margin": "2.5",
                 "etched": "0.5, 1, 2", "taped": "", "edges": ""}  # fmt: skip
        self.assertRedirects(self.client.post(address, given), reverse("shelf"))
        ruler = Ruler.objects.get(name="edge")
        self.assertEqual((ruler.length, ruler.thickness), (Decimal("11.81"), Decimal("0.236")))
        self.assertFalse(ruler.thin)
        lengths = [float(each) * 2.54 for each in ruler.etched.split(",")]
        for length, cm in zip(lengths, (0.5, 1, 2), strict=True):
            self.assertAlmostEqual(length, cm, places=3)
        page = self.client.get(reverse("shelf-item", args=["ruler", ruler.pk]))
        self.assertContains(page, 'value="0.5, 1, 2"')
        wrong = self.client.post(address, {**given, "length": "long", "etched": "half"})
        self.assertContains(wrong, 'value="long"', status_code=400)


class PriceTests(MetricCase):
    def form(self):
        page = self.client.get(reverse("prices"))
        form, levels = page.context["form"], page.context["levels"]
        values = {
            f.html_name: f.value() for each in (form, *levels, levels.management_form) for f in each
        }
        return {
            name: "" if value is None else value
            for name, value in values.items()
            if value is not False
        }

    def test_what_is_opened_and_kept_stays_exactly_as_it_is(self):
        prices = prices_of(self.studio)
        before = [model_to_dict(prices), *map(model_to_dict, prices.levels.all())]
        self.assertRedirects(self.client.post(reverse("prices"), self.form()), reverse("prices"))
        prices = prices_of(self.studio)
        self.assertEqual([model_to_dict(prices), *map(model_to_dict, prices.levels.all())], before)

    def test_a_rate_by_the_square_metre_is_the_rate_that_is_quoted(self):
        values = {**self.form(), "levels-0-basis": "area", "levels-0-rate": "55", "levels-0-minimum": "0",
                  "levels-0-slow": "0.25", "batting_area": "10", "thread_yard": "0.013",
                  "binding_inch": "9"}  # fmt: skip
        self.assertRedirects(self.client.post(reverse("prices"), values), reverse("prices"))
        form = self.form()
        found = [str(form[name]) for name in ("levels-0-rate", "batting_area", "binding_inch")]
        self.assertEqual(found, ["55", "10", "9"])
        core = core_prices(prices_of(self.studio))
        # A top of 1 m by 2 m, by hand: 2 m² at 55, 2 m² of batting at 10, 6 m of edge at 9.
        asked = Asked(100 / 2.54, 200 / 2.54, 20000 / 2.54**2, bind=True, yards=500)
        lines = {line.name: line for line in offer(core, core.levels[0], asked).lines}
        self.assertEqual(lines[core.levels[0].name].detail, "2.00 m² at 55.00")
        self.assertEqual(lines[core.levels[0].name].amount.amount, Decimal("110.00"))
        self.assertEqual((lines["Batting"].detail, lines["Batting"].amount.amount),
                         ("2.00 m² at 10.00", Decimal("20.00")))  # fmt: skip
        self.assertEqual((lines["Binding"].detail, lines["Binding"].amount.amount),
                         ("6.00 m round at 9.00", Decimal("54.00")))  # fmt: skip
        # 500 yd are 457 m: at 0.013 they come to 5.94.
        self.assertEqual((lines["Thread"].detail, lines["Thread"].amount.amount),
                         ("457 m at 0.013", Decimal("5.94")))  # fmt: skip

    def test_a_rate_by_the_hour_is_one_in_any_unit(self):
        values = {**self.form(), "levels-0-basis": "hour", "levels-0-rate": "42"}
        self.client.post(reverse("prices"), values)
        self.assertEqual(prices_of(self.studio).levels.first().rate, 42)
        self.assertEqual(self.form()["levels-0-rate"], 42)
        self.studio.units = "in"
        self.studio.save()
        self.assertEqual(str(self.form()["levels-0-rate"]), "42")
        self.assertEqual(str(self.form()["batting_area"]), "0.0065")


class StitchLengthTests(ChangingCase):
    def test_where_one_measures_in_centimetres_it_is_the_length_of_a_stitch(self):
        self.studio.units = "cm"
        self.studio.save()
        for spi in (8, 10, 11, 12, 13, 14, 16):
            self.assertEqual(spi_from({"spi": written_spi(spi, "cm")}, "cm"), spi)
        self.assertAlmostEqual(spi_from({"spi": "2,5"}, "cm"), 10.16)
        for wrong in ("0", "20", "fine", "-2", "nan"):
            with self.assertRaises(EditError):
                spi_from({"spi": wrong}, "cm")
        page = self.client.post(
            reverse("drawer", args=[self.job.pk]), {"entry": self.core.legend[0].id}
        )
        self.assertContains(page, "Stitch length, mm")
        # By hand: 25.4 over 2.31 is 10.996, which is 11 as it is kept.
        self.assertContains(page, 'value="2.31"')
