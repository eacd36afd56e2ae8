"""Reasons, days, ways of working and wishes: figures redone by hand, rules tried to break."""

from __future__ import annotations

import itertools
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Linework, Mark, Run
from chorograph_core.job import replayed_job
from chorograph_core.reckon import Rates
from chorograph_core.route import Policy, State, Step
from chorograph_core.route.keeping import Kept
from chorograph_core.route.marking import ahead_of, batches
from chorograph_core.route.model import Wish
from chorograph_core.route.precedence import contradiction, travelled
from chorograph_core.rulers import count_placements
from chorograph_core.rulers.fitting import Reach
from chorograph_core.steering.days import CARRIED, days_of, days_of_two
from chorograph_core.steering.helping import Help, candidates, read_help, with_help
from chorograph_core.steering.schools import QUESTIONS as QUESTIONS
from chorograph_core.steering.schools import (
    Priced,
    alternatives,
    as_mix,
    price_of,
    priced,
    recommended,
    unplanned,
)
from chorograph_core.steering.standing import stands_after
from chorograph_core.steering.why import step_at, why
from chorograph_core.tests import examples, long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed, small_top

CACHE = DrawingCache()
NOWHERE = np.empty((0, 2))


def made_of(*steps: tuple[str, float], **more) -> list[Step]:
    """Steps of a kind and so many minutes each."""
    return [Step(kind, NOWHERE, minutes * 60, run=f"r{k}", **more)
            for k, (kind, minutes) in enumerate(steps)]  # fmt: skip


class DayTests(TestCase):
    def test_each_has_days_of_her_own_and_none_goes_on_with_the_other_one_s_part(self):
        """By hand: 1 + 59 + 15 minutes are the first day, though 15 of its 90 are left; then 1 + 40, and
        39 with a new start of 1."""
        first = made_of(("start", 1), ("stitch", 59), ("move", 15))
        second = made_of(("start", 1), ("stitch", 40), ("stitch", 39), reach=2)
        days = days_of_two([*first, *second], [90, 90], [50, 50], {2}, 60.0)
        told = [(round(d.begins / 60), round(d.ends / 60), round(d.minutes), d.away) for d in days]
        self.assertEqual(told, [(0, 75, 75, False), (75, 116, 41, True), (116, 155, 40, True)])
        self.assertEqual([d.how for d in days][::2], [CARRIED, -1])
        self.assertIn("carried over", days[0].reason)
        # Taken up on her part, the first one's days are over.
        later = days_of_two([*first, *second], [90], [50, 50], {2}, 60.0, 120 * 60)
        self.assertEqual([(round(d.begins / 60), d.away) for d in later], [(120, True)])

    def test_a_day_ends_where_the_thread_is_changed(self):
        steps = made_of(("start", 1), ("stitch", 80), ("path", 1), ("stitch", 20), ("tie_off", 0),
                        ("thread", 2), ("start", 1), ("stitch", 60))  # fmt: skip
        first, second = days_of(steps, [120, 120], 60)
        # 1 + 80 + 1 + 20 minutes; the thread is cut there anyway, so that nothing is owed.
        self.assertAlmostEqual(first.minutes, 102)
        self.assertEqual(first.reason, "ends where the thread is changed")
        self.assertAlmostEqual(second.minutes, 63)
        self.assertEqual(second.how, -1)

    def test_a_stop_with_the_needle_down_costs_a_new_start(self):
        steps = made_of(("start", 1), ("stitch", 100), ("stitch", 100))
        first, second = days_of(steps, [110, 200], 90)
        self.assertAlmostEqual(first.minutes, 101)
        self.assertEqual(first.reason, "ends at the end of a line")
        self.assertAlmostEqual(second.minutes, 100 + 1.5)

    def test_one_long_line_is_left_in_its_middle_with_breaks(self):
        steps = made_of(("stitch", 400))
        days = days_of(steps, [0, 180, 0, 180, 180], 60)
        self.assertEqual([d.reason for d in days[:2]], ["ends in the middle of a line"] * 2)
        self.assertEqual(len(days), 3)
        gaps = np.diff([days[0].begins, *days[0].breaks, days[0].ends]) / 60
        self.assertLessEqual(gaps.max(), 75)
        self.assertGreaterEqual(gaps.min(), 20)

    @settings(max_examples=examples(60), deadline=None)
    @given(
        st.lists(st.tuples(st.sampled_from(("stitch", "travel", "path", "roll", "thread", "tie_off")),
                           st.floats(0, 90)), min_size=1, max_size=40),
        st.lists(st.floats(0, 400), min_size=1, max_size=12),
    )  # fmt: skip
    def test_days_follow_each_other_and_hold_no_more_than_they_have(self, kinds, hours):
        steps = made_of(*kinds)
        days = days_of(steps, hours, 60)
        rooms = [each for each in hours if each > 0]
        for one, two in itertools.pairwise(days):
            self.assertEqual(one.ends, two.begins)
        for day in days:
            self.assertTrue(any(day.minutes <= room + 1e-6 for room in rooms))
            self.assertTrue(all(day.begins < each < day.ends for each in day.breaks))
        if days and days[-1].how < 0:
            self.assertAlmostEqual(days[-1].ends, sum(step.seconds for step in steps))


class SchoolTests(TestCase):
    @classmethod
    def setUpClass(cls):
        # Deep enough for two passes.
        cls.job = designed(small_top(2, 1))
        cls.now = priced(cls.job, {}, CACHE)

    @long
    def test_every_way_is_a_plan_that_its_replay_finds_clean(self):
        """Priced alone or with what plans share, or known without one, it is the same."""
        kept = Kept()
        self.assertEqual(priced(self.job, {}, CACHE, kept=kept), self.now)
        for question, answer in alternatives(self.job):
            with self.subTest(question.key, answer=answer.key):
                job = as_mix(self.job, {question.key: answer.key})
                self.assertEqual(question.now(job), answer.key)
                route = planned_job(job, CACHE, bound=False)
                self.assertEqual(replayed_job(job, route), [])
                alone = price_of(job, route)
                self.assertEqual(
                    priced(self.job, {question.key: answer.key}, CACHE, kept=kept), alone
                )
                known = unplanned(question.key, answer.key, self.now, self.job, CACHE)
                if known is not None:
                    self.assertAlmostEqual(known.whole, alone.whole, places=4)
                    self.assertAlmostEqual(known.marking, alone.marking, places=4)

    def test_with_the_channel_locked_a_line_takes_one_setting(self):
        long = np.array([[0.0, 0], [40, 0]])
        slanted = np.array([[0.0, 0], [40, 20]])
        self.assertEqual(count_placements(long, Reach(10.0)), 4)
        self.assertEqual(count_placements(long, Reach(10.0, lock=True)), 1)
        self.assertEqual(count_placements(long[:, ::-1], Reach(10.0, lock=True)), 1)
        self.assertEqual(
            count_placements(slanted, Reach(10.0, lock=True)),
            count_placements(slanted, Reach(10.0)),
        )

    def test_what_minutes_do_not_decide_stays_as_it_is(self):
        far = Priced(minutes=1)
        for question in QUESTIONS:
            if question.key in ("straight", "marking", "tails", "reach", "applique"):
                prices = {answer.key: far for answer in question.answers}
                prices[question.now(self.job)] = self.now
                key, why_ = recommended(question, prices, self.job)
                self.assertEqual(key, question.now(self.job))
                self.assertTrue(why_)

    def test_what_saves_five_minutes_is_recommended_with_what_it_saves(self):
        question = QUESTIONS[0]
        prices = {"quilt": Priced(300, rolls=15, cuts=3), "pass": Priced(280, rolls=5, cuts=5),
                  "zone": Priced(320)}  # fmt: skip
        self.assertEqual(
            recommended(question, prices, self.job), ("pass", "saves 20 min: 10 rolls less")
        )
        prices["pass"] = Priced(minutes=297)
        self.assertEqual(recommended(question, prices, self.job)[0], "quilt")


class HelpTests(TestCase):
    def test_wider_lines_stay_within_what_the_batting_allows(self):
        job = designed(small_top(2, 2))
        from chorograph_core.estimating.intake import Batting

        dense = replace(job, intake=replace(job.intake, batting=Batting("thin", gap=0.5)))
        for each in candidates(dense, CACHE):
            self.assertTrue(each.kind != "wider" or each.to <= 0.5 or each.field == "size", each)
        found = candidates(job, CACHE)
        self.assertTrue(found)
        for each in found:
            self.assertEqual(read_help(each.values()), each)
            changed = with_help(job, each)
            self.assertNotEqual(changed.legend, job.legend)
            self.assertEqual(len(changed.legend), len(job.legend))

    def test_a_change_of_what_is_gone_is_refused(self):
        job = designed(small_top(1, 1))
        for wrong in (Help("wider", "gone", 0, "spacing", 1), Help("thread", thread="no", other="indigo"),
                      Help("wider", job.legend[0].id, 9, "spacing", 1),
                      Help("wider", job.legend[0].id, 1, "colour", 1)):  # fmt: skip
            with self.assertRaises(ValueError):
                with_help(job, wrong)


class WhyTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(3, 2))
        cls.route = planned_job(cls.job, CACHE)

    def test_every_step_can_be_asked(self):
        for number, step in enumerate(self.route.steps):
            told = why(self.job, self.route.steps, number)
            self.assertTrue(told.what and told.reason.endswith("."), (step.kind, told))

    def test_a_cut_tells_what_the_way_would_have_lost(self):
        cuts = [(k, s) for k, s in enumerate(self.route.steps) if s.kind == "tie_off" and s.instead]
        for number, step in cuts:
            # Never less than the cut itself, or it would have been gone.
            self.assertGreaterEqual(step.instead * 60, self.job.machine.cut_seconds - 1e-6)
            told = why(self.job, self.route.steps, number)
            self.assertTrue(told.instead)

    def test_travel_is_told_whole_with_its_seconds(self):
        number = next(k for k, s in enumerate(self.route.steps) if s.kind == "travel" and not s.run)
        told = why(self.job, self.route.steps, number)
        first = number
        total = 0.0
        for step in itertools.takewhile(lambda s: s.kind == "travel" and not s.run,
                                        self.route.steps[first:]):  # fmt: skip
            total += step.seconds
        self.assertAlmostEqual(told.seconds, total)
        self.assertIn("60 s", told.instead)

    def test_the_step_at_a_time(self):
        steps = made_of(("start", 1), ("tie_off", 0), ("stitch", 2))
        self.assertEqual([step_at(steps, s) for s in (0, 59, 61, 170, 999)], [0, 0, 2, 2, 2])


class MarkTests(TestCase):
    """Marks that fade are made just before they are used, in batches that a hand comes to in time."""

    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(2, 2))

    def planned(self, **policy):
        job = replace(self.job, policy=replace(self.job.policy, **policy))
        return job, planned_job(job, CACHE)

    def test_dots_are_told_as_dots_and_lines_by_their_length(self):
        for marks, count, told in (
            ((Mark("dot", np.zeros((3, 2)), "dots"),), 6, "dots, in 2 zones: 6 dots"),
            ((Mark("line", np.array([[0, 0], [4, 3]]), "lines"),), 2, "lines, in 2 zones: 10″ of line"),
            ((Mark("dot", np.zeros((1, 2)), "tips"), Mark("line", np.array([[0, 0], [0, 2]]), "axes")),
             4, "tips, axes, in 2 zones: 2 dots and 4″ of line"),
        ):  # fmt: skip
            run = Run(np.array([[0.0, 0.0], [1.0, 0.0]]), "straight")
            drawn = [
                LayerLinework(zone, "e", 0, "rays", "indigo", 11.0, 1, Linework((run,), marks))
                for zone in ("z:1", "z:2")
            ]
            (batch,) = batches(drawn, Policy(), Rates())
            self.assertEqual((batch.count, batch.reason), (count, told))

    @long
    def test_a_pen_that_fades_is_used_in_batches(self):
        counts = {}
        for pen in ("chalk", "fading", "humid"):
            job, route = self.planned(pen=pen)
            self.assertEqual(replayed_job(job, route), [])
            marks = [step for step in route.steps if step.kind == "mark"]
            counts[pen] = len(marks)
            named = [name for step in marks for name in step.marks]
            self.assertEqual(len(named), len(set(named)))
        self.assertLess(counts["chalk"], counts["humid"])
        self.assertLessEqual(counts["fading"], counts["humid"])

    @long
    def test_the_same_is_marked_with_every_pen(self):
        seconds, names = set(), set()
        for pen in ("chalk", "soluble", "humid", "crease"):
            _, route = self.planned(pen=pen)
            marks = [step for step in route.steps if step.kind == "mark"]
            seconds.add(round(sum(step.seconds for step in marks), 3))
            names.add(tuple(sorted(name for step in marks for name in step.marks)))
            (out,) = [step for step in route.steps if step.kind == "unmark"]
            self.assertEqual(out.seconds, 600.0 if pen in ("soluble", "humid") else 0.0)
            self.assertEqual("iron" in out.reason, pen in ("soluble", "humid"))
        self.assertEqual((len(seconds), len(names)), (1, 1))

    @long
    def test_the_replay_sees_marks_that_are_missing_or_have_faded(self):
        job, route = self.planned(pen="humid")
        early = [s for s in route.steps if s.kind == "mark"] + [
            s for s in route.steps if s.kind != "mark"
        ]
        late = [s for s in route.steps if s.kind != "mark"] + [
            s for s in route.steps if s.kind == "mark"
        ]
        for steps, word in ((early, "faded"), (late, "before it is marked")):
            other = replace(route, steps=steps)
            self.assertTrue(any(word in fault for fault in replayed_job(job, other)), word)

    @long
    def test_what_was_marked_before_a_night_is_marked_again(self):
        job, route = self.planned(pen="humid")
        tops = {each.number: each.top for each in route.passes}
        state = stands_after(job, route.steps, tops, 0.7 * route.minutes * 60, State())
        self.assertTrue(any(name.startswith("mark:") for name in state.done))
        rest = planned_job(job, CACHE, state=state)
        self.assertEqual(replayed_job(job, rest, state), [])

    def test_no_batch_is_empty_and_none_outlasts_the_pen(self):
        # By hand: four fifths of 45 minutes are 36; the fourth place begins after 30 of them.
        self.assertEqual(ahead_of([[500.0], [1.0]], 45), (0, 1))
        self.assertEqual(ahead_of([[10.0]] * 9, 45), (3, 1))
        self.assertEqual(ahead_of([[10.0]], 45), (0, 1))

    def test_of_a_place_that_outlasts_the_pen_only_what_is_come_to_in_time(self):
        # The fourth thing begins after 45 minutes; what comes after this place waits.
        self.assertEqual(ahead_of([[15.0, 15.0, 15.0, 15.0], [1.0]], 45), (0, 3))
        # The last thing of the second place begins after 10 + 40 minutes.
        self.assertEqual(ahead_of([[10.0], [20.0, 20.0, 1.0]], 45), (0, 1))
        self.assertEqual(ahead_of([[10.0], [20.0, 1.0], [9.0]], 45), (2, 1))


class WishTests(TestCase):
    def test_contradictions_are_found_in_pairs_and_in_circles(self):
        a, b, c = (
            Wish("before", ("a",), ("b",)),
            Wish("before", ("b",), ("c",)),
            Wish("before", ("c",), ("a",)),
        )
        self.assertEqual(contradiction((a, b)), ())
        self.assertEqual(contradiction((a, b, c)), (0, 1, 2))
        self.assertEqual(contradiction((a, Wish("before", ("b",), ("a",)))), (0, 1))
        self.assertEqual(contradiction((Wish("first", ("a",)), Wish("last", ("a",)))), (0, 1))
        self.assertEqual(contradiction((a, Wish("first", ("b",)))), (0, 1))
        self.assertEqual(contradiction((a, Wish("first", ("a",)), Wish("around", ("a",)))), ())

    @long
    def test_wishes_are_kept_or_told_and_the_replay_sees_one_that_is_not(self):
        job = designed(small_top(2, 2))
        zones = {
            place: tuple(z.id for z in job.zones if f"b{place}." in z.id)
            for place in ("1.1", "2.2", "1.2")
        }
        for stabilise, wish in itertools.product(
            ("quilt", "pass", "zone"),
            (Wish("last", zones["1.1"]), Wish("first", zones["2.2"]), Wish("around", zones["1.2"][:1]),
             Wish("before", zones["2.2"], zones["1.1"])),
        ):  # fmt: skip
            with self.subTest(stabilise, wish=wish.kind):
                policy = replace(job.policy, stabilise=stabilise, wishes=(wish,))
                route = planned_job(replace(job, policy=policy), CACHE)
                self.assertEqual(replayed_job(replace(job, policy=policy), route), [])
                plain = planned_job(replace(job, policy=replace(policy, wishes=())), CACHE)
                if 0 not in route.notes and wish.kind in ("first", "last"):
                    other = Wish("last" if wish.kind == "first" else "first", wish.zones)
                    against = replace(job, policy=replace(policy, wishes=(other,)))
                    self.assertTrue(replayed_job(against, route))
                if stabilise != "zone":
                    # Place by place one goes along the rows, which is not always the shortest.
                    self.assertGreaterEqual(route.minutes, plain.minutes - 1.5)

    def test_two_wishes_that_one_place_cannot_both_obey_are_told(self):
        # No zone is wished first and last, so the wishes do not contradict each other; but a place is done
        # in one go, and the first of these has zones of both.
        job = designed(small_top(2, 2))
        legend = tuple(
            replace(each, layers=(*each.layers[:-1], replace(each.layers[-1], thread="clear")))
            for each in job.legend
        )
        job = job.with_legend(legend)
        filled = [zone for entry in job.legend for zone in entry.zones if len(entry.layers) > 1]
        one, two = ([zone for zone in filled if f"b{place}." in zone] for place in ("1.1", "1.2"))
        wishes = (Wish("first", (one[0],)), Wish("last", (one[1], two[0])))
        self.assertEqual(contradiction(wishes), ())
        job = replace(job, policy=replace(job.policy, wishes=wishes))
        route = planned_job(job, CACHE)
        self.assertTrue(route.notes)
        self.assertEqual(replayed_job(job, route), [])
        self.assertTrue(replayed_job(job, replace(route, notes={})))

    @long
    def test_what_was_drawn_again_is_listed_and_left_where_it_is_wished(self):
        job = replace(
            designed(small_top(2, 2)), policy=replace(designed(small_top(2, 2)).policy, effort=1)
        )
        route = planned_job(job, CACHE)
        self.assertTrue(route.redrawn)
        wish = Wish("drawn", route.redrawn[:1])
        kept = replace(job, policy=replace(job.policy, wishes=(wish,)))
        other = planned_job(kept, CACHE)
        self.assertNotIn(route.redrawn[0], other.redrawn)
        self.assertEqual(replayed_job(kept, other), [])
        self.assertTrue(replayed_job(kept, route))

    def test_last_is_told_apart_where_something_is_rolled_under(self):
        job = designed(small_top(2, 1))
        border = tuple(z.id for z in job.zones if "border1.top" in z.id)
        policy = replace(job.policy, oversized="roll", wishes=(Wish("last", border),))
        narrow = replace(job, policy=policy, machine=replace(job.machine, throat=16))
        route = planned_job(narrow, CACHE)
        self.assertTrue(any(step.kind == "roll" and step.how == "under" for step in route.steps))
        self.assertEqual(replayed_job(narrow, route), [])

    @long
    def test_a_zone_that_is_gone_round_is_travelled_along_less(self):
        job = designed(small_top(2, 2))
        plain = planned_job(job, CACHE)
        along = {z.id: travelled(plain.steps, [z.polygon]) for z in job.zones if ":b" in z.id}
        worst = max(along, key=lambda zone: along[zone])
        self.assertGreater(along[worst], 2)
        policy = replace(job.policy, wishes=(Wish("around", (worst,)),))
        route = planned_job(replace(job, policy=policy), CACHE)
        shape = job.zone(worst).polygon
        self.assertLess(travelled(route.steps, [shape]), 0.5 * along[worst])

    def test_zones_that_are_gone_are_told(self):
        job = designed(small_top(1, 1))
        policy = replace(job.policy, wishes=(Wish("first", ("z:gone",)),))
        route = planned_job(replace(job, policy=policy), CACHE)
        self.assertIn("gone", route.notes[0])
        self.assertEqual(replayed_job(replace(job, policy=policy), route), [])
