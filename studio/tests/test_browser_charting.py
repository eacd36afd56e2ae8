"""Charting by touch: rows as a list, crossings on the preview, blocks laid while one goes on touching."""

from dataclasses import replace

from django.urls import reverse

from chorograph_core.layouts import BlockRows
from chorograph_core.tests.shapes import designed, small_top
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job


class ChartingStory(BrowserCase):
    def core(self, title):
        return core_job(Job.objects.select_related("head").get(title=title))

    def test_rows_are_a_list_and_crossings_are_touched(self):
        page = self.page
        page.goto(self.live_server_url + reverse("new-job"))
        page.fill("#id_title", "Rows")
        page.fill("#id_border1", "")
        page.fill("#id_border2", "")
        page.select_option("#id_layout", "block_rows")
        self.assertEqual(page.input_value("#id_row_sashing"), "", "none of another layout")
        page.fill("#id_width", "48")
        add = page.locator("button:has-text('Add a row')")
        add.click()
        page.select_option("[aria-label='row 1, block']", "Pinwheel")
        page.fill("[aria-label='row 1, high']", "8")
        # As many to begin with as come out about square.
        self.assertEqual(page.input_value("[aria-label='row 1, how many']"), "6")
        add.click()
        page.select_option("[aria-label='row 2, block']", "Plain square")
        page.fill("[aria-label='row 2, high']", "3 1/2")
        page.fill("[aria-label='row 2, how many']", "1")
        add.click()
        # By keys: the second row is moved up, the third taken out.
        page.focus("[aria-label='Move row 2 up']")
        page.keyboard.press("Enter")
        page.click("[aria-label='Take row 3 out']")
        page.wait_for_selector("#preview >> text=48″ × 11 1/2″")
        page.click("text=Make the chart")
        page.wait_for_url("**/jobs/*/")
        survey = self.core("Rows").survey
        self.assertIsInstance(survey, BlockRows)
        self.assertEqual([(r.height, r.block, r.count) for r in survey.rows],
                         [(3.5, "plain", 1), (8.0, "pinwheel", 6)])  # fmt: skip
        self.assertEqual(survey.sashing, 0)
        # The list shows what was charted, to be changed.
        page.goto(page.url + "chart/")
        self.assertEqual(page.input_value("[aria-label='row 2, block']"), "Pinwheel")

        page.goto(self.live_server_url + reverse("new-job"))
        page.fill("#id_title", "Crossed")
        page.wait_for_selector("[data-crossing='1.2']")
        page.click("[data-crossing='1.2']")
        page.wait_for_selector("[data-crossing='1.2'].open")
        page.focus("[data-crossing='2.1']")
        page.keyboard.press("Enter")
        page.wait_for_selector("[data-crossing='2.1'].open")
        page.click("[data-crossing='1.2']")
        page.wait_for_selector("[data-crossing='1.2']:not(.open)")
        page.click("text=Make the chart")
        page.wait_for_url("**/jobs/*/")
        self.assertEqual(self.core("Crossed").survey.open_crossings, ("2.1",))
        self.assertEqual(self.faults, [])

    def test_touches_while_blocks_are_laid_are_laid_too(self):
        bare = replace(designed(small_top(3, 3)), legend=())
        job = create_job(self.studio, self.anna, bare, "made for a test")
        page = self.signed_in(990, 768)
        self.open(job, "zones", page)
        page.wait_for_selector("#work[data-drawn]")
        page.click("text=Lay blocks")
        page.wait_for_selector("#laying")
        page.click("label.tool[title='Pinwheel']")
        page.wait_for_selector("#hint:not([hidden])")
        spots = page.evaluate(
            """() => {
              const seen = new Map();
              for (const zone of document.querySelectorAll('.zone[data-block]')) {
                if (!zone.dataset.block || seen.has(zone.dataset.block)) continue;
                const at = zone.getBoundingClientRect();
                seen.set(zone.dataset.block, [at.x + at.width / 2, at.y + at.height / 2]);
              }
              return [...seen.values()];
            }"""
        )
        self.assertEqual(len(spots), 9)
        for x, y in spots:
            page.touchscreen.tap(x, y)
        page.wait_for_selector("#hint[data-waiting='0']")
        page.wait_for_selector("#touched circle", state="detached")
        core = core_job(Job.objects.select_related("head").get(pk=job.pk))
        kinds = {p.block: p.kind for p in core.chart.patches if p.block}
        self.assertEqual(set(kinds.values()), {"pinwheel"}, kinds)
        self.assertEqual(page.locator(".zone.chosen").count(), 0, "no touch chose a zone")
        # The panel is still there for the next one.
        self.assertTrue(page.is_visible("#laying"))
        self.assertEqual(self.faults, [])

    def test_what_would_be_lost_is_asked_first_and_laying_goes_on(self):
        job = make_job(self.studio, self.anna, 2, 2)
        page = self.signed_in(990, 768)
        self.open(job, "zones", page)
        page.wait_for_selector("#work[data-drawn]")
        page.click("text=Lay blocks")
        page.click("label.tool[title='Pinwheel']")
        zones = page.locator(".zone[data-block='0.0']"), page.locator(".zone[data-block='1.1']")
        for number, zone in enumerate(zones, 1):
            zone.first.tap()
            page.click("text=Do it all the same")
            page.wait_for_selector(f"#state[data-base='{1 + number}']")
            page.wait_for_selector("#laying")
            page.wait_for_selector("#hint:not([hidden])")
        kinds = {p.block: p.kind for p in self.core("A small top").chart.patches if p.block}
        self.assertEqual((kinds[0, 0], kinds[1, 1]), ("pinwheel", "pinwheel"))
        self.assertEqual(page.locator(".zone.chosen").count(), 0)
        self.assertEqual(self.faults, [])

    def sheet_of_a_small_top(self):
        """The page of its zones, drawn."""
        make_job(self.studio, self.anna)
        self.open(Job.objects.get(), "zones")
        self.page.wait_for_selector("#work[data-drawn]")
        return self.page

    def test_a_shape_is_laid_by_keys_alone(self):
        page = self.sheet_of_a_small_top()
        page.focus("text=Sew on appliqué")
        page.keyboard.press("Enter")
        page.wait_for_selector("#stamp-shape")
        page.focus("text=Lay it on the sheet")
        page.keyboard.press("Enter")
        page.wait_for_selector("#hint:not([hidden])")
        for _ in range(4):
            page.keyboard.press("ArrowLeft")
        page.keyboard.press("Shift+ArrowUp")
        self.assertEqual(
            page.locator(".zone.here").count(), 0, "arrows walk over no zones meanwhile"
        )
        page.keyboard.press("Enter")
        page.wait_for_selector("#state[data-base='2']")
        core = self.core("A small top")
        (sewn,) = [p for p in core.chart.patches if p.role == "applique"]
        box = core.chart.outline.bounds
        middle = ((sewn.polygon.bounds[0] + sewn.polygon.bounds[2]) / 2,
                  (sewn.polygon.bounds[1] + sewn.polygon.bounds[3]) / 2)  # fmt: skip
        # From the middle of the sheet, on the half inch, two inches to the left and an eighth up.
        self.assertAlmostEqual(middle[0], (box[0] + box[2]) / 2 - 2, delta=0.6)
        self.assertAlmostEqual(middle[1] % 0.5, 0.375, delta=0.02)
        self.assertEqual(self.faults, [])

    def test_a_zone_is_cut_by_hand_with_keys_alone(self):
        page = self.sheet_of_a_small_top()
        core = self.core("A small top")
        zone = max(core.zones, key=lambda each: each.polygon.area)
        page.focus(f".zone[data-id='{zone.id}']")
        page.keyboard.press("Space")
        page.keyboard.press("c")
        page.wait_for_selector("#cutter")
        # She comes to the button by keys: only then is she shown at once where she stands.
        page.focus("#cutter select")
        while page.evaluate("document.activeElement.textContent.trim()") != "Draw a cut":
            page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        page.wait_for_selector("#hint:not([hidden])")
        page.wait_for_selector(".cross[visibility=visible]", state="attached")
        x0, y0, x1, y1 = zone.polygon.bounds
        middle = [
            float(each) for each in page.get_attribute(".cross", "d")[1:].split("h")[0].split(",")
        ]
        wide = page.get_attribute(".cross", "d").split("h")[1].split("M")[0]
        at = (middle[0] + float(wide) / 2, middle[1])
        down = round(((y0 + y1) / 2 - at[1]) * 2)
        for _ in range(abs(down)):
            page.keyboard.press("ArrowDown" if down > 0 else "ArrowUp")
        across = round((x0 - 0.5 - at[0]) * 2)
        for _ in range(abs(across)):
            page.keyboard.press("ArrowRight" if across > 0 else "ArrowLeft")
        page.keyboard.press("Space")
        for _ in range(round((x1 - x0 + 1.5) * 2)):
            page.keyboard.press("ArrowRight")
        # Slanting down, as no hand could that goes step by step.
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        page.wait_for_selector("#state[data-base='2']")
        parts = [
            each for each in self.core("A small top").zones if each.id.startswith(f"{zone.id}/")
        ]
        self.assertEqual(len(parts), 2)
        self.assertAlmostEqual(
            sum(each.polygon.area for each in parts), zone.polygon.area, delta=0.05
        )
        self.assertEqual(self.faults, [])

    def test_who_goes_on_before_a_design_is_kept_is_led_on_when_it_is(self):
        page = self.sheet_of_a_small_top()

        def slowly(route):
            page.wait_for_timeout(900)
            route.continue_()

        page.route("**/keep/", slowly)
        zones = [page.locator(".zone").nth(k).get_attribute("data-id") for k in (0, 1)]
        for number, zone in enumerate(zones, 2):
            page.focus(f".zone[data-id='{zone}']")
            page.keyboard.press("Space")
            page.keyboard.press("d")
            page.wait_for_selector(f"#drawer input[name=zones][value='{zone}']", state="attached")
            page.wait_for_selector("#tray .tile")
            page.focus("#drawer .button-strong")
            page.keyboard.press("Enter")
            if number == 2:
                page.wait_for_selector("#work[aria-busy]")
        page.wait_for_selector("#state[data-base='3']")
        alone = {entry.zones for entry in self.core("A small top").legend}
        self.assertLessEqual({(zone,) for zone in zones}, alone)
        self.assertEqual(self.faults, [])

    def test_what_lies_on_top_by_keys_alone(self):
        page = self.sheet_of_a_small_top()
        page.focus('.zone[tabindex="0"]')
        zone = page.get_attribute('.zone[tabindex="0"]', "data-id")
        page.keyboard.press("Space")
        page.keyboard.press("o")
        page.wait_for_selector("#ontop")
        page.focus("#ontop >> text=It is appliqué")
        page.keyboard.press("Enter")
        page.wait_for_selector("#state[data-base='2']")
        core = self.core("A small top")
        self.assertEqual({core.chart.patch(p).role for p in core.zone(zone).patches}, {"applique"})
        self.assertEqual(self.faults, [])
