"""What a studio has, out in open formats and in again."""

from __future__ import annotations

import csv
import io
import json
import zipfile

import icalendar
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from chorograph_core.blocks.own_blocks import round_block
from chorograph_core.formats import read_archive, write_archive
from chorograph_core.tests import long
from studio.accounts.models import Membership
from studio.blocks.models import OwnBlock
from studio.carrying.tables import cell
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.photos.keeping import keep_photo
from studio.prices.lists import prices_of
from studio.prices.models import Prices
from studio.quotes.documents import accept, issue
from studio.shelf.models import OwnMotif, Thread
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_studio, path_of
from studio.tests.pictures import png

HOOK = "0,1 .5,-1 1,1"


class CarryingCase(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        stock(self.studio)
        self.job = make_job(self.studio, self.anna)
        self.client.force_login(self.anna)

    def table(self, name):
        answer = self.client.get(reverse("table", args=[name]))
        self.assertEqual(answer.status_code, 200)
        return list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))


class TableTests(CarryingCase):
    def test_lists_open_elsewhere_and_say_what_the_pages_say(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        accept(quote.pk, "light", "=HYPERLINK(1)")
        (job,) = self.table("jobs")
        self.assertEqual((job["title"], job["zones"]), ("A small top", str(self.job.zones)))
        self.assertEqual(len(self.table("threads")), self.studio.threads.count())
        light, full = self.table("quotes")
        self.assertEqual(light["total"], quote.document["levels"][0]["total"])
        # What a spreadsheet would reckon is marked as text; numbers stay numbers.
        self.assertEqual((light["accepted_by"], full["accepted_by"]), ("'=HYPERLINK(1)", ""))
        for text in ("=1", "+1", "-x", "@a", "\tb"):
            self.assertEqual(cell(text), f"'{text}")
        self.assertEqual((cell(-3), cell("a=1")), (-3, "a=1"))
        self.assertEqual(self.table("log"), [])
        self.assertEqual(self.client.get(reverse("table", args=["secrets"])).status_code, 404)

    def test_a_helper_has_no_table_with_money(self):
        Membership.objects.filter(person=self.anna).update(role="helper")
        self.assertEqual(self.client.get(reverse("table", args=["quotes"])).status_code, 403)
        self.assertNotContains(self.client.get(reverse("carrying")), "Download all")
        self.assertEqual(self.client.get(reverse("studio-data")).status_code, 403)


class ThreadsInTests(CarryingCase):
    def look(self, text, status=200):
        data = text if isinstance(text, bytes) else text.encode()
        answer = self.client.post(
            reverse("threads-in"), {"threads": SimpleUploadedFile("t.csv", data)}
        )
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer

    def test_they_are_looked_at_and_then_taken_in(self):
        before = self.studio.threads.count()
        text = ("Name;wt;Colour;cone_m;left_m\nmoss 40;40;#556b2f;1000;1500\n"
                "indigo 40;40wt;#2b3a55;1005.84;\nbroken;fine;green;many;\n;;;;\n")  # fmt: skip
        page = self.look(text)
        self.assertEqual(self.studio.threads.count(), before)
        moss, indigo, broken = page.context["rows"]
        self.assertEqual((moss.faults, indigo.faults, indigo.instead.key), ([], [], "indigo"))
        self.assertGreaterEqual(len(broken.faults), 3)
        answer = self.client.post(reverse("threads-in"), {"looked": page.context["looked"]})
        self.assertContains(answer, "1 thread new on the shelf, 1 corrected")
        made = Thread.objects.get(studio=self.studio, name="moss 40")
        # By hand: 1000 m are 1,093.6 yd, 1500 m are 1,640.4.
        self.assertEqual((float(made.cone), float(made.left)), (1093.6, 1640.4))
        self.assertEqual(float(Thread.objects.get(studio=self.studio, key="indigo").cone), 1100)

    def test_what_was_written_here_can_be_taken_in_there(self):
        data = self.client.get(reverse("table", args=["threads"])).content
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        page = self.look(data)
        self.client.post(reverse("threads-in"), {"looked": page.context["looked"]})
        names = set(
            Thread.objects.filter(studio=self.studio).values_list("name", "cone", "left", "colour")
        )
        theirs = Thread.objects.filter(studio__name="Barn").values_list(
            "name", "cone", "left", "colour"
        )
        self.assertEqual(set(theirs), names)

    def test_what_is_no_list_is_said(self):
        for text, says in ((b"", "nothing"), (b"a;b\n1;2\n", "the name"), (b"\x81\x8d\x8f", "no text"),
                           ("name\n" + "x\n" * 600, "the most"),
                           (b"name\n" + b"x" * 600_000, "too large")):  # fmt: skip
            self.assertContains(self.look(text, 422), says, status_code=422)
        answer = self.client.post(reverse("threads-in"), {"looked": "forged"})
        self.assertContains(answer, "once more", status_code=422)


class WholeTests(CarryingCase):
    def whole(self) -> bytes:
        return self.client.get(reverse("studio-data")).content

    def test_all_of_it_goes_out_and_comes_in_on_another_installation(self):
        keep_photo(
            self.job, self.anna, SimpleUploadedFile("a.png", png()), "whole", "the whole of it"
        )
        self.studio.address, self.studio.ways = "Ropewalk 3", {"tails": "bury"}
        self.studio.save()
        prices_of(self.studio)
        Prices.objects.filter(studio=self.studio).update(repair_hour=41, last_number=7)
        OwnMotif.objects.create(studio=self.studio, name="Hook", kind="strip", stroke=HOOK)
        wheel = OwnBlock(studio=self.studio)
        wheel.take(round_block("Wheel", "star", points=8))
        wheel.save()
        level = prices_of(self.studio).levels.first()
        level.key, level.name = "velvet", "Velvet"
        level.save()
        self.studio.threads.create(
            key="moss", name="moss 12", weight=12, cone=300, left=250, colour="#556b2f"
        )
        data = self.whole()
        box = zipfile.ZipFile(io.BytesIO(data))
        names = box.namelist()
        self.assertTrue(any(name.startswith("photos/0001-a-small-top/whole-") for name in names))
        self.assertEqual(read_archive(box.read("jobs/0001-a-small-top.json")), core_job(self.job))
        about = json.loads(box.read("studio.json"))
        self.assertEqual(
            (about["name"], len(about["shelf"]["rulers"])), ("Loft", self.studio.rulers.count())
        )
        barn, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        file = SimpleUploadedFile("studio.zip", data)
        answer = self.client.post(reverse("studio-data-in"), {"whole": file})
        self.assertContains(answer, "1 job,")
        self.assertEqual(answer.context["faults"], [])
        taken = Job.objects.select_related("head").get(studio=barn)
        self.assertEqual(core_job(taken).zones, core_job(self.job).zones)
        for kind in ("threads", "battings", "rulers", "machines", "bobbins", "marking_tools"):
            mine = getattr(self.studio, kind).values_list("name", flat=True)
            self.assertEqual(
                set(getattr(barn, kind).values_list("name", flat=True)), set(mine), kind
            )
        self.assertEqual(barn.machines.get(name="frame machine").bobbin.studio, barn)
        self.assertTrue(prices_of(barn).levels.filter(key="velvet").exists())
        self.assertEqual([photo.note for photo in taken.photos.all()], ["the whole of it"])
        self.assertTrue(path_of(taken.photos.get()).is_file())
        barn.refresh_from_db()
        self.assertEqual((barn.address, barn.ways), ("Ropewalk 3", {"tails": "bury"}))
        self.assertEqual((prices_of(barn).repair_hour, prices_of(barn).last_number), (41, 0))
        self.assertEqual(
            (barn.own_motifs.get().name, barn.own_blocks.get().name), ("Hook", "Wheel")
        )
        # Once more, and nothing of the shelf is there twice.
        file = SimpleUploadedFile("studio.zip", data)
        self.client.post(reverse("studio-data-in"), {"whole": file})
        self.assertEqual(barn.threads.count(), self.studio.threads.count())
        self.assertEqual((barn.own_motifs.count(), barn.own_blocks.count()), (1, 1))

    def test_what_is_none_of_ours_changes_nothing(self):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as box:
            box.writestr("studio.json", json.dumps({"schema": "chorograph-studio-1", "shelf": {"threads": [
                {"name": "odd", "weight": "heavy"}, 7, {"name": "moss", "key": "moss", "weight": "40",
                 "cone": "100", "left": "50", "colour": "#556b2f", "studio": 1, "id": 1}]},
                "prices": 3}))  # fmt: skip
            box.writestr("jobs/a.json", b"{}")
            box.writestr("../../etc/passwd", b"x")
        for data, says, status in (
            (b"", "no file that", 422), (b"PK\x03\x04no", "no file that", 422),
            (out.getvalue(), "1 thread.", 200),
        ):  # fmt: skip
            file = SimpleUploadedFile("a.zip", data)
            answer = self.client.post(reverse("studio-data-in"), {"whole": file})
            self.assertContains(answer, says, status_code=status)
        self.assertContains(answer, "odd: Weight (wt): Enter a number.")
        self.assertEqual(Job.objects.count(), 1)
        self.assertEqual(self.studio.threads.get(key="moss").name, "moss")

    @long
    def test_of_a_file_that_somebody_altered_no_page_breaks(self):
        """What is taken in is looked at as what is typed: nothing unsound stays to break a page."""
        data = {
            "schema": "chorograph-studio-1", "address": "a\0b",
            "ways": {"tails": ["x"], "edge_finish": "odd"},
            "factors": {"cut": 1e9, "ditch": "x", "nothing": 1.2, "look_up": 1.5},
            "shelf": {
                "threads": [{"name": ["a"], "key": {}}, {"name": "x" * 900, "colour": "red"},
                            {"name": "a\0b", "weight": 40, "cone": 1, "left": 1, "colour": "#aabbcc",
                             "fibre": "silk", "key": "../../x"}],
                "rulers": [{"name": "bent", "shape": "straight", "length": 12, "thickness": 0.25,
                            "margin": 1, "etched": "1/0, ∞"}],
                "machines": [{"name": "giant", "kind": "frame", "throat": 1e300, "bobbin": {"a": 1}}],
                "battings": "many"},
            "own_motifs": [{"name": "dot", "kind": "strip", "stroke": "0,0"}, {"name": 7, "stroke": None},
                           {"name": "odd", "kind": "spiral", "stroke": HOOK}],
            "own_blocks": [{"name": "none", "data": {"name": "none", "cells": [[[]]]}}, {"name": "x"},
                           {"name": "big", "data": {"name": "big",
                                                    "round": {"shape": "star", "points": 10**9}}}],
            "prices": {"currency": "ZZZ", "levels": [{"key": "a b", "name": "", "rate": "NaN"},
                                                     {"key": "odd", "name": "odd", "basis": "mile"}]},
            "photos": [{"file": "../../etc/passwd", "job": "jobs/a.json"}, 3]}  # fmt: skip
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as box:
            box.writestr("studio.json", json.dumps(data))
            box.writestr("jobs/a.json", write_archive(core_job(self.job)))
        barn, (berta,) = make_studio("Barn")
        stock(barn)
        self.client.force_login(berta)
        file = SimpleUploadedFile("a.zip", out.getvalue())
        answer = self.client.post(reverse("studio-data-in"), {"whole": file})
        self.assertEqual(answer.status_code, 200)
        self.assertGreaterEqual(len(answer.context["faults"]), 9)
        barn.refresh_from_db()
        self.assertEqual((barn.address, barn.factors), ("ab", {"look_up": 1.5}))
        self.assertEqual((barn.own_motifs.count(), barn.own_blocks.count()), (0, 0))
        self.assertFalse(barn.rulers.filter(name="bent").exists())
        self.assertEqual(barn.threads.get(name="ab").key, "ab")
        job = Job.objects.get(studio=barn)
        for name in (
            "jobs",
            "shelf",
            "motifs",
            "blocks",
            "prices",
            "house-ways",
            "house-rates",
            "new-job",
        ):
            self.assertEqual(self.client.get(reverse(name)).status_code, 200, name)
        for stage in ("designs", "route"):
            page = self.client.get(reverse("work", args=[job.pk]), {"stage": stage})
            self.assertEqual(page.status_code, 200)


class FeedTests(CarryingCase):
    def test_another_calendar_looks_at_it_until_the_address_is_taken_back(self):
        self.client.post(reverse("calendar-key"), {"what": "new"})
        self.studio.refresh_from_db()
        first = reverse("calendar-feed", args=[self.studio.calendar_key])
        self.assertContains(self.client.get(reverse("carrying")), first)
        self.client.logout()
        answer = self.client.get(first)
        calendar = icalendar.Calendar.from_ical(answer.content)
        self.assertTrue(
            any("A small top" in str(event.get("summary", "")) for event in calendar.walk("VEVENT"))
        )
        self.client.force_login(self.anna)
        self.client.post(reverse("calendar-key"), {"what": "new"})
        self.assertEqual(self.client.get(first).status_code, 404)
        self.studio.refresh_from_db()
        second = reverse("calendar-feed", args=[self.studio.calendar_key])
        self.client.post(reverse("calendar-key"), {"what": "none"})
        self.assertEqual(self.client.get(second).status_code, 404)
