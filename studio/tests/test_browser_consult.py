"""The whole consult told in a real browser, at the counter and on a tablet."""

import re
from datetime import timedelta

from django.utils import timezone

from chorograph_core.tests import long
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.outbox.models import Letter
from studio.shelf.starting import stock
from studio.tests.browser import BrowserCase
from studio.tests.pictures import saved, sideways


class ConsultTests(BrowserCase):
    def test_at_the_counter(self):
        self.consult(self.page)

    @long
    def test_on_a_tablet(self):
        page = self.signed_in(820, 1180)
        self.consult(page)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 820)

    def consult(self, page):
        stock(self.studio)
        page.goto(self.live_server_url + "/jobs/")
        page.click("text=New consult")
        page.fill("#id_title", "Gull Throw")
        page.fill("#id_client", "Marit")
        page.fill("#id_width", "60")
        page.fill("#id_height", "seventy")
        page.click("button:has-text('Begin')")
        page.wait_for_selector("text=not a length")
        page.fill("#id_height", "72 1/2")
        page.click("button:has-text('Begin')")
        page.wait_for_selector("#measures")
        # The tape is laid, and what it says stands beside it while one writes.
        for field, text in (("widths_0", "59 1/2"), ("widths_2", "60"), ("heights_0", "72 1/2"),
                            ("heights_2", "72 1/2"), ("diagonals_0", "95"), ("diagonals_1", "93"),
                            ("borders_1", "77"), ("bodies_1", "72 1/2")):  # fmt: skip
            page.fill(f"#id_{field}", text)
        page.wait_for_selector("#look:has-text('The top leans')")
        page.wait_for_selector(
            "#look:has-text('Right border: 4 1/2″ full, 6.2%')".replace("4 1/2", "4\u00a01/2")
        )
        page.fill("#id_heights_1", "sixty")
        page.wait_for_selector("#id_heights_1_fault:has-text('not a length')")
        page.fill("#id_heights_1", "72 1/2")
        page.check("#id_found_marks")
        page.fill("#id_note_marks", "blue pen")
        page.fill("#id_backing_width", "66")
        page.fill("#id_backing_height", "90")
        page.wait_for_selector("#look:has-text('The backing is too small')")
        page.select_option("#id_batting", label="wool")
        page.wait_for_selector("#look:has-text('Lines no further apart than 4″')")
        page.select_option("#id_applique", "outline")
        page.fill("#id_note", "Do not sew on the gulls.")
        tomorrow = timezone.localdate() + timedelta(days=1)
        page.fill("#id_due", tomorrow.isoformat())
        page.wait_for_selector("#offers:has-text('Your date cannot be held')")
        page.fill("#id_due", (tomorrow + timedelta(days=60)).isoformat())
        page.wait_for_selector("#offers:not(:has-text('Your date cannot be held'))")
        page.check("#offers input[value=full]")
        page.click("header >> text=Keep")
        page.wait_for_selector("nav:has-text('Intake done')")
        self.photographs(page)
        job = Job.objects.select_related("head").get(title="Gull Throw")
        core = core_job(job)
        self.assertEqual(core.policy.applique, "outline")
        self.assertEqual(core.intake.wishes.level, "full")
        page.click("text=Consult sheet")
        page.wait_for_selector("text=outline only, in the ditch")
        page.click("text=Back to the intake")
        self.quote(page, job)

    def photographs(self, page):
        page.set_input_files("#photo-file", [
            {"name": "top.jpg", "mimeType": "image/jpeg", "buffer": sideways()},
            {"name": "notes.heic", "mimeType": "image/heic", "buffer": saved("HEIF")},
            {"name": "torn.jpg", "mimeType": "image/jpeg", "buffer": sideways()[:150]},
        ])  # fmt: skip
        page.fill("#photo-note", "on the table")
        page.click("#photos-part >> text=Add")
        page.wait_for_selector("#photos-part:has-text('torn.jpg')")
        self.assertEqual(page.locator("#photos-part img").count(), 2)
        seen = "[...document.querySelectorAll('#photos-part img')].every((each) => each.naturalWidth > 20)"
        page.locator("#photos-part img").first.scroll_into_view_if_needed()
        # A function: under the page's own policy no text is evaluated while it polls.
        page.wait_for_function(f"() => {seen}")

    def quote(self, page, job):
        page.click("nav >> text=Quote")
        page.uncheck("input[value=allover]")
        page.click("text=Issue the quote")
        page.wait_for_selector("text=Quote 1")
        page.click("text=Link for the client")
        page.wait_for_selector("text=not looked at yet")
        address = re.search(r"(/for-you/\S+)", Letter.objects.get(job=job).text)[1]
        # The client has no account and another browser.
        client = self.new_page(390, 800)
        client.goto(self.live_server_url + address)
        client.fill("#text", "May it be sooner?")
        client.click("text=Send it to the studio")
        client.wait_for_selector("text=Thank you")
        client.check("input[value=light]")
        client.click("text=Accept the level chosen")
        client.wait_for_selector("text=Accepted by Marit")
        self.assertLessEqual(client.evaluate("document.documentElement.scrollWidth"), 390)
        page.click("text=Job book")
        page.wait_for_selector("text=May it be sooner?")
        page.wait_for_selector("text=Level agreed by quote 1: Light custom")
        page.fill("#note", "The gulls stay as they are.")
        page.click("text=Write it down")
        page.wait_for_selector("li:has-text('The gulls stay as they are.')")
        page.goto(self.live_server_url + "/find/?q=who+wanted+no+stitching+on+the+gulls")
        page.wait_for_selector("mark:has-text('gulls')")
        self.assertEqual(self.faults, [])
