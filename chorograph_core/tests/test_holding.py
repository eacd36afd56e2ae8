"""What holds the layers, and the schools of order that go with it."""

from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import numpy as np
import shapely
from shapely.geometry import box

from chorograph_core.job import Job, planned_job, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import State
from chorograph_core.route.holding import APART, Holding, hold_lines
from chorograph_core.route.model import Policy
from chorograph_core.route.passes import Pass
from chorograph_core.route.progress import after_steps
from chorograph_core.route.stations import Station
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed


def job(machine: Machine | None = None, **policy) -> Job:
    made = designed(StraightSet(3, 1, 8, ("sawtooth_star", "nine_patch"), 1, borders=(Border(3),)))
    made = replace(made, machine=machine or made.machine)
    return replace(made, policy=replace(made.policy, **policy))


def without(route, place: int):
    steps = list(route.steps)
    return replace(route, steps=steps[:place] + steps[place + 1 :])


class LineTests(TestCase):
    PASSES = (Pass(1, 0, 14), Pass(2, 12, 27), Pass(3, 25, 40))

    def lines(self, loft=0.09, **policy):
        chart = job().chart
        return chart, hold_lines(chart, self.PASSES, Machine(loft=loft), Policy(**policy))

    def test_thin_batting_needs_none(self):
        self.assertEqual(self.lines()[1], {})

    def test_lofty_batting_has_one_serpentine_in_every_pass(self):
        chart, found = self.lines(loft=0.25)
        self.assertEqual([len(lines) for lines in found.values()], [1, 1, 1])
        for number, (line,) in found.items():
            each = self.PASSES[number - 1]
            self.assertTrue(each.top < line[:, 1].min() and line[:, 1].max() < each.bottom)
            self.assertGreater(shapely.linestrings(line).length, chart.width)

    def test_a_basted_quilt_has_lines_no_farther_apart_than_a_hand(self):
        _, found = self.lines(days="basted")
        levels = sorted(line[0, 1] for lines in found.values() for line in lines)
        self.assertTrue(all(b - a <= APART + 1e-9 for a, b in pairwise(levels)))

    def test_a_quilt_on_a_table_comes_basted(self):
        machine = Machine(kind="sit-down", loft=0.3)
        self.assertEqual(hold_lines(job().chart, self.PASSES, machine, Policy(days="basted")), {})


class BastedTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = job(days="basted", stabilise="zone")
        cls.route = planned_job(cls.job)

    def kinds(self, kind):
        return [k for k, step in enumerate(self.route.steps) if step.kind == kind]

    def test_it_is_basted_before_anything_else_and_all_of_it_comes_out(self):
        self.assertEqual(replayed_job(self.job, self.route), [])
        self.assertLess(max(self.kinds("secure")), min(self.kinds("stitch")))
        laid = sum(self.route.steps[k].inches for k in self.kinds("secure")
                   if self.route.steps[k].run.startswith("hold:"))  # fmt: skip
        out = sum(self.route.steps[k].inches for k in self.kinds("unpick"))
        self.assertAlmostEqual(laid, out, delta=1.0)

    def test_it_is_rolled_down_once_and_back_once(self):
        self.assertEqual(self.route.rolls, 2 * (len(self.route.passes) - 1))
        self.assertAlmostEqual(self.route.floor.rolls, self.route.lost_by_kind["rolls"], places=6)

    def test_a_line_that_was_left_out_is_basted_with_the_needle_up(self):
        """Tapped out of turn: a line of basting is skipped, and the needle stands amid a filling."""
        steps = self.route.steps
        left = next(k for k, s in enumerate(steps) if s.kind == "secure" and s.reach > 1)
        stop = [k for k, s in enumerate(steps) if s.kind == "stitch" and not s.seams][3]
        gone = [s for k, s in enumerate(steps[: stop + 1]) if k != left]
        tops = {each.number: each.top for each in self.route.passes}
        state = after_steps(gone, [steps[left], *steps[stop + 1 :]], State(), tops)
        self.assertIsNotNone(state.needle)
        rest = planned_job(self.job, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])
        kinds = [step.kind for step in rest.steps]
        self.assertEqual(kinds.count("secure"), 1)
        self.assertLess(kinds.index("tie_off"), kinds.index("secure"))

    def test_each_place_is_finished_before_the_next(self):
        places: list[str] = []
        for step in self.route.steps:
            # A place that two passes part is gone to once in each.
            here = f"{step.station}@{step.reach}"
            if step.kind == "path" and step.station and (not places or places[-1] != here):
                places.append(here)
        self.assertEqual(len(places), len(set(places)))

    def test_the_replay_sees_basting_that_stays_in(self):
        for place in self.kinds("unpick")[:3]:
            faults = replayed_job(self.job, without(self.route, place))
            self.assertTrue(any("basting" in f or "taken out" in f for f in faults), faults)

    def test_the_replay_sees_a_line_that_is_missing(self):
        holds = [k for k in self.kinds("secure") if self.route.steps[k].run.startswith("hold:")]
        faults = replayed_job(self.job, without(self.route, holds[1]))
        self.assertTrue(any("nowhere near" in fault for fault in faults), faults)


class SchoolTests(TestCase):
    @long
    def test_lofty_batting_is_held_pass_by_pass(self):
        held = job(replace(Machine(), loft=0.25))
        route = planned_job(held)
        self.assertEqual(replayed_job(held, route), [])
        names = {step.run for step in route.steps if step.run.startswith("hold:")}
        self.assertEqual(len(names), len(route.passes))
        place = next(k for k, s in enumerate(route.steps) if s.run.startswith("hold:"))
        faults = replayed_job(held, without(route, place))
        self.assertTrue(any("before it is held" in fault for fault in faults), faults)

    @long
    def test_the_borders_seam_is_locked_before_anything_else(self):
        locked = job(edges="border")
        route = planned_job(locked)
        self.assertEqual(replayed_job(locked, route), [])
        first = next(step for step in route.steps if step.kind == "stitch")
        inner = locked.chart.outline.buffer(-3, join_style="mitre").boundary
        self.assertLess(inner.hausdorff_distance(inner), 0.1)
        self.assertTrue(inner.buffer(0.05).covers(shapely.linestrings(first.points)))
        # The first ditch of the body put before it is seen.
        place = route.steps.index(first)
        later = next(k for k, s in enumerate(route.steps) if s.kind == "stitch" and s.seams
                     and s.reach == first.reach
                     and not inner.buffer(0.05).covers(shapely.linestrings(s.points)))  # fmt: skip
        steps = list(route.steps)
        steps.insert(place, steps.pop(later))
        faults = replayed_job(locked, replace(route, steps=steps))
        self.assertTrue(any("border's seam" in fault for fault in faults), faults)

    @long
    def test_place_by_place_ditches_come_just_before_fillings(self):
        placed = job(stabilise="zone")
        route = planned_job(placed)
        self.assertEqual(replayed_job(placed, route), [])
        fills = [k for k, s in enumerate(route.steps) if s.kind == "stitch" and not s.seams]
        ditches = [k for k, s in enumerate(route.steps) if s.kind == "stitch" and s.seams]
        # Some fillings come before the last ditches: it is not done pass by pass.
        self.assertLess(min(fills), max(ditches))
        inside = {route.steps[k].station: k for k in ditches if route.steps[k].station}
        fill = next(k for k in fills if route.steps[k].station in inside)
        steps = list(route.steps)
        steps.insert(inside[route.steps[fill].station], steps.pop(fill))
        faults = replayed_job(placed, replace(route, steps=steps))
        self.assertTrue(any("fills before the ditches" in fault for fault in faults), faults)

    @long
    def test_every_mix_of_schools_replays(self):
        for stabilise in ("quilt", "pass", "zone"):
            for edges, days in (("baste", "basted"), ("border", "passes")):
                # Searched longer for one of them: what holds does not depend on how long is searched.
                effort = int(stabilise == "zone" and days == "basted")
                mixed = job(stabilise=stabilise, edges=edges, days=days, effort=effort)
                with self.subTest(stabilise=stabilise, edges=edges, days=days):
                    route = planned_job(mixed)
                    self.assertEqual(replayed_job(mixed, route), [])
                    self.assertGreaterEqual(route.gap, -1e-6)


class TakingOutTests(TestCase):
    def test_a_line_on_the_seam_between_two_places_comes_out_once(self):
        here = Station("a", "a", (), (box(0, 0, 4, 4),))
        there = Station("b", "b", (), (box(0, 4, 4, 8),))
        holding = Holding([np.array([[0.0, 4.0], [4.0, 4.0]]), np.array([[0.0, 6.0], [5.0, 6.0]])])
        self.assertEqual([holding.take_out(here), holding.take_out(there)], [4.0, 4.0])
        self.assertEqual(holding.take_out(there), 0.0)
        self.assertEqual(holding.take_rest(), 1.0)
