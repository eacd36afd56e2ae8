"""Figures scattered over a zone: turned so that one leads to the next, loops in what they leave open."""

import itertools
import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as some
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.cells import ANGLES, Cell, cells_in
from chorograph_core.designs.engine.spots import open_spots
from chorograph_core.designs.engine.turned_figures import Placed, turned_along, way_between
from chorograph_core.designs.judging import judged
from chorograph_core.designs.wander import open_way
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import UGLY

THROUGH = np.array([(-1.0, 0.0), (-0.3, 0.2), (0.3, 0.2), (1.0, 0.0)])
WIDE = box(-50, -50, 50, 50)


def arc(radius: float, begin: float, end: float, count: int = 60) -> np.ndarray:
    turn = np.linspace(begin, end, count)
    return radius * np.column_stack([np.cos(turn), np.sin(turn)])


class TurnedTests(TestCase):
    def test_along_a_straight_line_all_look_straight_on(self):
        """What goes straight through its place has no reason to be turned, wherever the line leads."""
        for quarter in range(4):
            angle = quarter * math.pi / 2
            on = np.array([math.cos(angle), math.sin(angle)])
            places = [Placed(3.0 * k * on, 1.0, (np.array([(-1.0, 0.0), (0.0, 0.0), (1.0, 0.0)]),))
                      for k in range(6)]  # fmt: skip
            lines = turned_along(places, angle + math.pi, angle, WIDE)
            for k, line in enumerate(lines):
                np.testing.assert_allclose(line[0], (3 * k - 1) * on, atol=1e-9)
                np.testing.assert_allclose(line[-1], (3 * k + 1) * on, atol=1e-9)

    def test_round_a_circle_all_look_along_it(self):
        middles = arc(6.0, 0, 1.5 * math.pi, 10)
        places = [Placed(middle, 1.0, (THROUGH,)) for middle in middles]
        lines = turned_along(places, -math.pi / 2, 0.0, WIDE)
        for middle, line in list(zip(middles, lines, strict=True))[1:-1]:
            along = np.array([-middle[1], middle[0]]) / 6
            self.assertGreater(float((line[-1] - line[0]) @ along) / 2, math.cos(math.radians(22)))

    @settings(max_examples=examples(20), deadline=None)
    @given(some.integers(0, 10_000), some.integers(1, 9), some.booleans())
    def test_a_figure_keeps_its_shape_and_its_place(self, seed, count, free):
        """Turned or as it is, never mirrored, as large as its place says."""
        rng = np.random.default_rng(seed)
        stroke = rng.uniform(-0.7, 0.7, (7, 2))
        places = [Placed(middle, float(rng.uniform(0.3, 2)), (stroke,), free)
                  for middle in rng.uniform(0, 20, (count, 2))]  # fmt: skip
        lines = turned_along(places, 0.0, 1.0, WIDE)
        self.assertEqual(len(lines), count)
        for place, line in zip(places, lines, strict=True):
            laid = (line - place.middle) / place.radius
            if not free:
                np.testing.assert_allclose(laid, stroke, atol=1e-9)
                continue
            was, now = (each @ np.array([1, 1j]) for each in (stroke, laid))
            turn = now[0] / was[0]
            self.assertAlmostEqual(abs(turn), 1.0)
            np.testing.assert_allclose(now, was * turn, atol=1e-9)

    def test_ways_pass_by_what_lies_between(self):
        """Two figures with a third between them that comes later: the way goes round that."""
        middles = [(0.0, 0.0), (6.0, 0.0), (3.0, 0.0), (3.0, 4.0)]
        places = [Placed(np.array(middle), 1.0, (THROUGH,)) for middle in middles]
        lines = turned_along(places, math.pi, math.pi / 2, WIDE)
        way = LineString(np.vstack([lines[0][-1:], way_between(*lines[:2]), lines[1][:1]]))
        self.assertGreater(way.distance(Point(3, 0)), 0.8)

    @settings(max_examples=examples(30), deadline=None)
    @given(
        some.floats(0.2, 20),
        some.floats(0.1, 1.25),
        some.floats(0, 6.28),
        some.sampled_from((1, -1)),
    )
    def test_between_two_tangents_of_a_circle_a_way_is_its_arc(self, radius, half, begin, sense):
        """Of nearly half a circle, within a fiftieth of the radius; farther round it would swing out too
        far."""
        before = arc(radius, begin - sense * 0.02, begin, 3)
        after = arc(radius, begin + sense * 2 * half, begin + sense * (2 * half + 0.02), 3)
        way = way_between(before, after)
        off = np.abs(np.hypot(*way.T) - radius).max()
        self.assertLess(off, 0.02 * radius)


class SpotTests(TestCase):
    @settings(max_examples=examples(15), deadline=None)
    @given(some.sampled_from(sorted(set(UGLY) - {"tiny", "sliver"})), some.integers(0, 100),
           some.floats(1.0, 2.5))  # fmt: skip
    def test_loops_lie_where_it_is_open_and_nothing_large_stays_open(self, name, seed, size):
        part = UGLY[name].buffer(-0.125)
        for piece in shapely.get_parts(part):
            cells = cells_in(piece, size, 0.12 * size, np.random.default_rng(seed), 0.7)
            tip, least, most, apart = (share * size for share in (0.08, 0.13, 0.22, 0.1))
            found = open_spots(piece, cells, 0.9, (tip, least, most), apart)
            taken = [(cell.middle, 0.9 * cell.narrowest) for cell in cells]
            loops = [(cell.middle, cell.narrowest) for cell in found]
            self.assertTrue(all(cell.spare for cell in found))
            for middle, radius in loops:
                self.assertTrue(tip - 1e-9 <= radius <= most + 1e-9)
                self.assertGreater(piece.exterior.distance(Point(middle)), radius - 1e-6)
                self.assertTrue(piece.contains(Point(middle)))
            for (one, a), (two, b) in itertools.product(loops, taken):
                self.assertGreater(math.dist(one, two) - a - b, 0.97 * apart)
            for (one, a), (two, b) in itertools.combinations(loops, 2):
                self.assertGreater(math.dist(one, two) - a - b, 0.97 * apart)
            # Nowhere is there room for one more.
            x0, y0, x1, y1 = piece.bounds
            spots = np.column_stack([each.ravel() for each in np.meshgrid(
                np.linspace(x0, x1, 40), np.linspace(y0, y1, 40))])  # fmt: skip
            spots = spots[shapely.contains_xy(piece, *spots.T)]
            room = shapely.distance(shapely.points(spots), piece.boundary)
            for middle, radius in (*taken, *loops):
                room = np.minimum(room, np.hypot(*(spots - middle).T) - radius - apart)
            self.assertLess(room.max(initial=0.0), 1.1 * least)

    def test_no_room_no_loop(self):
        cell = Cell(np.array([2.0, 2.0]), np.full(ANGLES, 2.0))
        self.assertEqual(open_spots(box(0, 0, 4, 4), [cell], 1.0, (0.5, 0.6, 1.0), 0.1), [])
        self.assertEqual(len(open_spots(box(0, 0, 4, 4), [cell], 1.0, (0.2, 0.6, 1.0), 0.1)), 4)


class ScatteredTests(TestCase):
    def test_stars_and_own_figures_fill_to_the_tips(self):
        """To every corner, to the edge, without a gap, in one line for a zone."""
        for key, name in itertools.product(
            ("stars_and_loops", "own_figure"), ("triangle", "star", "bent")
        ):
            drawing, space = designs()[key], Space(UGLY[name])
            with self.subTest(f"{key} {name}"):
                made = drawing.draw(space, {}, 1)
                self.assertEqual(
                    judged(drawing, space, drawing.clean({}), made).faults(drawing), []
                )

    def test_upright_figures_are_not_turned(self):
        """The stroke as it was drawn, as large as its place: found again in the line."""
        drawing = designs()["own_figure"]
        stroke = "-0.9,0 -0.2,-0.8 0,0.6 0.9,0"
        made = drawing.draw(Space(box(0, 0, 8, 8)), {"stroke": stroke, "upright": "up"}, 1)
        line = shapely.linestrings(made.runs[0].points)
        upright = 0
        for start in made.runs[0].points:
            for radius in np.linspace(0.4, 1.0, 25):
                laid = start + radius * (np.array([(-0.2, -0.8), (0, 0.6)]) - (-0.9, 0))
                upright += bool((shapely.distance(shapely.points(laid), line) < 0.04).all())
                if upright:
                    break
        self.assertGreater(upright, 5)

    def test_as_many_loops_as_are_asked_for_lie_between_stars(self):
        """More loops to a star, fewer stars: of eight corners none is rounded."""
        drawing = designs()["stars_and_loops"]
        corners = []
        for loops in (0, 1, 3):
            made = drawing.draw(Space(box(0, 0, 10, 10)), {"loops": loops}, 1)
            (run,) = made.runs
            legs = np.diff(run.points, axis=0)
            legs = legs[np.hypot(*legs.T) > 0.3]
            turn = np.arctan2(legs[:-1, 0] * legs[1:, 1] - legs[:-1, 1] * legs[1:, 0],
                              (legs[:-1] * legs[1:]).sum(axis=1))  # fmt: skip
            corners.append(int((np.abs(turn) > 2.0).sum()))
        self.assertGreater(corners[0], 1.5 * corners[1])
        self.assertGreater(corners[1], 1.5 * corners[2])
        self.assertGreater(corners[2], 0)


class LoopTests(TestCase):
    def test_where_a_zone_narrows_loops_are_smaller_by_half_at_most(self):
        """Down a funnel they grow smaller as it does, and stop where a hand would not fit one in."""
        drawing = designs()["loops"]
        funnel = Polygon([(0, 0), (6, 0), (3.5, 6), (3.3, 12), (2.7, 12), (2.5, 6)])
        made = drawing.draw(Space(funnel), {"spacing": 1.5, "size": 0.5}, 1)
        (run,) = made.runs
        loops = shapely.polygonize(
            [shapely.union_all([shapely.linestrings(run.points)], grid_size=1e-4)]
        )
        rounds = [
            each for each in shapely.get_parts(loops)
            if 4 * math.pi * each.area > 0.75 * each.length**2 and each.area > 0.02
        ]  # fmt: skip
        across = {each.centroid.y: 2 * math.sqrt(each.area / math.pi) for each in rounds}
        wide = [inches for y, inches in across.items() if y < 3]
        narrow = [inches for y, inches in across.items() if y > 7]
        self.assertTrue(narrow)
        self.assertLess(max(narrow), 0.85 * max(wide))
        self.assertGreater(min(narrow), 0.4 * max(wide))

    def test_no_part_of_a_zone_is_left_without(self):
        """A bent strip and one with teeth: no gap, to the edge, into the corners."""
        drawing = designs()["loops"]
        teeth = Polygon([(0, 0), (6, 0), (6, 1.2), (4.5, 0.9), (4, 2.2), (2.6, 2), (2.4, 3.6), (1.2, 3.4),
                         (1.4, 5), (0.6, 5), (1.2, 6), (0, 6)])  # fmt: skip
        for name, shape in (("bent", UGLY["bent"]), ("curved", UGLY["curved"]), ("teeth", teeth)):
            space = Space(shape)
            faults = judged(drawing, space, drawing.clean({}), drawing.draw(space, {}, 1)).faults(
                drawing
            )
            with self.subTest(name):
                self.assertFalse({"gap", "edge", "corners"} & set(faults))


class WayTests(TestCase):
    @settings(max_examples=examples(20), deadline=None)
    @given(some.integers(0, 10_000), some.integers(4, 40))
    @example(95, 36)
    def test_nothing_put_elsewhere_makes_an_open_way_shorter(self, seed, count):
        """One to three places that follow each other, put between any two others, either way round."""
        points = np.random.default_rng(seed).uniform(0, 10, (count, 2))
        order = open_way(points, box(-1, -1, 11, 11))
        self.assertEqual(sorted(order), list(range(count)))

        def inches(way: list[int]) -> float:
            return float(np.hypot(*np.diff(points[way], axis=0).T).sum())

        here = inches(order)
        for long in (1, 2, 3):
            for i in range(count - long + 1):
                some_, rest = order[i : i + long], order[:i] + order[i + long :]
                for k in range(len(rest) + 1):
                    for part in (some_, some_[::-1]):
                        self.assertGreater(inches(rest[:k] + part + rest[k:]), here - 1e-6)

    def test_in_a_bent_zone_a_way_keeps_inside(self):
        bent = Polygon([(0, 0), (12, 0), (12, 2), (2, 2), (2, 12), (0, 12)])
        spots = np.array([(1, y) for y in (11, 8, 5)] + [(x, 1) for x in (1, 4, 7, 10)], float)
        order = open_way(spots[[3, 0, 5, 1, 6, 2, 4]], bent)
        self.assertTrue(bent.covers(LineString(spots[[3, 0, 5, 1, 6, 2, 4]][order])))
