"""Ruler work in a real browser: by touch from the kinds of place, by keys from the sheet."""

from django.urls import reverse

from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.rulers import stretches_of
from chorograph_core.rulers.fitting import radius_of
from chorograph_core.tests import long
from chorograph_core.zones import zones_from_patches
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.routes.planning import ask_for_plan, carry_out
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job
from studio.workbench.linework import linework_of


class RulerTests(BrowserCase):
    def stored(self, job):
        fresh = Job.objects.select_related("head").get(pk=job.pk)
        core = core_job(fresh)
        return core, linework_of(fresh.head.body_id, core)

    def test_a_border_of_arcs_by_touch_from_the_kinds_of_place(self):
        job = make_job(self.studio, self.anna, 2, 2)
        page = self.signed_in(820, 1180)
        self.open(job, "designs", page)
        # All have a design, so the kinds of place are folded.
        page.locator("#places summary").tap()
        row = page.locator("#places li", has_text="border sides").first
        row.locator("[data-act=show-zones]").tap()
        self.assertEqual(page.inner_text("#chosen-count"), "4 zones")
        row.locator("[data-act=design-these]").tap()
        page.wait_for_selector(".tile[data-design=scallops]")
        page.fill("#d-find", "scal")
        page.wait_for_selector(".tile[data-design=crosshatch]", state="hidden")
        page.locator(".tile[data-design=scallops]").tap()
        page.wait_for_selector("#d-design[value=scallops]", state="attached")
        page.fill("#s-chord", "3")
        page.fill("#s-height", "1 3/4")
        # More than half as high as it is wide: a sentence, and nothing is lost.
        page.wait_for_selector("[data-fault=set_height]:has-text('is more than half of')")
        page.fill("#s-height", "1")
        page.locator("#drawer summary", has_text="More settings").tap()
        page.fill("#s-pointed", "1/2")
        page.wait_for_selector("#design-figures:has-text('layings')")
        page.wait_for_selector("#design-figures:has-text('No edge of yours stitches')")
        page.locator("#drawer .button-strong").tap()
        page.wait_for_selector(".legend-entry:has-text('Scallops')")
        core, drawn = self.stored(job)
        entry = next(e for e in core.legend if e.layers[-1].design == "scallops")
        self.assertEqual(len(entry.zones), 4)
        arcs = [s for one in drawn if one.entry == entry.id and one.layer == 1 for run in one.linework.runs
                for p, _, kind in run.pieces() if kind == "stitch" for s in stretches_of(p)]  # fmt: skip
        side = min(core.zone(z).polygon.bounds[2] - core.zone(z).polygon.bounds[0] for z in entry.zones
                   if core.zone(z).polygon.bounds[2] - core.zone(z).polygon.bounds[0] > 10) - 6  # fmt: skip
        chord = side / round(side / 3)
        radii = {round(s.radius, 1) for s in arcs if s.kind == "arc"}
        self.assertIn(round(radius_of(chord, 1.0), 1), radii)
        self.assertEqual(self.faults, [])

    @long
    def test_a_curved_wedge_crosshatched_by_the_side_of_the_foot_on_a_sit_down_machine(self):
        chart = StraightSet(1, 1, 18, ("grandmother_fan",)).chart()
        core = CoreJob(
            "Fan",
            chart=chart,
            zones=zones_from_patches(chart),
            machine=Machine("table", "sit-down"),
        )
        job = create_job(self.studio, self.anna, core, "made for a test")
        page = self.signed_in(820, 1180)
        self.open(job, "designs", page)
        kinds = page.locator("#places li", has_text="wedges")
        self.assertEqual(kinds.count(), 3)
        for each in range(3):
            kinds.nth(each).locator("[data-act=add-zones]").tap()
        self.assertEqual(page.inner_text("#chosen-count"), "6 zones")
        page.locator("[data-act=design]:visible").tap()
        page.fill("#d-find", "curved")
        page.locator(".tile[data-design=curved_crosshatch]").tap()
        page.wait_for_selector("#d-design[value=curved_crosshatch]", state="attached")
        page.fill("#s-spacing", "1/4")
        page.wait_for_selector("#design-fit:has-text('1/4″ apart')")
        page.locator("#drawer .button-strong").tap()
        page.wait_for_selector(".legend-entry:has-text('Curved crosshatch')")
        plan = ask_for_plan(Job.objects.get(pk=job.pk))
        carry_out(plan)
        plan.refresh_from_db()
        self.assertEqual((plan.state, plan.message), ("done", ""))
        page.goto(self.live_server_url + reverse("run-sheet", args=[job.pk]))
        self.assertIn("Mark for curved crosshatch: ", page.inner_text("body"))
        page.goto(self.live_server_url + reverse("stitch", args=[job.pk]))
        page.wait_for_selector("#stitch[data-loaded='1']")
        for _ in range(40):
            while page.locator("dialog[open] [data-close]").count():
                page.locator("dialog[open] [data-close]").first.tap()
            if page.inner_text("#s-title").startswith("Curved crosshatch"):
                break
            before = page.locator("#stitch").get_attribute("data-at")
            page.get_by_role("button", name="Done", exact=True).tap()
            page.wait_for_selector(f"#stitch:not([data-at='{before}'])")
        told = page.inner_text("#stitch")
        self.assertIn("needle down in between", told)
        self.assertIn("the side of the foot against the last line", told)
        self.assertEqual(self.faults, [])

    def test_chevrons_by_keys_and_the_first_one_only(self):
        job = make_job(self.studio, self.anna, 2, 2)
        page = self.page
        self.open(job, "designs")
        page.locator('.zone[data-fabric="c"]').first.focus()
        page.keyboard.press(" ")
        page.keyboard.press("a")
        page.keyboard.press("d")
        # Whoever is faster than the drawings goes from the name to the tile once it is there.
        page.route("**/tray/", lambda route: (page.wait_for_timeout(700), route.continue_()))
        page.locator("#d-find").focus()
        page.keyboard.type("chevr")
        page.keyboard.press("Enter")
        self.assertEqual(page.locator(".tile").count(), 0)
        page.wait_for_selector(".tile[data-design=chevrons]:focus")
        page.keyboard.press("Enter")
        page.wait_for_selector("#d-design[value=chevrons]", state="attached")
        page.locator("#s-spacing").focus()
        # Enter in a field puts nothing in the legend: what is typed is drawn already.
        page.keyboard.press("Enter")
        page.wait_for_timeout(600)
        self.assertTrue(page.locator("#drawer").is_visible())
        before = page.input_value("#s-spacing")
        page.keyboard.press("ArrowDown")
        self.assertNotEqual(page.input_value("#s-spacing"), before)
        slider = page.locator("[data-slides=s-spacing]")
        self.assertAlmostEqual(float(slider.input_value()), _inches(page.input_value("#s-spacing")))
        slider.focus()
        page.keyboard.press("ArrowRight")
        self.assertAlmostEqual(float(slider.input_value()), _inches(page.input_value("#s-spacing")))
        page.locator("#drawer button", has_text="First one only").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("#drawer", state="detached")
        core, drawn = self.stored(job)
        entry = next(e for e in core.legend if e.layers[-1].design == "chevrons")
        self.assertEqual(len(entry.zones), 1)
        self.assertTrue(any(one.entry == entry.id and one.linework.runs for one in drawn))

    def test_sums_answer_while_one_types(self):
        page = self.page
        page.click("nav >> text=Sums")
        page.fill("#arcs-length", "60")
        page.wait_for_selector("#a-arcs:has-text('9 arcs')")
        page.fill("#arcs-height", "9")
        page.wait_for_selector("#a-arcs .fault:has-text('half as high')")
        self.assertEqual(page.input_value("#arcs-length"), "60")


def _inches(text: str) -> float:
    whole, _, part = text.rpartition(" ") if "/" in text else (text, "", "0")
    top, _, bottom = part.partition("/")
    return float(whole or 0) + float(top) / float(bottom or 1)
