"""Ruler layouts against closed formulas: spacings, radii, nodes, symmetry; nothing recorded."""

import itertools
import math
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely import affinity
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.chart import alike
from chorograph_core.designs import SettingError, Space, designs
from chorograph_core.designs.drawing import drawn_safely, fit_of
from chorograph_core.designs.engine.arcs import arc, chained_arcs
from chorograph_core.designs.engine.axes import axis_of
from chorograph_core.designs.engine.fitting import FITTINGS, RHYTHMS, gaps_of, places
from chorograph_core.designs.engine.tracing import Line, traced
from chorograph_core.designs.ruler.dot_to_dot import RULES
from chorograph_core.designs.ruler.ellipses import radii_of
from chorograph_core.rulers import STARTING_RULERS, laid_with, placements_along, stretches_of
from chorograph_core.rulers.fitting import height_over, radius_of
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import UGLY

spots = some.tuples(some.floats(-20, 20), some.floats(-20, 20))


def drawn(key, shape, **given_settings):
    design = designs()[key]
    return design.draw(Space(shape), design.clean(given_settings), 1)


def stitched(work):
    """The stitched pieces of all runs, without links and retraces."""
    return [
        p for run in work.runs for p, _, kind in run.pieces() if kind == "stitch" and len(p) > 1
    ]


def arcs_of(work):
    return [s for piece in stitched(work) for s in stretches_of(piece) if s.kind == "arc"]


def hexagon(side=5.0):
    at = np.arange(6) * math.pi / 3
    return Polygon(side * np.column_stack([np.cos(at), np.sin(at)]))


class ArcTests(TestCase):
    @given(spots, spots, some.floats(0.02, 1.0), some.booleans())
    def test_every_point_lies_on_the_circle_of_chord_and_height(self, a, b, share, left):
        chord = math.dist(a, b)
        if chord < 0.1:
            return
        height = share * chord / 2
        made = arc(a, b, height if left else -height)
        radius = chord**2 / (8 * height) + height / 2
        self.assertAlmostEqual(radius_of(chord, height), radius)
        self.assertAlmostEqual(height_over(chord, radius), height, places=6)
        middle = made[len(made) // 2]
        along = (np.array(b) - a) / chord
        off = (middle - a) @ np.array([-along[1], along[0]])
        self.assertEqual(off > 0, left)
        centre = (np.array(a) + b) / 2 + np.array([-along[1], along[0]]) * (
            (height - radius) * (1 if left else -1)
        )
        self.assertLess(np.abs(np.hypot(*(made - centre).T) - radius).max(), 1e-6 * max(1, radius))
        self.assertTrue(np.allclose(made[[0, -1]], [a, b]))
        # The polyline lies inside the arc by next to nothing.
        legs = np.hypot(*np.diff(made, axis=0).T)
        self.assertLess(float((legs**2 / 8 / radius).max()), 0.004)

    @given(some.integers(1, 9), some.floats(0.5, 6), some.floats(0.05, 0.5))
    def test_a_ruler_sees_the_arcs_that_were_drawn(self, count, chord, share):
        nodes = np.column_stack([np.arange(count + 1) * chord, np.zeros(count + 1)])
        heights = [share * chord * (-1) ** k for k in range(count)]
        found = stretches_of(chained_arcs(nodes, heights))
        if radius_of(chord, share * chord) > 0.5:
            self.assertEqual([s.kind for s in found], ["arc"] * count)
            for s in found:
                self.assertAlmostEqual(s.radius, radius_of(chord, share * chord), delta=0.01)


class FittingTests(TestCase):
    @given(
        some.floats(0.3, 80), some.floats(0.2, 6),
        some.sampled_from([key for key, _ in FITTINGS]),
        some.sampled_from([key for key, _ in RHYTHMS]),
    )  # fmt: skip
    def test_lines_lie_inside_in_their_rhythm(self, width, wished, fitting, rhythm):
        at = places(width, wished, fitting, rhythm)
        self.assertTrue((at.at > 0).all() and (at.at < width).all())
        gaps = np.diff(at.at)
        wanted = gaps_of(wished, rhythm) if fitting != "even" else at.gaps
        for gap in gaps:
            self.assertLess(min(abs(gap - each) for each in wanted), 1e-9)
        if fitting == "even" and len(at.at) > 1:
            # It looks alike from either side.
            self.assertAlmostEqual(at.at[0], width - at.at[-1])
        if fitting == "centre" and len(at.at) >= len(wanted):
            self.assertAlmostEqual(at.at[0], width - at.at[-1], places=6)
        if fitting == "start" and wished < width:
            self.assertAlmostEqual(at.at[0], wished)
        if fitting == "middle":
            # A line, or the middle of a group, lies in the middle.
            half = sum(wanted[1:]) / 2
            spots = np.concatenate([at.at, at.at + half, at.at - half])
            self.assertLess(np.abs(spots - width / 2).min(), 1e-6)

    def test_thousands_of_lines_are_refused_in_words(self):
        for key in ("parallel", "waves", "arc_rungs", "curved_crosshatch", "crosshatch"):
            with self.subTest(key):
                space = Space(box(0, 0, 3000, 3000))
                clean = designs()[key].clean({"spacing": "3/16"})
                made, fault = drawn_safely(designs()[key], space, clean)
                self.assertEqual((made.runs, fit_of(designs()[key], space, clean).score), ((), 0))
                self.assertIn("Spacing", fault) if key != "arc_rungs" else self.assertTrue(fault)
        with self.assertRaises(SettingError) as caught:
            drawn("clamshells", box(0, 0, 3000, 3000), width=0.5)
        self.assertEqual(caught.exception.field, "width")


class TracingTests(TestCase):
    def test_a_square_with_its_diagonals_is_one_line_that_goes_straight_on(self):
        corners = np.array([(0, 0), (6, 0), (6, 6), (0, 6.0)])
        lines = [Line(corners[[0, 2]]), Line(corners[[1, 3]])]
        runs = traced(lines, box(0, 0, 6, 6))
        self.assertEqual(len(runs), 1)
        self.assertEqual([kind for *_, kind in runs[0].pieces()], ["stitch", "link", "stitch"])
        self.assertAlmostEqual(runs[0].inches, 2 * 6 * math.sqrt(2) + 6)

    @settings(max_examples=examples(40), deadline=None)
    @given(
        some.lists(some.tuples(some.integers(0, 5), some.integers(0, 5)), min_size=2, max_size=14)
    )
    def test_each_line_is_stitched_once_and_runs_hang_together(self, steps):
        spots_ = [np.array(step, float) for step in steps]
        lines = [Line(np.array([a, b])) for a, b in itertools.pairwise(spots_)
                 if np.hypot(*(b - a)) > 0]  # fmt: skip
        unique = {tuple(sorted((tuple(x.points[0]), tuple(x.points[1])))): x for x in lines}
        runs = traced(list(unique.values()), box(0, 0, 5, 5), 30)
        done = [tuple(sorted((tuple(p[0]), tuple(p[-1])))) for run in runs
                for p, _, kind in run.pieces() if kind == "stitch"]  # fmt: skip
        self.assertEqual(sorted(done), sorted(unique))
        # Drawn in one go, so it is one run.
        self.assertLessEqual(len(runs), 1)


class EchoTests(TestCase):
    def test_no_core_stays_open_and_nothing_crosses(self):
        for name in ("square", "triangle", "mitred", "bent", "curved", "star", "hourglass"):
            with self.subTest(name):
                zone = UGLY[name]
                work = drawn("inset_echo", zone, count=0, spacing=0.4)
                lines = shapely.union_all([LineString(run.points) for run in work.runs])
                free = zone.buffer(-0.32).difference(lines.buffer(0.33))
                self.assertLess(sum(max(0, p.area - 0.02) for p in shapely.get_parts(free)), 0.12)
                for run in work.runs:
                    self.assertTrue(LineString(run.points).is_simple)

    def test_arms_that_part_are_all_filled_in_one_run(self):
        # Two chambers joined by a neck: rings part inside, the line does not.
        zone = box(0, 0, 6, 6).union(box(6, 2, 9, 4)).union(box(9, 0, 15, 6))
        work = drawn("inset_echo", zone, count=0, spacing=0.5)
        self.assertEqual(len(work.runs), 1)
        line = LineString(work.runs[0].points)
        for middle in ((3, 3), (12, 3)):
            self.assertLess(line.distance(Point(middle)), 0.45)


class RayTests(TestCase):
    def test_rays_are_proposed_from_where_they_are_of_one_length(self):
        disc = Point(0, 0).buffer(8, 64)
        half, quarter = (disc.intersection(box(-9, -9, x, 0)) for x in (9, 0))
        for shape, origin in ((half, "side"), (quarter, "meeting"), (disc, "middle")):
            with self.subTest(origin):
                drawing, space = designs()["rays"], Space(shape)
                proposed = drawing.clean({**vars(drawing.proposed(space)), "margin": 0.375})
                self.assertEqual(proposed.origin, origin)
                self.assertGreater(drawing.fits(space, proposed).score, 0.7)
                work = drawing.draw(space, proposed, 1)
                tips = work.marks[0].points
                self.assertGreater(len(tips), 6)
                # All tips lie as far out, out of the binding.
                self.assertLess(np.abs(np.hypot(*tips.T) - (8 - 0.375)).max(), 0.02)

    def test_a_square_is_no_round_zone(self):
        drawing = designs()["rays"]
        self.assertNotEqual(drawing.proposed(Space(box(0, 0, 9, 9))).origin, "middle")


class StraightTests(TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(some.floats(2, 12), some.floats(2, 12), some.floats(0.3, 1.5), some.floats(-90, 90))
    def test_spacings_are_equal_to_the_five_thousandth(self, width, height, spacing, angle):
        work = drawn(
            "parallel", box(0, 0, width, height), spacing=spacing, angle=angle, relative="top"
        )
        across = np.array([-math.sin(math.radians(angle)), math.cos(math.radians(angle))])
        at = sorted({round(float(p[0] @ across), 7) for p in stitched(work)})
        gaps = np.diff(at)
        if len(gaps):
            self.assertLess(gaps.max() - gaps.min(), 0.005)

    def test_chevrons_keep_their_distance_from_both_sides_of_their_corner(self):
        kite = Polygon([(0, 0), (4, -2), (9, 0), (4, 2)])
        work = drawn("chevrons", kite, spacing=0.5, fitting="start")
        sides = LineString([(-11, -8), (9, 0)]), LineString([(-11, 8), (9, 0)])
        bends = [p for p in stitched(work) if len(p) == 3]
        self.assertGreaterEqual(len(bends), 3)
        for line in bends:
            tip = Point(line[1])
            apart = [side.distance(tip) for side in sides]
            self.assertAlmostEqual(apart[0], apart[1], places=6)
            self.assertAlmostEqual(apart[0] / 0.5, round(apart[0] / 0.5), places=6)

    def test_rings_apart_are_runs_of_their_own_that_meet_those_of_the_next_kite(self):
        kite = Polygon([(0, 0), (4, -2), (9, 0), (4, 2)])
        turned = affinity.rotate(kite, 2 * math.degrees(math.atan2(2, 4)), origin=(0, 0))
        one, two = (drawn("chevrons", k, spacing=0.5, rings="apart") for k in (kite, turned))
        self.assertGreater(len(one.runs), 3)
        ends = np.array([run.points[k] for run in two.runs for k in (0, -1)])
        shared = LineString([(0, 0), (4, 2)])
        meets = [run.points[k] for run in one.runs for k in (0, -1)
                 if shared.distance(Point(run.points[k])) < 1e-6]  # fmt: skip
        self.assertGreaterEqual(len(meets), 3)
        for spot in meets:
            self.assertLess(np.hypot(*(ends - spot).T).min(), 1e-6)

    def test_keys_meet_on_a_mitre_and_come_out_even_in_both_legs(self):
        ell = Polygon([(0, 0), (14, 0), (14, 12), (10, 12), (10, 4), (0, 4)])
        work = drawn("piano_keys", ell, spacing=1.0)
        upright = [p for p in stitched(work) if abs(p[0, 0] - p[-1, 0]) < 1e-6]
        level = [p for p in stitched(work) if abs(p[0, 1] - p[-1, 1]) < 1e-6]
        self.assertEqual((len(upright), len(level)), (13, 11))
        mitre = [p for p in stitched(work) if np.abs(np.diff(p[[0, -1]], axis=0)).min() > 0.01]
        self.assertAlmostEqual(sum(LineString(p).length for p in mitre), 4 * math.sqrt(2))
        self.assertEqual(len(work.runs), 1)
        fan = drawn("piano_keys", ell, spacing=1.0, corner="turned")
        slanted = [p for p in stitched(fan) if np.abs(np.diff(p[[0, -1]], axis=0)).min() > 0.05]
        for line in slanted:
            # All of them point at the inner corner.
            (ax, ay), (bx, by) = line[0], line[-1]
            off = abs((bx - ax) * (4 - ay) - (by - ay) * (10 - ax)) / math.dist((ax, ay), (bx, by))
            self.assertLess(off, 1e-3)
        self.assertGreaterEqual(len(slanted), 4)

    def test_cells_of_a_weave_are_ruled_by_turns(self):
        work = drawn("basket_weave", box(0, 0, 6, 6), cell=2.0, lines=4)
        self.assertEqual(len(work.runs), 1)
        cells = {}
        for piece in stitched(work):
            middle = piece.mean(axis=0)
            cell = tuple((middle // 2).astype(int))
            upright = abs(piece[0, 0] - piece[-1, 0]) < 1e-6
            cells.setdefault(cell, set()).add(upright)
            self.assertAlmostEqual(float(np.hypot(*(piece[-1] - piece[0]))), 2.0)
        self.assertEqual(len(cells), 9)
        for (i, j), ways in cells.items():
            self.assertEqual(
                ways,
                {bool((i + j) % 2) != cells[0, 0].copy().pop()} if (i + j) % 2 else cells[0, 0],
            )
        self.assertTrue(work.marks)

    def test_a_weave_goes_round_the_notch_that_a_shape_has(self):
        """1/16 inch, in a cell that is square but for that."""
        notch = Polygon(
            [(3, 3.3), (9, 3.3), (9, 3.36), (9.06, 3.3), (9.38, 3.3), (9.38, 12), (3, 12)]
        )
        for angle in range(-60, 90, 6):
            for run in drawn("basket_weave", notch, angle=angle).runs:
                self.assertTrue(notch.buffer(0.02).covers(LineString(run.points)), angle)

    def test_panes_are_of_one_size(self):
        work = drawn("window_panes", box(0, 0, 9, 6), across=3, down=2, bar=0.5)
        at = sorted({round(p[0, 0], 6) for p in stitched(work) if abs(p[0, 0] - p[-1, 0]) < 1e-9})
        self.assertEqual(at, [2.75, 3.25, 5.75, 6.25])

    def test_rows_follow_the_seams_under_a_figure(self):
        parts = tuple(
            box(x, y0, x + 5, y1) for x in (0, 5) for y0, y1 in ((0, 3), (3, 5.5), (5.5, 6.5))
        )
        whole = shapely.union_all(parts)
        design = designs()["seam_rows"]
        space = Space(whole, parts=parts)
        work = design.draw(space, design.clean({"first": 0.5, "second": 1.0}))
        levels = sorted({round(p[0, 1], 6) for p in stitched(work)})
        # A row too narrow for both gets one line in its middle.
        self.assertEqual(levels, [0.5, 2.0, 3.5, 4.5, 6.0])
        self.assertEqual(len(work.runs), 1)


class DotTests(TestCase):
    def test_every_rule_draws_on_three_to_eight_corners(self):
        shapes = {3: UGLY["triangle"], 4: box(0, 0, 6, 4), 6: hexagon(),
                  8: Polygon(5 * np.array([(math.cos(t), math.sin(t)) for t in
                                           (np.arange(8) + 0.5) * math.pi / 4]))}  # fmt: skip
        self.assertGreaterEqual(len(RULES), 8)
        seen = {}
        for rule, _ in RULES:
            for corners, shape in shapes.items():
                with self.subTest(rule, corners=corners):
                    work = drawn("dot_to_dot", shape, rule=rule)
                    self.assertEqual(len(work.runs), 1)
                    seen.setdefault(corners, set()).add(
                        tuple(sorted(np.round(np.concatenate(stitched(work)).ravel(), 3)))
                    )
        self.assertGreaterEqual(len(seen[6]), 8)

    def test_a_star_of_eight_is_one_closed_line(self):
        eight = Polygon(5 * np.array([(math.cos(t), math.sin(t)) for t in
                                      (np.arange(8) + 0.5) * math.pi / 4]))  # fmt: skip
        chord = 2 * 5 * math.sin(3 * math.pi / 8)
        proposed = designs()["dot_to_dot"].proposed(Space(eight))
        work = designs()["dot_to_dot"].draw(Space(eight), proposed)
        self.assertEqual(len(work.runs), 1)
        self.assertTrue(work.runs[0].closed)
        self.assertAlmostEqual(work.runs[0].inches, 8 * chord, 6)
        self.assertEqual(work.marks, ())

    def test_dots_are_where_they_should_be(self):
        work = drawn("dot_to_dot", box(0, 0, 6, 6), rule="midpoints")
        self.assertTrue(work.runs[0].closed)
        self.assertAlmostEqual(work.runs[0].inches, 4 * 3 * math.sqrt(2))
        dots = {tuple(map(float, dot)) for mark in work.marks for dot in mark.points}
        self.assertEqual(dots, {(3, 0), (6, 3), (3, 6), (0, 3)})

    def test_rays_are_even_and_their_tips_stay_inside(self):
        half = Point(0, 0).buffer(6, quad_segs=64).intersection(box(-6, 0, 6, 6))
        work = drawn("rays", half, origin="side", spacing=1.0, margin=0.5)
        headings = sorted(math.atan2(*np.abs(p[-1] + p[0])[::-1] * np.sign((p[-1] + p[0])[::-1]))
                          for p in stitched(work))  # fmt: skip
        gaps = np.diff(headings)
        self.assertGreater(len(gaps), 10)
        self.assertLess(gaps.max() - gaps.min(), 1e-3)
        for piece in stitched(work):
            self.assertGreater(half.exterior.distance(LineString(piece)), 0.499)


class CurvedTests(TestCase):
    def test_scallops_stand_on_their_nodes_and_echo_as_told(self):
        border = box(0, 0, 26, 6)
        work = drawn(
            "scallops", border, chord=6.5, height=2.75, pointed=0.75, parallel=0.375, last=5.0
        )
        arcs = {round(s.radius, 2) for s in arcs_of(work)}
        first = radius_of(6.5, 2.75)
        echo = radius_of(6.5, 3.5) if 3.5 <= 3.25 else None
        self.assertIn(round(first, 2), arcs)
        self.assertIn(5.0, arcs)
        if echo:
            self.assertIn(round(echo, 2), arcs)
        nodes = next(mark.points for mark in work.marks if mark.kind == "dot")
        self.assertEqual(sorted(float(x) for x in nodes[:, 0]), [0.0, 6.5, 13.0, 19.5, 26.0])
        line = shapely.union_all([LineString(p) for p in stitched(work)])
        for node in nodes:
            self.assertLess(line.distance(Point(node)), 0.01)
        # Apexes, seen from the base: the arc, the pointed echo, one all round.
        up = 1 if nodes[0, 1] < 3 else -1
        axis = LineString([(3.25, nodes[0, 1]), (3.25, nodes[0, 1] + up * 6)])
        heights = sorted(
            round(abs(p.y - nodes[0, 1]), 2) for p in shapely.get_parts(axis.intersection(line))
        )
        self.assertEqual(heights[:3], [2.75, 3.5, 3.87])

    def test_an_arc_higher_than_half_its_chord_is_refused_in_words(self):
        for key, settings_ in (
            ("scallops", {"chord": 6.5, "height": 4.0}),
            ("waves", {"height": 3.0}),
        ):
            with self.subTest(key):
                space, clean = Space(box(0, 0, 26, 9)), designs()[key].clean(settings_)
                made, fault = drawn_safely(designs()[key], space, clean)
                self.assertEqual(made.runs, ())
                self.assertIn("more than half", fault)
                self.assertEqual(fit_of(designs()[key], space, clean).score, 0)

    def test_curved_lines_have_the_promised_radius_and_step(self):
        work = drawn("curved_crosshatch", box(0, 0, 8, 8), radius=9.25, spacing=0.5, angle=0.0,
                     relative="top", families="one", fitting="start")  # fmt: skip
        apexes = []
        for s in (each for each in arcs_of(work) if each.inches > 4):
            self.assertAlmostEqual(s.radius, 9.25, delta=0.02)
            self.assertAlmostEqual(s.centre[1], 4.0, delta=0.02)
            apexes.append(s.centre[0])
        steps = np.diff(sorted(apexes))
        self.assertLess(np.abs(steps - 0.5).max(), 0.03)

    def test_waves_are_arcs_that_come_out_even_along_a_border(self):
        work = drawn("waves", box(0, 0, 25, 4), period=4.0, height=0.8, spacing=0.625, angle=0.0)
        # Twelve half waves of 25/12 inches.
        wanted = radius_of(25 / 12, 0.4)
        whole = [
            s
            for s in arcs_of(work)
            if abs(s.inches - 2 * wanted * math.asin(25 / 24 / wanted)) < 0.02
        ]
        self.assertGreater(len(whole), 30)
        for s in whole:
            self.assertAlmostEqual(s.radius, wanted, delta=0.02)

    def test_waves_as_long_as_a_ruler_makes_them_leave_the_rest_at_both_ends(self):
        """By hand: 25 inches hold twelve half waves of 2 inches, and half an inch before and after them."""
        work = drawn("waves", box(0, 0, 25, 5), spacing=0.625, angle=0.0, ends="ruler")
        whole = [s for s in arcs_of(work) if abs(s.chord - 2.0) < 0.01]
        self.assertGreaterEqual(len(whole), 6 * 12)
        for s in whole:
            self.assertAlmostEqual(s.radius, radius_of(2.0, 0.5), delta=0.01)
        # A half wave's middle is where its circle's is: between two nodes.
        nodes = sorted({round(s.centre[0] - 1.0, 2) % 2.0 for s in whole})
        self.assertLess(max(abs(each - 0.5) for each in nodes), 0.02)

    def test_what_waves_propose_is_ruled_with_the_edge_that_is_owned(self):
        waves = designs()["waves"]
        for shape, ruled in ((box(0, 0, 30, 6), True), (box(0, 0, 5, 5), False)):
            space = Space(shape)
            proposed = waves.proposed(space)
            self.assertEqual(proposed.ends == "ruler", ruled)
            laid = [each for run in waves.draw(space, proposed).runs
                    for each in run.placements(space.rulers, 0.25)]  # fmt: skip
            whole = [each for each in laid if each.edge == "S-edge"]
            self.assertEqual(bool(whole), ruled)

    def test_of_waves_that_no_edge_stitches_it_is_said_which_the_nearest_would(self):
        space, rulers = Space(box(0, 0, 25, 5)), STARTING_RULERS
        said = {}
        for high in (0.5, 1.0):
            work = drawn("waves", space.polygon, spacing=0.625, angle=0.0, height=high)
            laid = [each for run in work.runs for each in run.placements(rulers, 0.25)]
            said[high] = laid_with(laid, stitched(work), rulers, 0.25).said
        self.assertEqual(len(said[0.5]), 2)
        # Of waves it does stitch, nothing: not of the pieces either that are cut off at the edge.
        own = stitched(drawn("waves", space.polygon, spacing=0.625, angle=0.0, ends="ruler"))
        laid = [each for line in own for each in placements_along(line, rulers, 0.25, "")]
        self.assertEqual({each.edge for each in laid}, {"S-edge"})
        self.assertEqual(laid_with(laid, own, rulers, 0.25).said, ())
        self.assertIn("waves 4 3/16″ long and 1/2″ high", said[0.5][0])
        self.assertIn("Wave, 4″ makes them 4″ long and 1″ high", said[0.5][1])

    @long
    def test_what_a_layout_proposes_suits_as_well(self):
        """Settings to begin with suit the zone better than the defaults, or about as well."""
        shapes = {"strip": affinity.rotate(box(0, 0, 9, 1.25), 45), "small": box(0, 0, 2.5, 2.5),
                  "triangle": Polygon([(0, 0), (3, 0), (0, 3)]), "border": box(0, 0, 40, 6)}  # fmt: skip
        for key, design in designs().items():
            for name, shape in shapes.items():
                with self.subTest(key, on=name):
                    space = Space(shape)
                    made = design.proposed(space)
                    better = fit_of(design, space, made).score
                    self.assertGreaterEqual(
                        better, fit_of(design, space, design.clean()).score - 0.15
                    )
        waves = designs()["waves"]
        for name in ("strip", "border"):
            space = Space(shapes[name])
            self.assertGreater(fit_of(waves, space, waves.proposed(space)).score, 0.5)

    def test_shells_fit_across(self):
        work = drawn("clamshells", box(0, 0, 7, 4), width=2.0)
        radii = {round(s.radius, 2) for s in arcs_of(work) if s.inches > 0.5}
        # Three and a half would fit: four of 1 3/4 inches do.
        self.assertTrue(all(abs(r - 0.875) < 0.02 for r in radii), radii)

    def test_peels_close_and_go_through_all_crossings(self):
        work = drawn("orange_peel", box(0, 0, 6, 6), cell=2.0)
        self.assertEqual(len(work.runs), 1)
        self.assertEqual(len(arcs_of(work)), 24 + 24 - 12)

    def test_continuous_curves_stay_low_on_small_patches(self):
        small = Polygon([(0, 0), (2.5, 0), (0, 2.5)])
        work = drawn("continuous_curve", small, height=1.0)
        self.assertTrue(work.runs[0].closed)
        for a, b in (((0, 0), (2.5, 0)), ((0, 2.5), (0, 0))):
            side = LineString([a, b])
            arc_ = max(
                (p for p in stitched(work)),
                key=lambda p, s=side: -s.distance(Point(p[len(p) // 2])),
            )
            self.assertLessEqual(side.distance(Point(arc_[len(arc_) // 2])), 0.2501)

    def test_circles_petals_and_ovals_are_what_they_are_called(self):
        ring = drawn("circles", box(0, 0, 8, 8), margin=0.5, rings=3, spacing=0.75)
        self.assertEqual(
            sorted(round(np.hypot(*(p - 4).T).mean(), 2) for p in stitched(ring)), [2.0, 2.75, 3.5]
        )
        flower = drawn("petals", hexagon(), points="corners", margin=0.25)
        run = flower.runs[0]
        self.assertTrue(run.closed)
        self.assertEqual(len(run.units), 6)
        turned = affinity.rotate(LineString(run.points), 60, origin=(0, 0))
        self.assertLess(turned.hausdorff_distance(LineString(run.points)), 0.02)
        side, end = radii_of(3.0, 2.0)
        oval = drawn("ellipses", box(0, 0, 12, 8), margin=0.0, breadth=2 / 3)
        radii = [s.radius for s in arcs_of(oval)]
        ratio = max(radii) / min(radii)
        self.assertAlmostEqual(ratio, side / end, delta=0.05)
        line = LineString(oval.runs[0].points)
        self.assertAlmostEqual(line.bounds[2] - line.bounds[0], 12, delta=0.05)
        # The arcs meet, and without a corner.
        legs = np.diff(oval.runs[0].points, axis=0)
        self.assertLess(np.hypot(*legs.T).max(), 0.95)
        turns = np.diff(np.unwrap(np.arctan2(legs[:, 1], legs[:, 0])))
        self.assertLess(np.abs(turns).max(), 0.2)
        self.assertGreater(np.abs(turns.sum()), 2 * math.pi - 0.3)

    def test_a_spiral_of_half_circles_keeps_its_spacing(self):
        work = drawn("arc_spiral", box(0, 0, 8, 8), spacing=0.5)
        ray = LineString([(4, 4), (4, 8)])
        line = LineString(work.runs[0].points)
        at = sorted(p.y for p in shapely.get_parts(ray.intersection(line)))
        self.assertLess(np.abs(np.diff(at) - 0.5).max(), 0.02)

    def test_circles_between_blocks_go_down_and_up_without_a_cut(self):
        for echo in (0.0, 0.5):
            with self.subTest(echo=echo):
                work = drawn(
                    "circle_chain", box(0, 0, 18, 24), pitch=6.0, echo=echo, relative="top"
                )
                self.assertEqual(len(work.runs), 1)
                radii = sorted(s.radius for s in arcs_of(work) if s.inches > 2)
                wanted = (2.5, 3.0, 3.5) if echo else (3.0,)
                for radius in radii:
                    self.assertLess(min(abs(radius - each) for each in wanted), 0.02)
                for each in wanted:
                    self.assertTrue(any(abs(radius - each) < 0.02 for radius in radii))


class AlikeTests(TestCase):
    @settings(max_examples=examples(25), deadline=None)
    @given(some.sampled_from(sorted(designs())), some.floats(0, 360), some.booleans())
    def test_alike_zones_get_alike_lines(self, key, turn, mirrored):
        shape = Polygon([(0, 0), (7, 0), (5.5, 4), (1, 3)])
        other = affinity.rotate(shape, turn, origin=(0, 0))
        if mirrored:
            other = affinity.scale(other, -1, 1, origin=(0, 0))
        placed = alike([shape, other])
        self.assertEqual(placed.classes, (0, 0))
        made = drawn(key, shape).moved(placed.placements[1])
        room = other.buffer(0.03)
        for run in made.runs:
            self.assertTrue(room.covers(LineString(run.points)), key)

    def test_a_figure_has_the_symmetry_of_its_zone(self):
        for key, shape in (("petals", hexagon()), ("circles", hexagon()), ("dot_to_dot", box(0, 0, 6, 6)),
                           ("continuous_curve", hexagon())):  # fmt: skip
            with self.subTest(key):
                lines = shapely.union_all([LineString(p) for p in stitched(drawn(key, shape))])
                mirrored = affinity.scale(lines, -1, 1, origin=shape.centroid)
                self.assertLess(lines.hausdorff_distance(mirrored), 0.02)

    def test_the_axis_is_that_of_symmetry(self):
        kite = affinity.rotate(Polygon([(0, 0), (4, -2), (9, 0), (4, 2)]), 25, origin=(0, 0))
        self.assertAlmostEqual(axis_of(kite), math.radians(25), places=5)
        self.assertAlmostEqual(axis_of(box(0, 0, 9, 2)), 0.0)
