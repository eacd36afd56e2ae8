"""The order of work chosen beside the route, and a path put in an order of one's own."""

from django.test import TestCase
from django.urls import reverse

from chorograph_core.tests import long
from studio.jobs.revisions import core_job
from studio.routes.planning import ask_for_plan, carry_out, plan_of
from studio.tests.helpers import make_job, make_plan, make_studio


class OrderTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio()
        self.client.force_login(self.anna)
        self.job = make_job(self.studio, self.anna)
        self.plan = make_plan(self.job)

    def change(self, what: str, **values):
        self.job.refresh_from_db()
        values["base"] = self.job.head.number
        return self.client.post(reverse("change", args=[self.job.pk, what]), values)

    def policy(self):
        self.job.refresh_from_db()
        return core_job(self.job).policy

    def replan(self):
        self.job.refresh_from_db()
        plan = ask_for_plan(self.job)
        carry_out(plan)
        self.plan = plan_of(self.job)

    def path(self):
        """A path of several lines, as its page shows it."""
        for each in self.plan.route()["paths"]:
            answer = self.client.get(reverse("plan-path", args=[self.job.pk, each["key"]]))
            self.assertEqual(answer.status_code, 200)
            if len(answer.context["card"].things) > 2:
                return answer
        raise AssertionError("no path has more than two lines")

    @long
    def test_schools_are_changes_like_any_other(self):
        self.assertEqual(self.change("school", school="pass").status_code, 204)
        self.assertEqual((self.policy().stabilise, self.policy().technique), ("pass", "mixed"))
        self.change("school", technique="ruler", edges="float")
        policy = self.policy()
        self.assertEqual(
            (policy.stabilise, policy.technique, policy.edges), ("pass", "ruler", "float")
        )
        self.assertIsNone(plan_of(self.job))
        self.replan()
        self.assertEqual(self.plan.figures["replay"], "clean")
        panel = self.client.get(reverse("plan-panel", args=[self.job.pk]))
        self.assertContains(panel, '<option value="ruler" selected>')

    @long
    def test_a_quilt_basted_first_and_done_place_by_place(self):
        self.change("school", school="zone", edges="border", days="basted")
        policy = self.policy()
        self.assertEqual(
            (policy.stabilise, policy.edges, policy.days), ("zone", "border", "basted")
        )
        self.replan()
        self.assertEqual(self.plan.figures["replay"], "clean")
        if self.plan.figures["passes"] > 1:
            sheet = self.client.get(reverse("run-sheet", args=[self.job.pk]))
            self.assertContains(sheet, "Baste straight across")
            self.assertContains(sheet, "Take out the basting")

    def test_an_order_that_nobody_offers_is_refused_with_a_sentence(self):
        before = self.policy()
        answer = self.change("school", school="sideways")
        self.assertEqual(answer.status_code, 422)
        self.assertContains(answer, "Choose one of the answers", status_code=422)
        self.assertEqual(self.policy(), before)

    @long
    def test_a_path_in_ones_own_order_is_priced_kept_and_given_back(self):
        shown = self.path()
        names = [name for name, _ in shown.context["card"].things]
        order = [names[-1], *names[:-1]]
        said = self.client.post(reverse("plan-price", args=[self.job.pk]), {"run": order})
        self.assertContains(said, "Costs")
        self.assertEqual(self.change("order", run=order).status_code, 204)
        self.assertEqual(self.policy().orders, (tuple(order),))
        self.replan()
        self.assertEqual(self.plan.figures["replay"], "clean")
        key = next(
            each["key"] for each in self.plan.route()["paths"]
            if self.client.get(reverse("plan-path", args=[self.job.pk, each["key"]])).context["wish"]
        )  # fmt: skip
        again = self.client.get(reverse("plan-path", args=[self.job.pk, key]))
        self.assertContains(again, "Leave it to the planner")
        # Another order takes the place of the first one, whichever block it was seen in.
        others = [name for name, _ in again.context["card"].things]
        self.change("order", run=others[::-1], instead=list(again.context["wish"]))
        self.assertEqual(len(self.policy().orders), 1)
        self.change("unorder", instead=list(self.policy().orders[0]))
        self.assertEqual(self.policy().orders, ())

    @long
    def test_orders_of_nothing_are_sentences(self):
        for runs in ([], ["a"], ["a", "a"], ["gone/1/0", "gone/1/1"], ["x"] * 500):
            said = self.client.post(reverse("plan-price", args=[self.job.pk]), {"run": runs})
            self.assertEqual(said.status_code, 200)
            self.assertTrue(said.content.decode().rstrip().endswith("."))
            self.assertEqual(self.change("order", run=runs).status_code, 422)
        self.assertEqual(self.policy().orders, ())
        missing = self.client.get(reverse("plan-path", args=[self.job.pk, "ZZZ"]))
        self.assertEqual(missing.status_code, 404)
