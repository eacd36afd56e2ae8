"""The travel network: chains, links, doorways, prices."""

from unittest import TestCase
from unittest.mock import patch

import numpy as np
import shapely
from scipy.sparse.csgraph import dijkstra

from chorograph_core.chart import seams
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.job import job_linework
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Rates
from chorograph_core.route import Policy
from chorograph_core.route.building import MOST_DOORS, build
from chorograph_core.route.chains import Edges, chains_of, edges_of
from chorograph_core.route.ground import NEAR, Ground
from chorograph_core.route.travel_costs import travel_costs
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top


def built(job, drawn, policy=None):
    shapes = {zone.id: zone.polygon for zone in job.zones}
    return build(edges_of(job.chart, job.zones), drawn, policy or Policy(), Rates(), None, shapes)


class ChainTests(TestCase):
    @long
    def test_chains_hold_every_seam_once(self):
        for blocks in (("sawtooth_star",), ("winding_path",), ("log_cabin", "churn_dash")):
            job = designed(StraightSet(2, 2, 8, blocks, 1))
            chains = chains_of(edges_of(job.chart, job.zones), job_linework(job))
            inches = sum(float(np.hypot(*np.diff(points, axis=0).T).sum()) for points, _ in chains)
            self.assertAlmostEqual(inches, sum(s.line.length for s in seams(job.chart)), places=3)

    def test_what_is_asked_for_is_what_borders_a_zone_with_a_ditch(self):
        job = designed(small_top(1, 1))
        chains = chains_of(edges_of(job.chart, job.zones), job_linework(job))
        for points, (asked, on_outline, _, seam) in chains:
            self.assertFalse(asked and on_outline)
            if not on_outline:
                self.assertEqual(asked[0], "clear")
            self.assertGreater(len(points), 1)
            # Named by the patches on both sides: the same whatever the graph is cut into.
            self.assertEqual(seam.split("|"), sorted(seam.split("|")))
            self.assertEqual(seam.startswith("|"), on_outline)

    def test_a_seam_a_thread_long_is_no_ditch_because_one_ends_beside_it(self):
        """Where a zone was drawn over the piecing a seam ran on beneath it for 1/32 inch."""
        line = np.array([[0.0, 0], [2, 0], [2.03, 0], [5, 0]])
        stub = np.array([[[5, 0], [5.02, 0.02]], [[2, 0], [2, 0.028]]])
        along = np.stack([line[:-1], line[1:]], axis=1)
        edges = Edges(np.concatenate([along, stub]), list("abcde"), [False] * 5, [True] * 5)
        work = Linework((Run(line, "ditch", in_ditch=True),))
        drawn = [LayerLinework("z", "e", 0, "ditch", "clear", 10.0, 1, work)]
        asked = {seam for _, (asked, _, _, seam) in chains_of(edges, drawn) if asked}
        self.assertEqual(asked, set("abc"))


class NetworkTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 2))
        cls.drawn = job_linework(cls.job)
        cls.network = built(cls.job, cls.drawn)

    def test_links_join_the_nodes_they_name(self):
        for link in self.network.links:
            for node, end in ((link.a, 0), (link.b, -1)):
                gap = np.hypot(*(np.array(self.network.nodes[node]) - link.points[end]))
                self.assertLess(gap, 0.03)
            self.assertGreaterEqual(link.price, 0)
            self.assertTrue(np.allclose(link.way(link.a)[0], link.points[0]))

    def test_cut_at_doorways_the_ditches_keep_their_length(self):
        inches = sum(link.inches for link in self.network.links if link.thread)
        asked = shapely.union_all(
            [
                shapely.linestrings(r.points)
                for d in self.drawn
                for r in d.linework.runs
                if r.in_ditch
            ],
            grid_size=1e-4,
        )
        # At a mitre the asked line stops a thread short of the raw corner.
        self.assertAlmostEqual(inches, asked.length, delta=0.2)

    def test_every_run_can_be_reached(self):
        matrix = self.network.matrix()
        start = self.network.trails[0].heads[0]
        far = dijkstra(matrix, directed=False, indices=[start])[0]
        for trail in self.network.trails:
            self.assertTrue(np.isfinite(far[list(trail.heads)]).all())
            self.assertLessEqual(trail.rings or len(trail.heads), MOST_DOORS)

    def test_a_way_costs_what_its_links_cost(self):
        matrix = self.network.matrix()
        ground = Ground(self.network, range(len(self.network.links)))
        rng = np.random.default_rng(0)
        for _ in range(12):
            a, b = rng.integers(0, len(self.network.nodes), 2).tolist()
            way = ground.way(a, b)
            price = dijkstra(matrix, directed=False, indices=[a])[0][b]
            self.assertAlmostEqual(
                sum(self.network.links[n].price for n, _ in way), price, places=6
            )
            at = a
            for number, entered in way:
                self.assertEqual(entered, at)
                link = self.network.links[number]
                at = link.b if at == link.a else link.a
            self.assertEqual(at, b)
        self.assertEqual(ground.way(3, 3), [])
        nowhere = Ground(self.network, [])
        self.assertIsNone(nowhere.way(0, len(self.network.nodes) - 1))

    def test_on_a_large_ground_ways_are_the_same_near_and_far(self):
        """With other eyes: as of a small ground, for which all ways are found at once."""
        links = range(len(self.network.links))
        small, large = Ground(self.network, links), Ground(self.network, links)
        nodes = small.nodes.tolist()
        asked = [(a, c) for a, b in zip(nodes[::7], nodes[::-5], strict=False)
                 for c in (b, a, nodes[0])]  # fmt: skip
        whole = [(small.price(a, c), small.way(a, c)) for a, c in asked]
        # Some near, some farther, some beyond both.
        beyond = np.searchsorted(NEAR, [price for price, _ in whole])
        self.assertEqual(set(beyond.tolist()), {0, 1, 2})
        with patch("chorograph_core.route.ground.LARGE", 1):
            self.assertEqual([(large.price(a, c), large.way(a, c)) for a, c in asked], whole)
            # Nor are they others where it is told beforehand from which nodes they will be asked for.
            told = Ground(self.network, links)
            told.expect([*(a for a, _ in asked), None, -1])
            search = "chorograph_core.route.ground.dijkstra"
            with patch(search, side_effect=dijkstra) as searched:
                self.assertEqual([(told.price(a, c), told.way(a, c)) for a, c in asked], whole)
                near = [call for call in searched.call_args_list if call[1].get("limit") == NEAR[0]]
            self.assertEqual(near, [])
            told.expect(())
            with patch(search, side_effect=dijkstra) as searched:
                self.assertEqual(told.price(*asked[0]), whole[0][0])
                searched.assert_called()

    def test_without_the_raw_edge_there_is_no_way_along_it(self):
        policy = Policy(edge_finish="turned")
        network = built(self.job, self.drawn, policy)
        self.assertFalse([link for link in network.links if link.kind == "edge"])
        self.assertTrue([link for link in self.network.links if link.kind == "edge"])


class WaysTests(TestCase):
    @classmethod
    def setUpClass(cls):
        job = designed(small_top(1, 2))
        cls.network = built(job, job_linework(job))
        cls.trails = [t for t in cls.network.trails if t.drawn.thread == "indigo"]
        cls.ways = travel_costs(cls.network, cls.network.matrix(), cls.trails, 1.0)

    def test_prices_are_true_and_the_same_both_ways(self):
        matrix = self.network.matrix()
        some_nodes = list(self.ways.nodes)[:6]
        far = dijkstra(matrix, directed=False, indices=some_nodes)
        for row, node in enumerate(some_nodes):
            for other, price in self.ways.nodes[node].items():
                self.assertAlmostEqual(price, far[row][other], places=9)
                self.assertAlmostEqual(self.ways.nodes[other][node], price, places=9)

    def test_what_was_not_kept_is_at_least_as_dear_as_the_radius(self):
        matrix = self.network.matrix()
        nodes = list(self.ways.nodes)
        far = dijkstra(matrix, directed=False, indices=nodes[:6])
        for row, node in enumerate(nodes[:6]):
            for other in nodes:
                if other not in self.ways.nodes[node]:
                    self.assertGreaterEqual(far[row][other], self.ways.radius[node] - 1e-9)
