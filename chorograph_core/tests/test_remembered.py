"""Walks that forget what lies far away, against every order there is."""

import itertools
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.route.remembered import GROUPS, Things, least_between, least_to_each, worth_it
from chorograph_core.route.subsets import through_all, to_each
from chorograph_core.tests import examples

SUMS = 500_000_000
CUT = 0.7


def made_up(seed: int, count: int, doors: int = 3) -> Things:
    """Things with a few doors each anywhere in a square, what it takes to do them from door to door, some of
    which come before others; no way is longer than a cut."""
    rng = np.random.default_rng(seed)
    spots = np.repeat(rng.random((count, 2)), doors, axis=0) + 0.2 * rng.random((count * doors, 2))
    table = np.minimum(np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1)), CUT)
    nodes = [range(k * doors, (k + 1) * doors) for k in range(count)]
    own = [rng.random((doors, doors)) * 0.2 for _ in range(count)]
    needs = [frozenset(j for j in range(k) if rng.random() < 0.1) for k in range(count)]
    return Things(nodes, nodes, own, table, needs)


def many_runs(seed: int, count: int) -> tuple[list, np.ndarray, list[int]]:
    """Closed lines, open ones and such as may only be stitched one way, as ways from door to door; the last
    one after the first two."""
    rng = np.random.default_rng(seed)
    spots = np.repeat(rng.random((count, 2)), 3, axis=0) + 0.1 * rng.random((count * 3, 2))
    table = np.minimum(np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1)), CUT)
    ways = []
    for k in range(count):
        a, b, c = range(3 * k, 3 * k + 3)
        ways.append((((a, a), (b, b), (c, c)), ((a, b), (b, a)), ((a, b),))[int(rng.integers(3))])
    return ways, table, [0] * (count - 1) + [0b11]


def by_every_order(things: Things) -> np.ndarray:
    """The least price (k,) of leaving the last thing by each door, of all orders."""
    best = np.full(len(things.table), np.inf)
    for order in itertools.permutations(range(len(things.ins))):
        done: set[int] = set()
        summed, at = np.zeros(1), None
        for k in order:
            if not things.needs[k] <= done:
                break
            come = summed[:, None] + (
                0.0 if at is None else things.table[np.ix_(at, things.ins[k])]
            )
            summed = (come.min(axis=0)[:, None] + things.own[k]).min(axis=0)
            at = things.outs[k]
            done.add(k)
        else:
            best[list(at)] = np.minimum(best[list(at)], summed)
    return best


class RememberedTests(TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(some.integers(0, 10_000), some.integers(2, 6), some.booleans())
    def test_no_walk_costs_more_than_the_best_order(self, seed, count, near):
        """Whether doors are told apart from all others or from the nearest one alone; and where all that was
        done is remembered, the least is that of the best order."""
        things = made_up(seed, count)
        best = by_every_order(things)
        with mock.patch("chorograph_core.route.remembered.NEAREST", 40 if near else 1):
            found = least_to_each(things, SUMS)
        self.assertTrue((found <= best + 1e-6).all())
        self.assertGreaterEqual(things.one_order(), best.min() - 1e-9)
        if near:
            self.assertAlmostEqual(found.min(), best.min(), delta=1e-3)

    @settings(max_examples=examples(20), deadline=None)
    @given(some.integers(0, 10_000), some.integers(2, 5))
    def test_what_it_costs_to_end_is_part_of_it(self, seed, count):
        things = made_up(seed, count)
        ends = np.random.default_rng(seed).random(len(things.table))
        best = float((by_every_order(things) + ends).min())
        found = float((least_to_each(things, SUMS, ends) + ends).min())
        self.assertLessEqual(found, best + 1e-6)
        self.assertAlmostEqual(found, best, delta=1e-3)

    @settings(max_examples=examples(12), deadline=None)
    @given(some.integers(0, 10_000), some.integers(9, 11))
    def test_of_many_runs_no_more_than_going_through_all_orders(self, seed, count):
        ways, table, needs = many_runs(seed, count)
        best = to_each(ways, table, needs)
        found = least_to_each(Things.of_ways(ways, table, needs), SUMS)
        # Some doors are no way out, others none of the last thing's.
        self.assertTrue((found <= best + 1e-5).all())
        self.assertTrue(np.isfinite(best).any())
        self.assertGreater(found.min(), 0.8 * best.min())

    def test_what_is_done_twice_made_dearer_tells_more(self):
        best, raised, first = 0.0, 0.0, 0.0
        with mock.patch("chorograph_core.route.remembered.STAGES", ((4, 1, 1.0),)):
            for seed in range(6):
                first += least_to_each(Things.of_ways(*many_runs(seed, 11)), SUMS).min()
        for seed in range(6):
            ways, table, needs = many_runs(seed, 11)
            raised += least_to_each(Things.of_ways(ways, table, needs), SUMS).min()
            best += to_each(ways, table, needs).min()
        self.assertLess(first, 0.93 * best)
        self.assertGreater(raised, 0.97 * best)

    @settings(max_examples=examples(12), deadline=None)
    @given(some.integers(0, 10_000), some.integers(2, 8))
    def test_from_door_to_door_no_more_than_the_best_order(self, seed, count):
        ways, table, needs = many_runs(seed, count)
        needs[-1] &= 2 ** (count - 1) - 1
        best = through_all(ways, table, needs)
        found = least_between(Things.of_ways(ways, table, needs), SUMS)
        self.assertTrue((found <= best + 1e-5).all())
        told = np.isfinite(best)
        self.assertTrue(told.any())
        self.assertGreater(found[told].mean(), 0.85 * best[told].mean())
        if 3 * count <= GROUPS:
            # Each door is a group of its own, and all that was done is remembered.
            self.assertTrue(np.allclose(found[told], best[told], atol=1e-3))

    def test_few_sums_are_not_worth_it(self):
        things = made_up(1, 6)
        self.assertTrue(worth_it(things.ins, things.outs, SUMS))
        self.assertFalse(worth_it(things.ins, things.outs, 1000))
        self.assertFalse(worth_it(things.ins[:1], things.outs[:1], SUMS))
        least = least_to_each(things, 1000)
        self.assertEqual(least.tolist(), [0.0] * len(things.table))
        self.assertEqual(least_between(things, 1000).tolist(), [[0.0] * len(least)] * len(least))
