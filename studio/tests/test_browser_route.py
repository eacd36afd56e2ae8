"""Stories of the route in a real browser: a design over many zones as one, lines longer than the reach."""

from django.urls import reverse

from studio.jobs.revisions import core_job
from studio.routes.planning import ask_for_plan, carry_out, plan_of
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job


class RouteStories(BrowserCase):
    def plan(self, job):
        job.refresh_from_db()
        carry_out(ask_for_plan(job))
        return plan_of(job)

    def test_lines_run_on_through_the_border_and_are_told_as_one(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.open(job, "designs")
        page = self.page
        page.locator('.zone[data-role="border"]').first.click()
        page.select_option("#alike-by", index=5)
        page.keyboard.press("d")
        page.wait_for_selector("#d-design", state="attached")
        self.choose_design("parallel")
        page.get_by_label("Laid").select_option("region")
        with page.expect_response("**/keep/"):
            page.locator("#drawer .button-strong").click()
        page.wait_for_selector("#d-design", state="detached")
        job.refresh_from_db()
        (entry,) = [one for one in core_job(job).legend if one.layers[-1].over == "region"]
        self.assertEqual((entry.layers[-1].design, len(entry.zones)), ("parallel", 4))

        plan = self.plan(job)
        self.assertEqual(plan.figures["replay"], "clean")
        page.goto(self.live_server_url + reverse("run-sheet", args=[job.pk]))
        page.wait_for_selector("text=all 4 zones as one")
        self.assertEqual(self.faults, [])

    def test_a_server_that_was_away_is_asked_again(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.open(job, "route")
        page = self.page
        lost = []

        def away(route):
            lost.append(route.request.url)
            route.abort() if len(lost) == 1 else route.fulfill(status=502)

        page.route("**/plan/state/**", away)
        page.get_by_role("button", name="Plan the route").click()
        page.wait_for_selector("text=The server does not answer")
        carry_out(plan_of(job))
        # Asked again, it is away once more; then it stands.
        with page.expect_response("**/plan/state/**"):
            pass
        page.unroute("**/plan/state/**")
        page.wait_for_selector("text=Lost minutes")
        self.assertEqual(len(lost), 2)
        self.assertEqual(page.locator("text=The server does not answer").count(), 0)
        self.assertEqual(self.faults, [])

    def test_what_becomes_of_long_lines_is_chosen_beside_the_route(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.plan(job)
        page = self.signed_in(820, 1180)
        self.open(job, "route", page)
        sheet, figures = (page.locator(one).bounding_box() for one in ("#zones", "#figures"))
        # What the route loses is told below the sheet, not over the stitching.
        self.assertGreaterEqual(figures["y"], sheet["y"] + sheet["height"] - 1)
        with page.expect_response("**/change/school/"):
            page.get_by_label("Lines longer than the reach are").select_option("roll")
        page.wait_for_selector("text=No route for the job as it is now")
        job.refresh_from_db()
        self.assertEqual(core_job(job).policy.oversized, "roll")
        self.assertEqual(self.plan(job).figures["replay"], "clean")
        self.assertEqual(self.faults, [])
