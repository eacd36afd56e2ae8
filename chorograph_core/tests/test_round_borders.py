"""What goes all round a border, laid over all its sides as one: it ends where it began."""

from unittest import TestCase

import numpy as np
from shapely.geometry import LineString, Point, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.drawing import fit_of
from chorograph_core.designs.engine.along import by_hand
from chorograph_core.tests.test_guides import crossed

WIDE = 5.0
BORDERS = [
    box(0, 0, wide, high).difference(box(WIDE, WIDE, wide - WIDE, high - WIDE))
    for wide, high in ((40, 40), (38, 55), (41.3, 30.7))
]
DISC = Point(0, 0).buffer(14).difference(Point(0, 0).buffer(10))


def sides_of(border, inches: float):
    """The middles of the four sides, with so much of the border to either side of them."""
    x0, y0, x1, y1 = border.bounds
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    return [
        box(x - inches, y0, x + inches, y0 + WIDE), box(x1 - WIDE, y - inches, x1, y + inches),
        box(x - inches, y1 - WIDE, x + inches, y1), box(x0, y - inches, x0 + WIDE, y + inches),
    ]  # fmt: skip


def corners_of(border):
    """The squares in the four corners."""
    x0, y0, x1, y1 = border.bounds
    return [box(x, y, x + WIDE, y + WIDE) for x in (x0, x1 - WIDE) for y in (y0, y1 - WIDE)]


class RoundBorderTests(TestCase):
    def closes(self, key, border, settings, seed):
        (run,) = designs()[key].draw(Space(border), settings, seed).runs
        self.assertTrue(run.closed)
        self.assertEqual(run.points[0].tolist(), run.points[-1].tolist())
        self.assertTrue(border.buffer(0.02).covers(LineString(run.points)))
        return run

    def test_swirls_in_the_corners_and_home(self):
        """Something round in every corner, swings on every side; the last corner leads to the first side."""
        for border in BORDERS:
            for key, settings in (
                ("u_swing", {}), ("u_swing", {"lenses": "half"}), ("ribbon_candy", {}),
                ("cursive_loops", {}), ("wishbone", {}), ("figure_eights", {}),
            ):  # fmt: skip
                with self.subTest(key, settings=settings, border=border.bounds):
                    run = self.closes(key, border, settings, 3)
                    line = LineString(run.points)
                    for corner in corners_of(border):
                        self.assertGreater(line.intersection(corner).length, 3 * WIDE)
                    for side in sides_of(border, WIDE):
                        self.assertGreater(line.intersection(side).length, 2 * WIDE)

    def test_swings_that_go_round_corners_end_on_the_side_they_began(self):
        for border in (*BORDERS, DISC):
            for seed in range(4):
                with self.subTest(border=border.bounds, seed=seed):
                    run = self.closes("u_swing", border, {"corners": "round", "loose": 0.6}, seed)
                    self.assertEqual(len(run.units) % 2, 0)
                    self.assertEqual(crossed(run.points[:-1]), 0)

    def test_a_vine_goes_all_round_with_leaves_on_both_sides_of_its_stem(self):
        vine = designs()["leaf_vine"]
        for border in BORDERS:
            with self.subTest(border=border.bounds):
                space = Space(border)
                settings = vine.proposed(space)
                self.assertGreater(fit_of(vine, space, settings).score, 0.7)
                run = self.closes("leaf_vine", border, vars(settings), 1)
                line = LineString(run.points)
                for side in sides_of(border, WIDE):
                    self.assertGreater(line.intersection(side).length, 8 * WIDE)
                x0, y0, x1, y1 = border.bounds
                half = WIDE / 2
                inner = box(x0 + half, y0 + half, x1 - half, y1 - half)
                within = line.intersection(inner).length / line.length
                self.assertTrue(0.3 < within < 0.7, within)

    def test_a_loose_hand_comes_out_where_it_began(self):
        """By hand: what is moved along at the last unit is not moved; in the middle it is."""
        u = np.linspace(0, 12, 1201)
        v = np.cos(np.pi * u)
        for seed in range(20):
            along, across = by_hand(u, v, 1.0, seed, 12)
            self.assertEqual((along[0], along[-1]), (0.0, 12.0))
            self.assertAlmostEqual(across[0], across[-1], places=12)
            self.assertGreater(np.abs(along - u).max(), 0.02)
