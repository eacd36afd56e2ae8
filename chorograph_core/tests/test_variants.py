"""Layouts that may be begun elsewhere: the same lines, other ends."""

from unittest import TestCase, mock

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from chorograph_core.designs import designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.contract import Design
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.redrawing import doors_of, good_pairs, redraw
from chorograph_core.designs.space import Space
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches

SHAPES = (
    box(0, 0, 6, 4), box(0, 0, 5, 5), Polygon([(0, 0), (6, 0), (3, 5)]),
    Polygon([(0, 0), (8, 0), (6, 3), (2, 3)]), box(0, 0, 9, 9).difference(box(3, 3, 6, 6)),
    Polygon([(0, 0), (6, 0), (6, 2), (2, 2), (2, 6), (0, 6)]),
)  # fmt: skip


def stitched(run) -> list[np.ndarray]:
    return [points for points, _, kind in run.pieces() if kind == "stitch"]


def travelled(run) -> float:
    return run.inches - sum(float(np.hypot(*np.diff(p, axis=0).T).sum()) for p in stitched(run))


class VariantTests(TestCase):
    def test_the_same_lines_and_no_longer_ways_from_other_ends(self):
        found = 0
        for shape in SHAPES:
            for key in ("parallel", "crosshatch"):
                drawing: Design = designs()[key]
                space = Space(shape)
                (first, *rest) = drawing.draw(space).runs
                lines = shapely.multilinestrings([shapely.linestrings(p) for p in stitched(first)])
                ends = [first.points[[0, -1]]]
                for variant in drawing.variants(space):
                    self.assertFalse(rest, "only what is one run has any")
                    (run,) = variant.runs
                    other = shapely.multilinestrings(
                        [shapely.linestrings(p) for p in stitched(run)]
                    )
                    self.assertLess(lines.hausdorff_distance(other), 1e-6)
                    self.assertAlmostEqual(lines.length, other.length, 6)
                    self.assertLess(travelled(run), travelled(first) * 1.05 + 0.02)
                    mine = run.points[[0, -1]]
                    for pair in ends:
                        apart = min(np.abs(mine - pair).max(), np.abs(mine[::-1] - pair).max())
                        self.assertGreater(apart, 0.05)
                    ends.append(mine)
                    found += 1
        self.assertGreater(found, 8)

    def test_a_rectangle_of_five_lines_has_two_ways(self):
        # Across a 6" by 4" piece, 1" apart: five lines, so that one ends on the other side; from the
        # other corner it is the mirrored line.
        space = Space(box(0, 0, 6, 4))
        drawing = designs()["parallel"]
        settings = {"spacing": 1.0}
        made = [*drawing.draw(space, settings).runs,
                *(run for each in drawing.variants(space, settings) for run in each.runs)]  # fmt: skip
        ends = {
            frozenset(tuple(np.round(p, 3).tolist()) for p in run.points[[0, -1]]) for run in made
        }
        self.assertEqual(
            ends, {frozenset({(1.0, 0.0), (5.0, 4.0)}), frozenset({(1.0, 4.0), (5.0, 0.0)})}
        )

    @long
    def test_the_route_takes_the_end_that_is_nearer(self):
        chart = StraightSet(2, 3, 8, ("pinwheel",)).chart()
        zones = tuple(zones_from_patches(chart))
        entry = Entry("e", "", tuple(zone.id for zone in zones),
                      (Layer("parallel", {"spacing": 0.5}, "clear"),))  # fmt: skip
        job = Job(
            "p", chart, zones, legend=(entry,), machine=Machine(kind="sit-down"), policy=Policy()
        )
        cache = DrawingCache()
        drawn = job_linework(job, cache)
        pairs = good_pairs(drawn[0], cache, zones[0].polygon)
        self.assertTrue(pairs)
        made = redraw(drawn[0], *pairs[0][::-1], cache, zones[0].polygon)
        self.assertLess(np.abs(made.linework.runs[0].points[0] - doors_of(drawn[0])[pairs[0][1]]).max(),
                        1e-6)  # fmt: skip
        route = planned_job(job, cache)
        self.assertEqual(replayed_job(job, route), [])
        with mock.patch.object(type(designs()["parallel"]), "variants", lambda *_, **__: ()):
            with_one_way = planned_job(job, DrawingCache())
        self.assertEqual(replayed_job(job, with_one_way), [])
        self.assertLess(route.lost_minutes, with_one_way.lost_minutes)
