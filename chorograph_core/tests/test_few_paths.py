"""Which paths are learned, and what things cost in a known order: against every choice there is."""

import itertools
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.route.few_paths import Ordered, Stations, few_paths
from chorograph_core.route.in_order import begun_anywhere, through_in_order
from chorograph_core.route.tours import Item
from chorograph_core.tests import examples

READING = 0.2


def apart(spots: np.ndarray) -> np.ndarray:
    return np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1))


def a_row(rng: np.random.Generator, count: int = 5, paths: int = 6) -> Ordered:
    """Stations in a row, of two classes, each with the same paths between its four corners."""
    spots, items, which, classes = [], [], [], []
    kinds = [
        [(*rng.choice(4, 2).tolist(), float(rng.random())) for _ in range(paths)] for _ in range(2)
    ]
    for place in range(count):
        kind = int(rng.integers(2))
        turned = rng.permutation(4)
        spots += [(2 * place + x, y) for x, y in ((0, 0), (1, 0), (1, 1), (0, 1))]
        rows = [(int(turned[a]), int(turned[b]), price, path)
                for path, (a, b, price) in enumerate(kinds[kind])]  # fmt: skip
        rows += [(b, a, price, path) for a, b, price, path in rows]
        entries, exits, prices, path = (np.array(each) for each in zip(*rows, strict=True))
        items.append(Item(entries + 4 * place, exits + 4 * place, prices.astype(float)))
        which.append(path)
        classes.append(kind)
    table = apart(np.array(spots, float) + rng.random((4 * count, 2)) * 0.2)
    return Ordered(Stations(classes, items, which, table), rng.permutation(count).tolist())


def every_way(order: Ordered, kept) -> dict[tuple[int, ...], float]:
    """What each choice of one option at every station costs."""
    stations, found = order.stations, {}
    rows = [[k for k, path in enumerate(stations.paths[place])
             if path in kept.get(stations.classes[place], range(99))] for place in order.places]  # fmt: skip
    for chosen in itertools.product(*rows):
        done = [(stations.items[place], k) for place, k in zip(order.places, chosen, strict=True)]
        price = sum(item.prices[k] for item, k in done)
        price += sum(stations.table[one.exits[i], two.entries[j]]
                     for (one, i), (two, j) in itertools.pairwise(done))  # fmt: skip
        found[chosen] = float(price)
    return found


class FewPathsTests(TestCase):
    @settings(max_examples=examples(15), deadline=None)
    @given(some.integers(0, 100_000))
    def test_an_order_and_its_regrets_against_every_choice(self, seed):
        order = a_row(np.random.default_rng(seed), count=4, paths=3)
        classes = order.stations.classes
        for kept in ({}, {0: frozenset({1})}, {0: frozenset({0, 2}), 1: frozenset({1})}):
            ways = every_way(order, kept)
            best = min(ways.values())
            self.assertAlmostEqual(order.price(kept), best)
            suiting = order.suiting(kept, 1)
            (chosen,) = [tuple(suiting[place][0] for place in order.places)]
            if sorted(ways.values())[1] > best + 1e-6:
                self.assertAlmostEqual(ways[chosen], best)
        ways = every_way(order, {})
        at = [k for k, place in enumerate(order.places) if classes[place] == 0]
        for k, regrets in zip(at, order.regrets({}, 0), strict=True):
            for option, regret in enumerate(regrets):
                least = min(price for chosen, price in ways.items() if chosen[k] == option)
                self.assertAlmostEqual(regret, least - min(ways.values()))

    def test_the_paths_that_are_learned_against_all_there_are(self):
        found, least = [], []
        for seed in range(12):
            rng = np.random.default_rng(seed)
            orders = [a_row(rng, paths=5), a_row(rng, paths=5)]
            for order in orders:
                # One class only, so that every choice can be tried.
                order.stations.classes[:] = [0] * 5
                order.classes[:] = [0] * 5
            sets = [
                frozenset(each)
                for many in (1, 2)
                for each in itertools.combinations(range(5), many)
            ]
            priced = {each: READING * (len(each) - 1) + sum(one.price({0: each}) for one in orders)
                      for each in sets}  # fmt: skip
            (kept,) = few_paths(orders, (), READING).values()
            self.assertIn(kept, priced)
            found.append(priced[kept])
            least.append(min(priced.values()))
        self.assertLess(sum(found) / sum(least), 1.005)
        self.assertGreater(np.mean(np.isclose(found, least)), 0.8)

    def test_nothing_is_learned_of_what_comes_once_or_is_a_single_run(self):
        order = a_row(np.random.default_rng(3))
        order.stations.classes[:] = [0, 1, 1, 1, 2]
        order = Ordered(order.stations, range(5))
        self.assertEqual(set(few_paths([order], {1}, READING)), set())
        self.assertEqual(set(few_paths([order], (), READING)), {1})


class InOrderTests(TestCase):
    @settings(max_examples=examples(40), deadline=None)
    @given(some.integers(0, 100_000), some.booleans())
    def test_against_every_choice_of_doors(self, seed, bound):
        rng = np.random.default_rng(seed)
        count = int(rng.integers(1, 5))
        table = apart(rng.random((6, 2)))
        items = [
            Item(rng.integers(0, 6, 2), rng.integers(0, 6, 2), rng.random(2),
                 frozenset({0}) if bound and k == count - 1 and k else frozenset())
            for k in range(count)
        ]  # fmt: skip
        order = tuple(rng.permutation(count).tolist())
        exact = np.full((6, 6), np.inf)
        for start in range(count):
            turned = order[start:] + order[:start]
            if any(
                turned.index(other) > turned.index(k)
                for k, i in enumerate(items)
                for other in i.after
            ):
                self.assertNotIn(turned, set(begun_anywhere(items, order)))
                continue
            for chosen in itertools.product((0, 1), repeat=count):
                done = [(items[k], option) for k, option in zip(turned, chosen, strict=True)]
                price = sum(i.prices[o] for i, o in done) + sum(
                    table[one.exits[i], two.entries[j]]
                    for (one, i), (two, j) in itertools.pairwise(done)
                )
                spot = done[0][0].entries[done[0][1]], done[-1][0].exits[done[-1][1]]
                exact[spot] = min(exact[spot], price)
        prices, first = through_in_order(items, table, order)
        self.assertTrue(np.allclose(prices, exact))
        self.assertTrue(((first >= 0) == np.isfinite(exact)).all())
