"""Lines that lean into what they leave open."""

import math
from unittest import TestCase
from unittest.mock import patch

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.drawing import drawn_safely
from chorograph_core.designs.engine.leaning import REACH, Opening, _draw_together, leaning
from chorograph_core.designs.judging import judged
from chorograph_core.designs.linework import Linework, Run, Unit
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import UGLY

APART = 0.5
FIELD = box(0, 0, 8, 6)


def to_and_fro(places, left=0.2, right=7.8):
    """One line through rows at these places down, each from edge to edge, and a unit for each row."""
    points, units = [], []
    for number, y in enumerate(places):
        ends = [left, right] if number % 2 == 0 else [right, left]
        points += [(x, y) for x in np.linspace(*ends, 40)]
        units.append(Unit(f"row {number + 1}", len(points) - 1))
    return Run(np.array(points), units=tuple(units))


def widest(run, zone=FIELD, inside=1.0):
    """The widest circle between lines, its diameter, with other eyes: spot by spot, away from the edge."""
    line = shapely.linestrings(run.points)
    x0, y0, x1, y1 = zone.bounds
    xs, ys = np.meshgrid(
        np.arange(x0 + inside, x1 - inside, 0.02), np.arange(y0 + inside, y1 - inside, 0.02)
    )
    return 2 * float(shapely.distance(shapely.points(xs.ravel(), ys.ravel()), line).max())


class TogetherTests(TestCase):
    @settings(max_examples=examples(60), deadline=None)
    @given(some.floats(0.2, 2), some.floats(1.001, 1.6), some.floats(0, 2 * math.pi))
    def test_what_bounds_it_comes_as_near_as_it_should_and_nothing_overtakes(
        self, radius, over, way
    ):
        allowed = radius / over
        opening = Opening((3.0, 2.0), radius, allowed, over)
        ray = np.array([math.cos(way), math.sin(way)])
        far = np.concatenate([[radius], np.linspace(0, 1.2 * REACH * radius, 400)])
        line = np.array([3.0, 2.0]) + far[:, None] * ray
        _draw_together(line, opening)
        now = (line - (3.0, 2.0)) @ ray
        # By hand: half of what lies between at most goes.
        share = (1 - 1 / REACH**2) ** 2
        self.assertAlmostEqual(now[0], max(allowed, radius * (1 - 0.5 * share)), 9)
        self.assertTrue((np.diff(now[1:]) > 0).all())
        beyond = far >= REACH * radius
        np.testing.assert_allclose(now[beyond], far[beyond])


class LeaningTests(TestCase):
    def test_rows_lean_into_a_gap_and_keep_their_units(self):
        places = [0.25, 0.75, 1.25, 1.75, 2.25, 3.15, 3.65, 4.15, 4.65, 5.15, 5.75]
        run = to_and_fro(places)
        self.assertAlmostEqual(widest(run), 0.9, 2)
        made = leaning(Linework((run,)), Space(FIELD), APART, 0.125)
        self.assertIsNot(made.runs[0], run)
        (leant,) = made.runs
        self.assertLess(widest(leant), 1.61 * APART)
        self.assertTrue(shapely.is_simple(shapely.linestrings(leant.points)))
        self.assertTrue(FIELD.covers(shapely.linestrings(leant.points)))
        self.assertEqual([unit.name for unit in leant.units], [unit.name for unit in run.units])
        self.assertEqual(leant.units[-1].stop, len(leant.points) - 1)
        for was, now in zip(run.units, leant.units, strict=True):
            # Rows end where they ended, give or take what they lean.
            apart = math.dist(run.points[was.stop], leant.points[now.stop])
            self.assertLess(apart, 0.1)

    def test_lines_reach_out_to_an_edge_they_kept_from(self):
        run = to_and_fro(np.arange(0.3, 5.8, APART), left=0.6, right=7.4)
        space = Space(FIELD)
        made = leaning(Linework((run,)), space, APART, 0.125)
        before, after = (_beside(space, each.points) for each in (run, made.runs[0]))
        self.assertGreater(before, 0.8 * APART)
        self.assertLessEqual(after, 0.8 * APART)

    def test_what_is_full_stays_as_it_was(self):
        made = Linework((to_and_fro(np.arange(0.25, 5.8, APART)),))
        self.assertIs(leaning(made, Space(FIELD), APART, 0.125), made)

    def test_where_something_is_missing_nothing_leans(self):
        places = [0.25, 0.75, 1.25, 3.75, 4.25, 4.75, 5.25, 5.7]
        run = to_and_fro(places)
        (made,) = leaning(Linework((run,)), Space(FIELD), APART, 0.125).runs
        before, after = (
            shapely.linestrings(each.points).intersection(box(2, 0, 6, 6)) for each in (run, made)
        )
        self.assertAlmostEqual(before.length, 4 * len(places), 9)
        self.assertLess(before.hausdorff_distance(after), 0.0015)

    def test_motifs_fill_ugly_zones_that_they_left_open(self):
        cases = [("swirls", "hourglass"), ("swirls", "holed"), ("curls", "mitred"), ("echo_fill", "star"),
                 ("breeze", "curved"), ("wavy_rows", "strip")]  # fmt: skip
        for key, name in cases:
            with self.subTest(design=key, zone=name):
                drawing, space = designs()[key], Space(UGLY[name])
                chosen = drawing.clean({})
                as_before = "chorograph_core.designs.engine.counted.leaning"
                if key == "echo_fill":
                    as_before = "chorograph_core.designs.freehand.echo_fill.leaning"
                with patch(as_before, lambda made, *_: made):
                    before, _ = drawn_safely(drawing, space, chosen, 1)
                after, fault = drawn_safely(drawing, space, chosen, 1)
                self.assertFalse(fault)
                self.assertIn("gap", judged(drawing, space, chosen, before).faults(drawing))
                self.assertEqual(judged(drawing, space, chosen, after).faults(drawing), [])

    def test_what_holds_bands_of_figures_does_not_lean(self):
        drawing = designs()["wavy_rows"]
        self.assertTrue(drawing.leans(drawing.clean({})))
        self.assertFalse(drawing.leans(drawing.clean({"band": "pebbles"})))
        self.assertFalse(designs()["clams"].leans(designs()["clams"].clean({})))


def _beside(space, points):
    """How far 19 of 20 spots along the margin are from the line."""
    (part,) = space.inset(0.125)
    rim = shapely.get_coordinates(shapely.segmentize(part.exterior, 0.1))
    return float(
        np.percentile(shapely.distance(shapely.points(rim), shapely.linestrings(points)), 95)
    )
