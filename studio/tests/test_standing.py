"""Where the work stands is told along the plan or otherwise; the rest is planned from there."""

from __future__ import annotations

from django.test import TestCase
from django.urls import reverse

from chorograph_core.formats import read_steps
from chorograph_core.tests import long
from studio.agenda.diary import promises_of
from studio.job_log.models import Entry
from studio.jobs.revisions import core_job
from studio.prices.lists import core_prices, prices_of
from studio.progress.models import Told, last_told
from studio.routes.models import NOT_YET, Plan
from studio.routes.planning import carry_out, plan_of
from studio.tests.helpers import make_job, make_plan, make_studio


class StandingTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio()
        self.client.force_login(self.anna)
        self.job = make_job(self.studio, self.anna, 1, 2)
        self.plan = make_plan(self.job)
        self.whole = self.plan.figures["minutes"] * 60

    def tell(self, where: str, status: int = 204, **values):
        told = last_told(self.job)
        values = {"after": told.pk if told else "", "plan": plan_of(self.job).pk, **values}
        answer = self.client.post(reverse(f"standing-{where}", args=[self.job.pk]), values)
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer

    def rest(self) -> Plan:
        """The rest as the worker plans it."""
        plan = plan_of(self.job)
        if plan.state != "done":
            carry_out(plan)
        return Plan.objects.get(pk=plan.pk)

    def fills(self, plan: Plan) -> set[str]:
        return {
            step.zone for step in read_steps(plan.route()) if step.kind == "stitch" and step.zone
        }

    def test_along_the_plan_it_goes_on_and_the_calendar_knows(self):
        prices = core_prices(prices_of(self.studio))
        self.job.refresh_from_db()
        (before,) = promises_of(self.studio, prices)
        self.tell("here", seconds=round(self.whole / 2))
        self.assertEqual(plan_of(self.job), self.plan)
        (after,) = promises_of(self.studio, prices)
        self.assertAlmostEqual(before.hours - after.hours, self.whole / 2 / 3600, places=2)
        panel = self.client.get(reverse("plan-panel", args=[self.job.pk]))
        self.assertContains(panel, "behind you")
        self.assertAlmostEqual(panel.context["left"] * 2, self.whole / 60, delta=0.1)
        self.assertTrue(
            Entry.objects.filter(job=self.job, kind="work", text__contains="into the work")
        )

    @long
    def test_what_is_ripped_out_comes_again_and_nothing_else(self):
        self.tell("here", seconds=round(self.whole * 0.9))
        steps = read_steps(self.plan.route())
        at, over = 0.0, []
        for step in steps:
            at += step.seconds
            if at < self.whole * 0.8 and step.kind == "stitch" and step.zone:
                over.append(step.zone)
        left = self.fills(self.plan) - set(over)
        zone = over[0]
        self.tell("otherwise", what="ripped", zones=zone)
        rest = self.rest()
        self.assertEqual(rest.figures["replay"], "clean")
        self.assertIn(zone, self.fills(rest))
        self.assertLessEqual(self.fills(rest), left | {zone})
        self.assertNotEqual(rest.pk, self.plan.pk)
        self.assertLess(rest.figures["minutes"], self.plan.figures["minutes"] / 2)
        # What is stitched already is shown with the rest.
        packed = self.client.get(reverse("plan-steps", args=[self.job.pk]))
        self.assertEqual(packed.status_code, 200)
        self.tell("back")
        self.assertEqual(plan_of(self.job), self.plan)
        self.tell("back")
        self.assertIsNone(last_told(self.job))
        self.assertEqual(Told.objects.filter(job=self.job).count(), 2)

    @long
    def test_what_is_stitched_already_is_left_out(self):
        zones = sorted(self.fills(self.plan))[:3]
        self.tell("otherwise", what="stitched", zones=",".join(zones))
        rest = self.rest()
        self.assertTrue(self.fills(rest).isdisjoint(zones))
        self.assertEqual(rest.figures["replay"], "clean")
        # The next thing is told of the rest, and the two together are behind her.
        self.tell("here", seconds=60, cut="1")
        self.assertIsNone(last_told(self.job).standing().needle)
        self.tell("rest")
        again = self.rest()
        self.assertEqual(again.told, last_told(self.job))
        self.assertEqual(again.figures["replay"], "clean")

    @long
    def test_a_design_changed_on_the_way_keeps_what_is_stitched(self):
        self.tell("here", seconds=round(self.whole * 0.95))
        core = core_job(self.job)
        done = {
            name.rpartition("/")[0].rpartition("/")[0] for name in last_told(self.job).state["done"]
        }
        entry = next(
            e for e in core.legend if set(e.zones) & done and e.layers[-1].design == "loops"
        )
        self.client.post(reverse("change", args=[self.job.pk, "drop"]),
                         {"base": self.job.head.number, "entry": entry.id})  # fmt: skip
        self.job.refresh_from_db()
        plan = make_rest(self.job)
        self.assertEqual(plan.figures["replay"], "clean")
        self.assertTrue(self.fills(plan).isdisjoint(done))

    @long
    def test_sentences_for_what_cannot_be(self):
        self.assertContains(self.tell("here", 422), "Drag the needle", status_code=422)
        self.assertContains(
            self.tell("here", 422, seconds=60, plan="0"), "another one", status_code=422
        )
        self.assertContains(self.tell("here", 422, seconds="soon"), "Drag", status_code=422)
        self.assertContains(self.tell("otherwise", 422, what="stitched"), "Touch", status_code=422)
        self.assertContains(
            self.tell("otherwise", 422, what="eaten", zones="z"), "Choose", status_code=422
        )
        self.assertContains(
            self.tell("otherwise", 422, what="stitched", zones="z:gone"), "Touch", status_code=422
        )
        nothing = self.tell(
            "otherwise", 422, what="ripped", zones=next(iter(self.fills(self.plan)))
        )
        self.assertContains(nothing, "nothing to rip out", status_code=422)
        self.assertContains(self.tell("back", 422), "Nothing was told", status_code=422)
        figures = self.plan.figures
        Plan.objects.filter(pk=self.plan.pk).update(
            figures={**figures, "replay": NOT_YET}, improving=True
        )
        self.assertContains(
            self.tell("here", 422, seconds=60), "Take this route first", status_code=422
        )
        Plan.objects.filter(pk=self.plan.pk).update(figures=figures, improving=False)
        self.assertFalse(Told.objects.exists())
        self.tell("here", seconds=60)
        self.assertContains(
            self.tell("here", 422, after="", seconds=90), "Somebody told", status_code=422
        )

    @long
    def test_everything_done_and_a_full_bobbin(self):
        self.tell("here", seconds=round(self.whole) + 100)
        self.assertLess(abs(last_told(self.job).seconds - self.whole), 1)
        self.tell("otherwise", what="bobbin")
        rest = self.rest()
        self.assertEqual(self.fills(rest), set())
        self.assertEqual(rest.figures["replay"], "clean")
        self.assertEqual(
            self.client.get(reverse("plan-panel", args=[self.job.pk])).status_code, 200
        )
        self.assertEqual(self.client.get(reverse("run-sheet", args=[self.job.pk])).status_code, 200)


def make_rest(job) -> Plan:
    """The rest of a job that was changed on the way, planned here and now."""
    from studio.routes.planning import ask_for_plan

    plan = ask_for_plan(job)
    carry_out(plan)
    return Plan.objects.get(pk=plan.pk)


class ReasonTests(TestCase):
    def test_every_step_has_a_reason(self):
        studio, (anna,) = make_studio()
        self.client.force_login(anna)
        job = make_job(studio, anna)
        plan = make_plan(job)
        for share in (0, 0.1, 0.5, 0.99, 3):
            seconds = round(share * plan.figures["minutes"] * 60)
            answer = self.client.get(reverse("plan-why", args=[job.pk]), {"seconds": seconds})
            self.assertContains(answer, "</b>")
        self.assertEqual(
            self.client.get(reverse("plan-why", args=[job.pk]), {"seconds": "x"}).status_code, 200
        )
