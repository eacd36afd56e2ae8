"""Part of a quilt on another machine, by somebody else: priced, handed over, planned, laid into her days."""

from __future__ import annotations

from dataclasses import replace

import shapely
from django.urls import reverse
from django.utils import timezone

from chorograph_core.estimating import schedule
from chorograph_core.tests import long
from studio.accounts.models import Membership, Role, named
from studio.agenda.diary import promises_of, week_of
from studio.agenda.models import OwnWeek, Week
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job
from studio.prices.lists import core_prices, prices_of
from studio.quotes.pricing import dated_offers
from studio.routes.basting import taken_out
from studio.routes.models import Plan
from studio.routes.planning import ask_for_plan, carry_out
from studio.routes.standing import tell_followed, tell_otherwise
from studio.schools.models import Weighed
from studio.shelf.models import Machine
from studio.shelf.starting import stock
from studio.tests.browser import BrowserCase
from studio.tests.helpers import ChangingCase, make_job, make_plan, make_studio
from studio.tests.test_schools import weigh_all


def _shape(path: str):
    """A ring of path data, as a polygon."""
    return shapely.polygons(
        [[float(v) for v in pair.split(",")] for pair in path.strip(" M").split(" ")]
    )


class HandoverTests(ChangingCase):
    def setUp(self):
        self.studio, (self.anna, self.imke) = make_studio("Loft", "anna", "imke")
        stock(self.studio)
        self.job = make_job(self.studio, self.anna, 1, 2)
        self.client.force_login(self.anna)
        self.sit = Machine.objects.get(studio=self.studio, kind="sit-down")
        self.right = [z.id for z in self.core.zones if "b1.2" in z.id]

    def asked(self, **changes):
        return {"machine": str(self.sit.pk), "who": "imke", "mine": ",".join(self.right), **changes}

    def cost(self, **changes):
        return self.client.post(reverse("over-cost", args=[self.job.pk]), self.asked(**changes))

    def planned(self) -> Plan:
        self.job.refresh_from_db()
        plan = ask_for_plan(self.job)
        carry_out(plan)
        self.job.refresh_from_db()
        return Plan.objects.get(pk=plan.pk)

    @long
    def test_it_is_priced_then_kept_planned_and_told(self):
        self.assertContains(self.cost(), "being planned")
        weigh_all()
        key = Weighed.objects.get(key__startswith="wish:").key.removeprefix("wish:")
        told = self.client.get(reverse("wish-told", args=[self.job.pk, key]))
        self.assertContains(told, "Hand it over")
        self.assertContains(told, "on the sit-down machine by imke")
        self.change("over", **self.asked())
        self.assertEqual(self.core.policy.days, "passes")
        plan = self.planned()
        self.assertEqual(plan.figures["replay"], "clean")
        self.assertGreater(plan.figures["away_minutes"], 1)
        price = Weighed.objects.get(key__startswith="wish:").result
        self.assertAlmostEqual(price["minutes"], plan.figures["minutes"], delta=2)
        panel = self.client.get(reverse("plan-panel", args=[self.job.pk]))
        self.assertContains(panel, "Two machines")
        self.assertContains(panel, "indigo 40, sit-down machine")
        sheet = self.client.get(reverse("run-sheet", args=[self.job.pk]))
        self.assertContains(sheet, "To the other machine")
        self.assertContains(sheet, "imke goes on from here")
        plan_of_legs = self.client.get(reverse("stitch-plan", args=[self.job.pk])).json()
        self.assertIn("move", {leg["kind"] for leg in plan_of_legs["legs"]})
        self.assertEqual(plan_of_legs["away_bobbin"], 35 * 36)

    def test_basting_is_drawn_as_long_as_it_is_in(self):
        """At the move the layers are held in the other machine's zones alone; at the end nowhere."""
        self.change("over", **self.asked())
        route = self.planned().route()
        steps = route["steps"]
        over = next(k for k, step in enumerate(steps) if step["kind"] == "move")
        laid = shapely.union_all([shapely.linestrings(s["points"]) for s in steps
                                  if s["run"].startswith("hold:")])  # fmt: skip
        outs = [(number, shapely.union_all([_shape(d) for d in path.split("Z") if d.strip()]))
                for number, path in taken_out(self.core, route)]  # fmt: skip
        self.assertEqual([number for number, _ in outs],
                         [k for k, step in enumerate(steps) if step["kind"] == "unpick"])  # fmt: skip
        theirs = shapely.union_all([self.core.zone(name).polygon for name in self.right])
        early = shapely.union_all([shape for number, shape in outs if number < over])
        self.assertLess(laid.intersection(early).intersection(theirs.buffer(-0.05)).length, 0.1)
        told = sum(s["inches"] for s in steps[:over] if s["kind"] == "unpick")
        self.assertAlmostEqual(laid.intersection(early).length, told, delta=0.03 * told + 1)
        every = shapely.union_all([shape for _, shape in outs])
        self.assertLess(laid.difference(every.buffer(0.05)).length, 0.5)

    def test_more_of_it_goes_and_some_comes_back(self):
        self.change("over", **self.asked(mine=self.right[0]))
        self.change("over", **self.asked(mine=",".join(self.right[1:3])))
        self.assertEqual(list(self.core.handover.zones), self.right[:3])
        panel = self.client.post(reverse("wishes", args=[self.job.pk]), {"zones": self.right[1]})
        self.assertContains(panel, "Take this zone back")
        self.change("back", mine=self.right[1])
        self.assertEqual(list(self.core.handover.zones), [self.right[0], self.right[2]])
        self.change("back", 422, mine=self.right[1])
        self.change("back")
        self.assertIsNone(self.core.handover)
        self.assertContains(self.change("back", 422), "Nothing of this quilt", status_code=422)

    def test_what_cannot_be_is_said_and_nothing_is_kept(self):
        frame = Machine.objects.get(studio=self.studio, kind="frame")
        other, _ = make_studio("Barn")
        stock(other)
        theirs = Machine.objects.get(studio=other, kind="sit-down")
        for words, changes in (
            ("is a frame", {"machine": str(frame.pk)}),
            ("Choose one of the machines", {"machine": str(theirs.pk)}),
            ("Choose one of the machines", {"machine": "x"}),
            ("Touch the zones", {"mine": "z:gone,,"}),
            ("somebody who works here", {"who": "nobody"}),
        ):
            with self.subTest(words):
                self.assertContains(self.cost(**changes), words)
                self.assertContains(
                    self.change("over", 422, **self.asked(**changes)), words, status_code=422
                )
        self.assertIsNone(self.core.handover)

    def test_ruler_work_is_not_given_to_another_foot(self):
        Machine.objects.filter(pk=self.sit.pk).update(foot_radius="0.3125")
        ruled = next(e for e in self.core.legend if e.layers[-1].design == "crosshatch")
        answer = self.change("over", 422, **self.asked(mine=ruled.zones[0]))
        self.assertContains(answer, "laid out for the foot", status_code=422)
        free = next(e for e in self.core.legend if e.layers[-1].design == "meander")
        self.change("over", **self.asked(mine=free.zones[0]))

    def test_a_quilt_too_large_for_the_throat_is_not_handed_over(self):
        Machine.objects.filter(pk=self.sit.pk).update(throat="5")
        self.assertContains(self.cost(), "too large for the throat")
        answer = self.change("over", 422, **self.asked())
        self.assertContains(answer, "too large for the throat", status_code=422)
        self.assertIsNone(self.core.handover)

    def test_what_lies_over_several_zones_as_one_goes_whole(self):
        core = self.core
        entry = next(e for e in core.legend if e.layers[-1].design == "half_feather")
        line = replace(entry.layers[-1], design="parallel", over="region", settings={})
        layers = (*entry.layers[:-1], line)
        one = replace(entry, layers=layers)
        legend = tuple(one if each is entry else each for each in core.legend)
        change_job(self.job.pk, None, self.anna, lambda job: replace(job, legend=legend), "as one")
        answer = self.change("over", 422, **self.asked(mine=entry.zones[0]))
        self.assertContains(answer, "all of them go to one machine", status_code=422)
        self.change("over", **self.asked(mine=",".join(entry.zones)))
        self.change("back", 422, mine=entry.zones[0])
        self.change("back", mine=",".join(entry.zones))

    def test_two_who_are_called_alike_have_hours_of_their_own(self):
        for person in (self.anna, self.imke):
            person.first_name = "Imke"
            person.save()
        names = list(named(self.studio))
        self.assertEqual(names, ["Imke (anna)", "Imke (imke)"])
        member = Membership.objects.get(studio=self.studio, person=self.imke)
        OwnWeek.objects.create(member=member, hours=[1.0] * 7)
        self.assertEqual(week_of(self.studio).of(names[1]).hours, (1.0,) * 7)
        self.assertEqual(week_of(self.studio).of(names[0]).hours, week_of(self.studio).hours)
        self.change("over", **self.asked(who=names[1]))

    def test_days_are_hers_from_the_move_on(self):
        Week.objects.create(studio=self.studio, hours=[1.0] * 7)
        member = Membership.objects.get(studio=self.studio, person=self.imke)
        OwnWeek.objects.create(member=member, hours=[0.5] * 7)
        self.change("over", **self.asked())
        self.planned()
        daily = self.client.get(reverse("plan-panel", args=[self.job.pk])).context["daily"]
        self.assertEqual([bool(who) for *_, who in daily], sorted(bool(who) for *_, who in daily))
        hers = [(day, each) for day, each, *_, who in daily if who]
        self.assertTrue(0 < len(hers) < len(daily))
        self.assertTrue(all(each.minutes <= 30.01 for _, each in hers))
        last = [(day, each) for day, each, *_, who in daily if not who][-1]
        self.assertIn("carried over", last[1].reason)
        self.assertGreater(hers[0][0], last[0])

    def test_what_was_taken_back_is_nobody_else_s_any_more(self):
        self.change("over", **self.asked())
        plan = self.planned()
        steps = plan.route()["steps"]
        tell_followed(self.job, self.core, plan, steps[0]["seconds"] + 60, True, self.anna)
        self.change("back")
        self.planned()
        job = Job.objects.get(pk=self.job.pk)
        self.assertNotIn("away", job.planned)
        self.assertIn("yards", job.planned)
        (mine,) = promises_of(self.studio, core_prices(prices_of(self.studio)))
        self.assertFalse(mine.handed)

    def test_without_a_sit_down_machine_the_shelf_is_named(self):
        self.sit.delete()
        panel = self.client.post(reverse("wishes", args=[self.job.pk]), {"zones": self.right[0]})
        self.assertContains(panel, "could take over what you touch here")

    @long
    def test_her_hours_are_kept_and_her_part_is_laid_into_them(self):
        Week.objects.create(studio=self.studio)
        member = Membership.objects.get(studio=self.studio, person=self.imke)
        page = self.client.get(reverse("calendar"))
        self.assertContains(page, "imke at another machine")
        self.assertContains(page, "anna at another machine")
        fields = {f"own-{member.pk}-hours_{k}": "1.5" if k < 5 else "0" for k in range(7)}
        wrong = {**fields, f"own-{member.pk}-hours_1": "25"}
        answer = self.client.post(reverse("calendar"), {"what": f"own-{member.pk}", **wrong})
        self.assertContains(answer, "Sixteen hours are the most", status_code=400)
        self.assertFalse(OwnWeek.objects.exists())
        self.client.post(reverse("calendar"), {"what": f"own-{member.pk}", **fields})
        self.assertEqual(OwnWeek.objects.get().hours[:6], [1.5] * 5 + [0])

        self.change("over", **self.asked())
        plan = self.planned()
        prices = core_prices(prices_of(self.studio))
        (mine,) = promises_of(self.studio, prices)
        self.assertEqual(mine.away_by, "imke")
        self.assertAlmostEqual(mine.away, plan.figures["away_minutes"] / 60)
        self.assertAlmostEqual(mine.hours + mine.away,
                               plan.figures["minutes"] / 60 + prices.setup_hours)  # fmt: skip
        (booked,) = schedule([mine], week_of(self.studio), timezone.localdate())
        self.assertGreater(booked.away[0][0], booked.days[-1][0])
        self.assertLessEqual(max(hours for _, hours in booked.away), 1.5)
        page = self.client.get(reverse("calendar"))
        self.assertContains(page, "by imke")
        self.assertContains(page, "imke at another machine")
        planned = next(each for each in dated_offers(self.job, self.core) if each.planned)
        self.assertGreaterEqual(planned.earliest, booked.away[-1][0])

    def test_hours_of_others_are_not_set_from_another_studio(self):
        _, (berta,) = make_studio("Barn", "berta")
        member = Membership.objects.get(studio=self.studio, person=self.imke)
        self.client.force_login(berta)
        fields = {f"own-{member.pk}-hours_{k}": "1" for k in range(7)}
        self.client.post(reverse("calendar"), {"what": f"own-{member.pk}", **fields})
        self.assertFalse(OwnWeek.objects.exists())

    def test_a_helper_may_hand_over_and_sees_no_money(self):
        Membership.objects.filter(person=self.imke).update(role=Role.HELPER)
        self.client.force_login(self.imke)
        self.change("over", **self.asked())
        self.assertEqual(self.core.handover.who, "imke")

    @long
    def test_told_on_the_first_machine_then_on_the_other(self):
        self.change("over", **self.asked())
        plan = self.planned()
        steps = plan.route()["steps"]
        at = next(k for k, step in enumerate(steps) if step["kind"] == "move")
        gone = sum(step["seconds"] for step in steps[: at + 1])
        tell_followed(self.job, self.core, plan, gone + 1, False, self.anna)
        self.assertAlmostEqual(promises_of(self.studio, core_prices(prices_of(self.studio)))[0].away,
                               plan.figures["away_minutes"] / 60, delta=0.1)  # fmt: skip
        # What is ripped out of the frame's part now is stitched where the quilt lies.
        stays = next(z.id for z in self.core.zones if "b1.1" in z.id)
        tell_otherwise(self.job, self.core, "ripped", [stays], self.anna)
        job = Job.objects.select_related("head").get(pk=self.job.pk)
        rest = ask_for_plan(job)
        carry_out(rest)
        rest.refresh_from_db()
        self.assertEqual((rest.state, rest.figures["replay"]), ("done", "clean"))
        self.assertNotIn("move", {step["kind"] for step in rest.route()["steps"]})


class TwoMachineStory(BrowserCase):
    @long
    def test_a_block_is_given_to_the_other_machine_by_touch(self):
        stock(self.studio)
        job = make_job(self.studio, self.anna, 1, 2)
        make_plan(job)
        page = self.signed_in(820, 1180)
        self.open(job, "route", page)
        page.wait_for_selector("#terrain")
        page.locator('.zone[data-id*="b1.2"]').first.click()
        page.get_by_role("button", name="Wish something").click()
        section = page.get_by_role("region", name="On another machine")
        section.get_by_role("button", name="What does it cost?").click()
        page.wait_for_selector("text=being planned")
        weigh_all()
        page.get_by_role("button", name="Hand it over").click(timeout=15000)
        page.wait_for_selector("text=No route for the job as it is now")
        job.refresh_from_db()
        carry_out(ask_for_plan(job))
        self.open(job, "route", page)
        page.wait_for_selector("text=Two machines")
        page.get_by_role("button", name="change it").click()
        page.get_by_role("button", name="Take all back").click()
        # The job is again what it was: the route made for it then is there at once.
        page.wait_for_selector("text=Two machines", state="detached")
        page.wait_for_selector("text=I am here")
        job.refresh_from_db()
        self.assertIsNone(core_job(job).handover)
        self.assertEqual(self.faults, [])
