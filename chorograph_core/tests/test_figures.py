"""Figures: what is drawn over many zones as one is stitched as one."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.figures import figures_in, wholes
from chorograph_core.designs.keeping import Clipping
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.linework import Linework, Mark, Run, length
from chorograph_core.designs.sides import largest_figure
from chorograph_core.formats import run_sheet
from chorograph_core.formats.route_files import route_json
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.layouts import OnPoint, StraightSet
from chorograph_core.layouts.borders import Border
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy
from chorograph_core.tests import examples, long
from chorograph_core.tests.mixed import stitched
from chorograph_core.zones import zones_from_patches

LINES = {"spacing": 1.5, "angle": 90.0, "relative": "top"}


def lined(kind="frame", over="region", layers=None, rows=3, columns=3, **policy) -> Job:
    """A top of nine nine patches, each 9″, with upright lines 1 1/2″ apart over all of it."""
    chart = StraightSet(rows, columns, 9, ("nine_patch",)).chart()
    zones = tuple(zones_from_patches(chart))
    ids = tuple(zone.id for zone in zones)
    layers = layers or (Layer("parallel", LINES, "clear", over=over),)
    return Job("lined", chart, zones, legend=(Entry("e", "", ids, layers),),
               machine=Machine(kind=kind), policy=Policy(effort=0, **policy))  # fmt: skip


class ClippingTests(TestCase):
    @given(st.integers(0, 10_000))
    @settings(deadline=None, max_examples=examples(40))
    def test_each_zone_has_what_lies_in_it_and_all_of_them_have_all(self, seed):
        """Against the whole lines laid over each zone by shapely: the same inches everywhere."""
        rng = np.random.default_rng(seed)
        runs = tuple(Run(rng.uniform(-1, 10, (int(rng.integers(2, 12)), 2))) for _ in range(5))
        dots = rng.uniform(0, 9, (6, 2))
        marks = (Mark("line", rng.uniform(0, 9, (3, 2)), "axis"), Mark("dot", dots, "target"))
        clipping = Clipping(Linework(runs, marks))
        cells = [box(x, y, x + 3, y + 3) for x in (0, 3, 6) for y in (0, 3, 6)]
        kept = 0
        for cell in cells:
            found = clipping.to(cell)
            wanted = sum(cell.intersection(shapely.linestrings(run.points)).length for run in runs)
            self.assertAlmostEqual(sum(run.inches for run in found.runs), wanted, delta=1e-3)
            for run in found.runs:
                self.assertTrue(cell.buffer(1e-5).covers(shapely.linestrings(run.points)))
            drawn = sum(length(mark.points) for mark in found.marks if mark.kind == "line")
            axis = cell.intersection(shapely.linestrings(marks[0].points)).length
            self.assertAlmostEqual(drawn, axis, delta=1e-3)
            kept += sum(len(mark.points) for mark in found.marks if mark.kind == "dot")
        self.assertEqual(kept, 6)

    def test_a_line_along_the_edge_belongs_to_the_zone_that_the_region_was_joined_of(self):
        """Thirds of an inch, joined to a hundred-thousandth, lie beside their own edge."""
        third = 19 / 3
        zones = [box(0, 0, third, third), box(0, third, third, 2 * third)]
        region = shapely.union_all(zones, grid_size=1e-5)
        clipping = Clipping(Linework((Run(np.array(region.exterior.coords)),)))
        found = sum(run.inches for zone in zones for run in clipping.to(zone).runs)
        self.assertAlmostEqual(found, region.length, places=3)


class FigureTests(TestCase):
    def test_pieces_add_up_to_the_whole(self):
        job = lined()
        drawn = job_linework(job)
        self.assertEqual(len(drawn), 81)
        whole = wholes(drawn)
        self.assertEqual(len(whole), 1)
        self.assertAlmostEqual(stitched(drawn), stitched(whole), delta=0.05)
        shapes = {zone.id: zone.polygon for zone in job.zones}
        for one in drawn:
            for run in one.linework.runs:
                self.assertTrue(
                    shapes[one.zone].buffer(0.001).covers(shapely.linestrings(run.points))
                )
        self.assertEqual(wholes(whole), whole, "it is whole already")

    def test_a_pieced_border_is_ruled_along_each_of_its_sides(self):
        """24″ of body in a border 4″ wide of 4″ squares, with corner blocks: eight squares above and below
        with the corners, six at each side."""
        chart = StraightSet(
            2, 2, 12, ("plain",), borders=(Border(4, "block", piecing="squares", unit=4),)
        ).chart()
        zones = tuple(zones_from_patches(chart))
        ids = tuple(zone.id for zone in zones if zone.polygon.area < 17)
        self.assertEqual(len(ids), 28)
        layer = Layer("parallel", {"spacing": 1.0, "angle": 0.0}, "clear", over="sides")
        job = Job("lined", chart, zones, legend=(Entry("e", "", ids, (layer,)),))
        whole = wholes(job_linework(job))
        self.assertEqual(sorted(len(one.figure.zones) for one in whole), [6, 6, 8, 8])
        self.assertEqual(set().union(*(one.figure.zones for one in whole)), set(ids))
        for one in whole:
            lines = [
                p for run in one.linework.runs for p, _, kind in run.pieces() if kind == "stitch"
            ]
            along = np.abs(np.array([line[-1] - line[0] for line in lines])).max(axis=0)
            # As long as the side is: eight squares or six, less what the binding takes of the corners.
            self.assertAlmostEqual(
                max(along), 32 - 0.75 if len(one.figure.zones) == 8 else 24, delta=0.05
            )
            self.assertLess(min(along), 1e-6)
        self.assertEqual(replayed_job(job, planned_job(job)), [])

    @settings(deadline=None, max_examples=examples(30))
    @given(
        st.floats(6, 14), st.floats(3, 9), st.sampled_from(("butted", "mitred", "block")),
        st.sampled_from(("region", "sides")),
    )  # fmt: skip
    def test_every_zone_has_its_piece_however_odd_the_sizes_are(self, block, width, corner, over):
        """Of a border round blocks on point, whose seams lie at roots of two: rounded, two that share an edge
        have a line in common besides their ground."""
        chart = OnPoint(2, 2, block, ("plain",), borders=(Border(width, corner),)).chart()
        zones = tuple(zones_from_patches(chart))
        sides = tuple(zone for zone in zones if "border" in zone.id)
        self.assertGreaterEqual(len(sides), 4)
        layer = Layer("parallel", {"spacing": 1.0, "angle": 30.0}, "clear", over=over)
        entry = Entry("e", "", tuple(zone.id for zone in sides), (layer,))
        drawn = job_linework(Job("on point", chart, zones, legend=(entry,)))
        lined = {one.zone: stitched([one]) for one in drawn}
        for zone in sides:
            self.assertGreater(lined.get(zone.id, 0.0), 0.4 * zone.polygon.area, zone.id)
        self.assertAlmostEqual(sum(lined.values()), stitched(wholes(drawn)), delta=0.1)

    def test_the_largest_figure_that_zones_make(self):
        """The same border: all round as one region it holds all 28 squares, along its sides the upper one
        with both corners, eight; two blocks that do not touch make a figure of one."""
        chart = StraightSet(
            2, 2, 12, ("plain",), borders=(Border(4, "block", piecing="squares", unit=4),)
        ).chart()
        zones = zones_from_patches(chart)
        squares = [zone for zone in zones if zone.polygon.area < 17]
        limit = box(0, 0, 32, 32)
        round_it, parts = largest_figure(squares, "region", limit)
        self.assertEqual((len(parts), round(round_it.area, 3)), (28, 28 * 16))
        side, parts = largest_figure(squares, "sides", limit)
        self.assertEqual((len(parts), side.bounds), (8, (0, 0, 32, 4)))
        apart = [zone for zone in zones if zone.polygon.area > 17][::3]
        one, parts = largest_figure(apart, "region", limit)
        self.assertEqual((len(parts), round(one.area, 3)), (1, 144))
        outside, _ = largest_figure(squares[:1], "region", box(50, 50, 60, 60))
        self.assertEqual(outside, squares[0].polygon)

    def test_a_ruler_is_laid_along_the_line_and_not_seam_by_seam(self):
        route = planned_job(lined("sit-down"))
        # 27″ less 3/8″ all round is 26 1/4″: 18 spaces of 1.458″ make 17 lines, each in three layings of
        # at most 10″; square by square it would be 9 squares each time.
        self.assertEqual(sum(step.count for step in route.steps if step.kind == "ruler"), 17 * 3)
        self.assertEqual(route.cuts, 1)

    @long
    def test_every_school_and_machine_stitches_it_clean(self):
        for kind in ("frame", "sit-down"):
            for school in ("quilt", "pass", "zone", "free"):
                with self.subTest(kind=kind, school=school):
                    layers = (
                        Layer("ditch", {}, "clear"),
                        Layer("inset_echo", {"count": 1}, "clear"),
                        Layer("parallel", LINES, "clear", over="region"),
                        Layer("parallel", {"spacing": 1.0}, "clear"),
                    )
                    job = lined(
                        kind, layers=layers, rows=2, columns=1, stabilise=school, technique="ruler"
                    )
                    route = planned_job(job)
                    self.assertEqual(replayed_job(job, route), [])
                    self.assertLessEqual(route.floor.lost_minutes, route.lost_minutes + 1e-6)

    @long
    def test_two_figures_over_each_other_rolled_under_the_needle(self):
        """What is stitched over them, in any pass, waits until they are done."""
        layers = (
            Layer("ditch", {}, "clear"),
            Layer("parallel", {**LINES, "angle": 0.0}, "clear", over="region"),
            Layer("parallel", LINES, "clear", over="region"),
            Layer("inset_echo", {"count": 1}, "clear"),
        )
        for policy in ({"stabilise": "pass", "days": "basted"}, {"stabilise": "quilt"},
                       {"stabilise": "zone", "technique": "design"}):  # fmt: skip
            with self.subTest(policy=policy):
                job = lined(layers=layers, columns=1, oversized="roll", **policy)
                route = planned_job(job)
                self.assertEqual(replayed_job(job, route), [])
                self.assertTrue(any(step.how == "under" for step in route.steps))

    def test_what_comes_before_and_after_a_figure(self):
        layers = (
            Layer("inset_echo", {"count": 1}, "clear"),
            Layer("parallel", LINES, "clear", over="region"),
            Layer("loops", {}, "clear"),
        )
        route = planned_job(lined("sit-down", layers=layers, columns=1))
        order = [step.run.split("/")[1] for step in route.steps if step.kind == "stitch"]
        self.assertEqual("".join(dict.fromkeys(order)), "012")
        self.assertEqual(sorted(order), order)

    @long
    def test_a_figure_deeper_than_the_reach_is_parted_and_goes_on(self):
        job = lined(rows=4)
        route = planned_job(job)
        self.assertGreater(len(route.passes), 1)
        self.assertEqual(replayed_job(job, route), [])
        (key,) = route.figures
        self.assertEqual(len(route.figures[key]), 108)
        self.assertEqual({step.zone for step in route.steps if step.kind == "stitch"}, {key})

    def test_regions_apart_are_ruled_the_same_way(self):
        """A strip that is longer down the quilt and one that is longer across it, both at 45 degrees from
        the top's edge."""
        chart = StraightSet(3, 3, 9, ("plain",)).chart()
        zones = tuple(zones_from_patches(chart))
        tall, wide = [0, 3], [7, 8]
        names = tuple(zones[k].id for k in (*tall, *wide))
        for angle in (0.0, 30.0):
            layer = Layer("parallel", {"spacing": 1.5, "angle": angle}, "clear", over="region")
            job = Job("r", chart, zones, legend=(Entry("e", "", names, (layer,)),))
            headings = {
                round(float(np.degrees(np.arctan2(*(points[-1] - points[0])[::-1])) % 180), 3) % 180
                for one in job_linework(job)
                for run in one.linework.runs
                for points, _, kind in run.pieces()
                if kind == "stitch"
            }
            self.assertEqual(headings, {angle})

    def test_where_the_client_forbids_a_zone_the_rest_goes_round_it(self):
        job = lined("sit-down")
        zones = (replace(job.zones[40], forbidden=True), *job.zones[:40], *job.zones[41:])
        job = replace(job, zones=zones)
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        core = zones[0].polygon.buffer(-0.01)
        for step in route.steps:
            if step.kind in ("stitch", "travel"):
                self.assertFalse(core.intersects(shapely.linestrings(step.points)))
        self.assertEqual(len(next(iter(route.figures.values()))), 80)

    def test_applique_that_is_only_outlined_is_left_out_of_the_figure(self):
        job = lined("sit-down", columns=2, rows=1, applique="outline")
        patches = tuple(
            replace(patch, role="applique") if patch.id == job.zones[4].patches[0] else patch
            for patch in job.chart.patches
        )
        job = replace(job, chart=replace(job.chart, patches=patches))
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        self.assertEqual(len(next(iter(route.figures.values()))), len(job.zones) - 1)

    def test_two_regions_are_two_figures_with_names_of_their_own(self):
        job = lined("sit-down")
        left = [zone.id for zone in job.zones if zone.polygon.bounds[2] < 8.9]
        right = [zone.id for zone in job.zones if zone.polygon.bounds[0] > 9.1]
        entry = replace(job.legend[0], zones=(*left, *right))
        job = replace(job, legend=(entry,))
        figures = figures_in(job_linework(job))
        self.assertEqual(sorted(len(one.zones) for one in figures.values()), sorted(
            (len(left), len(right))))  # fmt: skip
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        self.assertEqual(len(route.paths), 2)


class ReplayOfFigures(TestCase):
    """The replay sees each kind of damage to a figure."""

    @classmethod
    def setUpClass(cls):
        layers = (
            Layer("parallel", LINES, "clear", over="region"),
            Layer("inset_echo", {"count": 1}, "clear"),
        )
        cls.job = lined("sit-down", layers=layers, rows=1)
        cls.route = planned_job(cls.job)
        (cls.key,) = cls.route.figures

    def faults(self, steps):
        return replayed_job(self.job, replace(self.route, steps=steps))

    def test_clean(self):
        self.assertEqual(self.faults(self.route.steps), [])

    def test_left_out(self):
        steps = [step for step in self.route.steps if step.zone != self.key]
        self.assertIn(f"{self.key}/0/0 is never stitched", self.faults(steps))

    def test_stitched_elsewhere(self):
        steps = [
            replace(step, points=step.points + (0.25, 0.0)) if step.zone == self.key else step
            for step in self.route.steps
        ]
        self.assertTrue(any(one.startswith(f"{self.key}/0/0 ") for one in self.faults(steps)))

    def test_filled_before_the_figure_is_there(self):
        mine = [step for step in self.route.steps if step.zone == self.key]
        rest = [step for step in self.route.steps if step.zone != self.key]
        self.assertTrue(any("is framed after it was filled" in one
                            for one in self.faults([*rest, *mine])))  # fmt: skip


class FiguresOnPaper(TestCase):
    def test_the_run_sheet_and_the_file_name_it(self):
        import json

        job = lined("sit-down")
        route = json.loads(route_json(job, planned_job(job), []))
        self.assertEqual([len(zones) for zones in route["over"].values()], [81])
        sheet = run_sheet(job, route)
        self.assertEqual(sheet.cards[0].where, "all 81 zones as one")
        self.assertEqual(len(sheet.cards[0].zones), 81)


class GroundTests(TestCase):
    """What lies over several zones keeps a ground off it in each of them."""

    def job(self, motif: Layer, ground: Layer):
        chart = StraightSet(1, 3, 12, ("plain",)).chart()
        zones = tuple(zones_from_patches(chart))
        ids = tuple(zone.id for zone in zones)
        return Job("grounds", chart, zones, legend=(Entry("e", "", ids, (motif, ground)),))

    def pieces(self, job):
        drawn = job_linework(job)
        self.assertEqual([one.fault for one in drawn if one.fault], [])
        return [[one for one in drawn if one.layer == k] for k in (0, 1)]

    def assert_apart(self, motif, ground, least):
        for one in ground:
            lines = shapely.union_all([shapely.linestrings(r.points) for r in one.linework.runs])
            others = [r for each in motif if each.zone == one.zone for r in each.linework.runs]
            over = shapely.union_all([shapely.linestrings(r.points) for r in others])
            self.assertGreater(lines.length, 40)
            self.assertFalse(lines.crosses(over))
            covered = shapely.convex_hull(over).buffer(-0.6)
            self.assertLess(lines.intersection(covered).length, least * lines.length)

    def test_a_feather_over_three_blocks_and_pebbles_beside_it(self):
        job = self.job(Layer("feather", {"swings": 0, "height": 2.5}, "clear", over="region"),
                       Layer("pebbles", {}, "clear"))  # fmt: skip
        motif, ground = self.pieces(job)
        self.assertEqual({one.zone for one in ground}, {zone.id for zone in job.zones})
        self.assert_apart(motif, ground, 0.5)

    @long
    def test_what_follows_a_guide_at_a_width_of_its_own_has_a_ground_too(self):
        guide = tuple(
            (float(x), 6 + 1.5 * float(np.sin(x / 6))) for x in np.linspace(0.5, 35.5, 80)
        )
        for key in ("rope", "swirl_row", "wishbone"):
            for over in ("region", "zone"):
                job = self.job(
                    Layer(key, {}, "clear", over=over, guide=guide, guide_width=3.0),
                    Layer("meander", {}, "clear"),
                )
                motif, ground = self.pieces(job)
                inner = shapely.linestrings(guide).buffer(1.3, cap_style="flat")
                with self.subTest(key, over=over):
                    self.assertEqual(len({one.zone for one in ground}), 3)
                    # Alike blocks are laid upon the one that is guided where each is drawn by itself.
                    first = next(
                        z for z in job.zones if shapely.linestrings(guide).intersects(z.polygon)
                    )
                    for one in (
                        ground if over == "region" else [g for g in ground if g.zone == first.id]
                    ):
                        lines = shapely.union_all(
                            [shapely.linestrings(run.points) for run in one.linework.runs]
                        )
                        self.assertGreater(lines.length, 60)
                        self.assertLess(lines.intersection(inner).length, 0.01)
                    self.assertTrue(any(one.linework.runs for one in motif))

    def test_without_a_width_nothing_is_kept_free(self):
        space = Space(StraightSet(1, 1, 12, ("plain",)).chart().patches[0].polygon)
        drawing = designs()["rope"]
        self.assertIsNone(drawing.reserves(space, {}, drawing.draw(space, {})))
