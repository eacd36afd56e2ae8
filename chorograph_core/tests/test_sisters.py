"""How sisters lie: round the middle of their block, through the quilt, at the raw edge."""

from __future__ import annotations

import unittest

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from chorograph_core.chart import ways_onto_itself
from chorograph_core.designs import designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer, LayerLinework
from chorograph_core.designs.surroundings import Surroundings
from chorograph_core.job import Job, job_linework
from chorograph_core.layouts import StraightSet
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed
from chorograph_core.zones import zones_from_patches
from chorograph_core.zones.cutting import circle, cut

SIDE = 6.0
"""Inches of a square of the nine in each block."""


def drawn(design: str, places: tuple[str, ...] = (), **layer) -> dict[tuple, LayerLinework]:
    """What is drawn in the squares of nine blocks, by block and place: those of some *places*, or all."""
    survey = StraightSet(3, 3, 3 * SIDE, ("nine_patch",))
    chart = survey.chart()
    zones = tuple(zones_from_patches(chart))
    patches = {zone.id: chart.patch(zone.patches[0]) for zone in zones}
    cells = {name: patch.cell.split(":")[1][:4] for name, patch in patches.items()}
    ids = tuple(z.id for z in zones if not places or cells[z.id] in places)
    laid = Layer(design, layer.pop("settings", {}), "main", **layer)
    job = Job("squares", chart, zones, survey=survey, legend=(Entry("e", "e", ids, (laid,)),))
    return {(patches[o.zone].block, cells[o.zone]): o for o in job_linework(job)}


def lines(one: LayerLinework) -> shapely.Geometry:
    return shapely.union_all([shapely.linestrings(run.points) for run in one.linework.runs])


def turned(shape: shapely.Geometry, quarters: int, block: tuple[int, int]) -> shapely.Geometry:
    """A shape turned by so many quarters round the middle of a block."""
    middle = (np.array(block[::-1]) + 0.5) * 3 * SIDE
    c, s = (1, 0, -1, 0)[quarters % 4], (0, 1, 0, -1)[quarters % 4]
    return shapely.transform(shape, lambda p: (p - middle) @ np.array([[c, s], [-s, c]]) + middle)


def heading(one: LayerLinework) -> tuple[float, float]:
    """The way most lines of a drawing lie, radians folded to a half turn, and how plainly (0 to 1)."""
    legs = np.concatenate([np.diff(run.points, axis=0) for run in one.linework.runs])
    twice = (legs[:, 0] + 1j * legs[:, 1]) ** 2 / np.maximum(np.hypot(*legs.T), 1e-12)
    mean = twice.sum() / np.hypot(*legs.T).sum()
    return float(np.angle(mean) / 2 % np.pi), float(abs(mean))


class LyingTests(unittest.TestCase):
    def test_ways_onto_itself_are_those_of_its_symmetry(self):
        oblong, triangle = box(0, 0, 3, 2), Polygon([(0, 0), (3, 0), (0, 2)])
        hexagon = Polygon([(np.cos(k * np.pi / 3), np.sin(k * np.pi / 3)) for k in range(6)])
        for shape, many in ((box(5, 1, 7, 3), 8), (oblong, 4), (triangle, 1), (hexagon, 12)):
            ways = ways_onto_itself(shape)
            # A shape that is only moved may come twice: zero as much as minus zero.
            kinds = {tuple(np.round(np.ravel(way.matrix), 6) + 0.0) for way in ways}
            self.assertEqual(len(kinds), many)
            for way in ways:
                laid = shapely.transform(shape, way.apply)
                self.assertLess(shapely.hausdorff_distance(laid.boundary, shape.boundary), 1e-6)

    def test_a_circle_lies_one_way_as_well_as_any_other(self):
        self.assertEqual(len(ways_onto_itself(shapely.Point(0, 0).buffer(3, quad_segs=64))), 1)

    def test_squares_in_the_corners_of_a_block_are_turned_round_its_middle(self):
        corners = ("r0c0", "r0c2", "r2c2", "r2c0")
        for design in ("rays", "chevrons", "half_feather", "leaf", "feather"):
            made = drawn(design, corners)
            first = lines(made[(1, 1), corners[0]])
            self.assertGreater(first.length, SIDE)
            for k, cell in enumerate(corners):
                there = lines(made[(1, 1), cell])
                off = shapely.hausdorff_distance(turned(first, k, (1, 1)), there, 0.2)
                self.assertLess(off, 0.02, (design, cell))

    def test_what_runs_through_stands_as_it_does_unless_it_is_turned(self):
        corners = ("r0c0", "r0c2", "r2c2", "r2c0")
        ways = {
            over: [
                heading(drawn("parallel", corners, over=over)[(1, 1), cell])[0] for cell in corners
            ]
            for over in ("zone", "turned", "level")
        }
        upright = ways["zone"][0]
        np.testing.assert_allclose(ways["zone"], upright, atol=0.01)
        np.testing.assert_allclose(ways["level"], upright, atol=0.01)
        off = np.abs(np.array(ways["turned"]) - upright) % np.pi
        np.testing.assert_allclose(off, [0, np.pi / 2, 0, np.pi / 2], atol=0.01)

    def test_all_the_same_way_where_that_is_asked_for(self):
        made = drawn("rays", ("r0c0", "r0c2", "r2c2", "r2c0"), over="level")
        first = lines(made[(1, 1), "r0c0"])
        for cell, x, y in (("r0c2", 2, 0), ("r2c2", 2, 2), ("r2c0", 0, 2)):
            moved = shapely.transform(
                first, lambda p, x=x, y=y: p + np.array([x, y]) * 2 / 2 * SIDE
            )
            self.assertLess(shapely.hausdorff_distance(moved, lines(made[(1, 1), cell]), 0.2), 0.02)

    def test_what_is_measured_from_the_top_runs_the_same_way_in_pieces_that_are_turned(self):
        survey = StraightSet(1, 1, 12, ("pinwheel",))
        chart = survey.chart()
        zones = tuple(zones_from_patches(chart))
        dark = tuple(z.id for z in zones if chart.patch(z.patches[0]).fabric == "b")
        self.assertEqual(len(dark), 4)
        for relative, same in (("top", True), ("zone", False)):
            layer = Layer("parallel", {"spacing": 0.5, "angle": 20.0, "relative": relative}, "main")
            job = Job(
                "turned", chart, zones, survey=survey, legend=(Entry("e", "e", dark, (layer,)),)
            )
            # The ways from line to line along the edge are a little of it.
            found = [np.degrees(heading(one)[0]) for one in job_linework(job)]
            self.assertEqual(bool(np.abs(np.array(found) - 20).max() < 6), same, (relative, found))

    def test_what_is_turned_round_its_block_is_so_measured_from_the_top_too(self):
        corners = ("r0c0", "r0c2", "r2c2", "r2c0")
        asked = {"relative": "top", "angle": 0.0}
        made = drawn("parallel", corners, over="turned", settings=asked)
        first = lines(made[(1, 1), "r0c0"])
        for quarters, cell in enumerate(corners):
            there = turned(first, quarters, (1, 1))
            off = shapely.hausdorff_distance(there, lines(made[(1, 1), cell]), 0.2)
            self.assertLess(off, 0.02, cell)

    @long
    def test_what_reaches_the_raw_edge_lies_as_its_sisters_do(self):
        told = 0
        for design in designs():
            made = drawn(design, ("r0c0", "r0c1", "r1c0"), over="level")
            for cell in ("r0c0", "r0c1", "r1c0"):
                way, plain = heading(made[(1, 1), cell])
                if plain < 0.3:
                    # Lines that go all ways say nothing.
                    continue
                told += 1
                for block in ((0, 0), (0, 1), (1, 0)):
                    with self.subTest(design, cell=cell, block=block):
                        there, _ = heading(made[block, cell])
                        off = abs(there - way) % np.pi
                        self.assertLess(min(off, np.pi - off), 0.35)
        self.assertGreater(told, 30)

    def test_what_was_drawn_for_another_top_is_drawn_so_here(self):
        # Sisters at the edge of tops of other sizes are the same to a billionth of an inch: no side is
        # longer in the one top and shorter in the other.
        tops = {n: designed(StraightSet(n, n, 8, ("nine_patch",))) for n in (2, 3, 5)}
        known = DrawingCache()
        for top in tops.values():
            job_linework(top, known)
        for top in tops.values():
            for one, two in zip(job_linework(top), job_linework(top, known), strict=True):
                self.assertEqual(len(one.linework.runs), len(two.linework.runs))
                for run, other in zip(one.linework.runs, two.linework.runs, strict=True):
                    self.assertEqual(run.points.shape, other.points.shape, one.zone)
                    np.testing.assert_allclose(run.points, other.points, atol=1e-6)

    def test_a_guide_leads_sisters_at_the_raw_edge_too(self):
        guide = tuple((18 + x, 18 + y) for x, y in ((0.5, 0.5), (3.0, 2.0), (5.5, 5.5)))
        made = drawn("feather", ("r0c0",), guide=guide)
        first = made[(1, 1), "r0c0"]
        for block in ((0, 0), (0, 2), (2, 0)):
            x, y = ((block[1] - 1) * 18.0, (block[0] - 1) * 18.0)
            near = shapely.linestrings(np.array(guide) + (x, y)).buffer(0.3)
            spine = shapely.linestrings(np.array(guide)).buffer(0.3)
            here = shapely.length(lines(made[block, "r0c0"]).intersection(near))
            self.assertGreater(here, 0.6 * shapely.length(lines(first).intersection(spine)))

    def test_a_cut_in_the_corner_of_a_block_is_turned_round_its_middle(self):
        chart = StraightSet(2, 2, 3 * SIDE, ("nine_patch",)).chart()
        zones = list(zones_from_patches(chart))
        corners = [
            zone for zone in zones
            if chart.patch(zone.patches[0]).cell.split(":")[1][:4] in ("r0c0", "r0c2", "r2c2", "r2c0")
        ]  # fmt: skip
        around = Surroundings(chart, zones)
        middles = [around.middle_round(zone) for zone in corners]
        made = cut(corners, circle(4.0, "top left"), middles)
        discs = [piece for piece in made if piece.polygon.area < SIDE**2 / 2]
        self.assertEqual(len(discs), 16)
        for disc in discs:
            off = np.array(disc.polygon.centroid.coords[0]) - around.middle_round(disc)
            # A quarter of a circle of radius 2 has its middle 4 r / 3 π from either side.
            np.testing.assert_allclose(np.abs(off), 1.5 * SIDE - 8 / (3 * np.pi), atol=0.01)
        # Without blocks all are cut alike.
        level = [p for p in cut(corners, circle(4.0, "top left")) if p.polygon.area < SIDE**2 / 2]
        ways = {tuple(np.round(np.subtract(p.polygon.centroid.coords[0], p.polygon.bounds[:2]), 2))
                for p in level}  # fmt: skip
        self.assertEqual(len(ways), 1)
