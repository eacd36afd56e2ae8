"""Tracing: pictures rendered with a known perspective, light and noise are laid flat and read."""

from unittest import TestCase

import cv2
import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as some
from shapely.geometry import Polygon, box

from chorograph_core.chart import ChartError
from chorograph_core.chart.noding import Drawing, chart_of
from chorograph_core.layouts import StraightSet
from chorograph_core.photo.corners import found_corners
from chorograph_core.photo.tracing import (
    TURNED,
    Squared,
    read_picture,
    snapped,
    squared,
    straightened,
    touched,
)
from chorograph_core.tests import examples, long

SIZE = (24.0, 24.0)
CHART = StraightSet(2, 2, 12, ("nine_patch", "square_in_square")).chart()


def photograph(corners, noise: float = 5.0, seed: int = 1) -> np.ndarray:
    """CHART as a camera would see it: corners in a picture of 1400 × 1200, a lamp, a fold, grain."""
    flat = np.zeros((960, 960, 3), np.uint8)
    for patch in CHART.patches:
        colour = CHART.fabric(patch.fabric).colour
        bgr = tuple(int(colour[k : k + 2], 16) for k in (5, 3, 1))
        ring = (np.asarray(patch.polygon.exterior.coords) * 40).round().astype(np.int32)
        cv2.fillPoly(flat, [ring], bgr)
    goal = np.asarray(corners, np.float32)
    start = np.array([(0, 0), (960, 0), (960, 960), (0, 960)], np.float32)
    seen = cv2.warpPerspective(flat, cv2.getPerspectiveTransform(start, goal), (1400, 1200),
                               borderValue=(90, 110, 120))  # fmt: skip
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:1200, 0:1400]
    light = 1.0 + 0.12 * np.sin(x / 500) - 0.06 * np.exp(-(((x - y) / 40.0) ** 2))
    lit = seen * light[..., None] + rng.normal(0, noise, seen.shape)
    return np.clip(lit, 0, 255).astype(np.uint8)


CORNERS = [(160, 120), (1180, 60), (1290, 1130), (90, 1080)]


class CornerTests(TestCase):
    """Where the marks stand at first."""

    @given(some.lists(some.floats(-120, 120), min_size=8, max_size=8), some.integers(0, 9))
    @settings(max_examples=examples(6), deadline=None)
    def test_found_where_they_are(self, moves, seed):
        corners = np.array([(200, 150), (1150, 150), (1150, 1050), (200, 1050)]) + np.reshape(
            moves, (4, 2)
        )
        found = found_corners(photograph(corners, 8, seed))
        self.assertIsNotNone(found)
        missed = np.hypot(*(np.array(found) * (1400, 1200) - corners).T)
        self.assertLess(missed.max(), 6.0)

    def test_dark_patches_at_the_edge_do_not_mislead(self):
        """Patches as dark as the ground, of another hue, among light ones."""
        flat = np.zeros((900, 900, 3), np.uint8)
        for k, colour in enumerate([(107, 80, 51), (120, 200, 227), (58, 74, 176), (107, 80, 51)]):
            flat[:, 225 * k : 225 * (k + 1)] = colour
        goal = np.asarray(CORNERS, np.float32)
        start = np.array([(0, 0), (900, 0), (900, 900), (0, 900)], np.float32)
        seen = cv2.warpPerspective(flat, cv2.getPerspectiveTransform(start, goal), (1400, 1200),
                                   borderValue=(66, 79, 91))  # fmt: skip
        found = np.array(found_corners(seen)) * (1400, 1200)
        self.assertLess(np.hypot(*(found - CORNERS).T).max(), 6.0)

    def test_a_picture_turned_is_read_from_its_own_top_left(self):
        picture = photograph(CORNERS)
        found = np.array(found_corners(picture))
        turned = np.array(found_corners(np.ascontiguousarray(picture[::-1, ::-1])))
        np.testing.assert_allclose(turned, (1 - found)[[2, 3, 0, 1]], atol=0.004)

    def test_nothing_is_said_where_nothing_is_sure(self):
        rng = np.random.default_rng(3)
        ground = np.full((600, 800, 3), 60, np.uint8)
        half_seen = photograph([(-200, 100), (1180, 60), (1290, 1130), (-150, 1080)], 4)
        for name, picture in (
            ("noise", rng.integers(0, 255, (600, 800, 3), dtype=np.uint8)),
            ("one colour", ground),
            ("three dots", np.zeros((3, 3, 3), np.uint8)),
            ("one line", np.zeros((1, 900, 3), np.uint8)),
            ("a plate", cv2.circle(ground.copy(), (400, 300), 200, (220, 220, 220), -1)),
            ("a stamp", cv2.rectangle(ground.copy(), (20, 20), (90, 120), (220, 220, 220), -1)),
            ("out of the picture", half_seen),
        ):
            with self.subTest(name):
                found = found_corners(picture)
                if name == "out of the picture":
                    # What can be seen of it may be marked; never outside of the picture.
                    self.assertTrue(found is None or (np.array(found) >= 0).all())
                else:
                    self.assertIsNone(found)


class SquaringTests(TestCase):
    @given(some.lists(some.floats(-80, 80), min_size=8, max_size=8))
    @settings(max_examples=examples(4))
    def test_corners_land_on_corners(self, moves):
        corners = np.array([(200, 150), (1150, 150), (1150, 1050), (200, 1050)]) + np.reshape(
            moves, (4, 2)
        )
        flat = squared(photograph(corners, 0), corners, SIZE)
        self.assertEqual(flat.pixels.shape[:2], (1800, 1800))
        # The middle of every patch has the patch's own colour.
        for patch in CHART.patches[:12]:
            x, y = patch.polygon.representative_point().coords[0]
            seen = flat.pixels[round(y * flat.scale), round(x * flat.scale)].astype(int)
            colour = CHART.fabric(patch.fabric).colour
            wanted = [int(colour[k : k + 2], 16) for k in (5, 3, 1)]
            self.assertLess(
                np.abs(seen / np.mean(seen) - np.array(wanted) / np.mean(wanted)).max(), 0.12
            )

    def test_corners_that_are_none(self):
        picture = photograph(CORNERS)
        a, b, c, d = CORNERS
        for corners, word in (([a, b, c], "four corners"), ([a, c, b, d], "in turn"),
                              ([a, d, c, b], "clockwise"),
                              ([(0, 0), (9, 0), (9, 9), (0, 9)], "next to nothing"),
                              ([a, b, (400, 300), d], "in turn"),
                              ([a, b, c, (float("nan"), 1)], "four corners")):  # fmt: skip
            with self.subTest(word), self.assertRaises(ChartError) as caught:
                squared(picture, corners, SIZE)
            self.assertIn(word, str(caught.exception))
        with self.assertRaises(ChartError):
            read_picture(b"nothing like a picture")

    def test_jpeg_there_and_back(self):
        flat = squared(photograph(CORNERS), CORNERS, SIZE)
        again = read_picture(flat.jpeg())
        self.assertLess(np.abs(again.astype(int) - flat.pixels).mean(), 6)


class TouchTests(TestCase):
    flat = squared(photograph(CORNERS), CORNERS, SIZE)

    @long
    def test_touched_patches_are_found_to_an_eighth(self):
        found = 0
        for patch in CHART.patches[::2]:
            # A patch runs into its neighbour of the same fabric; those have no seam to be seen.
            alone = not any(p.fabric == patch.fabric and p is not patch
                            and p.polygon.intersection(patch.polygon).length > 0.1
                            for p in CHART.patches)  # fmt: skip
            if not alone:
                continue
            x, y = patch.polygon.representative_point().coords[0]
            shape = touched(self.flat, x, y)
            with self.subTest(patch.id):
                self.assertLess(shape.hausdorff_distance(patch.polygon), 0.125 + 0.15)
                self.assertLess(shape.symmetric_difference(patch.polygon).area,
                                0.125 * patch.polygon.length)  # fmt: skip
                self.assertLessEqual(len(shape.exterior.coords), 8)
            found += 1
        self.assertGreater(found, 5)

    @long
    def test_traced_patches_node_into_a_chart(self):
        lines = [np.asarray(box(0, 0, *SIZE).exterior.coords)]
        shapes: list[Polygon] = []
        for patch in CHART.patches:
            if patch.fabric == "b":
                x, y = patch.polygon.representative_point().coords[0]
                shape = snapped(touched(self.flat, x, y), [*shapes, box(0, 0, *SIZE)], 0.25)
                shapes.append(shape)
                lines.append(np.asarray(shape.exterior.coords))
        noded = chart_of(Drawing(tuple(lines)), 0.2)
        self.assertAlmostEqual(noded.chart.outline.area, 24 * 24, delta=3)
        blues = sum(p.polygon.area for p in CHART.patches if p.fabric == "b")
        self.assertAlmostEqual(sum(s.area for s in shapes), blues, delta=0.03 * blues)

    def test_light_fabric_with_gentle_shading_does_not_leak(self):
        """Two creams side by side, each shaded by a lamp: the seam between them holds."""
        y, x = np.mgrid[0:900, 0:900].astype(float)
        flat = np.where((x < 450)[..., None], (228, 238, 244), (208, 220, 228)).astype(float)
        flat *= (1.0 + 0.035 * np.sin(x / 260) * np.cos(y / 340))[..., None]
        flat = cv2.GaussianBlur(flat, (0, 0), 1.5)
        noise = np.random.default_rng(4).normal(0, 3, flat.shape)
        picture = Squared(np.clip(flat + noise, 0, 255).astype(np.uint8), 75.0)
        for spot, true in (((3, 6), box(0, 0, 6, 12)), ((9, 6), box(6, 0, 12, 12))):
            shape = touched(picture, *spot)
            self.assertLess(shape.symmetric_difference(true).area, 0.125 * true.length)

    def test_nothing_there_is_said(self):
        grain = np.random.default_rng(0).integers(0, 255, (600, 600, 3)).astype(np.uint8)
        for x, y in ((3.0, 3.0), (-1.0, 2.0), (99.0, 2.0)):
            with self.assertRaises(ChartError):
                touched(Squared(grain, 100.0), x, y, 3.0)


class ShapeTests(TestCase):
    @given(some.floats(-4, 4), some.floats(2, 9), some.floats(2, 9))
    def test_nearly_right_is_put_right(self, turn, w, h):
        from shapely import affinity

        drawn = affinity.rotate(box(0, 0, w, h), turn)
        made = straightened(drawn, 0.14)
        sides = np.diff(np.asarray(made.exterior.coords), axis=0)
        angles = np.degrees(np.arctan2(sides[:, 1], sides[:, 0])) % 90
        # Only as far as it moves no end by more than a seam may be out.
        if max(w, h) / 2 * np.sin(np.radians(abs(turn))) < TURNED - 1e-6:
            self.assertLess(np.minimum(angles, 90 - angles).max(), 1e-6)
        self.assertAlmostEqual(made.area, w * h, delta=0.02 * w * h)
        self.assertLess(made.exterior.hausdorff_distance(drawn.exterior), 2**0.5 * TURNED + 0.02)

    @given(some.floats(0, 90), some.floats(0.02, 0.3), some.integers(3, 8), some.integers(0, 99))
    @example(turn=0.0, cut=0.29968011675753164, count=3, seed=25)
    def test_corners_cut_off_by_the_picture_are_made_whole(self, turn, cut, count, seed):
        """A polygon seen with its corners clipped and its outline a little rough comes back."""
        from shapely import affinity

        corners = 6 * np.array(
            [(np.cos(a), np.sin(a)) for a in np.arange(count) / count * 2 * np.pi]
        )
        true = affinity.rotate(Polygon(corners), turn)
        blunt = []
        ring = np.asarray(true.exterior.coords)[:-1]
        for before, here, after in zip(
            np.roll(ring, 1, 0), ring, np.roll(ring, -1, 0), strict=True
        ):
            blunt += [
                here + cut * (end - here) / np.hypot(*(end - here)) for end in (before, after)
            ]
        rough = np.asarray(Polygon(blunt).segmentize(0.05).exterior.coords)[:-1]
        rough = Polygon(rough + np.random.default_rng(seed).normal(0, 0.012, rough.shape))
        error = 0.09
        made = straightened(rough.buffer(0), error)
        # A side whose end is turned by so much moves its corner along the next side, the farther the more
        # slanting they meet; no more beyond that than the picture was said to be out.
        inner = np.pi * (count - 2) / count
        self.assertLess(made.hausdorff_distance(true), TURNED / np.sin(inner) + error)
        self.assertLess(made.symmetric_difference(true).area, TURNED * true.length / 2)

    def test_a_side_takes_over_a_neighbours_corner_beside_it(self):
        """Two sides that run along each other leave no gap where only one has a corner."""
        left = Polygon([(0, 0), (4, 0), (4.15, 5), (4, 10), (0, 10)])
        made = snapped(Polygon([(4.1, 0), (9, 0), (9, 10), (4.1, 10)]), [left], 0.25)
        self.assertAlmostEqual(made.intersection(left).area, 0, delta=1e-9)
        gap = box(0, 0, 9, 10).difference(made.union(left))
        self.assertAlmostEqual(gap.area, 0, delta=1e-9)

    def test_corners_snap_to_neighbours_and_sides(self):
        left = box(0, 0, 4, 4)
        drawn = Polygon([(4.1, 0.1), (8, 0), (8, 2), (3.92, 2.1)])
        made = snapped(drawn, [left], 0.25)
        points = [tuple(np.round(p, 6)) for p in made.exterior.coords]
        self.assertIn((4.0, 0.0), points)
        self.assertIn((4.0, 2.1), points)
