"""Walks through ditches: every one once, at least travel, straight on."""

import itertools
import math
from itertools import combinations, pairwise
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.route.fewest import Fewest
from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Link, Network, joined
from chorograph_core.route.pairing import (
    _half_assignment,
    _match,
    islands_bound,
    pair_ends,
    pairing_bound,
    pairing_bound_leaving,
    pairs_within,
)
from chorograph_core.route.walks import (
    STRAIGHT,
    far_end,
    islands_of,
    layings_of,
    odd_nodes,
    straight_walks,
    turn_between,
)
from chorograph_core.rulers import count_placements
from chorograph_core.tests import examples


def net(spots, joins, price=1 / 45) -> Ground:
    """A ground of straight ditches between *spots* (x, y), joined as said by number."""
    network = Network()
    for spot in spots:
        network.add_node(spot)
    for a, b in joins:
        points = np.array([network.nodes[a], network.nodes[b]])
        inches = float(np.hypot(*(points[1] - points[0])))
        network.add_link(Link(a, b, points, inches, "ditch", inches * price, "t"))
    network.settle()
    return Ground(network, range(len(network.links)))


def grid(rows: int, columns: int, step: float = 2.0) -> Ground:
    """A net of ditches, *rows* by *columns* nodes."""
    spots = [(c * step, r * step) for r in range(rows) for c in range(columns)]
    joins = [
        (r * columns + c, r * columns + c + 1) for r in range(rows) for c in range(columns - 1)
    ]
    joins += [
        (r * columns + c, (r + 1) * columns + c) for r in range(rows - 1) for c in range(columns)
    ]
    return net(spots, joins)


def lost(ground: Ground, walks, required, cut: float) -> float:
    """Travel and cuts of some walks, the first start left out."""
    network = ground.network
    gone = sum(network.links[n].price for walk in walks for n, _ in walk.links)
    return gone - sum(network.links[n].price for n in required) + (len(walks) - 1) * cut


def every_pairing(pairs, count: int, cut: float) -> float:
    """The least that joining odd nodes costs, two of them being the ends of the walk."""

    def best(rest):
        if not rest:
            return 0.0
        first, others = rest[0], rest[1:]
        return min(
            [cut / 2 + best(others)]
            + [
                pairs.get((first, b), cut) + best(tuple(o for o in others if o != b))
                for b in others
            ]
        )

    everyone = tuple(range(count))
    return min(
        best(tuple(o for o in everyone if o not in two)) for two in combinations(everyone, 2)
    )


class PairingTests(TestCase):
    def test_against_every_pairing_of_small_nets(self):
        for rows, columns, cut in ((3, 3, 1.0), (3, 4, 0.5), (2, 5, 0.06), (3, 4, 9.0)):
            ground = grid(rows, columns)
            odd = odd_nodes(ground.network, range(len(ground.network.links)))
            pairs = pairs_within(ground, odd, cut)
            exact = every_pairing(pairs, len(odd), cut)
            walks = straight_walks(ground, range(len(ground.network.links)), cut)
            with self.subTest(rows=rows, columns=columns, cut=cut):
                self.assertAlmostEqual(pairing_bound(pairs, len(odd), cut), exact, places=5)
                self.assertAlmostEqual(
                    lost(ground, walks, range(len(ground.network.links)), cut), exact, places=5
                )

    def test_a_star_of_three_odd_leaves(self):
        """The best pairing goes past the odd middle: leaf to leaf, and the middle with the third."""
        ground = net([(0, 0), (3, 0), (-3, 1), (-3, -1)], [(0, 1), (0, 2), (0, 3)])
        odd = odd_nodes(ground.network, range(3))
        self.assertEqual(len(odd), 4)
        pairs = pairs_within(ground, odd, 1.0)
        self.assertEqual(len(pairs), 6)
        self.assertAlmostEqual(pairing_bound(pairs, 4, 1.0), every_pairing(pairs, 4, 1.0), places=6)

    @given(some.integers(0, 2**30))
    @settings(max_examples=examples(60), deadline=None)
    def test_what_leads_on_from_the_last_end_counts_with_the_pairing(self, seed):
        """Against all ways to pair some ends and leave the others alone: one of those is the beginning, from
        one it goes on, those between are cuts; of a closed walk one goes on from anywhere."""
        rng = np.random.default_rng(seed)
        count, cut = 2 * int(rng.integers(1, 4)), 1.0
        table = rng.random((count, count)) * 1.3
        pairs = {(i, j): float(table[i, j]) for i in range(count) for j in range(i + 1, count)
                 if table[i, j] < cut}  # fmt: skip
        leaving = np.minimum(rng.random(count) * 1.2, cut)
        anywhere = float(leaving.min() * rng.random())

        def ways(left, spent, alone):
            if not left:
                if alone:
                    yield spent + (len(alone) / 2 - 1) * cut + min(leaving[k] for k in alone)
                else:
                    yield spent + anywhere
                return
            first, rest = left[0], left[1:]
            yield from ways(rest, spent, (*alone, first))
            for other in rest:
                if (first, other) in pairs:
                    others = tuple(k for k in rest if k != other)
                    yield from ways(others, spent + pairs[first, other], alone)

        found = pairing_bound_leaving(pairs, count, cut, leaving, anywhere)
        self.assertAlmostEqual(found, min(ways(tuple(range(count)), 0.0, ())), places=5)
        nothing = pairing_bound_leaving(pairs, count, cut, np.zeros(count), 0.0)
        self.assertAlmostEqual(nothing, pairing_bound(pairs, count, cut), places=5)

    def test_windows_and_half_assignment_hold_the_exact_pairing_between_them(self):
        ground = grid(14, 14)
        odd = odd_nodes(ground.network, range(len(ground.network.links)))
        pairs = pairs_within(ground, odd, 1.0)
        mates = _match(range(len(odd)), pairs, 1.0)
        exact = sum(pairs[pair] for pair in mates) + (len(odd) - 2 * len(mates)) / 2
        self.assertLessEqual(_half_assignment(pairs, len(odd), 1.0), exact + 1e-6)
        with_windows = pair_ends(pairs, len(odd), 1.0, ground.network.spots[odd])
        self.assertEqual(len({n for pair in with_windows for n in pair}), 2 * len(with_windows))

    def test_islands_cost_what_leads_from_one_to_another(self):
        # Three squares in a row, 4 apart, joined by seams that need no stitching.
        spots, joins = [], []
        for k in range(3):
            first = len(spots)
            spots += [(6 * k, 0), (6 * k + 2, 0), (6 * k + 2, 2), (6 * k, 2)]
            joins += [
                (first, first + 1),
                (first + 1, first + 2),
                (first + 2, first + 3),
                (first + 3, first),
            ]
        bare = [(1, 4), (5, 8)]
        ground = net(spots, [*joins, *bare])
        required = range(len(joins))
        islands = islands_of(ground.network, required)
        self.assertEqual(len(islands), 3)
        self.assertAlmostEqual(islands_bound(ground, islands, 1.0), 8 / 45, places=6)
        self.assertAlmostEqual(islands_bound(ground, islands, 0.05), 0.1, places=6)
        self.assertEqual(islands_bound(ground, islands[:1], 1.0), 0.0)


class WalkTests(TestCase):
    def check(self, ground: Ground, required, walks) -> None:
        seen = [number for walk in walks for number, _ in walk.links]
        self.assertTrue(set(required) <= set(seen))
        for walk in walks:
            self.assertEqual(walk.links[0][1], walk.start)
            self.assertEqual(far_end(ground.network, *walk.links[-1]), walk.stop)
            for (number, start), (_, then) in pairwise(walk.links):
                self.assertEqual(far_end(ground.network, number, start), then)

    @settings(max_examples=examples(40), deadline=None)
    @given(
        some.integers(2, 5), some.integers(2, 5), some.integers(0, 2**30), some.floats(0.05, 2.0),
        some.booleans(),
    )  # fmt: skip
    def test_any_part_of_a_net_is_walked_once_and_never_below_the_floor(
        self, rows, columns, seed, cut, over
    ):
        ground = grid(rows, columns)
        rng = np.random.default_rng(seed)
        count = len(ground.network.links)
        required = sorted(
            rng.choice(count, int(rng.integers(1, count + 1)), replace=False).tolist()
        )
        walks = straight_walks(ground, required, cut, over=over)
        self.check(ground, required, walks)
        odd = odd_nodes(ground.network, required)
        bound = max(
            pairing_bound(pairs_within(ground, odd, cut), len(odd), cut),
            islands_bound(ground, islands_of(ground.network, required), cut),
        )
        self.assertLessEqual(bound, lost(ground, walks, required, cut) + 1e-6)

    def test_a_hand_goes_straight_on(self):
        """In a net of eight by eight lines no more turns than the edge needs: those at crossings."""
        ground = grid(8, 8)
        walks = straight_walks(ground, range(len(ground.network.links)), 5.0)
        self.assertEqual(len(walks), 1)
        walk = walks[0]
        turns = sum(
            turn_between(ground.network, one, two) > STRAIGHT for one, two in pairwise(walk.links)
        )
        # Fourteen lines and the ways along the edge that pair their ends: two turns each and few more.
        self.assertLessEqual(turns, 34)

    def test_closed_walks_are_joined_where_they_meet(self):
        # Two squares that share a corner: one walk, not two.
        spots = [(0, 0), (2, 0), (2, 2), (0, 2), (4, 2), (4, 4), (2, 4)]
        ground = net(spots, [(0, 1), (1, 2), (2, 3), (3, 0), (2, 4), (4, 5), (5, 6), (6, 2)])
        walks = straight_walks(ground, range(8), 1.0)
        self.assertEqual(len(walks), 1)
        self.assertTrue(walks[0].closed)

    def test_an_island_is_done_on_the_way_round_another(self):
        """Three squares in a row, joined by seams that need no stitching: there from the one before, round
        it, and back."""
        spots = [(6 * k + x, y) for k in range(3) for x, y in ((0, 0), (2, 0), (2, 2), (0, 2))]
        rings = [(4 * k + a, 4 * k + (a + 1) % 4) for k in range(3) for a in range(4)]
        ground = net(spots, [*rings, (1, 4), (5, 8)])
        apart = straight_walks(ground, range(12), 1.0)
        self.assertEqual(len(apart), 3)
        (walk,) = straight_walks(ground, range(12), 1.0, over=True)
        self.check(ground, range(12), [walk])
        self.assertTrue(walk.closed)
        self.assertAlmostEqual(lost(ground, [walk], range(12), 1.0), 4 * 4 / 45, places=6)
        # Where going there and back is dearer than a cut it is not done.
        self.assertEqual(len(straight_walks(ground, range(12), 0.15, over=True)), 3)
        # Islands that are joined by the way between two ends are no islands.
        lines = net([(0, 0), (4, 0), (6, 0), (9, 0)], [(0, 1), (2, 3), (1, 2)])
        (walk,) = straight_walks(lines, (0, 1), 1.0, over=True)
        self.assertAlmostEqual(lost(lines, [walk], (0, 1), 1.0), 2 / 45, places=6)

    def test_the_fewest_layings_follow_from_the_lines(self):
        # Five lines of 8 inches across and five down; a ruler of 10 does each at once, one of 5 in two.
        ground = grid(5, 5)
        required = range(len(ground.network.links))
        self.assertEqual(Fewest(ground.network, 10.0).along(required), 10)
        self.assertEqual(Fewest(ground.network, 5.0).along(required), 20)

    def test_a_corner_between_long_legs_is_a_laying_more(self):
        # Fifteen degrees between legs of three inches; legs of half an inch draw a curve there.
        for leg, layings in ((3.0, 2), (0.5, 1)):
            turned = (leg + leg * math.cos(0.26), leg * math.sin(0.26))
            ground = net([(0, 0), (leg, 0), turned], [(0, 1), (1, 2)])
            self.assertEqual(Fewest(ground.network, 10.0).along((0, 1)), layings)
            network = Network()
            for spot in ((0, 0), turned):
                network.add_node(spot)
            network.add_link(
                Link(0, 1, np.array([(0, 0), (leg, 0), turned]), 2 * leg, "ditch", 0.1, "t")
            )
            network.settle()
            self.assertEqual(Fewest(network, 10.0).along((0,)), layings)

    @settings(max_examples=examples(80), deadline=None)
    @given(some.integers(0, 10_000), some.integers(1, 7), some.sampled_from([4.0, 10.0]))
    def test_no_way_of_walking_a_line_lays_the_ruler_less_often(self, seed, count, reach):
        """Any line of links, straight, bent or curved, walked in pieces from either end."""
        rng = np.random.default_rng(seed)
        network, at, heading = Network(), np.zeros(2), 0.0
        network.add_node(at)
        for k in range(count):
            points = [at]
            turn = float(rng.choice([0.0, 0.05, 0.2, 0.4, 0.9, 1.6])) * float(rng.choice([-1, 1]))
            for _ in range(int(rng.integers(1, 9))):
                heading += (
                    turn if len(points) > 1 else float(rng.choice([0.0, 0.0, 0.05, 0.4, 1.2]))
                )
                step = float(rng.choice([0.3, 0.6, 2.0]))
                points.append(points[-1] + step * np.array([math.cos(heading), math.sin(heading)]))
            at = points[-1]
            network.add_node(at)
            line = np.array(points)
            inches = float(np.hypot(*np.diff(line, axis=0).T).sum())
            network.add_link(Link(k, k + 1, line, inches, "ditch", inches / 20, "clear"))
        network.settle()
        # As if chains were too long to try all partings, too.
        with mock.patch("chorograph_core.route.fewest.MOST_PARTED", int(rng.choice([2, 24]))):
            fewest = Fewest(network, reach).along(range(count))
        cuts = sorted({0, count, *rng.integers(0, count + 1, 2).tolist()})
        made = 0
        for first, stop in itertools.pairwise(cuts):
            line = joined([network.links[k].points for k in range(first, stop)])
            made += count_placements(line if rng.random() < 0.5 else line[::-1], reach)
        self.assertLessEqual(fewest, made)

    @settings(max_examples=examples(120), deadline=None)
    @given(some.integers(0, 100_000), some.integers(3, 5), some.sampled_from([4.0, 10.0]))
    def test_no_way_over_lines_that_meet_lays_the_ruler_less_often(self, seed, arms, reach):
        """Three to five lines from one node, straight, bent or curved, any of which go on into any other."""
        rng = np.random.default_rng(seed)
        network, lines, base = Network(), [], float(rng.uniform(0, 360))
        network.add_node((0.0, 0.0))
        for k in range(arms):
            spread = k * 360 / arms if rng.random() < 0.7 else k * 37 + rng.choice([0, 20, 30, 90])
            heading, points = math.radians(base + spread), [np.zeros(2)]
            turn = float(rng.choice([0.0, 0.0, 0.05, 0.2, 0.4])) * float(rng.choice([-1, 1]))
            for _ in range(int(rng.integers(1, 7))):
                heading += turn if len(points) > 1 else 0.0
                step = float(rng.choice([0.3, 0.6, 2.0]))
                points.append(points[-1] + step * np.array([math.cos(heading), math.sin(heading)]))
            network.add_node(points[-1])
            lines.append(np.array(points))
            network.add_link(Link(0, k + 1, lines[-1], 1.0, "ditch", 0.05, "clear"))
        network.settle()

        def least(left: tuple[int, ...]) -> int:
            if not left:
                return 0
            one, *others = left
            found = count_placements(lines[one], reach) + least(tuple(others))
            for two in others:
                rest = tuple(k for k in others if k != two)
                through = joined([lines[one][::-1], lines[two]])
                found = min(found, count_placements(through, reach) + least(rest))
            return found

        fewest = Fewest(network, reach).along(range(arms))
        self.assertLessEqual(fewest, least(tuple(range(arms))))
        self.assertGreaterEqual(fewest, 0)

    def test_a_gentle_wave_is_reckoned_from_either_end(self):
        """It falls into fewer straight pieces from its right end than from its left."""
        turns = (-5.86, -4.21, -0.81, 2.9, 5.45, 5.63, 3.35, -0.29, -3.82, -5.78, -5.2)
        headings = np.radians(np.cumsum((2.1, *turns)))
        steps = 3.35 * np.column_stack([np.cos(headings), np.sin(headings)])
        line = np.vstack([np.zeros((1, 2)), np.cumsum(steps, axis=0)])
        network = Network()
        for spot in (line[0], line[-1]):
            network.add_node(spot)
        network.add_link(Link(0, 1, line, 40.2, "ditch", 2.0, "clear"))
        network.settle()
        self.assertLess(count_placements(line[::-1], 10.0), count_placements(line, 10.0))
        self.assertEqual(Fewest(network, 10.0).along((0,)), count_placements(line[::-1], 10.0))

    def test_lines_that_bend_a_little_go_on_into_each_other(self):
        """Seven degrees between long legs are a corner where both are straight; here a laying begun on one is
        still straight on the other, and one is saved."""
        lines = []
        for legs, turns in (((0.6, 2.0, 0.3, 0.3), (-63.1, -51.4, -40.0, -28.3)),
                            ((2.0, 2.0, 0.6), (110.0, 112.9, 115.7))):  # fmt: skip
            heads = np.radians(turns)
            steps = np.column_stack([np.cos(heads), np.sin(heads)]) * np.array(legs)[:, None]
            lines.append(np.vstack([np.zeros((1, 2)), np.cumsum(steps, axis=0)]))
        network = Network()
        for spot in ((0.0, 0.0), lines[0][-1], lines[1][-1]):
            network.add_node(spot)
        for k, line in enumerate(lines):
            network.add_link(Link(0, k + 1, line, 1.0, "ditch", 0.05, "clear"))
        # A third line, so that they meet where others do.
        network.add_node((-2.0, -2.4))
        third = np.array([(0.0, 0.0), (-2.0, -2.4)])
        network.add_link(Link(0, 3, third, 3.1, "ditch", 0.15, "clear"))
        network.settle()
        through = joined([lines[0][::-1], lines[1]])
        apart = sum(count_placements(line, 10.0) for line in lines)
        self.assertLess(count_placements(through, 10.0), apart)
        least = count_placements(through, 10.0) + 1
        self.assertLessEqual(Fewest(network, 10.0).along(range(3)), least)

    def test_a_ring_is_begun_where_it_is_best(self):
        """A leaf of two quarter circles, one of them in halves: begun in its middle it takes three layings,
        begun at a tip two."""
        arc = np.linspace(0, math.pi / 2, 13)
        one = 1.7 * np.column_stack([np.cos(arc), np.sin(arc)])
        # The other one lies across the line between the tips.
        two = one[0] + one[-1] - one
        network = Network()
        for spot in (one[6], one[-1], one[0]):
            network.add_node(spot)
        for k, points in enumerate((one[6:], two, one[:7])):
            network.add_link(Link(k, (k + 1) % 3, points, 1.3, "ditch", 0.05, "clear"))
        network.settle()
        self.assertEqual(Fewest(network, 10.0).along(range(3)), 2)

    def test_a_curve_costs_what_its_best_parting_does(self):
        """Half a circle in four links: a ruler that follows a quarter of it at once does it in two; two
        links more, round the rest, make a ring that is done in four wherever it is begun."""
        for links, layings in ((4, 2), (8, 4)):
            turns = np.linspace(0, math.pi * links / 4, links * 6 + 1)
            points = np.column_stack([np.cos(turns), np.sin(turns)]) * 1.7
            network = Network()
            for k in range(links if links == 8 else links + 1):
                network.add_node(points[6 * k])
            for k in range(links):
                part = points[6 * k : 6 * k + 7]
                stop = (k + 1) % 8 if links == 8 else k + 1
                network.add_link(Link(k, stop, part, 1.3, "ditch", 0.05, "clear"))
            network.settle()
            self.assertEqual(Fewest(network, 10.0).along(range(links)), layings)

    def test_ends_change_partners_where_that_leaves_lines_whole(self):
        # Four lines that cross, as in a nine-patch, its edge round them: the near ends paired give a ring
        # that has to be joined by turning off twice.
        spots = [(x, y) for y in range(4) for x in range(4)]
        rows = [(4 * y + x, 4 * y + x + 1) for y in range(4) for x in range(3)]
        columns = [(4 * y + x, 4 * y + x + 4) for y in range(3) for x in range(4)]
        ground = net(spots, rows + columns)
        inner = [k for k, (a, b) in enumerate(rows + columns)
                 if not any(spots[a][i] == spots[b][i] in (0, 3) for i in (0, 1))]  # fmt: skip
        self.assertEqual(len(inner), 12)
        plain = straight_walks(ground, inner, 1.0)
        self.assertGreater(layings_of(ground.network, inner, plain), 4)
        better = straight_walks(ground, inner, 1.0, laying=0.12)
        self.check(ground, inner, better)
        self.assertEqual(layings_of(ground.network, inner, better), 4)

    def test_backwards_and_begun_elsewhere(self):
        ground = net([(0, 0), (2, 0), (2, 2)], [(0, 1), (1, 2), (2, 0)])
        walk = straight_walks(ground, range(3), 1.0)[0]
        again = walk.begun_at(1).reversed(ground.network)
        self.check(ground, range(3), [again])
        self.assertEqual(len(again.links), 3)
