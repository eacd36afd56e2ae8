"""Passes: how deep a frame reaches, and where the quilt is rolled on."""

import itertools
import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs import Run
from chorograph_core.designs.engine.arcs import chained_arcs
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.linework import Span, Unit
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import Border, Medallion, OpenField, Placed, StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import PlanError, Policy, replay
from chorograph_core.route.network import _cut_at_levels
from chorograph_core.route.parting import part_run
from chorograph_core.route.passes import (
    OutOfReach,
    Pass,
    Piece,
    depth_at,
    fewest_rolls,
    passes_of,
)
from chorograph_core.route.seam_levels import Level, moved_onto, seam_levels
from chorograph_core.route.stations import MOST_ZONES, stations_of
from chorograph_core.rulers import STARTING_RULERS, count_placements
from chorograph_core.rulers.fitting import reach_of
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed, free_chart
from chorograph_core.zones import Zone, zones_from_patches


class DepthTests(TestCase):
    def test_an_empty_bar_leaves_the_throat_less_bar_and_clearance(self):
        self.assertEqual(depth_at(Machine(throat=24, take_up=3, clearance=4), 0), 17)

    def test_the_roll_is_a_ring_of_what_was_rolled(self):
        machine = Machine(throat=26, take_up=2.5, clearance=4, loft=0.17)
        rolled, thick = 80.0, 0.17 + 0.03
        across = math.sqrt(2.5**2 + 4 * rolled * thick / math.pi)
        self.assertAlmostEqual(depth_at(machine, rolled), 26 - across - 4)
        # The area of the ring is that of the cloth on edge.
        self.assertAlmostEqual(math.pi / 4 * (across**2 - 2.5**2), rolled * thick)

    def test_a_ruler_base_takes_two_inches_and_sitting_half(self):
        machine = Machine()
        self.assertEqual(depth_at(replace(machine, ruler_base=True), 0), 15)
        self.assertEqual(depth_at(replace(machine, seated=True), 0), 8.5)


class PassTests(TestCase):
    def test_rows_that_fit_are_not_parted(self):
        rows = [Piece(10.0 * k, 10.0 * k + 10, 9.0) for k in range(6)]
        made = passes_of(Machine(), 0, 60, rows)
        self.assertTrue(all(any(p.holds(r.top, r.bottom) for p in made) for r in rows))

    @settings(max_examples=examples(60), deadline=None)
    @given(some.floats(5, 120), some.integers(0, 2**30), some.floats(17, 40), some.integers(1, 4))
    def test_all_of_the_quilt_is_reached_and_nothing_deeper(self, height, seed, throat, sweeps):
        rng = np.random.default_rng(seed)
        tops = rng.random(12) * height
        pieces = [Piece(float(t), float(min(height, t + rng.random() * 20)), 0.5) for t in tops]
        machine = Machine(throat=throat)
        made = passes_of(machine, 0, height, pieces, sweeps)
        self.assertEqual([each.number for each in made], list(range(1, len(made) + 1)))
        self.assertEqual((made[0].top, made[-1].bottom), (0, height))
        for each in made:
            self.assertLessEqual(each.bottom - each.top, depth_at(machine, each.top) + 1e-6)
        for one, two in itertools.pairwise(made):
            self.assertGreater(two.top, one.top)
            self.assertLessEqual(two.top, one.bottom + 1e-6)
        self.assertGreaterEqual(len(made) - 1, fewest_rolls(machine, 0, height))

    def test_with_nothing_to_part_the_rolls_are_the_fewest(self):
        for height in (10, 30, 79, 108):
            made = passes_of(Machine(), 0, height, [])
            # Passes begin on the half inch, which may cost one.
            self.assertLessEqual(len(made) - 1, fewest_rolls(Machine(), 0, height) + 1)

    def test_a_machine_that_does_not_roll_has_one_pass(self):
        self.assertEqual(passes_of(Machine(kind="sit-down"), 0, 90, []), (Pass(1, 0, 90),))
        self.assertEqual(fewest_rolls(Machine(kind="sit-down"), 0, 90), 0)

    def test_a_throat_that_is_full_is_told(self):
        with self.assertRaisesRegex(OutOfReach, "too little beside the roll"):
            passes_of(Machine(throat=9), 0, 60, [])
        job = designed(StraightSet(3, 2, 12, ("nine_patch",)))
        with self.assertRaisesRegex(PlanError, "too little beside the roll"):
            planned_job(replace(job, machine=Machine(throat=9)))


class PartingTests(TestCase):
    PASSES = (Pass(1, 0, 17), Pass(2, 14, 30), Pass(3, 28, 44))

    def held(self, pieces) -> None:
        for piece in pieces:
            low, high = piece.points[:, 1].min(), piece.points[:, 1].max()
            self.assertTrue(any(each.holds(low, high) for each in self.PASSES), (low, high))

    def test_a_run_that_fits_is_left_whole(self):
        run = Run(np.array([[0, 15.0], [5, 29.0]]))
        self.assertEqual(part_run(run, self.PASSES), [run])

    def test_a_long_line_is_cut_where_passes_overlap(self):
        run = Run(np.array([[0, 1.0], [0, 43.0]]), "straight")
        pieces = part_run(run, self.PASSES)
        self.held(pieces)
        self.assertAlmostEqual(sum(piece.inches for piece in pieces), 42)
        for one, two in itertools.pairwise(pieces):
            np.testing.assert_allclose(one.points[-1], two.points[0])

    def test_between_two_units_where_it_can_be(self):
        points = np.array([[float(k % 2), 2.0 * k] for k in range(20)])
        units = tuple(Unit(str(k), 2 * k) for k in range(1, 10))
        run = Run(points, units=(*units, Unit("10", 19)))
        pieces = part_run(run, self.PASSES)
        self.held(pieces)
        stops = {tuple(points[unit.stop]) for unit in run.units}
        for piece in pieces:
            self.assertIn(tuple(piece.points[-1]), stops)

    def test_a_long_line_is_left_in_a_seam_that_two_passes_share(self):
        run = Run(np.array([[0, 1.0], [0, 43.0]]), "straight")
        levels = [Level(y, np.array([[-3.0, 3.0]])) for y in (15.5, 29.0)]
        pieces = part_run(run, self.PASSES, levels)
        self.held(pieces)
        self.assertEqual([float(piece.points[-1, 1]) for piece in pieces], [15.5, 29.0, 43.0])
        # A level that only one of them reaches is none.
        for wrong in (Level(12.0, levels[0].ends), Level(15.5, np.array([[-3.0, -1], [1.0, 9]]))):
            first = part_run(run, self.PASSES, [wrong])[0]
            self.assertEqual(
                float(first.points[-1, 1]), 17.0, "out of reach, or no seam just there"
            )

    def test_a_wave_along_the_edge_of_a_pass_stays_one_to_the_ruler(self):
        """Six half waves of the starting S-edge that swing over the upper edge of the second pass, then a
        line down: two layings for the wave, before it is parted and after."""
        nodes = np.array([[2.0 * k, 13.94] for k in range(7)])
        wave = chained_arcs(nodes, [0.5 if k % 2 else -0.5 for k in range(6)])
        points = np.vstack([wave, [[12.0, 40.0]]])
        spans = (Span(len(wave) - 1, "curved"), Span(len(wave), "straight"))
        run = Run(points, "curved", spans)
        reach = reach_of(STARTING_RULERS, 8.0, 0.25)
        self.assertEqual(count_placements(wave, reach), 2)
        pieces = part_run(run, self.PASSES)
        self.held(pieces)
        curved = [
            p for piece in pieces for p, technique, _ in piece.pieces() if technique == "curved"
        ]
        self.assertEqual(sum(count_placements(p, reach) for p in curved), 2)

    def test_spans_keep_their_kind(self):
        points = np.array([[0, 0.0], [0, 6.0], [1, 6.0], [1, 10.0], [1, 40.0]])
        spans = (
            Span(1, "straight"),
            Span(2, "ditch", "link"),
            Span(3, "straight"),
            Span(4, "straight"),
        )
        run = Run(points, "straight", spans)
        pieces = part_run(run, self.PASSES)
        self.held(pieces)
        kinds = [(kind, round(float(np.hypot(*np.diff(p, axis=0).T).sum()), 6))
                 for piece in pieces for p, _, kind in piece.pieces() if len(p) > 1]  # fmt: skip
        self.assertAlmostEqual(sum(n for kind, n in kinds if kind == "stitch"), 40)
        self.assertAlmostEqual(sum(n for kind, n in kinds if kind == "link"), 1)

    def test_a_part_begins_and_ends_with_a_stitch(self):
        """What led along an edge to a line that is now another part's is no part of its own."""
        points = np.array([[0, 0.0], [0, 12.0], [1, 12.0], [1, 31.0], [2, 31.0], [2, 40.0]])
        spans = (Span(1, "straight"), Span(3, "ditch", "link"), Span(5, "straight"))
        pieces = part_run(Run(points, "straight", spans), self.PASSES)
        self.held(pieces)
        self.assertEqual(len(pieces), 2)
        for piece in pieces:
            self.assertEqual({kind for _, _, kind in piece.pieces()}, {"stitch"})
        self.assertAlmostEqual(sum(piece.inches for piece in pieces), 12 + 10)

    @settings(max_examples=examples(50), deadline=None)
    @given(some.integers(2, 40), some.integers(0, 2**30))
    def test_any_line_is_held_in_parts(self, count, seed):
        points = np.random.default_rng(seed).random((count, 2)) * (10, 44)
        pieces = part_run(Run(points), self.PASSES)
        self.held(pieces)
        whole = float(np.hypot(*np.diff(points, axis=0).T).sum())
        self.assertAlmostEqual(sum(piece.inches for piece in pieces), whole, places=6)


class SeamLevelTests(TestCase):
    def test_levels_are_those_of_the_seams_that_lie_across(self):
        """Three rows of plain squares of 8″ with a border of 3″: seams at 3, 11, 19 and 27 inches; upright
        ones are no levels."""
        seams = seam_levels(StraightSet(3, 2, 8, ("plain",), borders=(Border(3),)).chart())
        np.testing.assert_allclose([level.height for level in seams.known], [3, 11, 19, 27])
        # The border is sewn on across the whole of it above and below, the rows are 16″ wide.
        np.testing.assert_allclose([level.inches for level in seams.known], [22, 16, 16, 22])
        passes = [Pass(1, 0, 12), Pass(2, 10, 20), Pass(3, 18, 30)]
        self.assertEqual([level.height for level in seams.between(passes)], [19, 11])

    @settings(max_examples=examples(40), deadline=None)
    @given(some.integers(3, 9), some.floats(4, 11))
    def test_passes_are_moved_onto_seams_as_far_as_the_last_still_reaches_the_end(self, rows, size):
        seams = seam_levels(StraightSet(rows, 2, size, ("plain",)).chart())
        machine, bottom = Machine(), rows * size
        made = passes_of(machine, 0, bottom, [])
        moved = moved_onto(made, machine, seams)
        self.assertEqual(len(moved), len(made))
        self.assertAlmostEqual(moved[-1].bottom, bottom)
        for one, two in itertools.pairwise(moved):
            self.assertLess(one.top, two.top)
            self.assertLessEqual(two.top, one.bottom + 1e-6)
            self.assertLessEqual(one.bottom, one.top + depth_at(machine, one.top) + 1e-6)
        shared = [sum(two.top <= y <= one.bottom for y in seams.heights)
                  for one, two in itertools.pairwise(moved)]  # fmt: skip
        deep = depth_at(machine, bottom)
        if size < deep - 1 and len(made) * deep > bottom + size * len(made):
            # Where there is depth to spare for it, each two passes share a seam.
            self.assertGreater(min(shared, default=1), 0)


class PartedSeamTests(TestCase):
    def test_who_comes_to_the_end_of_a_seam_that_a_pass_parts_goes_on_from_there(self):
        """Doorways part the same seams elsewhere, so that nothing of them need be parted by the passes: the
        way on was not known there, and the thread was cut."""
        blocks = ("sawtooth_star", "nine_patch", "churn_dash", "pinwheel")
        job = designed(StraightSet(8, 1, 9, blocks, 1))
        route = planned_job(job, bound=False)
        self.assertGreater(len(route.passes), 2)
        nowhere = [
            step for step in route.steps if step.kind == "tie_off" and math.isinf(step.instead)
        ]
        self.assertEqual(nowhere, [])
        self.assertEqual(replayed_job(job, route), [])


class StationTests(TestCase):
    def test_blocks_strips_and_sides(self):
        chart = StraightSet(2, 3, 8, ("sawtooth_star",), 1, True, True, (Border(3),)).chart()
        names = [
            s.name.rstrip("0123456789. ") for s in stations_of(chart, zones_from_patches(chart))
        ]
        self.assertEqual(names.count("block"), 6)
        self.assertEqual(names.count("cornerstone"), 12)
        self.assertEqual(names.count("sashing"), 17)
        self.assertEqual(sum(name.startswith("border") for name in names), 4)

    def test_sides_of_rings_are_named_as_one_would_say(self):
        chart = Medallion(
            9, "sawtooth_star", (Border(2), Border(3, piecing="squares", unit=3))
        ).chart()
        stations = stations_of(chart, zones_from_patches(chart))
        # A long side is more than one place: its name goes on with a number.
        names = {" ".join(s.name.split()[:3]) for s in stations}
        sides = ("top", "right", "bottom", "left")
        self.assertLessEqual({f"ring {k} {side}" for k in (1, 2) for side in sides}, names)

    def test_every_zone_has_one_station(self):
        for chart in (StraightSet(3, 3, 6, ("nine_patch",)).chart(), free_chart()):
            zones = zones_from_patches(chart)
            found = [zone for station in stations_of(chart, zones) for zone in station.zones]
            self.assertEqual(sorted(found), sorted(zone.id for zone in zones))

    def test_where_there_are_no_blocks_neighbours_are_gathered(self):
        chart = free_chart()
        zones = [
            Zone(f"z{r}.{c}", box(2 * c, 2 * r, 2 * c + 2, 2 * r + 2))
            for r in range(12)
            for c in range(9)
        ]
        stations = stations_of(chart, zones)
        self.assertEqual(sum(len(station.zones) for station in stations), 108)
        for station in stations:
            self.assertLessEqual(len(station.zones), MOST_ZONES)
            self.assertEqual(station.shape.geom_type, "Polygon")


class SchoolTests(TestCase):
    """The same top under each school replays clean, and is rolled as often as the school says."""

    @classmethod
    def setUpClass(cls):
        cls.job = designed(StraightSet(4, 2, 8, ("sawtooth_star", "nine_patch"), 1))

    def planned(self, **policy):
        job = replace(self.job, policy=replace(self.job.policy, **policy))
        route = planned_job(job, bound=False)
        self.assertEqual(replayed_job(job, route), [])
        return route

    @long
    def test_whole_quilt_first_rolls_through_for_each_thread_and_pass_by_pass_once(self):
        whole, by_pass = self.planned(), self.planned(stabilise="pass")
        passes = len(whole.passes)
        self.assertGreater(passes, 1)
        stages = {(bool(s.seams), s.thread) for s in whole.steps if s.kind == "stitch"}
        self.assertLessEqual(whole.rolls, len(stages) * (passes - 1))
        self.assertGreater(whole.rolls, by_pass.rolls)
        self.assertEqual(by_pass.rolls, len(by_pass.passes) - 1)
        self.assertLess(whole.lost_by_kind["changes"], by_pass.lost_by_kind["changes"])
        self.assertGreaterEqual(whole.floor.rolls, by_pass.floor.rolls)

    @long
    def test_ruler_work_first_and_one_design_after_the_other(self):
        mixed = self.planned()
        asked = job_linework(self.job)
        for technique in ("ruler", "design"):
            for stabilise in ("quilt", "pass"):
                self.planned(
                    technique=technique, stabilise=stabilise, effort=int(technique == "ruler")
                )
            policy = replace(self.job.policy, technique=technique)
            found = replay(self.job.chart, self.job.zones, asked, policy, mixed.steps,
                           self.job.loaded_machine, passes=mixed.passes)  # fmt: skip
            # A route that goes block by block is told as what it is.
            with self.subTest(technique):
                self.assertTrue(found)
                self.assertTrue(all("is taken up again" in fault for fault in found))

    @long
    def test_a_field_deeper_than_the_reach_is_done_in_parts_without_cutting_each_line(self):
        chart = Chart(box(0, 0, 40, 44), (Patch("p", box(0, 0, 40, 44), "field"),))
        zones = tuple(zones_from_patches(chart))
        layer = Layer("crosshatch", {"spacing": 1.0}, "indigo")
        job = Job("Field", chart, zones, legend=(Entry("e", "", (zones[0].id,), (layer,)),))
        route = planned_job(job, bound=False)
        self.assertEqual(replayed_job(job, route), [])
        pieces = sum(1 for s in route.steps if s.kind == "ruler")
        self.assertGreater(pieces, 60)
        # From the end of one line the next is a short step away.
        self.assertLess(route.cuts, 12)
        damaged = [s for s in route.steps if s.kind != "stitch" or s.inches < 10]
        self.assertTrue(any("not stitched as it was drawn" in f for f in replay(
            chart, zones, job_linework(job), job.policy, damaged, job.loaded_machine,
            passes=route.passes)))  # fmt: skip

    @long
    def test_an_inner_layer_is_not_pulled_before_its_outer_one(self):
        """Ruler work first, but where the ruled layer lies inside a freehand one it waits."""
        chart = StraightSet(1, 2, 8, ("plain",), borders=(Border(2),)).chart()
        zones = tuple(zones_from_patches(chart))
        layers = (Layer("loops", {}, "indigo"), Layer("crosshatch", {}, "indigo"))
        job = Job("Layers", chart, zones, legend=(Entry("e", "", tuple(z.id for z in zones[:2]), layers),),
                  policy=Policy(technique="ruler"))  # fmt: skip
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])

    def test_layers_of_a_zone_stay_in_one_pass_though_another_reaches_some_of_them(self):
        """No pass of nine inches holds the pinwheel; the outer layer would be done with the pass above."""
        chart = OpenField(
            30, 30, (Placed(16, 16, 10, "pinwheel"), Placed(2, 3, 8, "pinwheel"))
        ).chart()
        zones = tuple(zones_from_patches(chart))
        names = tuple(z.id for z in zones if chart.patch(z.patches[0]).block is not None)
        layers = (Layer("dot_to_dot", {}, "clear"), Layer("piano_keys", {}, "clear"))
        policy = Policy(effort=0, stabilise="zone", days="basted", edges="float")
        job = Job("Layers", chart, zones, legend=(Entry("e", "", names, layers),),
                  machine=Machine(throat=16), policy=policy)  # fmt: skip
        route = planned_job(job)
        self.assertGreater(len(route.passes), 2)
        self.assertEqual(replayed_job(job, route), [])
        where: dict[str, set[int]] = {}
        for step in route.steps:
            if step.kind == "stitch" and not step.seams:
                where.setdefault(step.zone, set()).add(step.reach)
        for name, reaches in where.items():
            low, high = job.zone(name).polygon.bounds[1::2]
            if any(each.holds(low, high) for each in route.passes):
                self.assertEqual(len(reaches), 1, name)

    @long
    def test_a_sit_down_machine_rolls_nothing(self):
        job = replace(self.job, machine=Machine(kind="sit-down"))
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        self.assertEqual((route.rolls, len(route.passes)), (0, 1))


class LevelTests(TestCase):
    def test_a_corner_that_lies_on_the_level_is_cut_too(self):
        line = np.array([[0.0, 0.0], [1.0, 5.0], [0.0, 9.0]])
        pieces = _cut_at_levels(line, [5.0])
        self.assertEqual(
            [piece.tolist() for piece in pieces], [line[:2].tolist(), line[1:].tolist()]
        )

    def test_between_corners_it_is_cut_where_it_crosses(self):
        pieces = _cut_at_levels(np.array([[0.0, 0.0], [8.0, 8.0], [8.0, 0.0]]), [2.0])
        self.assertEqual([piece[-1].tolist() for piece in pieces], [[2, 2], [8, 2], [8, 0]])

    def test_ends_on_the_level_are_left(self):
        line = np.array([[0.0, 5.0], [1.0, 9.0], [2.0, 5.0]])
        self.assertEqual(len(_cut_at_levels(line, [5.0])), 1)
