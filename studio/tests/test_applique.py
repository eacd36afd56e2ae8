"""Appliqué from the sheet: stamped, drawn, lettered, from a drawing; undone, run behind."""

from dataclasses import replace

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from chorograph_core.job import job_linework
from chorograph_core.tests import long
from studio.tests.browser import BrowserCase
from studio.tests.helpers import ChangingCase, make_job
from studio.workbench.tray import space_of

STAMP = {"what": "leaf", "height": "3", "turn": "30", "fabric": "new", "colour": "#6F8A5A",
         "at": "5.2,4.9"}  # fmt: skip


class SewingTests(ChangingCase):
    def sewn(self):
        return [patch for patch in self.core.chart.patches if patch.role == "applique"]

    def test_a_stamp_is_sewn_on_and_designs_stay_around_it(self):
        before = self.core
        self.change("sew", **STAMP)
        (leaf,) = self.sewn()
        self.assertAlmostEqual(leaf.polygon.centroid.distance(leaf.polygon.envelope.centroid), 0, 1)
        self.assertEqual(self.core.chart.fabric(leaf.fabric).colour, "#6f8a5a")
        self.assertEqual(len(self.core.legend), len(before.legend))
        covered = {z.id for z in before.zones} - {z.id for z in self.core.zones}
        self.assertFalse(covered)
        for one in job_linework(self.core):
            if one.design == "ditch":
                continue
            for run in one.linework.runs:
                inner = leaf.polygon.buffer(-0.03)
                self.assertFalse(any(inner.contains(p) for p in _points(run.points)), one.design)
        self.client.post(reverse("step-back", args=[self.job.pk, "undo"]), {"base": 2})
        self.assertFalse(self.sewn())

    def test_a_second_one_of_the_same_colour_is_of_the_same_fabric(self):
        self.change("sew", **STAMP)
        self.change("sew", **{**STAMP, "at": "9,9", "what": "letters", "text": "Jo"})
        self.assertEqual(len({patch.fabric for patch in self.sewn()}), 1)
        key = self.sewn()[0].fabric
        self.change("sew", **{**STAMP, "at": "2,9", "fabric": key, "colour": ""})
        self.assertEqual({patch.fabric for patch in self.sewn()}, {key})

    def test_the_pen(self):
        self.change("sew", **{**STAMP, "nodes": "2,2,c 6,2,s 6.5,5,s 2,6,c"})
        (shape,) = self.sewn()
        self.assertTrue(shape.polygon.boundary.distance(_points([(6.5, 5)])[0]) < 1e-6)

    def test_what_cannot_be_is_said_at_its_field(self):
        for change, word in (
            ({"height": "tall"}, "length"), ({"height": "0"}, "high"), ({"height": "900"}, "high"),
            ({"turn": "round"}, "degrees"), ({"turn": "nan"}, "degrees"), ({"turn": "1e9"}, "degrees"),
            ({"what": "egg"}, "shape"), ({"what": "letters", "text": ""}, "letters"),
            ({"what": "letters", "text": "漢"}, "letters"), ({"at": ""}, "touch"),
            ({"at": "a,b"}, "touch"), ({"at": "900,900"}, "outside"), ({"fabric": "silk"}, "fabric"),
            ({"colour": "green"}, "colour"), ({"nodes": "1,1,c 2,2,c"}, "three"),
            ({"nodes": "0,0,c 4,4,c 4,0,c 0,4,c"}, "cross"), ({"nodes": "x"}, "touch"),
            ({"nodes": "9999,1,c 9999,2,c 9998,3,c"}, "outside"),
        ):  # fmt: skip
            with self.subTest(change):
                answer = self.change("sew", 422, **{**STAMP, **change})
                self.assertIn(word, answer.content.decode().lower())
        self.assertEqual(self.job.head.number, 1)

    def test_the_panel_shows_the_shape_as_it_will_be(self):
        page = self.client.get(reverse("applique", args=[self.job.pk]))
        self.assertContains(page, 'value="heart"')
        look = reverse("applique-look", args=[self.job.pk])
        self.assertContains(self.client.post(look, STAMP), 'id="stamp-shape"')
        self.assertContains(self.client.post(look, {**STAMP, "colour": "'><b>"}), "#6f8a5a")
        self.assertContains(
            self.client.post(look, {**STAMP, "height": "x"}), "fault", status_code=422
        )

    def test_taken_off_again(self):
        self.change("sew", **STAMP)
        zone = f"z:{self.sewn()[0].id}"
        panel = self.client.post(reverse("on-top", args=[self.job.pk]), {"zones": zone})
        self.assertContains(panel, "Take the appliqué off")
        self.change("unsew", zones=zone)
        self.assertFalse(self.sewn())
        area = sum(patch.polygon.area for patch in self.core.chart.patches)
        self.assertAlmostEqual(area, self.core.size[0] * self.core.size[1], places=3)
        self.assertIn(
            "sewn on", self.change("unsew", 422, zones=self.core.zones[0].id).content.decode()
        )

    def test_a_zone_runs_behind_it_and_no_longer(self):
        ground = max(self.core.zones, key=lambda z: z.polygon.area)
        x, y = ground.polygon.representative_point().coords[0]
        self.change("sew", **{**STAMP, "what": "berry", "height": "1", "at": f"{x:.3f},{y:.3f}"})
        berry = f"z:{self.sewn()[0].id}"
        self.change("behind", zones=f"{ground.id},{berry}")
        behind = next(z for z in self.core.zones if z.id == ground.id)
        self.assertAlmostEqual(behind.whole.area, ground.polygon.area, places=2)
        panel = self.client.post(reverse("on-top", args=[self.job.pk]), {"zones": ground.id})
        # The tray judges and draws all of it, not what is left of it round the shape.
        around = space_of(self.core, replace(behind, whole=None)).polygon
        self.assertGreater(space_of(self.core, behind).polygon.area, around.area + 0.7)
        self.assertContains(panel, "No longer behind")
        self.change("front", zones=ground.id)
        self.assertIsNone(next(z for z in self.core.zones if z.id == ground.id).whole)
        for what, zones in (("front", ground.id), ("behind", berry), ("behind", "z:nothing")):
            with self.subTest(what, zones=zones):
                self.change(what, 422, zones=zones)

    def test_it_stays_on_when_the_top_is_charted_anew(self):
        self.change("sew", **STAMP)
        zone = next(z.id for z in self.core.zones if "b1.1" in z.id)
        self.change("exchange", zones=zone, block="pinwheel", sure="1")
        self.assertEqual(len(self.sewn()), 1)

    @long
    def test_the_shapes_of_a_drawing(self):
        svg = (b'<svg xmlns="http://www.w3.org/2000/svg" width="2in" height="1in" viewBox="0 0 20 10">'
               b'<circle cx="5" cy="5" r="5" fill="#aa3322"/><rect x="12" y="0" width="8" height="10" '
               b'fill="#223344"/><path d="M0 0L3 3"/></svg>')  # fmt: skip
        values = {"height": "3", "left": "6", "top": "6", "fabric": "new", "colour": "#6f8a5a"}
        self.change("sew-drawing", file=SimpleUploadedFile("a.svg", svg), **values)
        colours = {self.core.chart.fabric(p.fabric).colour for p in self.sewn()}
        self.assertEqual(colours, {"#aa3322", "#223344"})
        x0, y0, x1, y1 = self.sewn()[0].polygon.union(self.sewn()[1].polygon).bounds
        for got, wished in zip((x0, y0, x1, y1), (3, 4.5, 9, 7.5), strict=True):
            self.assertAlmostEqual(got, wished, delta=0.02)
        for change in ({"height": "x"}, {"left": ""}, {"height": "0"},
                       {"file": SimpleUploadedFile("a.svg", b"<svg/>")}, {"file": ""},
                       {"file": SimpleUploadedFile("a.svg", b'<svg xmlns="http://www.w3.org/2000/svg">'
                                                            b'<path d="M0 0L3 3"/></svg>')}):  # fmt: skip
            with self.subTest(change):
                given = {"file": SimpleUploadedFile("a.svg", svg), **values, **change}
                self.change("sew-drawing", 422, **given)


def _points(points):
    from shapely.geometry import Point

    return [Point(*p) for p in points]


class SewingStory(BrowserCase):
    def test_stamps_one_after_the_other_and_a_shape_with_the_pen(self):
        job = make_job(self.studio, self.anna)
        page = self.page
        self.open(job, "zones")
        page.click("[data-act=applique]")
        page.wait_for_selector("#stamp-shape")
        page.fill("#q-height", "2")
        page.wait_for_selector("#stamp-look:has-text('× 2″')")
        page.click("[data-act=stamp]")
        box = page.locator("#view > rect").bounding_box()
        at = lambda x, y: (box["x"] + box["width"] * x, box["y"] + box["height"] * y)  # noqa: E731
        for k, spot in enumerate(((0.3, 0.4), (0.6, 0.5))):
            page.mouse.move(*at(*spot))
            page.wait_for_selector(".laying")
            # Pressed again though it waits already: one hand holds the shape, and it is sewn on once.
            page.click("[data-act=stamp]")
            page.mouse.move(*at(*spot))
            self.assertEqual(page.locator(".laying").count(), 1)
            page.mouse.click(*at(*spot))
            page.wait_for_function(
                "n => document.querySelectorAll('.zone[data-role=applique]').length == n", arg=k + 1
            )
        self.assertEqual(page.locator("text=was changed while you were working").count(), 0)
        page.keyboard.press("Escape")
        page.wait_for_selector(".laying", state="detached")
        page.click("[data-act=pen]")
        for spot in ((0.7, 0.7), (0.8, 0.7), (0.85, 0.85)):
            page.mouse.click(*at(*spot))
            page.keyboard.press("s")
        page.keyboard.press("Enter")
        page.wait_for_function(
            "() => document.querySelectorAll('.zone[data-role=applique]').length == 3"
        )
        # The panel is still open; undo takes the shapes off one by one.
        self.assertEqual(page.input_value("#q-height"), "2")
        page.locator("#undo").click()
        page.wait_for_function(
            "() => document.querySelectorAll('.zone[data-role=applique]').length == 2"
        )
        self.assertEqual(self.faults, [])
