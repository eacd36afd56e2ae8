"""Ways of working priced side by side, mixes taken, wishes priced and kept."""

from __future__ import annotations

from dataclasses import replace

from django.test import TestCase
from django.urls import reverse

from chorograph_core.job import job_linework
from chorograph_core.reckon import reckon
from chorograph_core.steering.helping import with_help
from chorograph_core.steering.reaching import ways_to_reach
from chorograph_core.tests import long
from studio.bookings.stock import needs_of
from studio.jobs.revisions import core_job
from studio.routes.models import Plan
from studio.routes.planning import ask_for_plan, carry_out
from studio.schools.models import Weighed
from studio.schools.weighing import carry_out as weigh
from studio.tests.helpers import ChangingCase, make_job, make_plan, make_studio
from studio.workbench.linework import DRAWINGS


def weigh_all() -> None:
    """What the workers do."""
    for one in Weighed.objects.filter(state="queued").select_related("job__head", "told"):
        weigh(one)


class SchoolTests(ChangingCase):
    def page(self, **values):
        return self.client.get(reverse("schools", args=[self.job.pk]), values)

    def price(self, **values):
        return self.client.post(reverse("schools-price", args=[self.job.pk]), values)

    @long
    def test_all_ways_are_priced_on_this_quilt(self):
        self.assertContains(self.page(), "not priced yet")
        self.assertContains(self.price(what="all"), "being planned")
        weigh_all()
        page = self.page()
        self.assertNotContains(page, "not priced yet")
        parts = {part.question.key: part for part in page.context["parts"]}
        self.assertEqual(
            set(parts), {"stabilise", "technique", "straight", "edges", "days", "oversized", "tails",
                         "reach", "marking", "pen", "retrace"}
        )  # fmt: skip
        rows = {row.answer.key: row for row in parts["tails"].rows}
        # By hand: as many cuts, ninety seconds each for the needle afterwards, if the plan is the same.
        cut, bury = rows["cut"].price, rows["bury"].price
        self.assertAlmostEqual(bury.hands, bury.cuts * 1.5)
        self.assertLessEqual(bury.cuts, cut.cuts)
        rows = {row.answer.key: row for row in parts["straight"].rows}
        self.assertEqual(rows["eye"].price.layings, 0)
        self.assertLessEqual(rows["lock"].price.layings, rows["ruler"].price.layings)
        rows = {row.answer.key: row for row in parts["marking"].rows}
        self.assertEqual(rows["none"].price.marking, 0)
        self.assertAlmostEqual(
            rows["all"].price.whole - rows["none"].price.whole, rows["all"].price.marking, places=4
        )
        recommended = [r.answer.key for part in parts.values() for r in part.rows if r.best]
        self.assertEqual(len(recommended), 5)

    def test_a_mix_is_tried_and_taken(self):
        self.assertContains(self.price(what="mix"), "choose something else first")
        self.price(what="mix", stabilise="pass", edges="float")
        weigh_all()
        page = self.page(stabilise="pass", edges="float")
        self.assertIsNotNone(page.context["mixed"])
        self.assertContains(page, "Work by this mix")
        self.change("mix", stabilise="pass", edges="float", tails="bury")
        self.assertEqual(
            (self.core.policy.stabilise, self.core.policy.edges, self.core.machine.bury),
            ("pass", "float", True),
        )
        self.change("mix", 422, stabilise="upside down")
        self.assertContains(self.page(stabilise="upside down"), "Choose one of the answers")
        # The client decides about her appliqué, not this page.
        self.change("mix", applique="leave", edges="baste")
        self.assertEqual(self.core.policy.applique, "full")

    @long
    def test_what_helps_is_offered_with_what_it_saves_and_taken(self):
        self.job = make_job(self.studio, self.anna, 2, 2)
        self.price(what="all")
        weigh_all()
        helps = self.page().context["helps"]
        self.assertTrue(helps)
        self.assertEqual([h.saves for h in helps], sorted((h.saves for h in helps), reverse=True))
        best = next(each for each in helps if each.name == "help")
        before = make_plan(self.job).figures["minutes"]
        self.change("help", **dict(best.values))
        self.job.refresh_from_db()
        plan = ask_for_plan(self.job)
        carry_out(plan)
        after = Plan.objects.get(pk=plan.pk).figures["minutes"]
        self.assertAlmostEqual(before - after, best.saves, delta=2)
        for wrong in (
            "",
            "{}",
            '{"kind":"wider","entry":"gone","to":1}',
            '{"kind":"thread"}',
            "[1]",
        ):
            self.change("help", 422, help=wrong)

    @long
    def test_prices_of_a_job_that_changed_are_not_shown(self):
        self.price(what="all")
        weigh_all()
        self.change("school", school="pass")
        self.assertContains(self.page(), "not priced yet")

    def test_a_job_without_designs_has_nothing_to_price(self):
        for entry in self.core.legend:
            self.change("drop", entry=entry.id)
        self.assertContains(self.price(what="all"), "Give at least one zone a design")
        self.assertFalse(Weighed.objects.exists())


class WishTests(ChangingCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.job = make_job(self.studio, self.anna, 1, 2)
        self.client.force_login(self.anna)
        core = self.core
        self.left = [z.id for z in core.zones if "b1.1" in z.id]
        self.right = [z.id for z in core.zones if "b1.2" in z.id]

    def cost(self, **values):
        return self.client.post(reverse("wish-cost", args=[self.job.pk]), values)

    @long
    def test_a_wish_is_priced_then_kept_and_proved(self):
        asked = {"kind": "before", "mine": ",".join(self.right), "zones": ",".join(self.left)}
        self.assertContains(self.cost(**asked), "being planned")
        weigh_all()
        key = Weighed.objects.get(key__startswith="wish:").key.removeprefix("wish:")
        told = self.client.get(reverse("wish-told", args=[self.job.pk, key]))
        self.assertContains(told, "Keep this wish")
        self.change("wish", kind="before", mine=asked["mine"], others=asked["zones"])
        plan = ask_for_plan(self.job)
        self.job.refresh_from_db()
        plan = ask_for_plan(self.job)
        carry_out(plan)
        plan = Plan.objects.get(pk=plan.pk)
        self.assertEqual(plan.figures["replay"], "clean")
        self.assertContains(self.client.get(reverse("plan-panel", args=[self.job.pk])), "Wished")
        panel = self.client.post(reverse("wishes", args=[self.job.pk]), {"zones": self.left[0]})
        self.assertContains(panel, "Take back")
        self.change("unwish", number="0")
        self.assertEqual(self.core.policy.wishes, ())
        self.change("unwish", 422, number="0")

    def test_wishes_that_contradict_each_other_are_named(self):
        self.change("wish", kind="before", mine=self.left[0], others=self.right[0])
        answer = self.cost(kind="before", mine=self.right[0], zones=self.left[0])
        self.assertContains(answer, "contradict each other")
        self.change("wish", 422, kind="before", mine=self.right[0], others=self.left[0])
        self.assertEqual(len(self.core.policy.wishes), 1)

    def test_sentences_for_wishes_of_nothing(self):
        self.assertContains(self.cost(kind="first", mine=""), "Touch the zones")
        self.assertContains(self.cost(kind="first", mine="z:gone"), "Touch the zones")
        self.assertContains(self.cost(kind="soon", mine=self.left[0]), "Say what you wish")
        self.assertContains(
            self.cost(kind="before", mine=self.left[0], zones=self.left[0]), "other ones"
        )
        self.assertContains(
            self.client.get(reverse("wish-told", args=[self.job.pk, "nothing"])), "wish it again"
        )


class PartTests(ChangingCase):
    """A part of the route, marked on the profile."""

    def setUp(self):
        super().setUp()
        self.job = make_job(self.studio, self.anna, 2, 2)

    def part(self, **values):
        return self.client.get(reverse("plan-part", args=[self.job.pk]), values)

    @long
    def test_it_is_kept_in_its_order_and_shown_among_the_wishes(self):
        self.assertEqual(self.part().status_code, 404)
        plan = make_plan(self.job)
        end = round(plan.figures["minutes"] * 60)
        answer = self.part(**{"from": end, "to": 0})
        self.assertContains(answer, "Keep this order")
        wish = answer.context["wish"]
        cost = self.client.post(
            reverse("wish-cost", args=[self.job.pk]),
            {**wish, "zones": wish["others"]},
        )
        self.assertContains(cost, "in the order they have, in ")
        weigh_all()
        now = Weighed.objects.get(key="").result
        self.assertEqual(Weighed.objects.get(key__startswith="wish:").result, now)
        self.change("wish", **wish)
        (kept,) = self.core.policy.wishes
        self.assertEqual((kept.kind, kept.thread), ("kept", wish["thread"]))
        self.change("wish", 422, **{**wish, "thread": "gone"})

    @long
    def test_sentences_where_nothing_can_be_kept_or_exchanged(self):
        end = round(make_plan(self.job).figures["minutes"] * 60)
        self.assertContains(self.part(**{"from": 0, "to": 1}), "No zone is filled")
        self.assertContains(self.part(**{"from": "x", "to": "-9"}), "No zone is filled")
        same = self.part(**{"from": end // 2, "to": end, "what": "exchange", "at": end - 1})
        self.assertContains(same, 'role="alert"')
        self.assertNotContains(same, 'hx-trigger="load')
        # What was not moved can be kept where it is.
        self.assertContains(same, "Keep this order")
        self.assertEqual(same.context["wish"]["kind"], "kept")


class TaskTests(TestCase):
    def test_what_breaks_is_told_and_may_be_asked_again(self):
        from unittest import mock

        from studio.schools import tasks, weighing

        studio, (anna,) = make_studio()
        job = make_job(studio, anna)
        weighing.ask_for_mix(job, {"stabilise": "pass"})
        one = Weighed.objects.exclude(key="").get()
        with (
            mock.patch.object(weighing, "priced", side_effect=MemoryError),
            self.assertRaises(MemoryError),
        ):
            tasks.weigh(weighed_id=one.pk)
        one.refresh_from_db()
        self.assertEqual((one.state, one.waiting), ("failed", False))
        weighing.ask_for_mix(job, {"stabilise": "pass"})
        one.refresh_from_db()
        self.assertTrue(one.waiting)
        tasks.weigh(weighed_id=one.pk)
        one.refresh_from_db()
        self.assertEqual(one.state, "done")


class LastingTests(ChangingCase):
    """The cone that will not reach: told before the first stitch, with the changes that make it last."""

    @long
    def test_lines_move_and_then_it_reaches(self):
        self.job = make_job(self.studio, self.anna, 2, 2)
        for key in ("indigo", "bracken", "clear"):
            self.studio.threads.create(key=key, name=key, weight=40, cone=1500, left=1500)
        make_plan(self.job)
        needs = {need.key: need for need in needs_of(self.job)}
        thread = self.studio.threads.get(key="indigo")
        thread.left = needs["indigo"].yards - 8
        thread.save()
        (need,) = [each for each in needs_of(self.job) if each.buy]
        self.assertEqual((need.key, need.short), ("indigo", 8))
        board = self.client.get(reverse("board", args=[self.job.pk]), {"stage": "route"})
        self.assertContains(board, "change the design so that it reaches")
        page = self.client.get(reverse("schools", args=[self.job.pk]))
        self.assertContains(page, "will not last")
        (lasting,) = page.context["short"]
        self.assertTrue(lasting.ways)
        self.assertTrue(all(way.yards > 8 for way in lasting.ways))
        self.change("help", help=lasting.ways[0].asked)
        self.job.refresh_from_db()
        plan = ask_for_plan(self.job)
        carry_out(plan)
        self.assertEqual(Plan.objects.get(pk=plan.pk).figures["replay"], "clean")
        self.assertFalse([each for each in needs_of(self.job) if each.buy])

    def test_where_no_one_change_is_enough_several_are_made_together(self):
        core = core_job(make_job(self.studio, self.anna, 2, 2))
        core = replace(core, legend=tuple(
            replace(entry, layers=tuple(replace(layer, thread="indigo") for layer in entry.layers))
            for entry in core.legend
        ))  # fmt: skip

        def taken(job):
            inches = reckon(job_linework(job, DRAWINGS), job.loaded_machine)[0].thread_inches
            return {
                key: 2 * value * (1 + job.machine.reserve) / 36 for key, value in inches.items()
            }

        before = taken(core)["indigo"]
        free = before * 0.8
        found = ways_to_reach(core, "indigo", before * 0.55, {"bracken": free}, DRAWINGS)
        self.assertTrue(found)
        for way in found:
            self.assertGreater(len(way.changes), 1)
            self.assertLessEqual(way.takes.get("bracken", 0.0), free)
            made = core
            for change in way.changes:
                made = with_help(made, change)
            after = taken(made)
            # Ditches that neighbours share and the ways between lines come out a little otherwise.
            self.assertGreater(before - after["indigo"], before * 0.55)
            self.assertLess(after.get("bracken", 0.0), free * 1.05)

    def test_nothing_is_offered_that_does_not_help(self):
        core = self.core
        self.assertEqual(ways_to_reach(core, "indigo", 1e6, {}, DRAWINGS), [])
        self.assertEqual(ways_to_reach(core, "unknown", 1, {}, DRAWINGS), [])
        for way in ways_to_reach(core, "indigo", 2, {"bracken": 1.0}, DRAWINGS):
            self.assertGreaterEqual(way.yards, 2)
            self.assertLessEqual(way.takes.get("bracken", 0), 1)
