"""Pages as the rules of accessibility see them (WCAG 2.2 AA), looked through by axe in a real browser."""

from __future__ import annotations

from axe_playwright_python.base import AXE_FILE_PATH
from django.urls import reverse

from chorograph_core.tests import long
from studio.finishing.billing import bill
from studio.quotes.documents import issue
from studio.routes.planning import ask_for_plan, carry_out
from studio.shelf.starting import stock
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job

RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
AXE = AXE_FILE_PATH.read_text()

THUMB = 44
"""Pixels that whatever is touched is wide and high; links within a sentence are read, not hit."""
SMALL = """() => [...document.querySelectorAll(
    "a[href], button, input:not([type=hidden]), select, textarea, summary, [role=button]")]
  .filter((e) => !e.closest("svg") && getComputedStyle(e).visibility !== "hidden")
  .map((e) => {
    const own = e.getBoundingClientRect(), label = e.closest("label")?.getBoundingClientRect();
    const within = e.tagName === "A" && getComputedStyle(e).display === "inline"
      && e.parentElement.textContent.trim().length > e.textContent.trim().length + 8;
    return [e.outerHTML.slice(0, 120), Math.max(own.width, label?.width ?? 0),
            Math.max(own.height, label?.height ?? 0), own.width * own.height && !within];
  })
  .filter(([, wide, high, seen]) => seen && (wide < THUMB || high < THUMB))
  .map(([what, wide, high]) => `${Math.round(wide)} x ${Math.round(high)} ${what}`)
""".replace("THUMB", f"{THUMB - 0.5}")


class AxeTests(BrowserCase):
    def setUp(self):
        super().setUp()
        self.job = make_job(self.studio, self.anna, 1, 2)
        stock(self.studio)
        carry_out(ask_for_plan(self.job))
        issue(self.job, self.anna, ["light", "full"])
        bill(self.job, {"extra0": "quilting", "amount0": "9"}, self.anna)

    def looked(self, page, where: str) -> None:
        """Nothing that shuts anybody out."""
        page.wait_for_timeout(50)
        page.evaluate(AXE)
        # Only what is wrong is gathered: most of its time goes into telling what is right.
        asked = {"runOnly": RULES, "resultTypes": ["violations"]}
        found = page.evaluate("asked => axe.run(document, asked)", asked)
        told = [(each["id"], each["nodes"][0]["html"][:160]) for each in found["violations"]]
        with self.subTest(where):
            self.assertEqual(told, [])

    def addresses(self):
        for name in ("jobs", "new-job", "calendar", "blocks", "motifs", "shelf", "sums", "prices",
                     "lesson", "outbox", "house", "house-ways", "house-rates", "people", "yourself",
                     "password", "codes"):  # fmt: skip
            yield name, reverse(name)
        for name in ("intake", "chart", "quotes", "job-thread", "book", "balance", "schools", "log", "finish",
                     "run-sheet", "care", "consult-sheet", "proposal"):  # fmt: skip
            yield name, reverse(name, args=[self.job.pk])
        yield "quote", reverse("quote", args=[self.job.pk, 1])
        yield "invoice", reverse("invoice", args=[self.job.pk, 1])
        yield "shelf-new", reverse("shelf-new", args=["ruler"])
        yield "motif", reverse("motif", args=["swirls"])

    def walk(self, page, every: int = 1) -> None:
        for name, address in list(self.addresses())[::every]:
            page.goto(self.live_server_url + address)
            self.looked(page, name)

    def test_every_page_by_day_on_a_desk(self):
        self.walk(self.page)

    @long
    def test_some_pages_by_night_on_a_tablet(self):
        page = self.signed_in(820, 1180)
        page.emulate_media(color_scheme="dark")
        self.walk(page, 3)

    @long
    def test_gloved_thumbs_find_every_button_on_a_tablet_and_no_page_is_wider_than_a_phone(self):
        page = self.signed_in(820, 1180)
        for name, address in [*self.addresses(), *self.stages()]:
            page.set_viewport_size({"width": 820, "height": 1180})
            page.goto(self.live_server_url + address)
            with self.subTest(name, on="a tablet"):
                self.assertEqual(page.evaluate(SMALL), [])
            page.set_viewport_size({"width": 390, "height": 844})
            with self.subTest(name, on="a phone"):
                self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 391)

    def test_on_a_phone_her_stage_is_in_sight_and_the_profile_lies_under_the_sheet(self):
        page = self.signed_in(390, 844)
        self.open(self.job, "route", page)
        here = page.locator("nav [aria-current=page]").bounding_box()
        self.assertGreaterEqual(here["x"], 0)
        self.assertLessEqual(here["x"] + here["width"], 390)
        page.wait_for_selector("#lost-to")
        profile, side = (page.locator(each).bounding_box()["y"] for each in ("#profile", "#side"))
        # The paths take many screens: nobody scrolls past them to the profile.
        self.assertLess(profile, 844)
        self.assertLess(profile, side)

    def stages(self):
        work = reverse("work", args=[self.job.pk])
        for stage in ("zones", "designs", "route"):
            yield stage, f"{work}?stage={stage}"
        for name in ("carrying", "help", "resting"):
            yield name, reverse(name)
        yield "stitch", reverse("stitch", args=[self.job.pk])
        yield "more", reverse("job-more", args=[self.job.pk])

    @long
    def test_the_sheet_with_what_opens_beside_it_and_the_machine(self):
        page = self.page
        for stage in ("zones", "designs", "route"):
            page.goto(
                self.live_server_url + reverse("work", args=[self.job.pk]) + f"?stage={stage}"
            )
            page.wait_for_selector("path.zone")
            self.looked(page, stage)
        page.goto(self.live_server_url + reverse("work", args=[self.job.pk]) + "?stage=designs")
        for key in "dcbo":
            page.locator("path.zone").nth(2).focus()
            page.keyboard.press(" ")
            page.keyboard.press(key)
            page.wait_for_selector("#side h2:focus, #side h3:focus")
            self.looked(page, f"opened by {key}")
            for fold in page.locator("#side details").all():
                fold.evaluate("fold => fold.open = true")
            # What opens is scrolled for itself: the page stays as long as its window.
            self.assertEqual(
                page.evaluate("document.documentElement.scrollHeight - innerHeight"), 0, key
            )
        page.keyboard.press("?")
        self.looked(page, "keys")
        page.goto(self.live_server_url + reverse("stitch", args=[self.job.pk]))
        page.wait_for_selector("#stitch[data-loaded='1']")
        self.looked(page, "checks")
        page.locator("dialog[open] [data-close]").click()
        for button in ("More", "Not like this", "Stop here"):
            page.get_by_role("button", name=button, exact=True).click()
            self.looked(page, button)
            page.locator("dialog[open] [data-close]").first.click()
        self.looked(page, "stitch")

    def test_by_keys_the_focus_stays_where_one_is_and_comes_back(self):
        page = self.page
        page.goto(self.live_server_url + reverse("work", args=[self.job.pk]) + "?stage=designs")
        zone = page.locator("path.zone").nth(3)
        zone.focus()
        where = zone.get_attribute("data-id")
        page.keyboard.press(" ")
        here = "document.activeElement.dataset.id"
        self.assertEqual(page.evaluate(here), where)
        page.keyboard.press("d")
        page.wait_for_selector("#side h2:focus")
        page.keyboard.press("Escape")
        self.assertEqual(page.evaluate(here), where)
        page.keyboard.press("ArrowRight")
        self.assertNotEqual(page.evaluate(here), where)
        # Letters can be switched off, and stay so.
        page.keyboard.press("?")
        page.check("#letters-off")
        page.reload()
        page.wait_for_selector("path.zone")
        page.locator("path.zone").nth(3).focus()
        page.keyboard.press(" ")
        page.keyboard.press("d")
        page.wait_for_timeout(300)
        self.assertEqual(page.locator("#drawer").count(), 0)
        self.assertEqual(self.faults, [])

    def test_by_touch_several_zones_are_taken_without_a_shift_key(self):
        page = self.signed_in(820, 1180)
        page.goto(self.live_server_url + reverse("work", args=[self.job.pk]) + "?stage=designs")
        page.wait_for_selector("path.zone")
        zones = page.locator("path.zone")
        first, second = zones.nth(2).get_attribute("data-id"), zones.nth(5).get_attribute("data-id")
        page.locator(f"path.zone[data-id='{first}']").tap(force=True)
        page.get_by_role("button", name="Add more").tap()
        page.locator(f"path.zone[data-id='{second}']").tap(force=True)
        self.assertIn("2 zones", page.locator("#chosen-count").inner_text())
