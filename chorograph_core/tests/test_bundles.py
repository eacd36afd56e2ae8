"""How alike bundles lie on each other: every turn that fits, and what falls on what."""

from types import SimpleNamespace
from unittest import TestCase

import numpy as np
from shapely.geometry import box

from chorograph_core.route.bundles import TURNS, Bundle, sorted_alike
from chorograph_core.tests.test_walks import net

SQUARE = [(0, 0), (4, 0), (4, 4), (0, 4), (2, 2)]
RING = [(0, 1), (1, 2), (2, 3), (3, 0)]


def two(links: list[tuple[int, int]], turn: np.ndarray):
    """A square with these *links* between its corners (0 to 3) and its middle (4), and another ten inches on
    that lies *turn*ed about its middle, its nodes and links numbered the other way round."""
    there = [tuple(turn @ (np.array(spot) - 2.0) + (12.0, 2.0)) for spot in SQUARE]
    others = [(9 - a, 9 - b) for a, b in reversed(links)]
    ground = net([*SQUARE, *reversed(there)], [*links, *others])
    count = len(links)
    stations = [SimpleNamespace(key=str(x), middle=np.array([x, 2.0]), shape=box(x - 2, 0, x + 2, 4))
                for x in (2.0, 12.0)]  # fmt: skip
    return [Bundle(ground.network, stations[k], (), tuple(range(k * count, (k + 1) * count)))
            for k in (0, 1)]  # fmt: skip


class AllWaysTests(TestCase):
    def test_as_many_ways_as_the_shape_falls_on_itself_by_and_each_lies_where_it_says(self):
        shapes = {
            "square": (RING, 8),
            "one spoke": ([*RING, (0, 4)], 2),
            "two spokes": ([*RING, (0, 4), (4, 2)], 4),
            "hook": ([(0, 1), (1, 2), (2, 4)], 1),
        }
        for name, (links, many) in shapes.items():
            for number, turn in enumerate(TURNS):
                with self.subTest(name=name, turn=number):
                    one, other = two(links, turn)
                    ((first, second),) = sorted_alike([one, other])
                    self.assertEqual((len(first[1]), len(second[1])), (many, many))
                    self.assertEqual(len({way.turn.tobytes() for way in second[1]}), many)
                    self.assertTrue(any(np.array_equal(way.turn, turn) for way in second[1]))
                    for way in second[1]:
                        self.lies(one, other, way)

    def lies(self, one, other, way):
        spots = one.network.spots
        here, there = map(list, zip(*way.nodes.items(), strict=True))
        moved = way.moved(spots[here], one.station, other.station)
        np.testing.assert_allclose(moved, spots[there], atol=1e-9)
        self.assertEqual(set(way.links), set(one.links))
        self.assertEqual(set(way.links.values()), set(other.links))
        for mine, theirs in way.links.items():
            ends = {way.nodes[int(node)] for node in one.network.ends[mine]}
            self.assertEqual(ends, set(one.network.ends[theirs].tolist()))

    def test_what_is_mirrored_nowhere_is_not_alike(self):
        one, other = two([*RING, (0, 4)], TURNS[0])
        less = Bundle(other.network, other.station, (), other.links[1:])
        self.assertEqual([len(each) for each in sorted_alike([one, less])], [1, 1])
