"""Freehand motifs and auditions in a real browser, by touch and by keys, to the stitching."""

from chorograph_core.job import planned_job, replayed_job
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job
from studio.workbench.linework import linework_of


class AuditionStories(BrowserCase):
    def stored(self, job):
        fresh = Job.objects.select_related("head").get(pk=job.pk)
        core = core_job(fresh)
        return core, linework_of(fresh.head.body_id, core)

    def test_an_audition_by_touch_from_the_kinds_of_place_to_a_route(self):
        job = make_job(self.studio, self.anna, 1, 1)
        page = self.signed_in(820, 1180)
        self.open(job, "designs", page)
        page.locator("#places summary").tap()
        row = page.locator("#places li", has_text="border sides").first
        row.locator("[data-act=design-these]").tap()
        page.wait_for_selector(".tile[data-design=feather]")
        page.locator("#drawer a", has_text="Audition, side by side").tap()
        page.wait_for_selector("article h3")
        self.assertLessEqual(page.locator("article").count(), 4)
        self.assertEqual(page.locator("text=recommended").count(), 1)
        # One is asked for by name.
        for box in page.locator("input[type=checkbox][name=design]").all():
            box.uncheck()
        page.locator("select[name=design]").select_option("feather")
        page.locator("button", has_text="Hear these").tap()
        page.wait_for_selector("article h3:has-text('Feather')")
        page.locator("article [name=note]").first.fill("swings over the points")
        page.locator("article button", has_text="Take it").first.tap()
        page.wait_for_selector(".legend-entry:has-text('Feather')")
        core, drawn = self.stored(job)
        entry = next(e for e in core.legend if any(la.design == "feather" for la in e.layers))
        self.assertEqual(len(entry.zones), 4)
        plumes = [one for one in drawn if one.entry == entry.id and one.design == "feather"]
        self.assertTrue(all(len(one.linework.runs[0].units) > 8 for one in plumes))
        self.assertEqual(replayed_job(core, planned_job(core)), [])
        page.goto(page.url.split("?")[0] + "book/")
        page.wait_for_selector("text=swings over the points")
        # What the page still asks for would meet the emptying of the database.
        page.wait_for_load_state("networkidle")
        self.assertEqual(self.faults, [])

    def test_swirls_by_keys_with_their_settings(self):
        job = make_job(self.studio, self.anna, 1, 1)
        page = self.page
        self.open(job, "designs")
        page.locator('.zone[data-fabric="a"]').first.focus()
        page.keyboard.press(" ")
        page.keyboard.press("a")
        page.keyboard.press("d")
        page.wait_for_selector(".tile[data-design=swirls]")
        page.locator(".tile[data-design=swirls]").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("#d-design[value=swirls]", state="attached")
        page.fill("#s-size", "1 1/4")
        page.fill("#s-gap", "40")
        # A gap that nobody stitches: a sentence at its field, and nothing is lost.
        page.wait_for_selector("[data-fault=set_gap]:has-text('goes from')")
        page.fill("#s-gap", "1/4")
        page.locator("#drawer .button-strong").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector(".legend-entry:has-text('Swirls'), .legend-entry:has-text('swirls')")
        core, _ = self.stored(job)
        layer = next(la for e in core.legend for la in e.layers if la.design == "swirls")
        self.assertEqual((layer.settings["size"], layer.settings["gap"]), (1.25, 0.25))
        page.wait_for_load_state("networkidle")
        self.assertEqual(self.faults, [])

    def test_a_start_for_the_whole_quilt(self):
        job = make_job(self.studio, self.anna, 1, 1)
        page = self.page
        self.open(job, "designs")
        page.click("text=Propose another start")
        page.select_option("[name=what]", "all")
        page.select_option("[name=level]", "light")
        page.click("button:has-text('Propose')")
        # The worker tries it; the page says meanwhile what is done, and the address is that of the start.
        page.wait_for_selector("#start [role=status] progress")
        self.work_off_the_queue()
        page.wait_for_selector("text=Take it as a start")
        self.assertRegex(page.url, r"level=light&what=all$")
        self.assertFalse(page.locator("#start [role=status]").is_visible())
        page.click("text=Take it as a start")
        page.wait_for_selector("#work[data-drawn]")
        core, drawn = self.stored(job)
        self.assertTrue(all(zone.id in core.entry_of() for zone in core.zones))
        self.assertEqual([one.fault for one in drawn if one.fault], [])
        page.click("button:has-text('Undo')")
        page.wait_for_selector(".legend-entry:has-text('meander')")
        page.wait_for_load_state("networkidle")
        self.assertEqual(self.faults, [])
