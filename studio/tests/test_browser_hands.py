"""Stories of the route in her hands, in a real browser: told where she stands, asked why, wished, worked
otherwise."""

from __future__ import annotations

from django.urls import reverse

from chorograph_core.formats import read_steps
from chorograph_core.steering.parts import visits_of
from studio.jobs.revisions import core_job
from studio.progress.models import last_told
from studio.routes.models import Plan
from studio.routes.planning import ask_for_plan, carry_out, plan_of
from studio.schools.models import Weighed
from studio.schools.weighing import carry_out as weigh
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_job


class HandStories(BrowserCase):
    def plan(self, job):
        job.refresh_from_db()
        carry_out(ask_for_plan(job))
        return plan_of(job)

    def weigh(self):
        """What the workers do."""
        for one in Weighed.objects.filter(state="queued").select_related("job__head", "told"):
            weigh(one)

    def on_route(self, job, page):
        self.open(job, "route", page)
        page.wait_for_selector("#standing")
        page.wait_for_function("document.getElementById('work').dataset.walking === '1'")

    def test_she_tells_where_she_is_by_touch_and_the_rest_is_planned(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.plan(job)
        page = self.signed_in(820, 1180)
        self.on_route(job, page)
        # Before she has moved the needle, nothing is taken for done.
        page.get_by_role("button", name="I am here").click()
        page.wait_for_selector("text=Drag the needle along the profile")
        self.assertIsNone(last_told(job))
        box = page.locator("#terrain").bounding_box()
        page.touchscreen.tap(box["x"] + 0.6 * box["width"], box["y"] + 50)
        page.get_by_role("button", name="I am here").click()
        page.wait_for_selector("text=behind you")
        told = last_told(job)
        self.assertAlmostEqual(told.seconds / 60 / plan_of(job).figures["minutes"], 0.6, delta=0.05)

        # One zone of what is done comes out again.
        page.wait_for_function("document.getElementById('work').dataset.walking === '1'")
        zone = next(n.rsplit("/", 2)[0] for n in told.state["done"]
                    if n.startswith("z:") and n.count("/") > 1)  # fmt: skip
        page.locator(f'.zone[data-id="{zone}"]').dispatch_event("click")
        page.get_by_role("button", name="Ripped out").click()
        page.wait_for_selector("text=Ripped out: 1 zone.")
        carry_out(Plan.objects.get(job=job, told=last_told(job)))
        rest = plan_of(job)
        self.assertEqual(rest.figures["replay"], "clean")
        page.reload()
        self.on_route(job, page)
        page.get_by_role("button", name="Take back").click()
        page.wait_for_selector("text=into the work")
        self.assertEqual(self.faults, [])

    def test_why_and_a_wish_by_keys(self):
        job = make_job(self.studio, self.anna, 1, 2)
        self.plan(job)
        page = self.page
        self.on_route(job, page)
        page.locator("#terrain").focus()
        page.keyboard.press("Home")
        for _ in range(4):
            page.keyboard.press("PageDown")
        page.keyboard.press("w")
        page.wait_for_selector("#why b")
        page.locator('.zone[data-id^="z:b1.2"]').first.focus()
        page.keyboard.press(" ")
        page.get_by_role("button", name="Wish something of the route").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("text=Wishes of the route")
        page.get_by_label("First", exact=True).focus()
        page.keyboard.press(" ")
        page.get_by_role("button", name="What does it cost?").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("text=being planned")
        self.weigh()
        page.get_by_role("button", name="Keep this wish").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("text=No route for the job as it is now")
        job.refresh_from_db()
        self.assertEqual([wish.kind for wish in core_job(job).policy.wishes], ["first"])
        self.assertEqual(self.plan(job).figures["replay"], "clean")
        self.assertEqual(self.faults, [])

    def test_ways_of_working_are_priced_and_one_is_taken(self):
        job = make_job(self.studio, self.anna, 1, 2)
        page = self.signed_in(820, 1180)
        page.goto(self.live_server_url + reverse("schools", args=[job.pk]))
        page.get_by_role("button", name="Price all ways").click()
        page.wait_for_selector("#schools[data-waits]")
        self.weigh()
        page.wait_for_selector("#schools:not([data-waits])")
        page.get_by_label("place by place").check()
        page.get_by_role("button", name="Try this mix").click()
        page.wait_for_selector("text=Your mix")
        self.weigh()
        page.get_by_role("button", name="Work by this mix").click()
        page.wait_for_selector("text=not priced yet")
        job.refresh_from_db()
        self.assertEqual(core_job(job).policy.stabilise, "zone")
        self.assertTrue(page.get_by_label("place by place").is_checked())
        self.assertEqual(self.plan(job).figures["replay"], "clean")
        wide = page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        self.assertLessEqual(wide, 0)
        self.assertEqual(self.faults, [])

    def test_a_part_of_the_route_is_marked_by_keys_then_dragged_to_another_turn(self):
        job = make_job(self.studio, self.anna, 2, 2)
        self.plan(job)
        page = self.page
        self.on_route(job, page)
        box = page.locator("#terrain").bounding_box()

        def at(share):
            return box["x"] + share * box["width"], box["y"] + 60

        page.locator("#terrain").focus()
        page.keyboard.press("End")
        for _ in range(60):
            page.keyboard.press("ArrowLeft")
        page.keyboard.press("t")
        page.wait_for_selector("text=…to here")
        page.keyboard.press("End")
        page.keyboard.press("t")
        page.get_by_role("button", name="Keep this order").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("text=being planned")
        self.weigh()
        page.wait_for_selector("text=nothing")
        page.get_by_role("button", name="Keep this wish").focus()
        page.keyboard.press("Enter")
        page.wait_for_selector("text=No route for the job as it is now")
        job.refresh_from_db()
        self.assertEqual([wish.kind for wish in core_job(job).policy.wishes], ["kept"])

        # And by hand: the marked part is taken and let go at an earlier place of the same thread.
        # The needle's walk is loaded anew; before it is there, nothing can be marked.
        page.evaluate("document.getElementById('work').dataset.walking = ''")
        page.get_by_role("button", name="Undo").click()
        page.wait_for_selector("#work[data-walking='1']")
        job.refresh_from_db()
        plan = plan_of(job)
        visits = visits_of(read_steps(plan.route()))
        blocks = [v for v in visits if v.station.startswith("z:b") and "border" not in v.station]
        stages = [(v.thread, v.reach) for v in blocks]
        thread, reach = max(stages, key=stages.count)
        first, *_, last = [v for v in blocks if (v.thread, v.reach) == (thread, reach)]
        whole = plan.figures["minutes"] * 60
        room, edge = box["width"] - 24, 12

        def spot(visit):
            return (edge + room * (visit.begins + visit.ends) / 2 / whole) / box["width"]

        page.mouse.click(*at(spot(last) - 0.01))
        page.get_by_role("button", name="From here").click()
        page.mouse.click(*at(spot(last) + 0.01))
        page.get_by_role("button", name="to here").click()
        page.wait_for_selector("text=A part of the route")
        page.mouse.move(*at(spot(last)))
        page.mouse.down()
        page.mouse.move(*at(spot(first)), steps=6)
        page.mouse.up()
        page.wait_for_selector("#wish-cost >> text=being planned")
        self.weigh()
        page.get_by_role("button", name="Keep this wish").click()
        page.wait_for_selector("text=No route for the job as it is now")
        self.assertEqual(self.plan(job).figures["replay"], "clean")
        (wish,) = core_job(job).policy.wishes
        self.assertEqual((wish.kind, wish.thread), ("before", thread))
        self.assertFalse(set(last.zones).isdisjoint(wish.zones))
        self.assertFalse(set(first.zones).isdisjoint(wish.others))
        self.assertEqual(self.faults, [])
