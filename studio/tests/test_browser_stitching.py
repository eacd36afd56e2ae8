"""Stories at the machine, in a real browser: followed by touch and by pedal, with the line cut, on two
tablets."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.tests import long
from studio.jobs.models import Job
from studio.progress.models import last_told
from studio.routes.planning import ask_for_plan, carry_out
from studio.stitching.following import followed
from studio.stitching.models import Tap
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job


class MachineStories(BrowserCase):
    def planned(self):
        job = make_job(self.studio, self.anna, 1, 2)
        carry_out(ask_for_plan(job))
        return job

    def at_machine(self, job, page):
        page.goto(self.live_server_url + reverse("stitch", args=[job.pk]))
        page.wait_for_selector("#stitch[data-loaded='1']")
        self.look(page)

    def look(self, page):
        """What is to be looked at first is looked at."""
        while page.locator("dialog[open] [data-close]").count():
            page.locator("dialog[open] [data-close]").first.click()

    def press(self, page, key, times=1):
        for _ in range(times):
            self.moved(page, lambda: page.keyboard.press(key))

    def moved(self, page, act):
        """After what was pressed another leg is the one at hand."""
        before = page.locator("#stitch").get_attribute("data-at")
        act()
        page.wait_for_selector(f"#stitch:not([data-at='{before}'])")
        self.look(page)

    def stands(self, job):
        job = Job.objects.select_related("head").get(pk=job.pk)
        job.studio = self.studio
        return followed(job, "in").stands

    def settled(self, page):
        page.wait_for_selector("#stitch[data-waiting='0']")

    def test_followed_by_touch_left_in_between_and_found_again(self):
        job = self.planned()
        page = self.signed_in(820, 1180)
        self.at_machine(job, page)
        for button in page.locator(".big:visible").all():
            box = button.bounding_box()
            self.assertGreaterEqual(min(box["width"], box["height"]), 64)
        first = page.locator("#s-title").inner_text()
        done = page.get_by_role("button", name="Done", exact=True)
        self.moved(page, done.tap)
        self.assertNotEqual(page.locator("#s-title").inner_text(), first)
        self.moved(page, page.get_by_role("button", name="Back").tap)
        self.assertEqual(page.locator("#s-title").inner_text(), first)
        for _ in range(5):
            self.moved(page, done.tap)
        now = page.locator("#s-title").inner_text()
        page.get_by_role("button", name="Stop here").tap()
        page.wait_for_selector("#s-stopped[open]")
        self.assertIn(now, page.locator("#s-stopped-next").inner_text())
        page.get_by_role("button", name="Go on").tap()
        self.settled(page)
        self.assertEqual(self.stands(job)[:6], "xxxxx.")
        self.assertTrue(last_told(job).by_taps)
        # Tomorrow: the page says where she was.
        page.evaluate("localStorage.setItem('stitch-' + document.getElementById('stitch').dataset.job,"
                      " JSON.stringify({at: 5, when: Date.now() - 86400000}))")  # fmt: skip
        page.reload()
        page.wait_for_selector("text=Where was I?")
        self.assertIn(now, page.locator("#s-stopped-next").inner_text())
        wide = page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        self.assertLessEqual(wide, 0)
        self.assertEqual(self.faults, [])

    def test_the_line_is_cut_and_nothing_is_lost(self):
        job = self.planned()
        page = self.page
        self.at_machine(job, page)
        page.wait_for_selector("#stitch[data-kept='1']")
        # Once more, so that the worker has seen all that the page asks for.
        page.wait_for_timeout(1000)
        page.reload()
        page.wait_for_selector("#stitch[data-loaded='1']")
        self.look(page)
        self.press(page, " ", 2)
        self.settled(page)
        page.context.set_offline(True)
        self.press(page, "PageDown", 3)
        page.wait_for_selector("text=No line to the server")
        # Opened anew without a line, it is all there, and what was tapped is not forgotten.
        page.reload()
        page.wait_for_selector("#stitch[data-loaded='1']")
        self.look(page)
        before = page.locator("#s-title").inner_text()
        self.press(page, "PageUp")
        self.press(page, "PageDown")
        self.assertEqual(page.locator("#s-title").inner_text(), before)
        self.assertEqual(self.stands(job)[:6], "xx....")
        page.context.set_offline(False)
        self.settled(page)
        self.assertEqual(self.stands(job)[:6], "xxxxx.")
        # In order, once: done five times, taken back and done again.
        kinds = [kind for kind in Tap.objects.values_list("kind", flat=True)
                 if kind in ("done", "back")]  # fmt: skip
        self.assertEqual(kinds, ["done"] * 5 + ["back", "done"])
        self.assertEqual(self.faults, [])

    def test_a_press_in_the_moment_a_card_is_closed_counts(self):
        page = self.page
        page.goto(self.live_server_url + reverse("stitch", args=[self.planned().pk]))
        page.wait_for_selector("#stitch[data-loaded='1']")
        # Before the page is drawn again the focus still is on the button that closed the card.
        at = page.evaluate("""() => {
            const close = document.querySelector("dialog[open] [data-close]");
            close.focus();
            close.click();
            const press = new KeyboardEvent("keydown", {key: " ", bubbles: true, cancelable: true});
            document.activeElement.dispatchEvent(press);
            return document.getElementById("stitch").dataset.at;
        }""")
        self.assertEqual(at, "1")
        self.assertEqual(self.faults, [])

    def test_off_the_plan_and_the_rest_is_planned_anew(self):
        job = self.planned()
        page = self.page
        self.at_machine(job, page)
        self.press(page, "Enter", 4)
        page.keyboard.press("n")
        page.fill("#s-text", "loops instead")
        page.get_by_role("button", name="Stitched something else here").click()
        self.look(page)
        page.keyboard.press("n")
        page.get_by_role("button", name="Leave it for later").click()
        self.look(page)
        self.settled(page)
        self.assertEqual(self.stands(job)[:6], "xxxxos")
        page.get_by_role("button", name="More").click()
        page.get_by_role("button", name="Plan the rest anew").click()
        page.wait_for_selector("text=being planned anew")
        job.refresh_from_db()
        carry_out(ask_for_plan(job))
        page.reload()
        page.wait_for_selector("#stitch[data-loaded='1']")
        self.assertEqual(set(self.stands(job)), {"."})
        page.goto(self.live_server_url + reverse("log", args=[job.pk]))
        page.wait_for_selector("text=loops instead")
        self.assertEqual(self.faults, [])

    @long
    def test_another_design_from_here_by_touch_and_the_rest_follows(self):
        job = self.planned()
        page = self.signed_in(820, 1180)
        self.at_machine(job, page)
        done = page.get_by_role("button", name="Done", exact=True)
        while not page.locator("#s-title").inner_text().startswith("Crosshatch"):
            self.moved(page, done.tap)
        page.get_by_role("button", name="Not like this").tap()
        page.get_by_role("button", name="Another design from here").tap()
        page.wait_for_selector("#s-change[open] #s-change-form")
        for control in page.locator("#s-change .big:visible").all():
            box = control.bounding_box()
            self.assertGreaterEqual(min(box["width"], box["height"]), 64)
        lines = page.locator("#s-change svg[role=img] path").last
        before = lines.get_attribute("d")
        # Wider by one step, then another motif altogether: the drawing follows.
        page.locator("#s-change [id^=c-][id$=-more]").first.tap()
        page.wait_for_selector(
            f"#s-change svg[role=img] path:last-child:not([d='{before}'])", state="attached"
        )
        page.locator("#s-change [id^=c-tile-]:not([aria-pressed=true])").first.tap()
        page.wait_for_selector("#s-change h3:not(:text('Crosshatch'))")
        name = page.locator("#s-change h3").inner_text()
        page.get_by_role("button", name="Take it").tap()
        page.wait_for_selector("[data-changed]")
        page.locator("#s-change [data-close]").tap()
        job = Job.objects.select_related("head").get(pk=job.pk)
        job.studio = self.studio
        carry_out(ask_for_plan(job))
        page.reload()
        page.wait_for_selector("#stitch[data-loaded='1']")
        self.look(page)
        page.wait_for_selector(f"#s-title:has-text('{name}')")
        # Without a line it says so, and nothing is lost.
        page.context.set_offline(True)
        self.moved(page, done.tap)
        page.get_by_role("button", name="Not like this").tap()
        page.get_by_role("button", name="Another design from here").tap()
        page.wait_for_selector("#s-line:has-text('no line to the server')")
        page.context.set_offline(False)
        self.settled(page)
        self.assertEqual(self.faults, [])

    def test_two_tablets_on_one_quilt_agree(self):
        job = self.planned()
        one, two = self.page, self.signed_in(820, 1180)
        self.at_machine(job, one)
        self.at_machine(job, two)
        self.press(one, " ", 3)
        self.settled(one)
        # The other one learns it with its next word to the server, and goes along.
        two.evaluate("dispatchEvent(new Event('online'))")
        one.wait_for_timeout(300)
        two.wait_for_selector(f"#s-title:has-text('{one.locator('#s-title').inner_text()}')")
        self.look(two)
        self.moved(two, two.get_by_role("button", name="Done", exact=True).tap)
        self.settled(two)
        self.assertEqual(self.stands(job)[:5], "xxxx.")
        self.assertEqual(self.faults, [])
