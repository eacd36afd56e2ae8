"""Rulers as things: which edge stitches what, where it lies, and that a foot can run along it."""

import math
import os
import pickle
import subprocess
import sys
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import Point, Polygon, box

from chorograph_core.designs import Linework, Run, Space, designs
from chorograph_core.designs.engine.arcs import arc, chained_arcs, circle
from chorograph_core.rulers import (
    STARTING_RULERS,
    Reach,
    Ruler,
    count_placements,
    edges_for,
    off_by,
    placements_along,
    reach_of,
    simulated,
    stretches_of,
    to_buy,
)
from chorograph_core.rulers.fitting import radius_of
from chorograph_core.rulers.simulated import plate_of
from chorograph_core.tests import examples, long

FOOT = 0.25
ARC = Ruler("arc", "arc", "arc", 10.0, convex=5.0, concave=6.0)


def edges(*rulers, foot=FOOT):
    return [edge for ruler in rulers for edge in ruler.edges(foot)]


class EdgeTests(TestCase):
    def test_convex_stitches_more_and_concave_less_by_the_foot(self):
        found = {edge.kind: edge.radius for edge in edges(ARC, foot=0.3)}
        self.assertEqual(found, {"convex": 5.3, "concave": 5.7})

    def test_a_foot_that_does_not_fit_and_a_ruler_too_thin_have_no_edge(self):
        tight = Ruler("t", "t", "circle", convex=0.5, concave=0.25)
        self.assertEqual([edge.kind for edge in edges(tight)], ["outside"])
        self.assertEqual(edges(replace(ARC, thickness=0.1)), [])
        self.assertEqual(edges(Ruler("s", "s", "s")), [])
        self.assertEqual(edges(Ruler("a", "a", "arc")), [])

    @given(some.floats(1, 40), some.floats(0.3, 0.95))
    def test_the_edge_that_is_found_lies_within_a_sixteenth(self, radius, share):
        chord = 2 * radius * share
        owned = edges(*STARTING_RULERS, ARC)
        for edge in edges_for(owned, radius, chord):
            span = min(chord, edge.reach, 2 * edge.radius)
            one, two = (r - math.sqrt(r * r - span * span / 4) for r in (radius, edge.radius))
            self.assertLessEqual(abs(one - two), 1 / 16 + 1e-9)
        exact = replace(ARC, convex=max(radius - FOOT, 0.01), concave=None, length=60.0)
        if radius > 0.5:
            self.assertEqual(off_by(edges(exact)[0], radius, chord), 0.0)

    def test_which_ruler_to_buy_serves_most_arcs(self):
        arcs = [(3.0, 4.0)] * 3 + [(9.0, 6.0)] * 5 + [(5.25, 5.0)] * 9
        wish = to_buy(arcs, edges(ARC))
        # Those of 5 1/4 are owned.
        self.assertEqual((wish.radius, wish.spans), (9.0, 5))
        self.assertIsNone(to_buy([(5.25, 5.0)], edges(ARC)))


class CountTests(TestCase):
    def test_as_many_layings_as_there_are_placements(self):
        owned = (*STARTING_RULERS, ARC)
        reach = reach_of(owned, 10.0, FOOT)
        lines = [
            np.array([[0.0, 0], [24, 0], [24, 7]]), arc((0, 0), (9, 0), 1.5), circle((0, 0), 5.25),
            circle((0, 0), 2.0), chained_arcs(np.array([[2.0 * k, 0] for k in range(11)]), [0.5, -0.5] * 5),
        ]  # fmt: skip
        for line in lines:
            laid = placements_along(line, owned, FOOT, "p")
            self.assertEqual(count_placements(line, reach), len(laid))
            self.assertEqual(count_placements(line[::-1], reach), len(laid))

    def test_an_arc_takes_its_chord_at_a_time(self):
        # 8 inches of a 10 inch ruler, on a radius of 5 1/4: 2 · 5.25 · asin(8 / 10.5) inches of line.
        once = 2 * 5.25 * math.asin(8 / 10.5)
        reach = reach_of([ARC], 10.0, FOOT)
        self.assertEqual(reach.around(5.25, once - 0.01), 1)
        self.assertEqual(reach.around(5.25, once + 0.01), 2)
        whole = math.ceil(2 * math.pi * 5.25 / once)
        self.assertEqual(count_placements(circle((0, 0), 5.25), reach), whole)

    def test_a_template_goes_round_a_circle_at_once(self):
        template = Ruler("c", "circle", "circle", convex=3.0, concave=2.5)
        reach = reach_of([template], 10.0, FOOT)
        self.assertEqual(count_placements(circle((0, 0), 2.25), reach), 1)
        self.assertEqual(count_placements(circle((0, 0), 3.25), reach), 2)

    def test_a_wave_by_its_own_edge_takes_fewer_layings_than_by_arcs(self):
        wave = chained_arcs(np.array([[2.0 * k, 0] for k in range(13)]), [0.5, -0.5] * 6)
        s_edge = next(ruler for ruler in STARTING_RULERS if ruler.shape == "s")
        self.assertEqual(count_placements(wave, reach_of([s_edge], 10.0, FOOT)), math.ceil(12 / 5))
        # Without it each half wave, which turns by more than a quarter circle, takes two.
        self.assertEqual(count_placements(wave, Reach(10.0)), 24)

    def test_straight_and_round_are_told_apart(self):
        bend = arc((5, 0), (9, 4), 2 * math.sqrt(2) - 4)
        rounded = np.vstack([[[0, 0]], bend, [[9, 9]]])
        self.assertEqual([s.kind for s in stretches_of(rounded)], ["straight", "arc", "straight"])
        self.assertAlmostEqual(stretches_of(rounded)[1].radius, 4.0, places=3)

    @settings(max_examples=examples(80), deadline=None)
    @given(
        some.floats(0.05, 40), some.floats(-math.pi, math.pi) | some.sampled_from([0, math.pi / 2]),
        some.floats(2, 12), some.booleans(),
    )  # fmt: skip
    def test_a_line_of_two_points_takes_what_it_takes_with_one_between(
        self, inches, way, straight, lock
    ):
        end = inches * np.array([math.cos(way), math.sin(way)])
        reach = Reach(straight, lock=lock)
        line = np.array([(3.0, 2.0), (3.0, 2.0) + end])
        between = np.array([line[0], line[0] + 0.4 * end, line[1]])
        self.assertEqual(count_placements(line, reach), count_placements(between, reach))
        by_hand = 0 if inches < 0.25 else math.ceil(inches / straight - 1e-9)
        if lock and way in (0, math.pi / 2):
            by_hand = min(by_hand, 1)
        if not lock or way in (0, math.pi / 2):
            self.assertEqual(count_placements(line, reach), by_hand)

    def test_a_reach_is_the_same_in_another_process(self):
        """Words have another hash there: what is kept by a reach must be found by one that was sent."""
        reach = Reach(10.0, tuple(edges(ARC)))
        hash(reach)
        asked = (
            "import pickle, sys; reach = pickle.load(sys.stdin.buffer); "
            "print(hash(reach) == hash(type(reach)(reach.straight, reach.edges)))"
        )
        done = subprocess.run(
            [sys.executable, "-c", asked], input=pickle.dumps(reach), capture_output=True,
            env={**os.environ, "PYTHONHASHSEED": "7", "PYTHONPATH": os.pathsep.join(sys.path)}, check=True,
        )  # fmt: skip
        self.assertEqual(done.stdout.strip(), b"True")


class PlacementTests(TestCase):
    def test_the_etched_line_lies_on_the_last_stitching(self):
        for angle in (0.0, 30.0, 90.0):
            design = designs()["parallel"]
            work = design.draw(Space(box(0, 0, 9, 9)), {"spacing": 0.75, "fitting": "start", "angle": angle,
                                                        "relative": "top"})  # fmt: skip
            placed = work.placements(STARTING_RULERS, FOOT)
            across = np.array([-math.sin(math.radians(angle)), math.cos(math.radians(angle))])
            lines = [float(laid.stitched[0] @ across) for laid in placed]
            for number, laid in enumerate(placed):
                if abs(lines[number] - lines[0]) < 0.01:
                    continue
                away = laid.pose.mean(axis=0) - laid.stitched.mean(axis=0)
                etched = float((laid.pose.mean(axis=0) + away / np.hypot(*away) * 0.5) @ across)
                # On a line that was stitched before this one.
                self.assertLess(min(abs(etched - at) for at in lines[:number]), 0.01)
                self.assertIn("1/2″ line on the last line", laid.references[0])

    def test_what_no_edge_stitches_is_followed_by_hand(self):
        laid = placements_along(arc((0, 0), (4, 0), 1.9), [ARC], FOOT, "dots")
        self.assertTrue(all(one.by_hand for one in laid))
        self.assertIn("by hand", laid[0].avoid)
        self.assertEqual(laid[0].ruler, "arc")

    @settings(max_examples=examples(60), deadline=None)
    @given(some.floats(-180, 180), some.floats(3.2, 30), some.floats(2, 9), some.booleans(),
           some.sampled_from(["frame", "sit-down"]))  # fmt: skip
    def test_the_foot_runs_along_every_edge_that_is_laid(
        self, turn, radius, chord, convex, machine
    ):
        if chord > 1.8 * radius:
            return
        ruler = Ruler("r", "r", "arc", 12.0, convex=radius - FOOT if convex else None,
                      concave=None if convex else radius + FOOT)  # fmt: skip
        at = math.radians(turn)
        ends = np.array([[0, 0], [chord * math.cos(at), chord * math.sin(at)]])
        height = radius - math.sqrt(radius**2 - chord**2 / 4)
        if height < 0.02:
            return
        line = arc(ends[0], ends[1], height)
        placed = Linework((Run(line, "curved", position="p"),)).placements([ruler], FOOT, machine)
        self.assertTrue(placed)
        for laid in placed:
            self.assertFalse(laid.by_hand)
            self.assertEqual(simulated(laid, FOOT, machine), [])
        # A straight line as well, whichever way it runs.
        for laid in Linework((Run(ends, "straight", position="p"),)).placements(
            STARTING_RULERS, FOOT, machine
        ):
            self.assertEqual(simulated(laid, FOOT, machine), [])

    @long
    def test_every_layout_can_be_laid(self):
        """Foot and ruler as shapes along every placement of every ruler layout, frame and sit-down."""
        owned = (*STARTING_RULERS, ARC, Ruler("c", "c", "circle", convex=2.0, concave=2.5))
        shapes = {"square": box(0, 0, 8, 8), "wedge": Polygon([(0, 0), (9, 2), (9, 6), (0, 4.6)]),
                  "border": box(0, 0, 30, 5)}  # fmt: skip
        laid_by_ruler = 0
        for key, design in designs().items():
            if design.family != "ruler":
                continue
            for name, shape in shapes.items():
                work = design.draw(
                    Space(shape, shape.exterior.buffer(-1) if False else None), design.clean({}), 1
                )
                for machine in ("frame", "sit-down"):
                    with self.subTest(key, on=name, machine=machine):
                        for laid in work.placements(owned, FOOT, machine):
                            laid_by_ruler += not laid.by_hand
                            self.assertEqual(simulated(laid, FOOT, machine), [])
                            self.assertEqual(len(laid.references), 2)
                            self.assertTrue(all(laid.references))
        self.assertGreater(laid_by_ruler, 1000)


class SimulationTests(TestCase):
    """The simulation finds what it looks for."""

    def laid(self):
        return placements_along(np.array([[0.0, 0], [8, 0]]), STARTING_RULERS, FOOT, "p")[0]

    def test_an_edge_too_far_too_near_and_over_the_line(self):
        good = self.laid()
        self.assertEqual(simulated(good, FOOT), [])
        shift = good.pose - good.stitched
        for factor, words in ((1.2, "misses"), (0.8, "presses"), (-1.0, "")):
            bad = replace(good, pose=good.stitched + shift * factor)
            found = [fault.words for fault in simulated(bad, FOOT)]
            self.assertEqual(bool(found), bool(words))
            if words:
                self.assertIn(words, found[0])
        slanted = replace(good, pose=good.pose + np.array([[0, 0], [0, 0.1]]))
        self.assertTrue(simulated(slanted, FOOT))

    def test_a_ruler_behind_the_foot_of_a_sit_down_machine(self):
        good = self.laid()
        behind = replace(good, pose=good.stitched + np.array([0, -FOOT]))
        before = replace(good, pose=good.stitched + np.array([0, FOOT]))
        self.assertEqual(simulated(behind, FOOT, "frame"), [])
        self.assertIn("behind", simulated(behind, FOOT, "sit-down")[0].words)
        self.assertEqual(simulated(before, FOOT, "sit-down"), [])
        self.assertEqual(simulated(replace(behind, turned=True), FOOT, "sit-down"), [])

    def test_the_plate_is_on_the_side_of_its_edge(self):
        good = self.laid()
        self.assertGreater(plate_of(good).area, 19)
        self.assertFalse(plate_of(good).contains(Point(4, 0)))
        self.assertAlmostEqual(radius_of(8, 2), 5.0)
