"""Motifs: strokes to follow, motifs of one's own from the pad to the legend, attempts, guides."""

import io
import math
import re
from datetime import timedelta

import cv2
import numpy as np
import shapely
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from PIL import Image

from chorograph_core.designs import designs
from chorograph_core.designs.curves import resample
from chorograph_core.designs.own_strokes import cleaned_stroke
from chorograph_core.formats import read_archive, write_archive
from chorograph_core.job import job_linework, planned_job, replayed_job
from chorograph_core.tests import long
from chorograph_core.tests.test_drawings import svg
from chorograph_core.zones.places import sisters_of
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.motifs.models import Attempt
from studio.motifs.strokes import all_motifs, followed
from studio.shelf.models import OwnMotif
from studio.tests.browser import BrowserCase
from studio.tests.helpers import ChangingCase, make_job, make_studio
from studio.workbench.linework import linework_of

T = np.linspace(0, 1, 60)
HILL = " ".join(f"{20 + 260 * t:.1f},{180 - 80 * (1 - math.cos(2 * math.pi * t)):.1f}" for t in T)


def kept(studio, name: str = "gate", kind: str = "strip") -> OwnMotif:
    points = np.array([tuple(map(float, pair.split(","))) for pair in HILL.split()])
    return OwnMotif.objects.create(
        studio=studio, name=name, kind=kind, stroke=cleaned_stroke(points, kind).text
    )


class OwnMotifTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)

    def post(self, **values):
        form = {"name": "gate", "kind": "strip", "points": HILL, **values}
        return self.client.post(reverse("own-motif-new"), form)

    @long
    def test_it_is_drawn_named_and_kept_once(self):
        self.assertRedirects(self.post(), reverse("motifs"))
        found = OwnMotif.objects.get()
        self.assertEqual((found.name, found.kind), ("gate", "strip"))
        self.assertContains(self.client.get(reverse("motifs")), "gate")
        answer = self.post()
        self.assertContains(answer, "a motif called “gate” already", status_code=422)
        # What was drawn is still there.
        self.assertContains(answer, HILL[:40], status_code=422)

    @long
    def test_it_may_come_from_a_drawing(self):
        two = svg('<path fill="none" d="M0 5C2 -5 4 -5 6 5"/><path d="M0 0L1 1"/>')
        file = SimpleUploadedFile("a.svg", two)
        self.assertRedirects(self.post(points="", file=file), reverse("motifs"))
        points = OwnMotif.objects.get().stroke.split()
        self.assertEqual((points[0].split(",")[0], points[-1].split(",")[0]), ("0", "1"))

    @long
    def test_what_is_no_stroke_is_refused_at_its_field_and_nothing_is_lost(self):
        tangle = " ".join(
            f"{x},{y}" for x, y in np.random.default_rng(1).integers(0, 99, (3000, 2))
        )
        for values, word in (
            ({"points": ""}, "Nothing is drawn yet"), ({"points": "5,5"}, "one point is no stroke"),
            ({"points": "a"}, "could not be read"), ({"points": "1,inf 2,2"}, "could not be read"),
            ({"points": tangle}, "crosses itself"), ({"name": ""}, "Give the motif a name"),
            ({"points": " ".join(["1,1"] * 30_000)}, "draw it once"),
            ({"file": SimpleUploadedFile("a.svg", b"<svg")}, "breaks off"),
            ({"file": SimpleUploadedFile("a.svg", svg("<text>a</text>"))}, "only 1 texts"),
        ):  # fmt: skip
            with self.subTest(word):
                answer = self.post(**values)
                self.assertContains(answer, word, status_code=422)
                self.assertContains(answer, "Keep it on the shelf", status_code=422)
                form = {"kind": "strip", "points": HILL, **values}
                look = self.client.post(reverse("own-motif-look"), form)
                if "name" not in values:
                    self.assertEqual(look.status_code, 422)
        self.assertFalse(OwnMotif.objects.exists())

    def test_it_is_shown_as_it_comes_out(self):
        for kind, count in (("strip", 1), ("figure", 2)):
            answer = self.client.post(reverse("own-motif-look"), {"kind": kind, "points": HILL})
            self.assertContains(answer, "<svg", count=count)

    def test_a_name_is_changed_without_drawing_it_again_and_it_is_taken_off(self):
        own = kept(self.studio)
        stroke = own.stroke
        address = reverse("own-motif", args=[own.pk])
        self.client.post(address, {"name": "fence", "kind": "strip", "points": ""})
        own.refresh_from_db()
        self.assertEqual((own.name, own.stroke), ("fence", stroke))
        self.client.post(reverse("own-motif-drop", args=[own.pk]))
        self.assertFalse(OwnMotif.objects.exists())

    @long
    def test_two_people_do_not_write_over_each_other(self):
        own = kept(self.studio)
        address = reverse("own-motif", args=[own.pk])
        seen = self.client.get(address).context["seen"]
        self.client.post(address, {"name": "fence", "kind": "strip", "points": "", "seen": seen})
        form = {"name": "wall", "kind": "strip", "points": HILL, "seen": seen}
        late = self.client.post(address, form)
        self.assertContains(late, "it is called “fence” now", status_code=422)
        self.assertContains(late, HILL[:40], status_code=422)
        again = {**form, "seen": late.context["seen"]}
        self.assertRedirects(self.client.post(address, again), reverse("motifs"))

    @long
    def test_another_studio_sees_none_of_it(self):
        own = kept(self.studio)
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        self.assertNotContains(self.client.get(reverse("motifs")), "gate")
        for name, args in (("own-motif", [own.pk]), ("own-motif-drop", [own.pk]), ("motif", [own.card]),
                           ("motif-attempt", [own.card])):  # fmt: skip
            send = self.client.get if name == "motif" else self.client.post
            answer = send(reverse(name, args=args), {"points": HILL})
            self.assertEqual(answer.status_code, 404, name)

    @long
    def test_queries_do_not_grow_with_the_shelf(self):
        kept(self.studio)
        with self.assertNumQueries(6):
            self.client.get(reverse("motifs"))
        for k in range(5):
            kept(self.studio, f"gate {k}")
        with self.assertNumQueries(6):
            self.client.get(reverse("motifs"))


class CardTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)

    @long
    def test_every_motif_has_a_stroke_to_follow(self):
        for design in all_motifs():
            shown = followed(design)
            with self.subTest(design.key):
                self.assertGreater(shown.inches, 3)
                self.assertTrue(shown.units)
                shares = [share for _, share, _, _ in shown.units]
                self.assertEqual(shares, sorted(shares))
                self.assertLess(shares[-1], 1.0001)
        for key in ("swirls", kept(self.studio).card):
            self.assertContains(self.client.get(reverse("motif", args=[key])), "data-stroke")
        for key in ("crosshatch", "own_strip", "own-99", "own-x", "nothing"):
            self.assertEqual(self.client.get(reverse("motif", args=[key])).status_code, 404)

    def attempt(self, key: str = "ribbon_candy", **values):
        return self.client.post(
            reverse("motif-attempt", args=[key]), values, headers={"HX-Request": "true"}
        )

    def test_an_attempt_is_measured_beside_the_machine_and_kept(self):
        shown = followed(designs()["ribbon_candy"])
        traced = " ".join(f"{x:.3f},{y:.3f}" for x, y in shown.line)
        answer = self.attempt(points=traced)
        self.assertContains(answer, "your best so far")
        self.assertGreater(Attempt.objects.get().marks, 85)
        straight = " ".join(f"{8 * t:.2f},1" for t in T)
        self.assertNotContains(self.attempt(points=straight), "your best so far")
        self.assertEqual(Attempt.objects.count(), 2)
        # Without scripts one is led to the card, where it stands.
        plain = self.client.post(
            reverse("motif-attempt", args=["ribbon_candy"]), {"points": traced}
        )
        self.assertRedirects(plain, reverse("motif", args=["ribbon_candy"]))

    @long
    def test_a_picture_is_measured_in_inches_and_centimetres(self):
        picture = np.full((400, 1600), 235, np.uint8)
        cv2.polylines(
            picture, [np.int32(followed(designs()["ribbon_candy"]).line * 200)], False, 30, 6
        )
        data = io.BytesIO()
        Image.fromarray(picture).save(data, "PNG")
        found = []
        for units, wide in (("in", "8"), ("cm", "20.32")):
            self.studio.units = units
            self.studio.save()
            file = SimpleUploadedFile("a.png", data.getvalue())
            self.assertEqual(self.attempt(file=file, wide=wide).status_code, 200)
            found.append(Attempt.objects.first().apart)
        self.assertAlmostEqual(found[0], found[1], places=4)
        self.assertContains(
            self.attempt(file=SimpleUploadedFile("a.png", data.getvalue()), wide="20"), "cm"
        )

    def test_a_studio_in_centimetres_reads_no_inch(self):
        self.studio.units = "cm"
        self.studio.save()
        shown = followed(designs()["ribbon_candy"])
        traced = " ".join(f"{x:.3f},{y:.3f}" for x, y in shown.line)
        pages = [
            self.attempt(points=traced),
            self.client.get(reverse("motif", args=["ribbon_candy"])),
        ]
        for page in pages:
            text = page.content.decode()
            self.assertIn("cm", text)
            self.assertNotIn("″", text)
            self.assertNotRegex(text, r"\binch|\d in\b")

    def test_what_cannot_be_measured_is_a_sentence(self):
        for values, word in (
            ({}, "Nothing is drawn yet"), ({"points": "1,1 1.1,1"}, "hardly a line"),
            ({"file": SimpleUploadedFile("a.png", b"no"), "wide": "8"}, "no picture"),
            ({"file": SimpleUploadedFile("a.png", b"no"), "wide": ""}, "length"),
        ):  # fmt: skip
            with self.subTest(word):
                self.assertContains(self.attempt(**values), word, status_code=422)
        self.assertFalse(Attempt.objects.exists())


class DrawerTests(ChangingCase):
    def keep(self, zones, design, status=204, **values):
        self.job.refresh_from_db()
        form = {"base": self.job.head.number, "zones": ",".join(zones), "design": design, "thread": "",
                **values}  # fmt: skip
        answer = self.client.post(reverse("keep", args=[self.job.pk]), form)
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer

    def border(self):
        sides = [zone for zone in self.core.zones if "border" in zone.id]
        return sorted(sides, key=lambda zone: -zone.polygon.area)

    def layer(self, design):
        return next(la for e in self.core.legend for la in e.layers if la.design == design)

    @long
    def test_an_own_motif_is_in_the_tray_and_goes_into_the_job(self):
        own = kept(self.studio)
        zone = self.border()[0]
        tray = "".join(
            self.client.post(
                reverse("tray", args=[self.job.pk]), {"zones": zone.id, "rest": rest}
            ).content.decode()
            for rest in ("", "1")
        )
        self.assertIn("gate, along", tray)
        self.assertIn(f'data-stroke="{own.stroke}"', tray)
        form = {"zones": zone.id, "design": "own_strip", "stroke": own.stroke, "part": "chosen"}
        drawer = self.client.post(reverse("drawer", args=[self.job.pk]), form)
        self.assertContains(drawer, f'value="{own.stroke}" selected')
        self.keep([zone.id], "own_strip", set_stroke=own.stroke)
        self.assertEqual(self.layer("own_strip").settings["stroke"], own.stroke)
        own.delete()
        # The job keeps it though the shelf does not.
        drawer = self.client.post(reverse("drawer", args=[self.job.pk]), {"zones": zone.id})
        self.assertContains(drawer, "as it is in this job")
        answer = self.keep([zone.id], "own_strip", 422, set_stroke="1,1 x")
        self.assertContains(answer, "points are written like", status_code=422)

    @long
    def test_a_guide_by_a_circle_along_a_seam_and_drawn(self):
        zone = self.border()[0]
        x0, y0, x1, y1 = zone.polygon.bounds
        y = (y0 + y1) / 2
        drawn = f"{x0 + 1},{y} {(x0 + x1) / 2},{y + 0.3} {x1 - 1},{y}"
        self.keep([zone.id], "rope", guide_kind="drawn", guide=drawn, guide_width="1 1/2")
        layer = self.layer("rope")
        self.assertEqual(layer.guide_width, 1.5)
        self.assertAlmostEqual(layer.guide[0][0], x0 + 1, places=2)
        drawer = self.client.post(reverse("drawer", args=[self.job.pk]), {"zones": zone.id})
        self.assertContains(drawer, 'value="drawn" selected')
        self.assertContains(drawer, 'name="guide_width" value="1 1/2"')
        self.keep([zone.id], "leaf_vine", guide_kind="seam")
        self.assertGreater(len(self.layer("leaf_vine").guide), 1)
        block = max(
            (z for z in self.core.zones if "border" not in z.id), key=lambda z: z.polygon.area
        )
        self.keep([block.id], "leaf_vine", guide_kind="circle", guide_circle="2", set_pitch="1/2")
        ring = np.array(next(la.guide for e in self.core.legend for la in e.layers if block.id in e.zones
                             and la.design == "leaf_vine"))  # fmt: skip
        self.assertAlmostEqual(np.ptp(ring[:, 0]), 2.0, places=1)

    def test_what_is_no_guide_is_a_sentence_at_its_field(self):
        zone = self.border()[0]
        for values, field in (
            ({"guide_kind": "drawn", "guide": ""}, "guide"),
            ({"guide_kind": "drawn", "guide": "900,900 950,950"}, "guide"),
            ({"guide_kind": "circle", "guide_circle": "x"}, "guide_circle"),
            ({"guide_kind": "circle", "guide_circle": "9000"}, "guide_circle"),
            ({"guide_kind": "seam", "guide_width": "-1"}, "guide_width"),
        ):  # fmt: skip
            with self.subTest(values):
                answer = self.keep([zone.id], "rope", 422, **values)
                self.assertContains(answer, f'data-field="{field}"', status_code=422)

    def test_along_the_seam_of_a_border_a_strip_is_as_wide_as_told(self):
        """It followed the raw edge, where nothing is stitched, and filled the whole side."""
        zone = max(self.border(), key=lambda each: each.polygon.area)
        self.keep([zone.id], "rope", guide_kind="seam", guide_width="1")
        core = self.core
        (one,) = [each for each in job_linework(core) if each.design == "rope"]
        points = np.vstack([run.points for run in one.linework.runs])
        self.assertLess(np.ptp(points, axis=0).min(), 1.1)
        outline = core.chart.outline.boundary
        self.assertGreater(shapely.distance(outline, shapely.points(points)).min(), 1.0)

    def test_swinging_with_the_points_on_every_side_and_unchanged_when_kept_again(self):
        """Only the longest sides of a border swung; and each time an entry was kept its guide was steadied
        once more, as if a hand had drawn it, until it lay straight."""
        sides = [zone.id for zone in self.border()]
        for over, many in (("zone", 1), ("region", 1), ("sides", 4)):
            self.keep(sides, "feather", guide_kind="points", over=over)
            layer = self.layer("feather")
            self.assertEqual(len(layer.guides), many, over)
            entry = next(e for e in self.core.legend if layer in e.layers)
            drawer = self.client.post(
                reverse("drawer", args=[self.job.pk]), {"zones": ",".join(sides)}
            )
            held = re.search(r'name="guide" value="([^"]*)"', drawer.content.decode())[1]
            self.assertEqual(held.count(";"), many - 1)
            for thread in ("bracken", "indigo"):
                self.keep(sides, "feather", entry=entry.id, guide_kind="drawn", guide=held, over=over,
                          thread=thread)  # fmt: skip
                self.assertEqual(self.layer("feather").guides, layer.guides)
                self.assertEqual(self.layer("feather").thread, thread)
        self.assertEqual(read_archive(write_archive(self.core)).legend, self.core.legend)

    def test_a_guide_in_the_finish_of_the_edge_is_refused(self):
        zone = self.border()[0]
        x0, y0, x1, y1 = zone.polygon.bounds
        outer = y0 if y0 < 1 else y1
        drawn = f"{x0 + 1},{outer} {x1 - 1},{outer}"
        answer = self.keep([zone.id], "rope", 422, guide_kind="drawn", guide=drawn)
        self.assertContains(answer, "for the sake of the edge", status_code=422)
        self.assertContains(answer, 'data-field="guide"', status_code=422)

    def test_what_was_tried_on_the_first_is_carried_to_its_sisters(self):
        sides = [zone.id for zone in self.border()]
        self.keep(sides, "wishbone", only="first")
        entry = next(e for e in self.core.legend if any(la.design == "wishbone" for la in e.layers))
        self.assertEqual(len(entry.zones), 1)
        drawer = self.client.post(reverse("drawer", args=[self.job.pk]), {"zones": entry.zones[0]})
        areas = [round(zone.polygon.area, 3) for zone in self.border()]
        count = areas.count(areas[0]) - 1
        self.assertContains(drawer, f"Carry to its {count} sister")
        self.keep(entry.zones, "wishbone", entry=entry.id, only="sisters", set_pitch="70%")
        entry = next(e for e in self.core.legend if any(la.design == "wishbone" for la in e.layers))
        self.assertEqual(len(entry.zones), count + 1)
        self.assertEqual(self.layer("wishbone").settings["pitch"], 0.7)

    def test_a_guide_speaks_in_the_studios_units(self):
        self.studio.units = "cm"
        self.studio.save()
        zone = self.border()[0]
        for values in ({"guide_kind": "circle", "guide_circle": "9000"},
                       {"guide_kind": "seam", "guide_width": "900"}):  # fmt: skip
            answer = self.keep([zone.id], "rope", 422, **values).content.decode()
            self.assertIn(" cm", answer)
            self.assertNotIn("″", answer)

    def test_half_of_a_whole_and_sisters_that_vary(self):
        sides = [zone.id for zone in self.border()[:2]]
        for over in ("whole", "varied"):
            self.keep(sides, "wishbone", over=over)
            self.assertEqual(self.layer("wishbone").over, over)
            drawer = self.client.post(
                reverse("drawer", args=[self.job.pk]), {"zones": ",".join(sides)}
            )
            self.assertContains(drawer, f'value="{over}" selected')

    def test_sisters_in_a_block_are_turned_or_not(self):
        core = core_job(Job.objects.select_related("head").get(pk=self.job.pk))
        block = [z for z in core.zones if core.chart.patch(z.patches[0]).block == (0, 0)]
        alike = max((sisters_of(core.chart, core.zones, [z.id]) for z in block), key=len)
        ids = [zone.id for zone in block if zone.id in alike]
        self.assertGreater(len(ids), 1)
        for design, over, other in (("leaf", "level", "turned"), ("parallel", "turned", "level")):
            self.keep(ids, design, over=over)
            self.assertEqual(self.layer(design).over, over)
            asked = {"zones": ",".join(ids)}
            drawer = self.client.post(reverse("drawer", args=[self.job.pk]), asked)
            self.assertContains(drawer, f'value="{over}" selected')
            self.assertNotContains(drawer, f'value="{other}"')


class MotifStories(BrowserCase):
    def stored(self, job):
        fresh = Job.objects.select_related("head").get(pk=job.pk)
        core = core_job(fresh)
        return core, linework_of(fresh.head.body_id, core)

    def test_a_motif_drawn_by_touch_goes_along_a_border(self):
        job = make_job(self.studio, self.anna, 1, 1)
        page = self.signed_in(820, 1180)
        page.goto(self.live_server_url + reverse("motifs"))
        page.locator("text=Draw one of your own").tap()
        pad = page.locator("#own-pad")
        pad.scroll_into_view_if_needed()
        box = pad.bounding_box()
        wide, high = box["width"], box["height"]
        spot = [(box["x"] + wide * (0.08 + 0.84 * t),
                 box["y"] + high * (0.85 - 0.35 * (1 - math.cos(2 * math.pi * t))))
                for t in T.tolist()]  # fmt: skip
        page.mouse.move(*spot[0])
        page.mouse.down()
        for x, y in spot[1:]:
            page.mouse.move(x, y)
        page.mouse.up()
        page.wait_for_selector("#own-look svg")
        page.fill("#own-name", "Garden wall")
        page.locator("text=Keep it on the shelf").tap()
        page.wait_for_selector("h2:has-text('Your own')")
        self.open(job, "designs", page)
        page.locator("#places summary").tap()
        page.locator("#places li", has_text="border sides").first.locator(
            "[data-act=design-these]"
        ).tap()
        tile = page.locator(".tile[data-design=own_strip]")
        tile.wait_for()
        tile.tap()
        page.wait_for_selector("#d-design[value=own_strip]", state="attached")
        page.locator("#drawer .button-strong").tap()
        page.wait_for_selector(".legend-entry:has-text('Own motif')")
        page.wait_for_load_state("networkidle")
        _, drawn = self.stored(job)
        lines = [one for one in drawn if one.design == "own_strip"]
        self.assertEqual(len(lines), 4)
        self.assertTrue(all(len(one.linework.runs[0].units) > 3 for one in lines))
        self.assertEqual(self.faults, [])

    def test_a_stroke_is_followed_by_keys_and_tried(self):
        page = self.page
        page.goto(self.live_server_url + reverse("motif", args=["wishbone"]))
        page.wait_for_selector("#follow")
        count = page.locator(".motif-number").count()
        self.assertGreater(count, 4)
        page.locator("body").press("ArrowRight")
        page.locator("body").press("ArrowRight")
        self.assertEqual(page.locator(".motif-number:not(.come)").count(), 2)
        page.locator("body").press("ArrowLeft")
        self.assertEqual(page.locator(".motif-number:not(.come)").count(), 1)
        page.locator("body").press(" ")
        page.locator(".motif-number:not(.come)").nth(1).wait_for(state="attached")
        page.locator("body").press(" ")
        self.assertEqual(page.locator("[data-follow=play]").inner_text(), "Go on")
        page.locator("text=Measure it").click()
        page.wait_for_selector("#measured [role=alert]:has-text('Nothing is drawn yet')")
        page.wait_for_load_state("networkidle")

    def test_a_guide_is_drawn_on_the_sheet(self):
        job = make_job(self.studio, self.anna, 1, 1)
        page = self.page
        self.open(job, "designs")
        zone = page.locator('.zone[data-id="z:border1.top"]')
        zone.focus()
        page.keyboard.press(" ")
        page.keyboard.press("d")
        page.wait_for_selector(".tile[data-design=rope]")
        self.choose_design("rope")
        page.select_option("#d-guide-kind", "drawn")
        page.click("[data-act=draw-guide]")
        box = zone.bounding_box()
        long = box["width"] > box["height"]
        for k in range(21):
            t = 0.1 + 0.8 * k / 20
            x = box["x"] + box["width"] * (t if long else 0.5)
            y = box["y"] + box["height"] * (0.5 if long else t)
            page.mouse.move(x, y)
            if not k:
                page.mouse.down()
        page.mouse.up()
        page.wait_for_selector("#guide-line", state="attached")
        page.locator("#drawer .button-strong").click()
        page.wait_for_selector(".legend-entry:has-text('Rope')")
        page.wait_for_load_state("networkidle")
        core, _ = self.stored(job)
        layer = next(la for e in core.legend for la in e.layers if la.design == "rope")
        self.assertGreater(len(layer.guide), 1)
        self.assertEqual(self.faults, [])

    def test_swings_all_round_a_border_with_lenses_at_each_middle(self):
        job = make_job(self.studio, self.anna, 2, 2)
        page = self.page
        self.open(job, "designs")
        page.locator("#places summary").click()
        row = page.locator("#places li", has_text="border sides").first
        row.locator("[data-act=design-these]").click()
        page.wait_for_selector(".tile[data-design=u_swing]")
        page.locator(".tile[data-design=u_swing]").click()
        page.wait_for_selector("#d-design[value=u_swing]", state="attached")
        page.select_option("#s-lenses", "middle")
        page.select_option("#d-over", "region")
        page.locator("#drawer .button-strong").click()
        page.wait_for_selector(
            ".legend-entry:has-text('U-swing'), .legend-entry:has-text('u swing')"
        )
        page.wait_for_load_state("networkidle")
        core, drawn = self.stored(job)
        pieces = [one for one in drawn if one.design == "u_swing"]
        self.assertEqual(len(pieces), 4)
        figure = pieces[0].figure
        self.assertEqual(len(figure.linework.runs), 1)
        # A swirl fills each corner where two sides meet.
        x0, y0, x1, y1 = core.chart.outline.bounds
        for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1)):
            near = np.hypot(*(figure.linework.runs[0].points - (x, y)).T) < 4.2
            self.assertGreater(near.sum(), 40)
        self.assertEqual(replayed_job(core, planned_job(core)), [])
        self.assertEqual(self.faults, [])


class PracticeTests(TestCase):
    """Practice over weeks: rhythm by the clock, directions, a plot, and what is rusty before a quilt."""

    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)
        self.shown = followed(designs()["ribbon_candy"])

    def attempt(self, line, times=""):
        points = " ".join(f"{x:.3f},{y:.3f}" for x, y in line)
        return self.client.post(
            reverse("motif-attempt", args=["ribbon_candy"]), {"points": points, "times": times},
            headers={"HX-Request": "true"},
        )  # fmt: skip

    def test_an_even_beat_varies_by_nothing_and_a_halting_one_is_told(self):
        line = resample(self.shown.line, 0.02)
        gone = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
        even = (500 * gone).astype(int)
        answer = self.attempt(line, " ".join(map(str, even)))
        self.assertLess(answer.context["made"].pace, 0.02)
        # By hand: every other inch takes three times as long, so 1 and 3: a mean of 2, a deviation of 1.
        beats = np.cumsum([0, *np.tile([1.0, 3.0], int(gone[-1]) // 2 + 1)])
        slow = np.interp(gone, np.arange(len(beats)), beats)
        answer = self.attempt(line, " ".join(str(int(1000 * t)) for t in slow))
        self.assertAlmostEqual(answer.context["made"].pace, 0.5, delta=0.04)
        self.assertContains(answer, "The time an inch takes")

    def test_no_clock_or_a_broken_one_is_no_fault(self):
        for times in ("", "1 2 3", "a b", "9" * 400, " ".join(["5"] * len(self.shown.line))):
            answer = self.attempt(self.shown.line, times)
            with self.subTest(times[:9]):
                self.assertEqual(answer.status_code, 200)
                self.assertIsNone(answer.context["made"].pace)

    def test_directions_are_told_apart_and_plotted(self):
        self.attempt(self.shown.line)
        answer = self.attempt(self.shown.line[::-1])
        ways = {each.direction for each in Attempt.objects.all()}
        self.assertEqual(ways, {"left", "right"})
        plot = answer.context["plot"]
        self.assertEqual([way for way, *_ in plot["ways"]], ["going left", "going right"])
        self.assertContains(answer, "of 1 attempt")
        (_, high, _, _), (_, other, _, _) = plot["dots"]
        marks = [each.marks for each in Attempt.objects.order_by("made")]
        # By hand: a hundred marks stand at 8, none at 100.
        self.assertEqual([high, other], [100 - 0.92 * each for each in marks])

    @long
    def test_what_a_quilt_wants_and_was_not_practised_is_said_beforehand(self):
        job = make_job(self.studio, self.anna, 1, 2)
        page = self.client.get(reverse("motifs"))
        keys = {each.key for each in page.context["rusty"]}
        self.assertIn("ribbon_candy", keys)
        self.assertNotIn("crosshatch", keys)
        self.attempt(self.shown.line)
        keys = {each.key for each in self.client.get(reverse("motifs")).context["rusty"]}
        self.assertNotIn("ribbon_candy", keys)
        Attempt.objects.update(made=timezone.now() - timedelta(days=30))
        self.assertContains(self.client.get(reverse("motifs")), f"for {job.title}, last on")
        # A few minutes stand in the calendar, on a working day before the quilt begins or on its first.
        calendar = self.client.get(reverse("calendar")).context
        begins = min(day for each in calendar["booked"] for day, _ in each.days)
        noted = {d.day: d for week in calendar["weeks"] for d in week if d.notes}
        self.assertTrue(noted and max(noted) <= begins)
        self.assertTrue(all(day.hours for day in noted.values()))
        notes = [note for day in noted.values() for note in day.notes]
        self.assertIn("ribbon candy", ", ".join(note.detail for note in notes))
        # By hand: ten minutes for each.
        for note in notes:
            self.assertEqual(note.text, f"{10 * len(note.detail.split(', '))} min practice")
        type(job).objects.update(closed=timezone.localdate())
        self.assertEqual(self.client.get(reverse("motifs")).context["rusty"], [])
