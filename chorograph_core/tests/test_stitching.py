"""A route followed leg by leg: nothing left out, nothing told wrong, and the rest planned from any of it."""

from __future__ import annotations

import json
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Thread
from chorograph_core.estimating import Batting
from chorograph_core.formats import read_steps, route_json
from chorograph_core.job import job_linework, planned_job, replayed_job
from chorograph_core.measure import format_length
from chorograph_core.reckon import evenness
from chorograph_core.route import State
from chorograph_core.steering.standing import stands_after
from chorograph_core.stitching.checks import (
    first_checks,
    gap_checks,
    last_checks,
    put_checks,
    thread_checks,
)
from chorograph_core.stitching.legs import LONG, SMALL, route_legs
from chorograph_core.stitching.setting_up import needle_for, usual_settings
from chorograph_core.stitching.standing import finished_names, stands_with
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed, small_top

CACHE = DrawingCache()


class Following(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(2, 2))
        cls.route = planned_job(cls.job, CACHE)
        cls.document = json.loads(route_json(cls.job, cls.route, []))
        cls.steps = read_steps(cls.document)
        cls.legs = route_legs(cls.job, cls.document)
        cls.tops = {each["number"]: each["top"] for each in cls.document["passes"]}
        cls.passes = {
            each["number"]: (each["top"], each["bottom"]) for each in cls.document["passes"]
        }


class LegTests(Following):
    @long
    def test_every_step_lies_in_one_leg_and_no_second_is_lost(self):
        for policy in (self.job.policy, replace(self.job.policy, stabilise="zone"),
                       replace(self.job.policy, days="basted", pen="fading"),
                       replace(self.job.policy, straight="eye", edges="border")):  # fmt: skip
            with self.subTest(policy=policy.stabilise + policy.days + policy.straight):
                job = replace(self.job, policy=policy)
                route = planned_job(job, CACHE)
                document = json.loads(route_json(job, route, []))
                legs = route_legs(job, document)
                self.assertEqual([leg.first for leg in legs], [0, *(leg.stop for leg in legs[:-1])])
                self.assertEqual(legs[-1].stop, len(document["steps"]))
                self.assertAlmostEqual(
                    sum(leg.seconds for leg in legs), 60 * route.minutes, delta=5
                )
                for leg in legs:
                    self.assertAlmostEqual(sum(leg.parts.values()), leg.seconds, delta=0.5)
                    self.assertTrue(leg.title)

    @long
    def test_a_long_way_in_the_ditch_is_parted_where_seams_meet(self):
        job = designed(small_top(3, 3))
        route = planned_job(job, CACHE)
        document = json.loads(route_json(job, route, []))
        ditches = [leg for leg in route_legs(job, document) if leg.kind == "ditch"]
        longest = max(
            s["seconds"] for s in document["steps"] if s["kind"] == "stitch" and s["seams"]
        )
        start = job.loaded_machine.cut_seconds + 60
        for leg in ditches:
            self.assertLess(leg.seconds, LONG + longest + start)
        self.assertGreater(sum(leg.path == "seams" for leg in ditches), len(document["passes"]))

    def test_what_is_told_is_what_the_route_does(self):
        kinds = [leg.kind for leg in self.legs]
        steps = self.document["steps"]
        self.assertEqual(kinds.count("roll"), sum(s["kind"] == "roll" for s in steps))
        self.assertEqual(kinds.count("bobbin"), sum(s["kind"] == "bobbin" for s in steps))
        self.assertEqual(sum(leg.cut for leg in self.legs),
                         sum(s["kind"] == "tie_off" for s in steps))  # fmt: skip
        runs = {s["run"] for s in steps if s["kind"] == "stitch" and s["zone"]}
        told = {run for leg in self.legs if leg.kind == "fill" for run in leg.runs}
        self.assertEqual(runs, told)
        for leg in self.legs:
            if leg.kind == "fill":
                # A line is one thing for the hand; small ones of a kind go together.
                names = {run.rsplit("/", 1)[0] for run in leg.runs}
                self.assertTrue(len(names) == 1 or leg.seconds <= SMALL)
        crossed = next(leg for leg in self.legs if leg.kind == "fill" and "rosshatch" in leg.title)
        ruled = [s for s in steps[crossed.first : crossed.stop] if s["kind"] == "ruler"]
        self.assertIn(f"ruler laid {sum(s['count'] for s in ruled)} times", crossed.detail)

    def test_between_two_rolls_one_may_do_no_more_than_go_along_an_edge(self):
        """What is rolled under the needle may lie so that a whole pass is only gone through."""
        steps = self.document["steps"]
        way = next(s for s in steps if s["kind"] == "travel" and s["run"] and s["how"] == "link")
        roll = next(s for s in steps if s["kind"] == "roll")
        legs = route_legs(self.job, {**self.document, "steps": [roll, way, roll]})
        self.assertEqual([leg.kind for leg in legs], ["roll", "fill", "roll"])
        self.assertIn("on to the next line", legs[1].title)
        self.assertAlmostEqual(legs[1].seconds, way["seconds"])

    def test_in_a_centimetre_studio_no_leg_speaks_of_inches(self):
        for leg in route_legs(self.job, self.document, "cm"):
            self.assertNotRegex(f"{leg.title} {leg.detail}", '[″"]')

    def test_a_block_is_told_by_where_things_lie_in_it(self):
        there = [leg.title for leg in self.legs if leg.kind == "fill" and "block" in leg.place]
        self.assertIn("Loops at the top", there)
        self.assertIn("Crosshatch in the middle", there)


class CheckTests(Following):
    def test_what_waits_for_another_thread_is_told_before_the_quilt_is_rolled_on(self):
        legs = route_legs(self.job, self.document)
        put_checks(self.job, legs)
        roll = next(leg for leg in legs if leg.kind == "roll")
        later = {leg.thread for leg in legs[roll.number :] if leg.kind == "fill"
                 and leg.reach == legs[roll.number - 1].reach}  # fmt: skip
        names = {thread.key: thread.name for thread in self.job.threads}
        reach = legs[roll.number - 1].reach
        fills = [leg for leg in legs[roll.number :] if leg.kind == "fill"]
        for thread in later:
            (told,) = [each for each in roll.check if names[thread] in each]
            self.assertIn("parallel", told)
            # By hand: the places of what goes out of reach, and none of any other pass.
            here = {leg.place for leg in fills if leg.thread == thread and leg.reach == reach}
            beyond = {leg.place for leg in fills if leg.thread == thread} - here
            if len(here) > 4:
                self.assertTrue(told.startswith(f"{len(here)} places"))
            else:
                self.assertEqual(set(told.partition(" wait")[0].lower().split(", ")), here)
            self.assertFalse([place for place in beyond if place in told])
        last = [leg for leg in legs if leg.kind == "roll"][-1]
        self.assertIn("A hand under the quilt", " ".join(last.check))
        self.assertIn("ruler base", " ".join(legs[0].check))

    def test_the_machine_and_the_thread_say_what_is_looked_at(self):
        sitting = replace(self.job, machine=replace(self.job.machine, kind="sit-down"))
        self.assertNotIn("ruler base", " ".join(first_checks(sitting, self.legs)))
        freehand = [leg for leg in self.legs if "ruler_move" not in leg.parts]
        self.assertNotIn("Ruler foot", " ".join(first_checks(self.job, freehand)))
        threads = (Thread("a", "a", "#000000", 100, 1500), Thread("b", "b", "#000000", 12, 500),
                   Thread("c", "c", "#000000", 40, 500))  # fmt: skip
        job = replace(self.job, threads=threads)
        self.assertIn("is fine", thread_checks(job, "a")[0])
        self.assertIn("is heavy", thread_checks(job, "b")[0])
        self.assertEqual(len(thread_checks(job, "c")), 1)
        # From one weight to another the needle is changed, too; from the same it is not.
        self.assertIn("another needle", thread_checks(job, "a", "c")[0])
        self.assertEqual(len(thread_checks(job, "c", "c")), 1)
        self.assertEqual(thread_checks(job, "gone"), [])
        buried = replace(job, machine=replace(job.machine, bury=True))
        self.assertIn("Tails buried.", last_checks(buried))

    def test_what_the_batting_does_not_allow_is_said_before_the_first_stitch(self):
        drawn = job_linework(self.job)
        gaps = {name: each.gap for name, each in evenness(self.job.zones, tuple(drawn)).items()}
        widest = max(gaps, key=lambda name: (gaps[name], name))

        def told(gap):
            intake = replace(self.job.intake, batting=Batting("cotton", gap=gap))
            return gap_checks(replace(self.job, intake=intake), drawn)

        self.assertEqual(told(gaps[widest] + 0.01), [])
        (said,) = told(gaps[widest] - 0.01)
        label = self.job.zone(widest).label
        self.assertIn(label[1:], said)
        self.assertIn(format_length(gaps[widest]), said)
        self.assertEqual(gap_checks(self.job, []), [])

    def test_needles_grow_with_the_thread_and_the_batting(self):
        sizes = [
            int(needle_for(weight, 0.09).split("/")[0]) for weight in (100, 60, 50, 40, 30, 12)
        ]
        self.assertEqual(sizes, sorted(sizes))
        self.assertLess(sizes[0], sizes[-1])
        for weight in (100, 60, 40, 30, 12):
            thin, thick = (int(needle_for(weight, loft).split("/")[0]) for loft in (0.09, 0.3))
            self.assertLessEqual(thin, thick)
        usual = usual_settings(self.job)
        thread = self.job.threads[0].key
        self.assertEqual(usual[f"{thread}/ruler"]["foot"], "ruler")
        self.assertEqual(usual[f"{thread}/hand"]["foot"], "freehand")


class StandingTests(Following):
    def test_followed_in_order_it_stands_where_the_profile_says(self):
        for stop in range(0, len(self.legs), 7):
            seconds = sum(leg.seconds for leg in self.legs[:stop])
            state = stands_with(self.job, self.steps, self.legs, range(stop), self.passes, State())
            along = stands_after(self.job, self.steps, self.tops, seconds, State())
            self.assertEqual(state.done - along.done, frozenset())
            missing = along.done - state.done
            # On the profile a seam is finished where it was left in its middle.
            self.assertTrue(all("|" in name for name in missing), missing)

    def test_whoever_stitched_has_threaded_whether_she_said_so_or_not(self):
        threads = [leg.number for leg in self.legs if leg.kind == "thread"]
        stop = next(leg.number for leg in self.legs if leg.kind == "fill") + 1
        done = set(range(stop)) - set(threads)
        state = stands_with(self.job, self.steps, self.legs, done, self.passes, State())
        self.assertEqual(state.thread, self.legs[stop - 1].thread)
        rest = planned_job(self.job, CACHE, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])

    @long
    @settings(max_examples=examples(24), deadline=None)
    @given(st.data())
    def test_whatever_legs_are_done_the_rest_is_planned_and_stitches_all(self, data):
        count = len(self.legs)
        stop = data.draw(st.integers(0, count))
        left_out = data.draw(st.sets(st.integers(0, max(0, stop - 1)), max_size=4))
        done = set(range(stop)) - left_out
        state = stands_with(self.job, self.steps, self.legs, done, self.passes, State())
        rest = planned_job(self.job, CACHE, state=state, bound=False)
        self.assertEqual(replayed_job(self.job, rest, state), [])
        # By hand: no run of a leg that is done is stitched again, none of the others is forgotten.
        again = {s.run for s in rest.steps if s.kind == "stitch" and s.run and not s.seams}
        wanted = {one.key(k) for one in job_linework(self.job, CACHE)
                  for k, run in enumerate(one.linework.runs) if not run.in_ditch}  # fmt: skip
        finished = {name for name in state.done if name in wanted}
        self.assertTrue(finished.isdisjoint(again))
        self.assertEqual(wanted - finished, again)

    @long
    def test_basting_that_was_left_out_comes_before_anything_else_in_its_pass(self):
        basting = [leg for leg in self.legs if leg.kind == "secure"][1]
        thread = next(leg for leg in self.legs[basting.number :] if leg.kind == "thread")
        ditch = next(leg for leg in self.legs if leg.kind == "ditch")
        # The needle is down in a pass that was never basted, and something waits in the one before.
        for stop in range(thread.number + 2, thread.number + 16, 4):
            done = set(range(stop)) - {basting.number, thread.number, ditch.number + 1}
            state = stands_with(self.job, self.steps, self.legs, done, self.passes, State())
            self.assertIsNotNone(state.needle)
            rest = planned_job(self.job, CACHE, state=state, bound=False)
            self.assertEqual(replayed_job(self.job, rest, state), [])

    def test_taps_on_a_plan_that_was_left_count_what_they_finished_alone(self):
        fills = [leg.number for leg in self.legs if leg.kind == "fill"]
        parted = next(leg for leg in self.legs if leg.title.startswith("Go on"))
        whole = next(n for n in fills if not self.legs[n].title.startswith("Go on")
                     and self.legs[n].runs[0] not in parted.runs)  # fmt: skip
        names = finished_names(self.steps, self.legs, {whole}, {whole})
        self.assertEqual(names, frozenset(self.legs[whole].runs))
        self.assertFalse(finished_names(self.steps, self.legs, {parted.number}, {parted.number}))
        pieces = {leg.number for leg in self.legs if parted.runs[0] in leg.runs}
        self.assertIn(parted.runs[0], finished_names(self.steps, self.legs, pieces, pieces))
