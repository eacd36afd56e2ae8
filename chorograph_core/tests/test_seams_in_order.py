"""The seams of a pass in their order: in walks, or line after line."""

from types import SimpleNamespace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.reckon import Machine, Rates
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.lines import straight_lines
from chorograph_core.route.seams_in_order import SeamOrders
from chorograph_core.route.walks import far_end
from chorograph_core.tests import examples
from chorograph_core.tests.test_walks import grid, net

CUT = 1.0


def crossing(across: int, down: int, step: float = 10.0, inside: float = 1.0):
    """Lines that cross, all of them *step* inches apart and drawn beyond each other by *inside*; with an edge
    round them, which is no seam. The ground, and which of its links are seams."""
    xs = [0.0, *(inside + step * k for k in range(across)), 2 * inside + step * (across - 1)]
    ys = [0.0, *(inside + step * k for k in range(down)), 2 * inside + step * (down - 1)]
    spots = [(x, y) for y in ys for x in xs]
    joins = [
        (r * len(xs) + c, r * len(xs) + c + 1) for r in range(len(ys)) for c in range(len(xs) - 1)
    ]
    joins += [
        (r * len(xs) + c, (r + 1) * len(xs) + c) for r in range(len(ys) - 1) for c in range(len(xs))
    ]
    ground = net(spots, joins)
    seams = [k for k, (a, b) in enumerate(joins)
             if not any(spots[a][i] == spots[b][i] and spots[a][i] in (0.0, most)
                        for i, most in ((0, xs[-1]), (1, ys[-1])))]  # fmt: skip
    return ground, seams


def lost(ground, order, laying: float, seams, reach: float = 10.0) -> float:
    """Minutes of travel and layings, told link by link."""
    network, left, price, last = ground.network, set(seams), 0.0, None
    for way in order:
        if last is not None:
            price += float(ground.prices([last], CUT, [way.entry])[0, 0])
        along, heading = 0.0, None
        for number, start in way.links:
            link = network.links[number]
            step = np.diff(link.way(start)[[0, -1]], axis=0)[0]
            if number not in left:
                price, heading = price + link.price, None
                continue
            left.discard(number)
            now = tuple(np.round(step / np.hypot(*step), 6))
            if now != heading:
                price, along, heading = price + laying, 0.0, now
            before, along = along, along + float(np.hypot(*step))
            price += laying * (
                np.ceil(along / reach - 1e-9) - max(1, np.ceil(before / reach - 1e-9))
            )
        last = way.leave
    return price


class SeamOrderTests(TestCase):
    def best(self, ground, seams, laying=7.0, effort=1, **more):
        machine = Machine(rates=Rates(ruler_move=laying), **more)
        work = SimpleNamespace(ground=ground, seams=seams)
        order = SeamOrders(machine, CUT, effort).best(work, None, None, None)
        done = [number for way in order for number, _ in way.links]
        self.assertLessEqual(set(seams), set(done))
        for way in order:
            at = way.entry
            for number, start in way.links:
                self.assertEqual(start, at)
                at = far_end(ground.network, number, start)
            self.assertEqual(way.leave, at)
        return order

    def test_lines_are_done_one_after_the_other_where_turning_off_costs_more(self):
        ground, seams = crossing(5, 4)
        for laying in (7.0, 60.0):
            order = self.best(ground, seams, laying)
            # Nine lines, each from edge to edge: none is broken, and nothing travelled but along the edge.
            self.assertEqual(len(order), 9)
            for way in order:
                steps = [ground.network.links[number].way(start) for number, start in way.links]
                self.assertEqual(np.ptp(np.concatenate(steps), axis=0).min(), 0.0)
            travel = lost(ground, order, 0.0, seams)
            fewest = Fewest(ground.network, 10.0).along(seams)
            self.assertAlmostEqual(lost(ground, order, 1.0, seams), fewest + travel)
            # Round three corners, since four would close a ring, and five times ten inches on.
            self.assertAlmostEqual(travel * 45, 3 * 2 + 5 * 10)

    def test_where_a_laying_costs_nothing_it_travels_least(self):
        ground, seams = crossing(5, 4)
        free = self.best(ground, seams, laying=0.0)
        ruled = self.best(ground, seams, laying=60.0)
        self.assertLess(lost(ground, free, 0.0, seams), lost(ground, ruled, 0.0, seams))
        self.assertLess(lost(ground, ruled, 1.0, seams), lost(ground, free, 1.0, seams))

    @settings(max_examples=examples(25), deadline=None)
    @given(some.integers(0, 100_000))
    def test_no_order_is_worse_than_line_after_line_as_they_come(self, seed):
        """Nor are any seams left, whatever is missing of a grid."""
        rng = np.random.default_rng(seed)
        ground = grid(int(rng.integers(2, 5)), int(rng.integers(2, 6)), 4.0)
        seams = np.flatnonzero(rng.random(len(ground.network.links)) < 0.7).tolist()
        if not seams:
            return
        laying = float(rng.choice([0.5, 7.0, 30.0]))
        order = self.best(ground, seams, laying)
        as_they_come = [SimpleNamespace(links=line.links, entry=line.start, leave=line.stop)
                        for line in straight_lines(ground.network, seams)]  # fmt: skip
        self.assertLessEqual(
            lost(ground, order, laying / 60, seams),
            lost(ground, as_they_come, laying / 60, seams) + 1e-6,
        )

    def test_lines_of_a_ring_begin_at_its_corners_and_a_round_one_is_whole(self):
        square = net(
            [(0, 0), (3, 0), (6, 0), (6, 6), (0, 6)], [(1, 2), (2, 3), (3, 4), (4, 0), (0, 1)]
        )
        self.assertEqual(
            sorted(len(line.links) for line in straight_lines(square.network, range(5))),
            [1, 1, 1, 2],
        )
        turn = np.linspace(0, 2 * np.pi, 80, endpoint=False)
        spots = [(3 * np.cos(t), 3 * np.sin(t)) for t in turn]
        disc = net(spots, [(k, (k + 1) % 80) for k in range(80)])
        (line,) = straight_lines(disc.network, range(80))
        self.assertTrue(line.closed)
        self.assertEqual(len(line.links), 80)

    def test_a_machine_that_shreds_one_way_is_not_led_against_it(self):
        ground, seams = crossing(3, 4, step=20.0)
        for directions, sign in (("right", 1.0), ("left", -1.0)):
            order = self.best(ground, seams, 7.0, directions=directions)
            ways = [ground.network.spots[[way.entry, way.leave]] for way in order]
            across = [float((b - a)[0]) for a, b in ways if abs((b - a)[0]) > 15]
            self.assertEqual(np.sign(across).tolist(), [sign] * 4)
