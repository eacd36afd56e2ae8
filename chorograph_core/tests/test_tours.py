"""Tours against an exact solver, and against what was asked of their order."""

import itertools
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from ortools.sat.python import cp_model

from chorograph_core.route import compiled as compiling
from chorograph_core.route.exchanges import NEVER, best_shift, best_turn, shift, swap
from chorograph_core.route.tours import Item, best_tour
from chorograph_core.tests import examples, long


def some_items(rng, count: int, doors: int) -> tuple[list[Item], np.ndarray]:
    """Things scattered over a square, each with *doors* doors any two of which are an option."""
    middles = rng.random((count, 2)) * 10
    spots = np.repeat(middles, doors, axis=0) + rng.random((count * doors, 2))
    table = np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1))
    items = []
    for k in range(count):
        pairs = [
            (doors * k + a, doors * k + b) for a in range(doors) for b in range(doors) if a != b
        ]
        items.append(
            Item(np.array([a for a, _ in pairs]), np.array([b for _, b in pairs]),
                 rng.random(len(pairs)).round(2))
        )  # fmt: skip
    return items, table


def priced(items, table, tour, start=None, leaving=None) -> float:
    """What a tour costs, summed by hand."""
    at, total = start, 0.0
    for number, option in zip(tour.order, tour.options, strict=True):
        item = items[number]
        if at is not None:
            total += table[at, item.entries[option]]
        total += item.prices[option]
        at = int(item.exits[option])
    return total + (leaving[at] if leaving is not None else 0.0)


def exact(items, table) -> float:
    """The least that any tour costs, by CP-SAT."""
    model = cp_model.CpModel()
    options = [(k, o) for k, item in enumerate(items) for o in range(len(item.entries))]
    arcs, cost = [], []
    unused = [model.new_bool_var("") for _ in options]
    for n, (k, o) in enumerate(options):
        arcs.append((n + 1, n + 1, unused[n]))
        first = model.new_bool_var("")
        arcs.append((0, n + 1, first))
        cost.append((first, items[k].prices[o]))
        arcs.append((n + 1, 0, model.new_bool_var("")))
        for m, (j, p) in enumerate(options):
            if j != k:
                literal = model.new_bool_var("")
                arcs.append((n + 1, m + 1, literal))
                price = table[items[k].exits[o], items[j].entries[p]] + items[j].prices[p]
                cost.append((literal, price))
    for k in range(len(items)):
        model.add_exactly_one(unused[n].negated() for n, (j, _) in enumerate(options) if j == k)
    model.add_circuit(arcs)
    model.minimize(sum(literal * round(price * 1e5) for literal, price in cost))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.max_deterministic_time = 20
    if solver.solve(model) != cp_model.OPTIMAL:
        return float("nan")
    return solver.objective_value / 1e5


class ExchangeTests(TestCase):
    @given(some.integers(0, 2**30))
    @settings(max_examples=examples(60), deadline=None)
    def test_the_best_exchange_is_that_of_all_tried_one_by_one(self, seed):
        """Lines with two ends in some order; a stretch of one to three is put wherever there is room, either
        way round, and a stretch of any length is turned: what is found gains as much as the best of them."""
        rng = np.random.default_rng(seed)
        count = int(rng.integers(2, 7))
        grid = np.zeros((2 * count + 1, 2 * count + 1))
        ways = rng.random((2 * count, 2 * count)) * 3
        grid[: 2 * count, : 2 * count] = ways + ways.T
        lines = [(2 * k, 2 * k + 1) for k in range(count)]
        nowhere = 2 * count

        def price(order) -> float:
            nodes = [nowhere, *(node for line in order for node in line), nowhere]
            return float(sum(grid[a, b] for a, b in zip(nodes[::2], nodes[1::2], strict=True)))

        def round_(stretch):
            return [line[::-1] for line in stretch[::-1]]

        come = np.array([nowhere, *(b for _, b in lines)])
        go = np.array([*(a for a, _ in lines), nowhere])
        now = price(lines)
        turns = {(i, j): now - price(lines[:i] + round_(lines[i : j + 1]) + lines[j + 1 :])
                 for i in range(count) for j in range(i, count)}  # fmt: skip
        found = best_turn(grid, come, go, np.zeros(count))
        self.assertAlmostEqual(turns.get(found, 0.0), max(0.0, *turns.values()))
        shifts = {}
        for first in range(count):
            for many in range(1, min(3, count - 1, count - first) + 1):
                for place in (*range(first), *range(first + many + 1, count + 1)):
                    stretch, rest = (
                        lines[first : first + many],
                        lines[:first] + lines[first + many :],
                    )
                    at = place - many if place > first else place
                    for turned in (False, True):
                        moved = rest[:at] + (round_(stretch) if turned else stretch) + rest[at:]
                        shifts[first, many, place, turned] = now - price(moved)
                        numbers = np.arange(count)
                        shift(numbers, first, many, place, turned)
                        self.assertEqual(numbers.tolist(), [min(line) // 2 for line in moved])
        moved = best_shift(grid, come, go, np.zeros(count))
        self.assertAlmostEqual(shifts.get(moved, 0.0), max(0.0, *shifts.values()))

    def test_two_stretches_change_places(self):
        for first, middle, stop in itertools.combinations(range(8), 3):
            things = np.arange(7)
            swap(things, first, middle, stop)
            told = [*range(first), *range(middle, stop), *range(first, middle), *range(stop, 7)]
            self.assertEqual(things.tolist(), told)

    def test_what_cannot_be_turned_round_is_not(self):
        """Of two lines the first would be better the other way round, unless it may not."""
        grid = np.ones((5, 5))
        grid[4, 1] = 0.0
        come, go, back = np.array([4, 1, 3]), np.array([0, 2, 4]), np.zeros(2)
        self.assertEqual(best_turn(grid, come, go, back), (0, 0))
        self.assertEqual(best_turn(grid, come, go, np.array([NEVER, 0.0]))[0], -1)

    def test_lines_beside_each_other_are_gone_up_and_down(self):
        """Forty upright lines an inch apart and ten long: thirty-nine inches between them at best, in
        whatever order they were told."""
        x = np.random.default_rng(5).permutation(40).astype(float)
        spots = np.column_stack([np.repeat(x, 2), np.tile([0.0, 10.0], 40)])
        table = np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1))
        items = [Item(np.array([2 * k, 2 * k + 1]), np.array([2 * k + 1, 2 * k]), np.zeros(2))
                 for k in range(40)]  # fmt: skip
        self.assertAlmostEqual(best_tour(items, table, rounds=300).price, 39.0)


class CompiledTests(TestCase):
    def test_without_a_folder_to_keep_it_in_a_loop_is_compiled_all_the_same(self):
        real = compiling.njit

        def nowhere(*loop, cache=False):
            if cache:
                raise RuntimeError("cannot cache function: no locator available")
            return real(*loop)

        with mock.patch.object(compiling, "njit", nowhere):
            twice = compiling.compiled(lambda number: 2 * number)
        self.assertEqual(twice(21), 42)


class TourTests(TestCase):
    def test_what_can_be_done_in_no_way_is_refused(self):
        items, table = some_items(np.random.default_rng(1), 12, 2)
        nothing = np.empty(0, int)
        with self.assertRaises(ValueError):
            best_tour([*items, Item(nothing, nothing, np.empty(0))], table, rounds=5)

    def test_the_same_search_finds_the_same_tour(self):
        items, table = some_items(np.random.default_rng(3), 30, 3)
        one, two = (best_tour(items, table, rounds=200, starts=3) for _ in range(2))
        self.assertEqual(one, two)
        self.assertAlmostEqual(one.price, priced(items, table, one))
        self.assertLessEqual(one.price, best_tour(items, table, rounds=0).price)

    @long
    def test_small_tours_are_the_best_there_are(self):
        for seed in range(8):
            items, table = some_items(np.random.default_rng(seed), 3 + seed % 4, 3)
            tour = best_tour(items, table, rounds=0)
            with self.subTest(seed):
                self.assertAlmostEqual(tour.price, exact(items, table), places=3)

    def test_the_search_alone_finds_them_too(self):
        for seed in range(6):
            items, table = some_items(np.random.default_rng(seed), 5 + seed % 3, 3)
            best = best_tour(items, table).price
            with (
                self.subTest(seed),
                mock.patch.multiple("chorograph_core.route.tours", EXACT=0, MORE_EXACT=0),
            ):
                found = best_tour(items, table, rounds=400).price
                self.assertGreaterEqual(found, best - 1e-6)
                self.assertLessEqual(found, best * 1.01)

    @settings(max_examples=examples(30), deadline=None)
    @given(some.integers(1, 30), some.integers(2, 4), some.integers(0, 2**30), some.booleans())
    def test_everything_is_done_once_and_the_price_is_what_it_costs(
        self, count, doors, seed, bound
    ):
        rng = np.random.default_rng(seed)
        items, table = some_items(rng, count, doors)
        start = int(rng.integers(len(table))) if bound else None
        leaving = rng.random(len(table)) if bound else None
        tour = best_tour(items, table, start, leaving, rounds=20)
        self.assertEqual(sorted(tour.order), list(range(count)))
        self.assertAlmostEqual(tour.price, priced(items, table, tour, start, leaving), places=6)

    def test_more_rounds_are_never_worse(self):
        items, table = some_items(np.random.default_rng(5), 40, 3)
        prices = [best_tour(items, table, rounds=rounds).price for rounds in (0, 50, 800)]
        self.assertLess(prices[2], prices[0])
        self.assertLessEqual(prices[1], prices[0] + 1e-9)

    def test_the_same_arguments_give_the_same_tour(self):
        items, table = some_items(np.random.default_rng(6), 25, 3)
        self.assertEqual(best_tour(items, table, rounds=60), best_tour(items, table, rounds=60))

    @settings(max_examples=examples(25), deadline=None)
    @given(some.integers(2, 16), some.integers(0, 2**30))
    def test_what_comes_after_something_does(self, count, seed):
        rng = np.random.default_rng(seed)
        items, table = some_items(rng, count, 2)
        # Each may have to wait for some with a lower number.
        waits = [frozenset(int(j) for j in range(k) if rng.random() < 0.3) for k in range(count)]
        shuffled = [
            Item(i.entries, i.exits, i.prices, w) for i, w in zip(items, waits, strict=True)
        ]
        tour = best_tour(shuffled, table, rounds=60)
        place = {number: k for k, number in enumerate(tour.order)}
        for number, after in enumerate(waits):
            for other in after:
                self.assertLess(place[other], place[number])

    def test_wishes_that_go_in_a_circle_are_named(self):
        items, table = some_items(np.random.default_rng(7), 2, 2)
        circle = [
            Item(i.entries, i.exits, i.prices, frozenset({1 - k})) for k, i in enumerate(items)
        ]
        with self.assertRaisesRegex(ValueError, "circle"):
            best_tour(circle, table)

    def test_nothing_to_do(self):
        self.assertEqual(best_tour([], np.zeros((0, 0))).order, ())
