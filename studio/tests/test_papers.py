"""Papers that the worker makes: run sheet and poster."""

import base64
import io
import re
from dataclasses import replace
from datetime import timedelta
from unittest.mock import patch

import ezdxf
import pypdf
import pypdfium2
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from chorograph_core.steering.schools import Priced
from chorograph_core.tests import long
from studio.carrying.posters import poster_context
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job
from studio.paper import laid_out
from studio.papers.kinds import KINDS
from studio.papers.models import Paper
from studio.papers.tasks import print_paper
from studio.routes.models import NOT_YET
from studio.routes.planning import plan_of
from studio.routes.printing import sheet_context
from studio.tests.helpers import make_job, make_plan
from studio.tests.test_work import WorkCase


class RunSheetTests(WorkCase):
    @long
    def test_the_run_sheet_prints(self):
        make_plan(self.job)
        page = self.client.get(reverse("run-sheet", args=[self.job.pk]))
        for word in ("Tie off and cut", "Fingers 1″", "Meander", "<svg", "lost, at least"):
            self.assertContains(page, word)
        self.assertNotContains(page, "not proved yet")
        # While a first answer stands nothing is said of what no route can do without.
        plan = plan_of(self.job)
        plan.figures["replay"] = NOT_YET
        plan.save()
        page = self.client.get(reverse("run-sheet", args=[self.job.pk]))
        self.assertNotContains(page, "lost, at least")
        self.assertContains(page, "not proved yet")
        plan.figures["replay"] = "clean"
        plan.save()
        address = reverse("paper", args=[self.job.pk, "run-sheet"])
        self.client.post(address)
        self.printed()
        self.assertTrue(self.client.get(address).content.startswith(b"%PDF"))

    def test_numbers_on_maps_are_not_covered_on_paper(self):
        """What lays out the paper draws a letter's outline over it, which hides a small one."""
        context = {**sheet_context(make_plan(self.job), "in"), "job": self.job, "printing": True}
        page = render_to_string("routes/run_sheet.html", context)
        drawings = [
            base64.b64decode(each).decode()
            for each in re.findall(r"data:image/svg\+xml;base64,([^\"]+)", page)
        ]
        letters = [each for drawing in drawings for each in re.findall(r"<text[^>]*>", drawing)]
        self.assertGreater(len(letters), 20)
        self.assertEqual([each for each in letters if "stroke" in each], [])
        for each in context["parts"]:
            found = each["map"]
            self.assertEqual(found["places"].count("M"), len(found["stops"]))
            self.assertEqual(found["dots"].count("M"), len(found["marks"]))
            y = float(found["box"].split()[1])
            self.assertEqual(len(found["numbers"]), len(found["marks"]))
            for number in found["numbers"]:
                self.assertGreater(number["y"] - float(found["letter"]) * 0.75, y - 1e-2)

    def printed(self) -> Paper:
        """The run sheet that was asked for, after the worker has had it in hand."""
        asked = Paper.objects.get(job=self.job, kind="run-sheet")
        print_paper(paper_id=asked.pk, key=asked.key)
        return asked

    def rename(self, title: str) -> None:
        base = Job.objects.get(pk=self.job.pk).head.number
        change_job(self.job.pk, base, self.anna, lambda core: replace(core, title=title), "named")

    @long
    def test_a_printed_sheet_belongs_to_one_document(self):
        make_plan(self.job)
        address = reverse("paper", args=[self.job.pk, "run-sheet"])
        self.client.post(address)
        self.rename("Quite another name")
        asked = self.printed()
        self.assertFalse(
            Paper.objects.filter(pk=asked.pk).exists(), "nothing is printed under the old key"
        )
        self.assertEqual(self.client.get(address).status_code, 404)
        self.client.post(address)
        self.printed()
        self.assertEqual(self.client.get(address).status_code, 200)
        self.rename("A third name")
        self.assertEqual(self.client.get(address).status_code, 404, "the sheet of the second name")

    def test_a_sheet_that_waits_too_long_can_be_asked_for_again(self):
        make_plan(self.job)
        address = reverse("paper", args=[self.job.pk, "run-sheet"])

        def shown() -> str:
            return self.client.get(address, headers={"hx-request": "true"}).content.decode()

        self.assertIn("Make a PDF", shown())
        self.client.post(address)
        self.assertIn("making the PDF", shown())
        Paper.objects.update(heard_of=timezone.now() - timedelta(minutes=30))
        self.assertIn("Make a PDF", shown())
        self.client.post(address)
        self.assertIn("making the PDF", shown())

    def test_a_paper_tells_how_far_it_is_and_is_put_down_when_nobody_wants_it(self):
        make_plan(self.job)
        self.client.post(reverse("paper", args=[self.job.pk, "run-sheet"]))
        told = []

        def slow(job, tell):
            tell(0.4)
            told.append(Paper.objects.get().share)
            Paper.objects.update(key="another")
            tell(0.5)
            raise AssertionError("nobody waits any more")

        with patch.dict(KINDS, {"run-sheet": replace(KINDS["run-sheet"], make=slow)}):
            self.printed()
        self.assertEqual(told, [0.4])
        self.assertFalse(Paper.objects.get().file)

    @long
    def test_a_paper_that_breaks_off_says_so(self):
        make_plan(self.job)
        address = reverse("paper", args=[self.job.pk, "run-sheet"])
        self.client.post(address)

        def broken(job, tell):
            raise ZeroDivisionError

        breaking = patch.dict(KINDS, {"run-sheet": replace(KINDS["run-sheet"], make=broken)})
        with breaking, self.assertRaises(ZeroDivisionError):
            self.printed()
        page = self.client.get(address, headers={"hx-request": "true"})
        self.assertContains(page, "It could not be made.")
        self.client.post(address)
        self.printed()
        self.assertEqual(self.client.get(address).status_code, 200)


class PagesTests(WorkCase):
    @long
    def test_what_ways_of_working_say_of_pages_is_what_is_laid_out(self):
        for rows, columns in ((1, 1), (2, 3), (4, 5)):
            job = make_job(self.studio, self.anna, rows, columns)
            plan = make_plan(job)
            figures = plan.figures
            said = Priced(rolls=figures["rolls"], cuts=figures["cuts"], paths=figures["paths"],
                          lookups=sum(s["kind"] == "path" for s in plan.route()["steps"])).pages  # fmt: skip
            context = {**sheet_context(plan, "in"), "job": job, "plan": plan}
            pages = len(laid_out("routes/run_sheet.html", context).pages)
            with self.subTest(f"{rows} x {columns}"):
                self.assertLessEqual(abs(said - pages), max(1, pages / 6), (said, pages))


class PosterTests(WorkCase):
    def made(self, kind: str) -> bytes:
        address = reverse("paper", args=[self.job.pk, kind])
        self.client.post(address)
        asked = Paper.objects.get(job=self.job, kind=kind)
        print_paper(paper_id=asked.pk, key=asked.key)
        return self.client.get(address).content

    def test_the_poster_is_one_sheet_of_its_size_that_two_libraries_read(self):
        data = self.made("poster")
        (page,) = pypdf.PdfReader(io.BytesIO(data)).pages
        self.assertEqual([float(v) for v in page.mediabox[2:]], [18 * 72, 24 * 72])
        words = page.extract_text()
        for word in (self.job.title, "Loft", "of stitching"):
            self.assertIn(word, re.sub(r"\s+", " ", words))
        self.assertNotIn(self.job.client or "no client", words)
        document = pypdfium2.PdfDocument(data)
        self.assertEqual(len(document), 1)
        # Thread, not only cloth: more ink within a zone than the seams have.
        picture = document[0].render(scale=1).to_pil().convert("L")
        dark = sum(picture.histogram()[:110])
        self.assertGreater(dark, 0.01 * picture.width * picture.height)

    def test_a_legend_of_many_entries_and_a_wide_top_stay_on_one_sheet(self):
        base = Job.objects.get(pk=self.job.pk).head.number

        def parted(core):
            first, *others = core.legend
            many = [replace(first, id=f"e{k}", name=f"Part {k}", zones=(zone,))
                    for k, zone in enumerate(first.zones)]  # fmt: skip
            return replace(core, legend=(*many, *others))

        change_job(self.job.pk, base, self.anna, parted, "parted")
        self.assertEqual(len(pypdf.PdfReader(io.BytesIO(self.made("poster"))).pages), 1)

    @long
    def test_what_it_says_of_stitching_is_what_the_route_says(self):
        self.made("poster")
        core = core_job(self.job)
        said = poster_context(self.job, core)["inches"]
        stitched = make_plan(self.job).figures["stitched_inches"]
        self.assertAlmostEqual(said, stitched, delta=0.01 * stitched)

    @long
    def test_the_picture_is_a_png_of_the_same_sheet(self):
        self.studio.paper = "a4"
        self.studio.save()
        picture = Image.open(io.BytesIO(self.made("poster-picture")))
        self.assertEqual(picture.format, "PNG")
        self.assertEqual(max(picture.size), 3000)
        self.assertAlmostEqual(picture.width / picture.height, 16.54 / 23.39, places=2)

    def test_the_drawing_is_in_the_studios_measure(self):
        document = ezdxf.read(io.StringIO(self.made("drawing").decode()))
        self.assertEqual(document.units, ezdxf.units.IN)
        self.studio.units = "cm"
        self.studio.save()
        address = reverse("paper", args=[self.job.pk, "drawing"])
        self.assertEqual(self.client.get(address).status_code, 404, "that one was in inches")
        document = ezdxf.read(io.StringIO(self.made("drawing").decode()))
        self.assertEqual(document.units, ezdxf.units.CM)

    def test_a_kind_that_does_not_exist_and_a_sheet_without_a_plan(self):
        for kind in ("thread", "run-sheet"):
            with self.subTest(kind):
                address = reverse("paper", args=[self.job.pk, kind])
                self.assertEqual(self.client.post(address).status_code, 404)

    def test_it_is_asked_for_without_scripts_too(self):
        page = self.client.get(reverse("job-more", args=[self.job.pk]))
        self.assertContains(page, reverse("paper", args=[self.job.pk, "poster"]))
        answer = self.client.post(reverse("paper", args=[self.job.pk, "poster"]), follow=True)
        self.assertEqual(answer.status_code, 200)
