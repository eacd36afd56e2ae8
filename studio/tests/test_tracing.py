"""A top traced from its photograph: corners, touches, the chart; and who may."""

from datetime import date

import cv2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from chorograph_core.chart.checks import faults
from chorograph_core.tests import long
from chorograph_core.tests.shapes import irregular_top
from chorograph_core.tests.test_tracing import CHART, CORNERS, photograph
from studio.charting.models import Tracing
from studio.charting.tracing import begin, flat_name
from studio.demo import camera
from studio.intake.newcomer import uncharted
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.photos.keeping import keep_photo, storage
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job, make_studio, path_of
from studio.tests.pictures import png

HTMX = {"HX-Request": "true"}
MARKED = " ".join(f"{x / 1400},{y / 1200}" for x, y in CORNERS)


class TracingCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        cls.other, (cls.berta,) = make_studio("Barn", "berta")
        core = uncharted(
            {"title": "Traced", "client": "", "width": 24.0, "height": 24.0}, date(2026, 1, 2)
        )
        cls.job = create_job(cls.studio, cls.anna, core, "begun")
        data = cv2.imencode(".jpg", photograph(CORNERS))[1].tobytes()
        cls.photo = keep_photo(cls.job, cls.anna, SimpleUploadedFile("top.jpg", data), "whole", "")

    def setUp(self):
        self.client.force_login(self.anna)

    def begun(self, corners=MARKED, photo=None):
        form = {"photo": str(photo or self.photo.pk), "corners": corners}
        return self.client.post(reverse("chart-photo", args=[self.job.pk]), form)

    def act(self, tracing, act, **values):
        address = reverse("trace-change", args=[self.job.pk, tracing.pk, act])
        headers = {} if act == "take" else HTMX
        return self.client.post(address, values, headers=headers)


class WholeTopTests(TestCase):
    @long
    def test_a_top_that_follows_no_rule_is_charted_as_it_is(self):
        """From the picture alone: corners found, every patch touched once, no scrap left between."""
        studio, (anna,) = make_studio("Loft", "anna")
        self.client.force_login(anna)
        true = irregular_top(14, (30.0, 34.0), 3)
        form = {"title": "No rule", "client": "", "width": true.width, "height": true.height}
        job = create_job(studio, anna, uncharted(form, date(2026, 1, 2)), "begun")
        picture = SimpleUploadedFile("top.jpg", camera.photograph(true, 3, across=1500))
        photo = keep_photo(job, anna, picture, "whole", "")
        address = reverse("chart-photo", args=[job.pk])
        guess = self.client.get(address, {"photo": str(photo.pk)}).context["guess"]
        self.client.post(address, {"photo": str(photo.pk), "corners": guess})
        tracing = Tracing.objects.get()
        for patch in true.patches:
            x, y = patch.polygon.representative_point().coords[0]
            where = reverse("trace-change", args=[job.pk, tracing.pk, "touch"])
            answer = self.client.post(where, {"x": x, "y": y, "likeness": 14}, headers=HTMX)
            self.assertEqual(answer.status_code, 200)
        self.client.post(reverse("trace-change", args=[job.pk, tracing.pk, "take"]), {"base": 1})
        made = core_job(Job.objects.select_related("head").get(pk=job.pk)).chart
        self.assertEqual(len(made.patches), len(true.patches))
        self.assertEqual(faults(made), [])
        for patch in true.patches:
            best = max(made.patches, key=lambda p: p.polygon.intersection(patch.polygon).area)
            wrong = best.polygon.symmetric_difference(patch.polygon).area
            # Half an eighth of an inch off along the outline, on the whole.
            self.assertLess(wrong / patch.polygon.length, 1 / 16, patch.id)


class TracingTests(TracingCase):
    @long
    def test_from_a_photograph_to_a_chart(self):
        page = self.client.get(
            reverse("chart-photo", args=[self.job.pk]), {"photo": str(self.photo.pk)}
        )
        self.assertContains(page, "Mark the corners")
        guess = [tuple(map(float, pair.split(","))) for pair in page.context["guess"].split()]
        for (x, y), (u, v) in zip(guess, CORNERS, strict=True):
            self.assertLess(abs(x * 1400 - u) + abs(y * 1200 - v), 8)
        answer = self.begun()
        tracing = Tracing.objects.get()
        self.assertRedirects(answer, reverse("trace", args=[self.job.pk, tracing.pk]))
        flat = self.client.get(reverse("trace-flat", args=[self.job.pk, tracing.pk]))
        self.assertTrue(b"".join(flat.streaming_content).startswith(b"\xff\xd8"))
        blue = [p.polygon.representative_point() for p in CHART.patches if p.fabric == "b"]
        for spot in blue[:7]:
            self.assertEqual(
                self.act(tracing, "touch", x=spot.x, y=spot.y, likeness=14).status_code, 200
            )
        again = self.act(tracing, "touch", x=blue[0].x, y=blue[0].y, likeness=14)
        self.assertContains(again, "found already", status_code=422)
        self.assertContains(self.act(tracing, "drop", number="0"), "6</p>")
        self.act(tracing, "touch", x=blue[0].x, y=blue[0].y, likeness=14)
        taken = self.act(tracing, "take", base="1")
        self.assertRedirects(taken, reverse("work", args=[self.job.pk]))
        core = core_job(Job.objects.select_related("head").get(pk=self.job.pk))
        self.assertGreaterEqual(len(core.chart.patches), 8)
        self.assertAlmostEqual(core.chart.outline.area, 576, delta=2)
        found = [p for p in core.chart.patches if abs(p.polygon.area - 16) < 0.6]
        self.assertGreaterEqual(len(found), 5)
        self.assertIn("7 patches touched", self.job.book.first().text)

    def test_what_cannot_be_is_said(self):
        for corners, word in (("", "four corners"), ("0,0 1,0 1,1", "four corners"),
                              ("a,b c,d e,f g,h", "four corners"),
                              ("0.1,0.1 0.9,0.9 0.9,0.1 0.1,0.9", "in turn"),
                              ("0,0 0.01,0 0.01,0.01 0,0.01", "next to nothing")):  # fmt: skip
            with self.subTest(corners):
                self.assertContains(self.begun(corners), word, status_code=422)
        nobody = self.begun(photo="00000000-0000-0000-0000-000000000000")
        self.assertContains(nobody, "Choose a photograph", status_code=422)
        self.begun()
        tracing = Tracing.objects.get()
        for values in ({"x": "left", "y": 1, "likeness": 9}, {"x": 999, "y": 1, "likeness": 9},
                       {"x": "nan", "y": 1, "likeness": 9}, {}):  # fmt: skip
            self.assertContains(
                self.act(tracing, "touch", **values), "inside the top", status_code=422
            )
        self.assertContains(self.act(tracing, "drop"), "Nothing was found", status_code=422)
        self.assertContains(
            self.act(tracing, "drop", number="7"), "Nothing was found", status_code=422
        )
        late = self.act(tracing, "take", base="9")
        self.assertContains(late, "changed meanwhile", status_code=422)

    def test_lost_files_are_said(self):
        self.begun()
        tracing = Tracing.objects.get()
        from pathlib import Path

        Path(storage().path(flat_name(tracing))).unlink()
        self.assertEqual(
            self.client.get(reverse("trace-flat", args=[self.job.pk, tracing.pk])).status_code, 404
        )
        self.assertContains(
            self.act(tracing, "touch", x=2, y=2, likeness=9), "gone", status_code=422
        )
        path_of(self.photo).rename(str(path_of(self.photo)) + ".away")
        self.assertContains(self.begun(), "gone", status_code=422)
        Path(str(path_of(self.photo)) + ".away").rename(path_of(self.photo))

    def test_another_studios_tracing_is_not_there(self):
        self.begun()
        tracing = Tracing.objects.get()
        mine = make_job(self.other, self.berta)
        self.client.force_login(self.berta)
        for job in (self.job, mine):
            for name, more in (("trace", []), ("trace-flat", [])):
                answer = self.client.get(reverse(name, args=[job.pk, tracing.pk, *more]))
                self.assertEqual(answer.status_code, 404)
            for act in ("touch", "drop", "take"):
                answer = self.client.post(reverse("trace-change", args=[job.pk, tracing.pk, act]))
                self.assertEqual(answer.status_code, 404)


class MendingTests(TracingCase):
    """The same studio and photograph; outlines put there as if they had been found."""

    def setUp(self):
        super().setUp()
        self.begun()
        self.tracing = Tracing.objects.latest("at")
        self.tracing.shapes = [
            [[0, 0], [4, 0], [4, 4], [0, 4]],
            [[4, 0], [8, 0], [8, 4], [4, 4]],
        ]
        self.tracing.save()

    def mend(self, act, status=200, **values):
        answer = self.act(self.tracing, act, **values)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        self.tracing.refresh_from_db()
        return answer

    def areas(self):
        from shapely.geometry import Polygon

        return sorted(round(Polygon(ring).area, 2) for ring in self.tracing.shapes)

    def test_a_corner_is_dragged_and_its_neighbour_follows(self):
        answer = self.mend("drag", number=0, corner=2, x=4.5, y=5)
        self.assertContains(answer, 'data-chosen="1"')
        self.assertEqual(sum(self.areas()), 36)
        self.mend("drag", number=1, corner=0, x=2, y=-4, fresh="1")
        self.mend("undo")
        self.mend("undo")
        self.assertEqual(self.tracing.shapes[0], [[0, 0], [4, 0], [4, 4], [0, 4]])
        self.assertEqual(self.areas(), [16, 16])

    def test_what_is_dragged_over_a_neighbour_stops_at_it(self):
        self.tracing.shapes[1] = [[5, 0], [9, 0], [9, 4], [5, 4]]
        self.tracing.save()
        self.mend("drag", number=0, corner=1, x=6.5, y=1)
        self.assertTrue(all(point[0] <= 5.001 for point in self.tracing.shapes[1]))

    def test_split_joined_and_taken_back(self):
        self.mend("part", number=0, x0=2, y0=-1, x1=2, y1=5)
        self.assertEqual(self.areas(), [8, 8, 16])
        self.mend("join", number=1, other=2)
        self.assertEqual(self.areas(), [16, 16])
        self.mend("drop", number=0)
        for _ in range(3):
            self.mend("undo")
        self.assertEqual(self.areas(), [16, 16])
        self.assertContains(self.mend("undo", 422), "nothing left", status_code=422)

    def test_what_cannot_be_mended_changes_nothing(self):
        for act, values in (
            ("drag", {}), ("drag", {"number": 0, "corner": 0, "x": "a", "y": 1}),
            ("drag", {"number": 0, "corner": 77, "x": 1, "y": 1}),
            ("drag", {"number": 0, "corner": 0, "x": 6, "y": 2}),
            ("drag", {"number": "9" * 12, "corner": 0, "x": 1, "y": 1}),
            ("part", {"number": 0, "x0": 9, "y0": 0, "x1": 9, "y1": 4}), ("part", {"number": 0}),
            ("join", {"number": 0, "other": 0}), ("join", {"number": 0}), ("drop", {"number": 5}),
        ):  # fmt: skip
            with self.subTest(act, **values):
                self.mend(act, 422, **values)
        self.assertEqual((self.areas(), self.tracing.past), ([16, 16], []))


class MendingStory(BrowserCase):
    def test_an_outline_is_chosen_dragged_split_and_joined(self):
        job = make_job(self.studio, self.anna)
        photo = keep_photo(job, self.anna, SimpleUploadedFile("a.png", png()), "whole", "")
        tracing = begin(job, photo, [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)], self.anna)
        tracing.shapes = [[[1, 1], [7, 1], [7, 7], [1, 7]]]
        tracing.save()
        page = self.page
        page.goto(self.live_server_url + reverse("trace", args=[job.pk, tracing.pk]))
        page.click(".traced")
        page.wait_for_selector("#mend:not([hidden])")
        self.assertEqual(page.locator("circle.handle").count(), 4)
        corner = page.locator("circle.handle").nth(2).bounding_box()
        x, y = corner["x"] + corner["width"] / 2, corner["y"] + corner["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 40, y + 40, steps=4)
        page.mouse.up()
        page.wait_for_selector('.traced.chosen:not([data-ring*="7,7"])')
        page.click("text=Split by a line")
        box = page.locator(".traced").bounding_box()
        page.mouse.move(box["x"] - 5, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] + 5, box["y"] + box["height"] / 2, steps=4)
        page.mouse.up()
        page.wait_for_selector("#found-count:has-text('2')")
        page.click("text=Join with another")
        page.locator(".traced:not(.chosen)").click()
        page.wait_for_selector("#found-count:has-text('1')")
        page.click("#traced >> text=Undo")
        page.wait_for_selector("#found-count:has-text('2')")
        page.keyboard.press("Escape")
        tracing.refresh_from_db()
        self.assertEqual(len(tracing.past), 2)
        self.assertEqual(self.faults, [])

    def test_the_same_by_keys_alone(self):
        job = make_job(self.studio, self.anna)
        photo = keep_photo(job, self.anna, SimpleUploadedFile("a.png", png()), "whole", "")
        tracing = begin(job, photo, [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)], self.anna)
        page = self.page
        page.goto(self.live_server_url + reverse("trace", args=[job.pk, tracing.pk]))

        def press(*keys: str) -> None:
            for key in keys:
                page.keyboard.press(key)

        def count(number: int) -> None:
            page.wait_for_selector(f"#found-count:text-is('{number}')")

        page.focus("#trace")
        self.assertTrue(page.locator(".cross").is_visible())
        press(*["ArrowLeft"] * 8, "Enter")
        count(1)
        self.assertTrue(page.evaluate("document.activeElement.id === 'trace'"))
        press(*["ArrowRight"] * 16, "Enter")
        count(2)
        # A touch on what was found chooses it; a corner of it is dragged inwards.
        press("Enter")
        page.wait_for_selector("circle.handle")
        before = page.get_attribute(".traced.chosen", "data-ring")
        middle = tracing.width / 2
        press("c")
        held = float(page.get_attribute(".handle.held", "cx"))
        press(*["ArrowLeft" if held > middle else "ArrowRight"] * 3, "Enter")
        page.wait_for_function(
            "before => document.querySelector('.traced.chosen')?.dataset.ring !== before",
            arg=before,
        )
        # A line across it, once the page has come to rest; one half is taken out.
        page.wait_for_timeout(200)
        page.focus("[data-mend=part]")
        press("Enter")
        box = page.locator(".traced.chosen").bounding_box()
        sheet = page.locator("#flat").bounding_box()
        step = sheet["width"] / 40
        now = page.locator(".cross").bounding_box()
        high = box["y"] + box["height"] / 2 - (now["y"] + now["height"] / 2)
        press(*["ArrowDown" if high > 0 else "ArrowUp"] * round(abs(high) / step))
        press(*["ArrowRight"] * 44, "Enter", *["ArrowLeft"] * 26, "Enter")
        count(3)
        page.wait_for_selector(".traced.chosen")
        press("Delete")
        count(2)
        press("Escape")
        tracing.refresh_from_db()
        self.assertEqual(len(tracing.shapes), 2)
        self.assertEqual(self.faults, [])
