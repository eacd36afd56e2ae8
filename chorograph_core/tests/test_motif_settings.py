"""What motifs can be told: stacked plumes, feathers fanned round a shape, figures among rows, bands, lenses,
corners, a rope before and behind."""

import itertools
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as some
from scipy.signal import find_peaks
from scipy.spatial import cKDTree
from shapely.geometry import LineString, Point, Polygon, box

from chorograph_core.designs import Space, designs
from chorograph_core.designs.engine.bands import band_along, places_with_bands
from chorograph_core.designs.engine.corners import sides_and_corners
from chorograph_core.designs.engine.islands import Island, parted
from chorograph_core.designs.engine.lanes import strip_in
from chorograph_core.designs.engine.passing import shapes_in
from chorograph_core.designs.engine.plumes import Growth, grown_side
from chorograph_core.designs.engine.spines import even_spine
from chorograph_core.designs.strip import ring_strip
from chorograph_core.tests import examples, long

RING = box(0, 0, 40, 34).difference(box(5, 5, 35, 29))


def drawn(key: str, shape, seed: int = 1, parts=(), **given_settings):
    drawing = designs()[key]
    return drawing.draw(Space(shape, parts=parts), drawing.clean(given_settings), seed)


def lines(made):
    return shapely.multilinestrings([shapely.linestrings(run.points) for run in made.runs])


class PlumeTests(TestCase):
    def test_stacked_plumes_go_over_less_again_than_bumped_ones(self):
        for key, shape in (("feather", box(0, 0, 20, 5)), ("wreath", box(0, 0, 10, 10))):
            again = {}
            for how in ("bumped", "stacked", "traced"):
                made = drawn(key, shape, plumes=how)
                again[how] = sum(
                    np.hypot(*np.diff(points, axis=0).T).sum()
                    for run in made.runs for points, _, kind in run.pieces() if kind == "retrace"
                )  # fmt: skip
                self.assertTrue(shape.buffer(0.021).covers(lines(made)), how)
            with self.subTest(key):
                self.assertLess(again["stacked"], 0.8 * again["bumped"])
                self.assertLess(again["stacked"], again["traced"])

    def test_no_feather_is_fanned_beyond_a_notch(self):
        """A tooth of the saw hides what lies behind it from the pearl: a way there would cross the notch."""
        teeth = [(0, 0), (0, 1.5)]
        for k in range(6):
            teeth += [(2 * k + 1, 3.5), (2 * k + 2, 1.5)]
        shape = Polygon([*teeth, (12, 0)])
        made = drawn("fanned_feathers", shape, count=13, pitch=0.25, lean=25.0, margin=0.0)
        self.assertTrue(made.runs)
        self.assertTrue(shape.buffer(0.021).covers(lines(made)))

    def test_fanned_feathers_keep_to_their_own_side_of_the_middle_between_two(self):
        shape = box(0, 0, 14, 12).difference(Point(7, 6).buffer(2.2))
        made = drawn("fanned_feathers", shape, count=8, pitch=0.5)
        (run,) = made.runs
        self.assertTrue(shape.buffer(0.021).covers(lines(made)))
        axis = Space(shape).frame.axis
        begun, told = 0, set()
        for unit in run.units:
            if "feather" in unit.name and "plume" in unit.name:
                number = int(unit.name.split("feather ")[1].split()[0]) - 1
                told.add(number)
                middle = run.points[begun + 1 : unit.stop + 1].mean(axis=0) - (7, 6)
                off = np.arctan2(middle[1], middle[0]) - axis - number * np.pi / 4
                self.assertLess(
                    abs((off + np.pi) % (2 * np.pi) - np.pi), np.pi / 8 + 0.25, unit.name
                )
            begun = unit.stop
        self.assertEqual(told, set(range(8)))

    def test_round_several_shapes_each_has_feathers_of_its_own(self):
        """They came from a pearl in the widest place, whatever lay round it."""
        lies = [(8.0, 15.0), (27.0, 13.0), (46.0, 16.0), (64.0, 15.0)]
        shapes = [Point(x, y).buffer(4.5) for x, y in lies]
        zone = box(0, 0, 72, 30).difference(shapely.union_all(shapes))
        made = drawn("fanned_feathers", zone)
        self.assertEqual(len(made.runs), 4)
        self.assertTrue(zone.buffer(0.021).covers(lines(made)))
        for k, run in enumerate(made.runs):
            spots = shapely.points(run.points)
            away = np.array([shapely.distance(spots, shape) for shape in shapes])
            # Its own shape is the nearest all along, and it is gone round.
            self.assertLess((away[k] - away.min(axis=0)).max(), 0.02, k)
            turn = np.arctan2(*(run.points - lies[k]).T)
            self.assertLess(np.diff(np.sort(turn)).max(), 0.5)
        # They leave little between them.
        grid = np.stack(np.meshgrid(np.arange(0.5, 72), np.arange(0.5, 30)), axis=-1).reshape(-1, 2)
        spots = grid[shapely.contains_xy(zone, *grid.T)]
        stitched = np.vstack([run.points for run in made.runs])
        self.assertLess(np.quantile(cKDTree(stitched).query(spots)[0], 0.97), 2.0)

    def test_feathers_round_shapes_that_lie_evenly_or_hide_each_other(self):
        square = [(6, 6), (18, 6), (6, 18), (18, 18)]
        for lies in (square, [(5, 12), (12, 12), (19, 12)], [(12, 4), (12, 20)]):
            zone = box(0, 0, 24, 24).difference(
                shapely.union_all([Point(x, y).buffer(2.2) for x, y in lies])
            )
            made = drawn("fanned_feathers", zone, pitch=0.5)
            with self.subTest(lies):
                self.assertEqual(len(made.runs), len(lies))
                self.assertTrue(zone.buffer(0.021).covers(lines(made)))
                for one, two in itertools.combinations(made.runs, 2):
                    self.assertFalse(
                        shapely.linestrings(one.points).crosses(shapely.linestrings(two.points))
                    )

    def test_a_spine_swings_in_a_mitred_border_and_keeps_as_many_plumes_as_a_straight_one(self):
        border = Polygon([(0, 0), (44, 0), (38, 6), (6, 6)])

        def plumes(swings):
            (run,) = drawn("feather", border, swings=swings, sway=0.35).runs
            (spine,) = drawn("feather", border, swings=swings, sway=0.35).marks
            return sum("plume" in unit.name for unit in run.units), np.ptp(spine.points[:, 1])

        straight, level = plumes(0)
        self.assertLess(level, 0.01)
        for swings in (1, 2, 3, 4):
            count, bent = plumes(swings)
            self.assertGreater(bent, 1.2)
            self.assertGreater(count, 0.9 * straight)

    def test_a_feather_keeps_both_its_sides_round_a_corner(self):
        corner = Polygon([(0, 0), (20, 0), (20, 3), (3, 3), (3, 20), (0, 20)])
        (run,) = drawn("feather", corner, swings=0).runs
        told = [unit.name for unit in run.units if "plume" in unit.name]
        right, left = (sum(name.startswith(side) for name in told) for side in ("right", "left"))
        self.assertGreater(min(right, left), 0.75 * max(right, left))

    def test_a_feather_goes_all_round_a_border_and_closes(self):
        border = box(0, 0, 44, 36).difference(box(6, 6, 38, 30))
        for swings, channel in ((0, 0.0), (8, 0.0), (12, 0.0), (0, 0.375)):
            made = drawn("feather", border, swings=swings, channel=channel)
            (run,) = made.runs
            self.assertTrue(border.buffer(0.021).covers(shapely.linestrings(run.points)))
            # It begins in the middle of a long side, and ends where it began.
            for end in run.points[[0, -1]]:
                self.assertLess(min(abs(end[1]), abs(end[1] - 36)), 6)
                self.assertLess(abs(end[0] - 22), 2.5)
            told = [unit.name for unit in run.units if "plume" in unit.name]
            sides = [sum(name.startswith(side) for name in told) for side in ("right", "left")]
            self.assertGreater(min(sides), 0.6 * max(sides))
            # Nothing of the way is left without plumes, in the corners neither.
            lines = shapely.linestrings(run.points)
            for spot in shapely.points(shapely.get_coordinates(shapely.segmentize(border, 1.0))):
                self.assertLess(lines.distance(spot), 2.3, (swings, spot.wkt))
        self.assertGreater(designs()["feather"].fits(Space(border)).score, 0.7)
        self.assertEqual(designs()["feather"].proposed(Space(border)).swings % 4, 0)

    def test_feathers_of_a_flower_lie_in_the_points_of_a_star(self):
        for points, turned in ((8, 0.0), (6, 0.3), (5, 1.0)):
            turn = turned + np.arange(2 * points) * np.pi / points
            far = np.where(np.arange(2 * points) % 2, 4.4, 8.0)
            star = Polygon(np.column_stack([far * np.cos(turn), far * np.sin(turn)]))
            (run,) = drawn("fanned_feathers", star).runs
            names = [unit.name for unit in run.units if "feather" in unit.name]
            with self.subTest(points):
                numbers = {name.split("feather ")[1].split()[0] for name in names}
                self.assertEqual(len(numbers) % points, 0)
                tips = run.points[np.hypot(*run.points.T) > 6.2]
                away = (np.arctan2(tips[:, 1], tips[:, 0]) - turned) % (2 * np.pi / points)
                found = {round(float(a - turned) / (2 * np.pi / points)) % points
                         for a in np.arctan2(tips[:, 1], tips[:, 0])}  # fmt: skip
                self.assertEqual(len(found), points)
                self.assertLess(np.minimum(away, 2 * np.pi / points - away).max(), 0.25)

    def test_pearls_lie_at_the_foot_each_smaller_and_are_stitched_once(self):
        shape = box(0, 0, 16, 6)
        for key, where in (("feather", shape), ("curled_feather", box(0, 0, 13, 13))):
            for count in (1, 3, 5):
                (run,) = drawn(key, where, pearls=count).runs
                first = run.units[0]
                self.assertEqual(first.name, "pearl" if count == 1 else "pearls")
                line = run.points[: first.stop + 1]
                np.testing.assert_allclose(line[0], line[-1], atol=1e-6)
                rings = shapely.get_parts(
                    shapely.polygonize([shapely.node(shapely.linestrings(line))])
                )
                self.assertEqual(len(rings), count)
                across = sorted(2 * np.sqrt(ring.area / np.pi) for ring in rings)
                np.testing.assert_allclose(np.diff(np.log(across)), np.log(1 / 0.84), atol=0.02)
                # Once round each of them: as long as their edges.
                inches = np.hypot(*np.diff(line, axis=0).T).sum()
                self.assertAlmostEqual(
                    inches, sum(ring.length for ring in rings), delta=0.02 * inches
                )
                self.assertTrue(where.buffer(0.021).covers(shapely.linestrings(line)))
            self.assertNotIn("pearl", drawn(key, where, pearls=0).runs[0].units[0].name)

    def test_the_tip_of_a_curl_keeps_off_its_foot(self):
        for way in ("right", "left"):
            for turns in (0.7, 0.85, 1.0):
                (run,) = drawn("curled_feather", box(0, 0, 13, 13), turns=turns, round=way).runs
                begun, plumes = 0, {"right": [], "left": []}
                for unit in run.units:
                    if "plume" in unit.name:
                        plumes[unit.name.split()[0]].append(
                            shapely.linestrings(run.points[begun + 1 : unit.stop + 1])
                        )
                    begun = unit.stop
                outer, inner = plumes["left" if way == "right" else "right"], plumes[way]
                for tip in outer[-len(outer) // 3 :]:
                    for foot in inner[:6]:
                        self.assertFalse(tip.crosses(foot), (way, turns))

    def test_plumes_inside_a_bend_do_not_cross_each_other(self):
        t = np.linspace(0, np.pi, 50)
        arc = tuple(
            zip((7 - 5.5 * np.cos(t)).tolist(), (9 - 5.5 * np.sin(t)).tolist(), strict=True)
        )
        spine = even_spine(np.array(arc))
        stem = shapely.linestrings(spine.points).buffer(0.3)
        for side in (1, -1):
            grown = grown_side(spine, box(0, 0, 14, 12), side, Growth(0.875))
            self.assertGreater(len(grown.heads), 6)
            ribs = [shapely.linestrings(rib).difference(stem) for rib in grown.ribs]
            crossing = [(i, j) for i, j in itertools.combinations(range(len(ribs)), 2)
                        if ribs[i].crosses(ribs[j])]  # fmt: skip
            self.assertEqual(crossing, [], side)


class RowTests(TestCase):
    @settings(max_examples=examples(20), deadline=None)
    @given(some.floats(0.5, 2.0), some.floats(0.2, 0.6), some.floats(0, 0.6))
    def test_rows_part_round_an_island_without_crossing_and_close_behind_it(
        self, radius, gap, high
    ):
        x = np.arange(-30, 30, 0.1)
        places = np.arange(-12, 12, gap)
        rows = places[:, None] + high * np.sin(0.7 * x)[None]
        bent, mine = parted(x, rows, [Island(0.0, 0.0, radius)])
        self.assertTrue((np.diff(bent, axis=0) > 0).all())
        self.assertEqual(sum(map(len, mine)), 1)
        k = next(k for k, some_ in enumerate(mine) if some_)
        off = np.hypot(x[None], bent)
        others = np.delete(off, k, axis=0)
        self.assertGreater(others.min(), radius - 1e-6)
        # Far away they lie as they did: a round of radius r moves a line y by r² y / x² at most.
        self.assertLess(np.abs(bent[:, 0] - rows[:, 0]).max(), 12 * radius**2 / 30**2 * 1.3 + 1e-6)

    @long
    def test_a_breeze_turns_aside_into_swirls_and_plumes(self):
        plain = drawn("breeze", box(0, 0, 24, 18))
        for figure in ("swirl", "plume", "both"):
            made = drawn("breeze", box(0, 0, 24, 18), figure=figure)
            with self.subTest(figure):
                self.assertEqual(len(made.runs), len(plain.runs))
                self.assertTrue(box(0, 0, 24, 18).buffer(0.02).covers(lines(made)))
                self.assertNotAlmostEqual(made.inches, plain.inches, places=0)

    @settings(max_examples=examples(40), deadline=None)
    @given(some.floats(4, 60), some.floats(0.2, 1.5), some.integers(1, 6), some.floats(0.3, 3))
    def test_rows_and_bands_come_out_even(self, wide, apart, rows, band):
        share, places = places_with_bands(wide, apart, rows, band)
        at = [place for place, _ in places]
        self.assertEqual(at, sorted(at))
        self.assertGreater(at[0], 0)
        self.assertLess(at[-1], wide)
        # As far from one edge as from the other.
        self.assertAlmostEqual(at[0], wide - at[-1], places=6)
        self.assertAlmostEqual(at[0], apart / 2 * share, places=6)
        kinds = [is_band for _, is_band in places]
        self.assertGreaterEqual(sum(kinds), 1)
        for k in np.flatnonzero(kinds):
            # A band lies half way between the rows on either side of it.
            self.assertAlmostEqual(at[k] - at[k - 1], at[k + 1] - at[k], places=6)

    def test_pebbles_of_a_band_touch_and_are_gone_round(self):
        centre = np.column_stack([np.linspace(0, 20, 200), np.full(200, 3.0)])
        (line,) = band_along(centre, 1.0, "pebbles", box(0, 0, 20, 6))
        length = np.hypot(*np.diff(line, axis=0).T).sum()
        count = round(length / (1.5 * np.pi))
        # From edge to edge: as many as go into its length.
        self.assertEqual(count, 20)
        self.assertAlmostEqual(np.ptp(line[:, 1]), 1.0, delta=0.01)
        self.assertEqual(band_along(centre, 9.0, "candy", box(0, 0, 20, 6)), [])

    def test_rows_wind_round_a_shape_in_one_line(self):
        shape = box(0, 0, 16, 16).difference(Point(8, 8).buffer(2))
        made = drawn("wavy_rows", shape, way="round", gap=0.5, height=0.1)
        self.assertEqual(len(made.runs), 1)
        line = made.runs[0].points
        inner = line[: len(line) // 4] - (8, 8)
        turned = np.unwrap(np.arctan2(inner[:, 1], inner[:, 0]))
        away = np.hypot(*inner.T)
        once = np.searchsorted(np.abs(turned - turned[0]), 2 * np.pi)
        self.assertAlmostEqual(away[once] - away[0], 0.5, delta=0.12)


class StripTests(TestCase):
    def test_a_ring_is_a_strip_with_four_sides_and_four_corners(self):
        sides, rooms = sides_and_corners(ring_strip(RING))
        self.assertEqual((len(sides), len(rooms)), (5, 4))
        for room in rooms:
            self.assertAlmostEqual(room.area, 25, delta=10)

    def test_swings_fill_a_border_all_round_with_a_figure_in_each_corner(self):
        made = drawn("u_swing", RING, lenses="middle")
        (run,) = made.runs
        line = shapely.linestrings(run.points)
        self.assertTrue(RING.buffer(0.02).covers(line))
        for corner in (box(0, 0, 5, 5), box(35, 0, 40, 5), box(35, 29, 40, 34), box(0, 29, 5, 34)):
            self.assertGreater(line.intersection(corner).length, 15)
        self.assertGreater(len(run.units), 20)

    def test_crossing_back_lenses_meet_in_their_tips_on_the_middle_line(self):
        made = drawn("u_swing", box(0, 0, 24, 4), lenses="half", margin=0, loose=0)
        (run,) = made.runs
        self.assertTrue(box(0, 0, 24, 4).buffer(0.02).covers(shapely.linestrings(run.points)))
        self.assertAlmostEqual(run.points[-1][1], 2.0, delta=0.05)
        # Out, back over half, and on over the first swings: no leap from edge to edge, nothing across a lens.
        over = np.abs(np.diff(run.points[:, 1])) > 3.5
        self.assertFalse(over.any())
        seen = shapely.linestrings(run.points).intersection(box(0, 1.9, 24, 2.1))
        self.assertLess(seen.length, 5)
        last = run.points[int(0.8 * len(run.points)) :]
        before = shapely.linestrings(run.points[: int(0.6 * len(run.points))])
        self.assertLess(shapely.distance(before, shapely.points(last)).max(), 0.06)

    def lenses_in(self, inches: int, where: str) -> list[float]:
        """Where along a border lenses meet: there more than one swing comes to the middle line, stitched over
        or crossed back."""
        made = drawn("u_swing", box(0, 0, inches, 4), lenses=where, margin=0, loose=0)
        (run,) = made.runs
        level = np.flatnonzero(np.diff(np.sign(run.points[:, 1] - 2.0)))
        at = np.sort(run.points[level, 0])
        return [a for a in at if (np.abs(at - a) < 0.3).sum() > 1]

    def test_lenses_at_the_middle_lie_in_the_middle(self):
        for inches in range(14, 42, 3):
            met = self.lenses_in(inches, "middle")
            self.assertGreater(len(met), 2, inches)
            self.assertAlmostEqual((met[0] + met[-1]) / 2, inches / 2, delta=0.15, msg=str(inches))

    def test_lenses_from_the_middle_on_begin_in_the_middle(self):
        # Before, a quarter of a swing aside of it.
        for inches in range(20, 48, 3):
            met = [a - inches / 2 for a in self.lenses_in(inches, "half")]
            # Lenses lie on one side of the middle, and up to it.
            self.assertLess(min(map(abs, met)), 0.1, inches)
            self.assertEqual(len({a > 0 for a in met if abs(a) > 0.1}), 1, inches)

    def test_a_rope_shows_in_front_and_not_behind(self):
        ground = box(0, 0, 20, 10)
        discs = [Point(x, 5).buffer(1.2) for x in (4, 10, 16)]
        parts = (ground.difference(shapely.union_all(discs)), *discs)
        self.assertEqual(len(shapes_in(Space(ground, parts=parts))), 3)
        guide = ((0.5, 5.0), (19.5, 5.0))
        drawing = designs()["rope"]

        def inside(how: str) -> list[bool]:
            space = Space(ground, parts=parts, guide=guide, guide_width=3.0)
            made = lines(drawing.draw(space, drawing.clean({"passing": how}), 0))
            return [made.intersection(disc.buffer(-0.05)).length > 1 for disc in discs]

        self.assertEqual(inside("front"), [True, True, True])
        self.assertEqual(inside("behind"), [False, False, False])
        self.assertEqual(inside("turns"), [False, True, False])
        self.assertEqual(inside("other"), [True, False, True])

    def test_a_hand_is_as_loose_as_told(self):
        def heights(loose: float) -> np.ndarray:
            run = drawn("wishbone", box(0, 0, 24, 3), loose=loose, legs="square").runs[0]
            peaks, _ = find_peaks(run.points[:, 1], prominence=0.5)
            return run.points[peaks, 1]

        self.assertLess(heights(0.0).std(), 0.02)
        self.assertGreater(heights(1.0).std(), 0.05)

    def test_loose_shapes_are_few_and_closed(self):
        shape = Polygon([(0, 0), (16, 0), (16, 12), (0, 12)])
        made = drawn("loose_shapes", shape)
        self.assertEqual(len(made.runs), 1)
        self.assertLess(made.inches / shape.area, 1.3)
        self.assertGreater(len(made.runs[0].units), 6)

    def test_rows_of_eights_slant_with_the_shape_and_an_even_number_comes_home(self):
        slanting = Polygon([(0, 0), (12, 0), (16, 7), (4, 7)])
        strip = strip_in(Space(slanting), slanting)
        across = strip.right - strip.left
        # Every line across lies as the slanting sides do.
        ways = across / np.hypot(*across.T)[:, None] * np.sign(across[0, 1])
        np.testing.assert_allclose(
            ways, np.tile(np.array([4, 7]) / 65**0.5, (len(ways), 1)), atol=1e-6
        )
        for rows in (1, 2, 3, 4):
            (run,) = drawn("figure_eights", slanting, rows=rows, loose=0).runs
            self.assertTrue(slanting.buffer(0.02).covers(shapely.linestrings(run.points)))
            # Measured along the slant: home again, or at the far end.
            along = run.points @ np.array([1.0, -4 / 7])
            home = abs(along[-1] - along[0]) < 2
            self.assertEqual(home, rows % 2 == 0, rows)

    def test_pebbles_in_rows_are_of_one_size_and_fill_from_edge_to_edge(self):
        shape = box(0, 0, 12, 8)
        made = drawn("pebbles", shape, laid="rows", size=1.0, margin=0)
        (run,) = made.runs
        self.assertTrue(shape.buffer(0.02).covers(shapely.linestrings(run.points)))
        x0, y0, x1, y1 = shapely.linestrings(run.points).bounds
        np.testing.assert_allclose((x0, y0, x1, y1), (0, 0, 12, 8), atol=0.15)
        # Eight rows of twelve, each gone round once and half again.
        self.assertAlmostEqual(made.inches / (8 * 12 * 1.5 * np.pi), 1.0, delta=0.12)

    def test_a_leaf_comes_back_to_its_stalk_and_is_as_broad_as_told(self):
        for shape in (box(0, 0, 16, 8), box(0, 0, 9, 9), Point(0, 0).buffer(5)):
            (run,) = drawn("leaf", shape, broad=0.3, sway=0, veins=4).runs
            self.assertTrue(shape.buffer(0.02).covers(shapely.linestrings(run.points)))
            self.assertLess(np.hypot(*(run.points[0] - run.points[-1])), 1e-6)
            tip = run.points[np.hypot(*(run.points - run.points[0]).T).argmax()]
            way = (tip - run.points[0]) / np.hypot(*(tip - run.points[0]))
            off = (run.points - run.points[0]) @ np.array([-way[1], way[0]])
            long = np.hypot(*(tip - run.points[0]))
            self.assertAlmostEqual(np.ptp(off) / long, 0.3, delta=0.03)
            self.assertEqual(sum(unit.name.startswith("veins") for unit in run.units), 4)


class SwirlRowTests(TestCase):
    def test_a_swirl_is_proposed_with_three_or_four_echoes_however_wide_the_strip(self):
        """Of one of 7 inches there were fifteen, a black wall."""
        row = designs()["swirl_row"]
        for wide in (2.5, 3, 4, 5.5, 7, 9, 12):
            strip = box(0, 0, 8 * wide, wide)
            settings = row.proposed(Space(strip))
            (run,) = row.draw(Space(strip), settings, 1).runs
            # How often a line across the middle of the second swirl is crossed.
            across = LineString([(0.31 * 8 * wide, 0), (0.31 * 8 * wide, wide)])
            crossed = len(shapely.get_parts(across.intersection(LineString(run.points))))
            with self.subTest(wide=wide):
                self.assertTrue(7 <= crossed <= 11, crossed)
        # One swirl by itself is no row: it keeps the closeness it has.
        self.assertEqual(row.proposed(Space(box(0, 0, 12, 12))).gap, 0.3125)
