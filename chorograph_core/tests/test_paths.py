"""Paths through a place: what is offered for its ditches, one way and backwards."""

from types import SimpleNamespace
from unittest import TestCase

import numpy as np
from shapely.geometry import box

from chorograph_core.route.bundles import Bundle, sorted_alike
from chorograph_core.route.ditch_paths import Laying
from chorograph_core.route.paths import find_paths
from chorograph_core.rulers import Reach
from chorograph_core.tests.test_walks import net

CUT = 1.0


class IslandTests(TestCase):
    def two_rings(self):
        """Two squares, two inches apart, and a seam that leads to the far one from the left."""
        spots = [(4 * k + x, y) for k in range(2) for x, y in ((0, 0), (2, 0), (2, 2), (0, 2))]
        rings = [(4 * k + a, 4 * k + (a + 1) % 4) for k in range(2) for a in range(4)]
        ground = net([*spots, (-3, 0)], [*rings, (1, 4), (8, 0)])
        station = SimpleNamespace(key="s", middle=np.array([3.0, 1.0]), shape=box(0, 0, 6, 2))
        return ground, Bundle(ground.network, station, (), tuple(range(8)))

    def test_who_comes_back_does_the_far_ring_on_the_way_round_the_near_one(self):
        ground, bundle = self.two_rings()
        ((_, lies),) = [(k, how) for members in sorted_alike([bundle]) for k, how in members]
        for effort in (0, 2):
            with self.subTest(effort=effort):
                made = find_paths([bundle], [lies], [ground], CUT, effort)
                back = [way for way in made.options[0] if way.entry == way.leave]
                best = min(back, key=lambda way: way.price)
                # There and back, two inches each; every side of both rings once.
                self.assertAlmostEqual(best.price, 4 / 45, places=5)
                moves, same = best.laid()
                gone = [link for move in moves for link, _ in move.links]
                self.assertTrue(same)
                self.assertEqual(sorted(gone), [*range(8), 8, 8])
                over = [way for way in made.options[0] if way.entry != way.leave]
                self.assertTrue(over, "the one first, then the other, is offered as well")

    def test_paths_are_numbered_each_by_itself(self):
        ground, bundle = self.two_rings()
        lies = sorted_alike([bundle])[0][0][1]
        made = find_paths([bundle], [lies], [ground], CUT, 2)
        prices: dict[int, set[float]] = {}
        for way in made.options[0]:
            prices.setdefault(way.path, set()).add(way.price)
        self.assertTrue(all(len(each) == 1 for each in prices.values()))


class DoorsTests(TestCase):
    """From which end to which other: more than one way, each over all of it."""

    def ways(self, spots, links, asked, shape):
        ground = net(spots, links)
        middle = np.array(shape.centroid.coords[0])
        station = SimpleNamespace(key="s", middle=middle, shape=shape)
        bundle = Bundle(ground.network, station, (), tuple(asked))
        lies = sorted_alike([bundle])[0][0][1]
        made = find_paths([bundle], [lies], [ground], CUT, 1)
        long = [float(np.hypot(*np.subtract(spots[a], spots[b]))) for a, b in links]
        for way in made.options[0]:
            gone = [link for move in way.laid()[0] for link, _ in move.links]
            self.assertLessEqual(set(asked), set(gone))
            travel = sum(long[link] for link in gone) - sum(long[link] for link in asked)
            self.assertAlmostEqual(way.price, travel / 45, places=5)
        return {(way.entry, way.leave): way.price for way in made.options[0]}

    def test_three_lines_that_hang_together_only_by_the_sides(self):
        spots = [(0, 0), (6, 0), (0, 2), (6, 2), (0, 4), (6, 4)]
        links = [(0, 1), (2, 3), (4, 5), (0, 2), (2, 4), (1, 3), (3, 5)]
        ways = self.ways(spots, links, range(3), box(0, 0, 6, 4))
        # To and fro, two inches from line to line; or the middle one first, and by the others home.
        self.assertAlmostEqual(ways[0, 5], 4 / 45, places=5)
        self.assertAlmostEqual(ways[2, 5], 6 / 45, places=5)
        self.assertEqual({entry for entry, _ in ways}, set(range(6)))

    def test_a_comb_with_more_ends_than_are_looked_at(self):
        spots = [(x, 0) for x in range(8)] + [(x, 2) for x in range(1, 7)]
        links = [(x, x + 1) for x in range(7)] + [(x, 7 + x) for x in range(1, 7)]
        ways = self.ways(spots, links, range(13), box(0, 0, 7, 2))
        self.assertGreater(len(ways), 2)
        # From end to end every tooth is gone up and down; begun or ended on one, once less.
        self.assertLessEqual(min(ways.values()), 12 / 45 + 1e-6)


class BackwardsTests(TestCase):
    def test_what_is_gone_over_twice_is_stitched_the_first_time(self):
        """A line of four inches with a stub in its middle. Who begins on the stub goes to one end of the
        line, back, and to the other: three layings. Who ends on the stub has stitched the line in one."""
        ground = net([(-2, 0), (0, 0), (2, 0), (0, 2)], [(0, 1), (1, 2), (1, 3)])
        station = SimpleNamespace(key="s", middle=np.array([0.0, 1.0]), shape=box(-2, 0, 2, 2))
        bundle = Bundle(ground.network, station, (), (0, 1, 2))
        lies = sorted_alike([bundle])[0][0][1]
        made = find_paths([bundle], [lies], [ground], CUT, 2, laying=Laying(0.1, Reach(8.0)))
        ways = {(way.entry, way.leave): way for way in made.options[0]}
        for end in (0, 2):
            with self.subTest(end=end):
                there, back = ways[3, end], ways[end, 3]
                self.assertEqual(self.lines(bundle, there), 3)
                self.assertEqual(self.lines(bundle, back), 2)
                self.assertAlmostEqual(there.price - back.price, 0.1)
                self.assertAlmostEqual(back.price, 2 / 45, places=6)

    def lines(self, bundle, way) -> int:
        """How often a straight line is begun, of what is stitched for the first time."""
        spots, count, left, heading = bundle.network.spots, 0, set(bundle.links), None
        for number, start in (link for move in way.laid()[0] for link in move.links):
            (stop,) = set(bundle.network.ends[number].tolist()) - {start}
            along = spots[stop] - spots[start]
            along = along / np.hypot(*along)
            if number in left:
                count += heading is None or not np.allclose(heading, along)
            heading = along if number in left else None
            left.discard(number)
        return count
