"""Single places of a floor, and orders of them, against every way there is."""

import itertools
import math
from dataclasses import replace
from types import SimpleNamespace
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import job_linework, planned_job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import State
from chorograph_core.route.bundles import Bundle
from chorograph_core.route.ditch_prices import ODD
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.floors import ditch_bound, straight_over
from chorograph_core.route.ground import Ground
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.network import Link, Network
from chorograph_core.route.place_orders import order_bound
from chorograph_core.route.places import NEARLY, Place, Places
from chorograph_core.route.straightest import by_lines, by_stretches
from chorograph_core.route.subsets import through_all, to_each, to_each_node
from chorograph_core.route.walks import islands_of, odd_nodes
from chorograph_core.route.works import works_of
from chorograph_core.rulers import Reach, count_placements
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed
from chorograph_core.tests.test_floors import CUT, small_job


class PlaceTests(TestCase):
    """What a place, and an order of places, costs at least: against every order there is."""

    def every_order(self, ways, table, needs, start: int, stop: int, own=None) -> float:
        """The best order that begins at one node and ends at another, by going through all of them."""
        best = np.inf
        for order in itertools.permutations(range(len(ways))):
            place = {k: i for i, k in enumerate(order)}
            if any(place[j] > place[k] for k, before in enumerate(needs) for j in before):
                continue
            for numbers in itertools.product(*(range(len(ways[k])) for k in order)):
                chosen = [ways[k][number] for k, number in zip(order, numbers, strict=True)]
                if chosen[0][0] == start and chosen[-1][1] == stop:
                    between = sum(table[one[1], two[0]] for one, two in itertools.pairwise(chosen))
                    if own is not None:
                        between += sum(own[k][n] for k, n in zip(order, numbers, strict=True))
                    best = min(best, between)
        return best

    @settings(max_examples=examples(25), deadline=None)
    @given(some.integers(0, 10_000), some.integers(1, 4))
    def test_through_all_is_the_best_of_every_order(self, seed, count):
        rng = np.random.default_rng(seed)
        spots = rng.random((5, 2))
        table = np.minimum(np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1)), 0.7)
        ways = [[tuple(rng.integers(0, 5, 2).tolist()) for _ in range(2)] for _ in range(count)]
        needs = [[j for j in range(k) if rng.random() < 0.3] for k in range(count)]
        before = [sum(1 << j for j in some) for some in needs]
        found = through_all(ways, table, before)
        own = [rng.random(2) for _ in ways]
        priced = through_all(ways, table, before, own)
        for start, stop in itertools.product(range(5), repeat=2):
            for known, prices in ((found, None), (priced, own)):
                best = self.every_order(ways, table, needs, start, stop, prices)
                if np.isfinite(best):
                    self.assertAlmostEqual(known[start, stop], best, places=5)
                else:
                    self.assertFalse(np.isfinite(known[start, stop]))
        for to in (to_each(ways, table, before), to_each_node(ways, table, before)):
            self.assertTrue(np.allclose(to, found.min(axis=0), atol=1e-5))

    @settings(max_examples=examples(25), deadline=None)
    @given(some.integers(0, 10_000), some.integers(2, 5), some.booleans(), some.booleans())
    def test_the_bound_of_an_order_is_the_best_of_every_order_or_less(
        self, seed, count, exact, looks
    ):
        """With few places the best there is, with many (as if) no more than that; with and without what it
        takes to look for a place."""
        rng = np.random.default_rng(seed)
        network = grid_network(4, 4)
        ground = Ground(network, range(len(network.links)))
        places = []
        for _ in range(count):
            nodes = np.sort(rng.choice(16, int(rng.integers(1, 4)), replace=False))
            prices = rng.random((len(nodes), len(nodes))) * 0.3
            places.append(Place(nodes, np.minimum(prices, prices.T)))
        table = ground.prices(range(16), CUT)
        ends = rng.random(16)
        looking = np.triu(rng.random((count, count)), 1) * looks
        looking += looking.T
        best = np.inf
        for order in itertools.permutations(range(count)):
            summed, last = np.zeros(1), None
            for k in order:
                come, place = summed, places[k]
                if last is not None:
                    ways = table[np.ix_(places[last].nodes, place.nodes)] + looking[last, k]
                    come = (summed[:, None] + ways).min(axis=0)
                summed, last = (come[:, None] + place.prices).min(axis=0), k
            best = min(best, float((summed + ends[places[last].nodes]).min()))
        for sums in (0, 500_000_000):
            with mock.patch("chorograph_core.route.place_orders.EXACT", 14 if exact else 0):
                floor = order_bound(
                    places, ground, CUT, leaving=lambda node: float(ends[node]), looking=looking,
                    sums=sums,
                )  # fmt: skip
            if exact:
                self.assertAlmostEqual(floor, best, places=6)
            self.assertLessEqual(floor, best + 1e-6)
            self.assertGreater(floor, 0.9 * best if sums else 0.3 * best)

    def test_a_place_that_is_entered_anywhere_is_as_near_as_the_nearest_of_its_nodes(self):
        network = grid_network(4, 1)
        ground = Ground(network, range(len(network.links)))
        step = float(network.prices[0])
        anywhere = Place(np.array([0, 1]), np.array([[0.25]]))
        other = Place(np.array([3]), np.zeros((1, 1)))
        self.assertAlmostEqual(order_bound([anywhere, other], ground, CUT), 0.25 + 2 * step)

    def test_ditches_of_a_place_between_every_pair_of_ends(self):
        """A cross of two lines: whichever two arms one begins and ends at, the ends of the two others are
        joined round a corner or through the middle; to come back to the middle is no better than to go there
        and away again."""
        network = grid_network(3, 3)
        ground = Ground(network, range(len(network.links)))
        links = tuple(k for k, ends in enumerate(network.ends.tolist()) if 4 in ends)
        place = place_of(network, links, ground)
        step = float(network.prices[0])
        self.assertEqual(sorted(place.nodes.tolist()), [1, 3, 5, 7])
        apart = ~np.eye(4, dtype=bool)
        self.assertTrue(np.allclose(place.prices[apart], 2 * step, atol=1e-3))
        self.assertFalse(np.isfinite(place.prices[~apart]).any())

    @settings(max_examples=examples(60), deadline=None)
    @given(some.integers(0, 100_000))
    def test_any_ditches_of_a_place_against_every_way_of_going_over_them(self, seed):
        """Some links of a grid, hanging together or not: from whichever node to whichever other, what is
        travelled is no less than the place says."""
        rng = np.random.default_rng(seed)
        network = grid_network(4, 3)
        ground = Ground(network, range(len(network.links)))
        size = int(rng.integers(1, 9))
        links = tuple(sorted(rng.choice(len(network.links), size, replace=False).tolist()))
        if rng.random() < 0.3:
            # Two rings: a square at either end.
            rings = ({0, 1, 4, 5}, {2, 3, 6, 7} if rng.random() < 0.5 else {6, 7, 10, 11})
            links = tuple(k for k, ends in enumerate(network.ends.tolist())
                          if any(set(ends) <= ring for ring in rings))  # fmt: skip
        cut, most = float(rng.choice([0.12, CUT])), int(rng.choice([2, ODD]))
        with mock.patch("chorograph_core.route.ditch_prices.ODD", most):
            place = place_of(network, links, ground, cut)
        found = from_anywhere(place, ground.prices(range(12), cut))
        exact = least_over(network, links, cut)
        self.assertTrue((found <= exact + 1e-3).all(), (found - exact).max())
        islands = len(islands_of(network, links))
        odd = len(odd_nodes(network, links))
        if odd <= most and (islands == 1 or (islands == 2 and not odd)):
            self.assertTrue(np.allclose(found, exact, atol=1e-3))

    @settings(max_examples=examples(25), deadline=None)
    @given(some.integers(0, 100_000))
    def test_ditches_of_a_place_with_the_layings_of_a_ruler(self, seed):
        """The straightest way may be longer than the shortest: what both cost together, against every way
        of going over some links of a grid."""
        rng = np.random.default_rng(seed)
        network = grid_network(4, 3, 2.0)
        ground = Ground(network, range(len(network.links)))
        size = int(rng.integers(2, 8))
        links = tuple(sorted(rng.choice(len(network.links), size, replace=False).tolist()))
        cut, laying = CUT, float(rng.choice([0.02, 0.06, 0.3]))
        fewest = Fewest(network, 10.0)
        known = Places(cut, (), laying, fewest)
        bundle = Bundle(network, SimpleNamespace(middle=np.zeros(2)), (), links)
        place = known.ruled(bundle, ground, known.of(bundle, ground))
        found = from_anywhere(place, ground.prices(range(12), cut))
        exact = least_over(network, links, cut, laying) - laying * fewest.along(links)
        self.assertTrue((found <= exact + 2e-3).all(), (found - exact).max())
        self.assertAlmostEqual(found.min(), exact.min(), delta=2e-3)
        with mock.patch("chorograph_core.route.places.LINKS", 1):
            # As of a place with many ditches: who breaks no line, and who lays the ruler once more.
            whole = Places(cut, (), laying, fewest)
            place = whole.ruled(bundle, ground, whole.of(bundle, ground))
        found = from_anywhere(place, ground.prices(range(12), cut))
        self.assertTrue((found <= exact + 2e-3).all(), (found - exact).max())

    @long
    @settings(max_examples=examples(30), deadline=None)
    @given(some.integers(0, 100_000))
    def test_seams_of_a_pass_with_the_layings_of_a_ruler(self, seed):
        """Who breaks none of their lines, and who lays the ruler once more: against every way over some
        links of a grid, by a long ruler and by one that has to be laid anew along a line of three."""
        rng = np.random.default_rng(seed)
        network = grid_network(4, 3, 2.0)
        ground = Ground(network, range(len(network.links)))
        laying, short = float(rng.choice([0.02, 0.06, 0.3])), bool(rng.random() < 0.3)
        # Rows and columns, whole, and a link besides.
        both = network.spots[network.ends]
        lines = [np.flatnonzero((both[:, :, axis] == at).all(axis=1)).tolist()
                 for axis, at in itertools.product((0, 1), (0.0, 2.0, 4.0, 6.0))]  # fmt: skip
        chosen = {int(rng.integers(len(network.links)))}
        for k in rng.permutation(len(lines)).tolist():
            if len(more := chosen | set(lines[k])) <= (4 if short else 10):
                chosen = more
        links = tuple(sorted(chosen))
        fewest = Fewest(network, 5.0 if short else 10.0)
        least = ditch_bound(ground, links, CUT)
        work = SimpleNamespace(ground=ground, seams=links)
        more = straight_over(work, fewest, CUT, laying, None, least)
        self.assertGreaterEqual(more, 0.0)
        if short:
            some_links = Network(network.nodes, [network.links[number] for number in links])
            some_links.settle()
            table = ground.prices(range(12), CUT)
            at = {node: node for node in range(12)}
            exact = float(least_laid(some_links, at, table, laying, Reach(5.0)).min())
        else:
            exact = float(least_over(network, links, CUT, laying).min())
        self.assertLessEqual(least + more, exact - laying * fewest.along(links) + 1e-6)

    def test_seams_in_rings_with_the_layings_of_a_ruler(self):
        """Nine squares: the outer lines close in a ring, so do the inner rows and the inner columns; who
        breaks none of them goes from one to the other, which is farther than what pairs their ends."""
        network = grid_network(4, 4, 2.0)
        ground = Ground(network, range(len(network.links)))
        work = SimpleNamespace(ground=ground, seams=tuple(range(len(network.links))))
        least = ditch_bound(ground, work.seams, CUT)
        for laying in (0.01, 0.02):
            more = straight_over(work, Fewest(network, 10.0), CUT, laying, None, least)
            self.assertAlmostEqual(more, laying)

    def test_lines_that_are_laid_once_more_when_they_are_broken(self):
        """Of nine nodes each row and each column; of lines that take two layings anyway none."""
        network = grid_network(3, 3, 2.0)
        links = range(len(network.links))
        whole = Fewest(network, 10.0).unbroken(links)
        self.assertEqual(sorted(map(len, whole)), [2] * 6)
        self.assertEqual(sorted(map(len, Fewest(network, 2.0).unbroken(links))), [1] * 12)

    def test_lines_that_close_in_two_rings_are_broken_or_travelled_between(self):
        """Two squares of four lines each, one in the other: whoever breaks none of them goes over from one to
        the other, who breaks one lays the ruler once more."""
        network = Network()
        for spot in ((0, 0), (4, 0), (4, 4), (0, 4), (2, 1), (3, 2), (2, 3), (1, 2)):
            network.add_node(spot)
        for a, b in ((0, 1), (1, 2), (2, 3), (3, 0), (4, 5), (5, 6), (6, 7), (7, 4), (0, 7)):
            points = np.array([network.nodes[a], network.nodes[b]])
            network.add_link(Link(a, b, points, 1.0, "ditch", 0.05, "clear"))
        network.settle()
        ground = Ground(network, range(9))
        at, table = {k: k for k in range(8)}, ground.prices(range(8), CUT)
        to = by_lines(Fewest(network, 10.0), range(8), at, table)
        # Once over the seam between them, from wherever it is best to where one ends.
        self.assertAlmostEqual(float(to.min()), 0.05)

    @settings(max_examples=examples(20), deadline=None)
    @given(some.integers(0, 100_000))
    def test_bent_ditches_of_a_place_with_the_layings_of_a_ruler(self, seed):
        """Curves that meet at a few nodes, against every order of them, each gone either way, stopped at or
        not wherever one goes on into the next."""
        rng = np.random.default_rng(seed)
        network = Network()
        spots = [(0.0, 0.0), (5.0, 0.0), (5.0, 4.0), (0.0, 4.0)]
        for spot in spots:
            network.add_node(spot)
        for _ in range(int(rng.integers(2, 5))):
            a, b = rng.choice(4, 2, replace=False).tolist()
            bulge = float(rng.choice([0.0, 0.4, 1.5])) * float(rng.choice([-1, 1]))
            line = bent(spots[a], spots[b], bulge)
            inches = float(np.hypot(*np.diff(line, axis=0).T).sum())
            network.add_link(Link(a, b, line, inches, "ditch", inches / 45, "clear"))
        network.settle()
        ground, reach, laying = Ground(network, range(len(network.links))), Reach(8.0), 0.1
        links, used = range(len(network.links)), sorted(set(network.ends.ravel().tolist()))
        at = {node: k for k, node in enumerate(used)}
        table = ground.prices(used, CUT)
        fewest = Fewest(network, reach)
        found = by_stretches(fewest, links, at, table, laying)
        exact = least_laid(network, at, table, laying, reach) - laying * fewest.along(links)
        # Gone backwards a curve may be parted otherwise: whichever way takes fewer is counted.
        self.assertTrue((found <= exact + 1e-9).all(), (found, exact))
        self.assertAlmostEqual(float(found.min()), float(exact.min()), places=9)

    def test_of_many_runs_a_place_costs_no_more_than_to_go_through_it(self):
        """The same place exactly, by walks that remember all of so few, and by trees."""
        job, cache = small_job(3), DrawingCache()
        lay = laid_out(
            job.chart, job.zones, job_linework(job, cache), Machine(), job.policy, State(), cache
        )
        works = [
            work
            for work in works_of(lay, job.policy)
            if any(len(b.trails) > 2 for b in work.bundles)
        ]
        self.assertTrue(works)
        for work in works:
            for bundle in work.bundles:
                exact = Places(CUT).of(bundle, work.ground).least
                with mock.patch("chorograph_core.route.subsets.THINGS", 0):
                    walks = Places(CUT).of(bundle, work.ground).least
                    with mock.patch("chorograph_core.route.places.SUMS", 0):
                        trees = Places(CUT).of(bundle, work.ground).least
                self.assertAlmostEqual(walks, exact, places=3)
                self.assertLessEqual(trees, exact + 1e-3)

    def test_alike_places_reckoned_together_cost_no_more_than_each_alone(self):
        job, cache = designed(StraightSet(4, 4, 7, ("nine_patch",), 1.25)), DrawingCache()
        lay = laid_out(
            job.chart, job.zones, job_linework(job, cache), Machine(), job.policy, State(), cache
        )
        there = [
            (bundle, work.ground)
            for work in works_of(lay, job.policy)
            for bundle in work.bundles
            if bundle.trails
        ]
        known = Places(CUT, there)
        self.assertLess(sum(map(len, known._alike.values())), len(there) - 4)
        off = []
        for bundle, ground in there:
            nodes = np.unique([node for n in bundle.trails for pair in bundle.trail(n).options()
                               for node in pair]).tolist()  # fmt: skip
            table, at = ground.prices(nodes, CUT), {node: k for k, node in enumerate(nodes)}
            shared, alone = (
                from_anywhere(
                    replace(each, nodes=np.array([at[int(n)] for n in each.nodes])), table
                )
                for each in (known.of(bundle, ground), Places(CUT).of(bundle, ground))
            )
            self.assertTrue((shared <= alone + 1e-3).all())
            # No more is lost than the ways may differ, for each run.
            off.append(float((alone - shared).mean()) / len(bundle.trails))
        self.assertLess(max(off), NEARLY)

    @long
    def test_small_tops_place_by_place(self):
        """The floor lies under the best route that goes through each place in one go."""
        seen = 0
        for seed in range(40):
            job, cache = small_job(seed), DrawingCache()
            lay = laid_out(job.chart, job.zones, job_linework(job, cache), Machine(), job.policy, State(),
                           cache)  # fmt: skip
            route = planned_job(job, cache)
            works = [work for work in works_of(lay, job.policy) if work.bundles]
            for work in works:
                trails = [[bundle.trail(k) for k in bundle.trails] for bundle in work.bundles]
                if work.stage.kind == "ditch" or max(map(len, trails)) > 4 or len(trails) > 3:
                    continue
                seen += 1
                nodes = sorted(
                    {n for each in trails for t in each for pair in t.options() for n in pair}
                )
                place = {node: k for k, node in enumerate(nodes)}
                table = work.ground.prices(nodes, CUT)
                best = np.inf
                for order in itertools.permutations(trails):
                    for runs in itertools.product(
                        *(itertools.permutations(each) for each in order)
                    ):
                        summed, at = np.zeros(1), None
                        for trail in itertools.chain(*runs):
                            pairs = np.array([[place[n] for n in pair] for pair in trail.options()])
                            come = summed[:, None] + (
                                0.0 if at is None else table[np.ix_(at, pairs[:, 0])]
                            )
                            summed = np.broadcast_to(come.min(axis=0), len(pairs))
                            at = pairs[:, 1]
                        best = min(best, float(summed.min()))
                floor = order_bound(
                    [Places(CUT).of(b, work.ground) for b in work.bundles], work.ground, CUT
                )
                with self.subTest(seed=seed, stage=work.stage.name):
                    self.assertLessEqual(floor, best + 1e-4)
                    self.assertGreaterEqual(floor, best - 1e-3)
            self.assertLessEqual(route.floor.avoidable, route.avoidable + 1e-4)
        self.assertGreater(seen, 20)


def place_of(network: Network, links: tuple[int, ...], ground: Ground, cut: float = CUT) -> Place:
    """The place that has just these ditches in it."""
    middle = SimpleNamespace(middle=np.zeros(2))
    return Places(cut).of(Bundle(network, middle, (), links), ground)


def from_anywhere(place: Place, table: np.ndarray) -> np.ndarray:
    """What a place costs from each node of a *table* (n, n) of prices to each other one."""
    inner = np.broadcast_to(place.prices, (len(place.nodes),) * 2)
    if len(place.prices) == 1:
        return np.full(table.shape, place.least)
    far = (table[:, place.nodes, None] + inner[None]).min(axis=1)
    return (far[:, :, None] + table[place.nodes][None]).min(axis=1)


def least_over(
    network: Network, links: tuple[int, ...], cut: float, laying: float = 0.0
) -> np.ndarray:
    """What is travelled, and laid, at least to go over all *links* from each node to each other, by looking
    at every way: a state is what is done and where one stands, or which link one has just gone over. A link
    is for nothing the first time, but for a *laying* where one does not come straight on."""
    count, full = len(network.nodes), (1 << len(links)) - 1
    ways = [(k, *ends) for k, number in enumerate(links)
            for ends in (network.ends[number].tolist(), network.ends[number].tolist()[::-1])]  # fmt: skip
    spots = np.array(network.nodes, float)
    straight = [[j for j, (_, before, at) in enumerate(ways)
                 if at == a and np.allclose(spots[a] - spots[before], spots[b] - spots[a])]
                for _, a, b in ways]  # fmt: skip
    wide = count + len(ways)
    best: dict[tuple[int, int], float] = {}

    def way(one: int, two: int, price: float) -> None:
        best[one, two] = min(best.get((one, two), np.inf), price + 1e-12)

    for done in range(full + 1):
        here = done * wide
        for number, (a, b) in enumerate(network.ends.tolist()):
            way(here + a, here + b, float(network.prices[number]))
            way(here + b, here + a, float(network.prices[number]))
        for a, b in itertools.permutations(range(count), 2):
            way(here + a, here + b, cut)
        for i, (k, a, b) in enumerate(ways):
            way(here + count + i, here + b, 0.0)
            if done >> k & 1:
                continue
            there = (done | 1 << k) * wide + count + i
            way(here + a, there, laying)
            for j in straight[i]:
                way(here + count + j, there, 0.0)
    size = (full + 1) * wide
    matrix = csr_array((list(best.values()), np.array(list(best)).T), shape=(size, size))
    return dijkstra(matrix, indices=range(count))[:, full * wide : full * wide + count]


def bent(start, stop, bulge: float) -> np.ndarray:
    """A line from one spot to another that swings aside by *bulge* in its middle."""
    along = np.linspace(0, 1, 13)[:, None]
    aside = np.array([stop[1] - start[1], start[0] - stop[0]]) / math.dist(start, stop)
    return (
        np.array(start) + along * np.subtract(stop, start) + 4 * bulge * along * (1 - along) * aside
    )


def least_laid(network: Network, at, table: np.ndarray, laying: float, reach: Reach) -> np.ndarray:
    """What is travelled and laid at least to go over all links, by the node one ends at: every order, every
    way round, and a stop or none at every place where one goes on into the next."""
    found = np.full(len(at), np.inf)
    count = len(network.links)
    for order in itertools.permutations(range(count)):
        for sides in itertools.product((0, 1), repeat=count):
            ways = [
                network.ends[k].tolist()[:: 1 - 2 * s] for k, s in zip(order, sides, strict=True)
            ]
            lines = [network.links[k].way(a) for k, (a, _) in zip(order, ways, strict=True)]
            joins = [one[1] == two[0] for one, two in itertools.pairwise(ways)]
            travel = sum(table[at[one[1]], at[two[0]]] for one, two in itertools.pairwise(ways))
            for on in itertools.product(
                *((False, True) if joined else (False,) for joined in joins)
            ):
                parts = [lines[0]]
                for line, goes_on in zip(lines[1:], on, strict=True):
                    if goes_on:
                        parts[-1] = np.concatenate([parts[-1], line[1:]])
                    else:
                        parts.append(line)
                laid = sum(min(count_placements(part, reach), count_placements(part[::-1], reach))
                           for part in parts)  # fmt: skip
                stop = at[ways[-1][1]]
                found[stop] = min(found[stop], travel + laying * laid)
    return found


def grid_network(columns: int, rows: int, step: float = 1.0) -> Network:
    """Nodes some inches apart in rows, joined along rows and columns."""
    network = Network()
    for k in range(columns * rows):
        network.add_node((step * (k % columns), step * (k // columns)))
    for k in range(columns * rows):
        across = [k + 1] if k % columns < columns - 1 else []
        for other in (*across, *([k + columns] if k + columns < columns * rows else [])):
            points = np.array([network.nodes[k], network.nodes[other]])
            network.add_link(Link(k, other, points, 1.0, "ditch", 0.05, "clear"))
    network.settle()
    return network
