"""Drawings from four writers, bent and broken ones, and the patches their lines enclose."""

import contextlib
import io
import math
from unittest import TestCase

import drawsvg
import ezdxf
import numpy as np
import svgwrite
from ezdxf.addons import r12writer
from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.chart import ChartError, faults
from chorograph_core.chart.noding import Drawing, chart_of
from chorograph_core.formats.drawings import DrawingError, read_drawing
from chorograph_core.tests import examples, long

CIRCLE = math.pi * 1.5**2


def svg(body: str, head: str = 'width="12in" height="12in" viewBox="0 0 12 12"') -> bytes:
    spaces = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"<svg {spaces} {head}>{body}</svg>".encode()


def areas(data: bytes, name: str = "a.svg", tolerance: float = 0.05) -> list[float]:
    chart = chart_of(read_drawing(data, name), tolerance).chart
    assert faults(chart) == []
    return sorted(round(patch.polygon.area, 2) for patch in chart.patches)


class WriterTests(TestCase):
    """The same top, 12 inches square with a 3-inch circle in its middle square, from each writer."""

    def check(self, data: bytes, name: str):
        chart = chart_of(read_drawing(data, name), 0.05).chart
        self.assertEqual(faults(chart), [])
        self.assertEqual(len(chart.patches), 10)
        self.assertAlmostEqual(chart.width, 12, delta=0.002)
        self.assertAlmostEqual(chart.height, 12, delta=0.002)
        found = sorted(patch.polygon.area for patch in chart.patches)
        self.assertAlmostEqual(found[0], CIRCLE, delta=0.05)
        self.assertAlmostEqual(found[1], 16 - CIRCLE, delta=0.05)
        self.assertTrue(all(abs(area - 16) < 0.01 for area in found[2:]))

    def test_svgwrite(self):
        out = svgwrite.Drawing(size=("12in", "12in"), viewBox="0 0 1200 1200")
        for row in range(3):
            for column in range(3):
                out.add(
                    out.rect((column * 400, row * 400), (400, 400), fill="none", stroke="black")
                )
        out.add(out.circle((600, 600), 150, fill="none"))
        out.add(out.text("not taken", insert=(5, 5)))
        self.check(out.tostring().encode(), "a.svg")
        self.assertEqual(read_drawing(out.tostring().encode(), "a.svg").left_out, {"texts": 1})

    def test_drawsvg(self):
        out = drawsvg.Drawing(12 * 96, 12 * 96)
        group = drawsvg.Group(transform="scale(96)")
        for k in range(4):
            group.append(drawsvg.Line(0, 4 * k, 12, 4 * k, stroke="black"))
            group.append(drawsvg.Line(4 * k, 0, 4 * k, 12, stroke="black"))
        group.append(drawsvg.Circle(6, 6, 1.5, fill="none", stroke="black"))
        out.append(group)
        self.check(out.as_svg().encode(), "a.svg")

    def test_ezdxf(self):
        out = ezdxf.new("R2018", setup=False)
        out.units = ezdxf.units.MM
        block = out.blocks.new("SQUARE")
        block.add_lwpolyline([(0, 0), (101.6, 0), (101.6, 101.6), (0, 101.6)], close=True)
        space = out.modelspace()
        for row in range(3):
            for column in range(3):
                space.add_blockref("SQUARE", (column * 101.6, row * 101.6))
        space.add_circle((152.4, 152.4), 38.1)
        space.add_text("not taken")
        stream = io.StringIO()
        out.write(stream)
        self.check(stream.getvalue().encode(), "a.dxf")

    def test_r12writer(self):
        stream = io.StringIO()
        with r12writer(stream) as out:
            for k in range(4):
                out.add_line((0, 4 * k), (12, 4 * k))
                out.add_line((4 * k, 0), (4 * k, 12))
            out.add_arc((6, 6), 1.5, 0, 180)
            out.add_arc((6, 6), 1.5, 180, 360)
        self.check(stream.getvalue().encode(), "a.dxf")


class SvgTests(TestCase):
    def test_every_path_command(self):
        body = ('<path d="M1 1h10v10H1z"/><path d="M1,6 C3,4 5,8 7,6 S 9 5 11 6" fill="none"/>'
                '<path d="m 1 3 q 2 1 5 0 t 5 0" fill="none"/>'
                '<path d="M1 9A20 20 0 0 1 11 9" fill="none"/>')  # fmt: skip
        self.assertEqual(len(areas(svg(body))), 4)

    def test_units_transforms_and_uses(self):
        body = ('<defs><rect id="r" width="2" height="3"/></defs>'
                '<g transform="translate(2 1) rotate(90) scale(2)"><g transform="matrix(1 0 0 1 0 0)">'
                '<use xlink:href="#r"/><use href="#r" x="2"/></g></g>')  # fmt: skip
        self.assertEqual(areas(svg(body)), [24.0, 24.0])
        rect = '<rect width="9.6" height="9.6"/>'
        for head, wanted in (('width="25.4mm" height="25.4mm" viewBox="0 0 10 10"', 0.96**2),
                             ('width="96" height="96"', 0.01),
                             ('viewBox="0 0 960 960" width="10in" height="10in"', 0.01)):  # fmt: skip
            self.assertAlmostEqual(areas(svg(rect, head), tolerance=0.001)[0], wanted, delta=0.006)

    def test_no_size_and_negative_scale(self):
        self.assertEqual(len(areas(svg('<rect width="960" height="480"/>', ""))), 1)
        self.assertEqual(
            areas(svg('<g transform="scale(-1 -1)"><rect width="4" height="3"/></g>')), [12.0]
        )

    def test_fills_become_fabrics(self):
        body = '<rect width="12" height="12" fill="#112233"/><rect width="6" height="12" fill="#ffeedd"/>'
        chart = chart_of(read_drawing(svg(body), "a.svg")).chart
        self.assertEqual(
            {chart.fabric(p.fabric).colour for p in chart.patches}, {"#112233", "#ffeedd"}
        )
        self.assertEqual([f.background for f in chart.fabrics if f.colour == "#ffeedd"], [True])

    def test_what_is_not_a_drawing_is_counted_or_refused(self):
        body = ('<rect width="4" height="4"/><script>alert(1)</script><image href="http://x.example/a.png"/>'
                '<use href="other.svg#a"/><text>words</text>'
                '<rect width="9" height="9" display="none"/>')  # fmt: skip
        drawing = read_drawing(svg(body), "a.svg")
        self.assertEqual(drawing.left_out["scripts"], 1)
        self.assertEqual(drawing.left_out["references to other files"], 1)
        self.assertEqual(len(drawing.lines), 1)
        bomb = b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><svg>&b;</svg>'
        outside = b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg>&x;</svg>'
        loop = svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>')
        itself = svg('<use id="a" href="#a"/>')
        steps = "".join(
            f'<g id="g{k}">{f"""<use href="#g{k - 1}"/>""" * 10}</g>' for k in range(1, 9)
        )
        unfolding = svg(
            f'<defs><g id="g0"><rect width="1" height="1"/></g>{steps}</defs><use href="#g8"/>'
        )
        many = svg('<path d="M0 0' + " L1 1 2 2" * 200_000 + '"/>')
        deep = svg("<g>" * 500 + '<rect width="1" height="1"/>' + "</g>" * 500)
        for data, word in (
            (bomb, "entities"), (outside, "entities"), (loop, "back to itself"), (itself, "back to itself"),
            (unfolding, "unfold"), (many, "300,000 points"), (deep, "nested too deeply"),
            (svg("<text>only</text>"), "only 1 texts"), (svg(""), "no line"), (b"<svg><rect", "line 1"),
            (b"<html><p>hello</p></html>", "html"), (b"", "empty"), (b"\0" * 100, "empty"),
            (b"PK\x03\x04", "packed"),
            (b"\x1f\x8b\x08", "packed"), (b"%PDF-1.4", "neither"), (b"x" * 9_000_000, "9 MB"),
            (svg('<path d="M 1e99 0 L 0 1e300 5 5z"/>'), "nowhere"),
        ):  # fmt: skip
            with self.subTest(word=word), self.assertRaises(DrawingError) as caught:
                read_drawing(data, "a.svg")
            self.assertIn(word, str(caught.exception))

    @settings(max_examples=examples(40))
    @given(some.binary(max_size=300) | some.text(max_size=300).map(lambda t: svg(t)))
    def test_noise_is_an_error_and_never_a_crash(self, data):
        for name in ("a.svg", "a.dxf"):
            with contextlib.suppress(DrawingError):
                read_drawing(data, name)


class DxfTests(TestCase):
    def written(self, fill) -> bytes:
        out = ezdxf.new("R2010")
        out.units = ezdxf.units.IN
        fill(out)
        stream = io.StringIO()
        out.write(stream)
        return stream.getvalue().encode()

    def test_curves_of_every_kind(self):
        def fill(out):
            space = out.modelspace()
            space.add_lwpolyline([(0, 0), (10, 0), (10, 10), (0, 10)], close=True)
            space.add_ellipse((5, 5), (3, 0), 0.5)
            space.add_spline([(0, 8), (3, 9), (7, 7.5), (10, 8)])
            space.add_lwpolyline([(0, 2, 0, 0, -0.3), (10, 2, 0, 0, 0)])

        found = areas(self.written(fill), "a.dxf")
        self.assertEqual(len(found), 4)
        self.assertTrue(any(abs(area - math.pi * 3 * 1.5) < 0.05 for area in found))

    def test_y_points_down(self):
        def fill(out):
            out.modelspace().add_lwpolyline([(0, 0), (4, 0), (0, 2)], close=True)

        chart = chart_of(read_drawing(self.written(fill), "a.dxf")).chart
        corners = {(round(x, 3), round(y, 3)) for x, y in chart.patches[0].polygon.exterior.coords}
        self.assertEqual(corners, {(0, 2), (4, 2), (0, 0)})

    def test_broken_files_are_refused(self):
        good = self.written(lambda out: out.modelspace().add_line((0, 0), (1, 1)))
        binary = b"AutoCAD Binary DXF\r\n\x1a\x00" + bytes(range(200))
        for data in (
            good[:200],
            good[: len(good) // 3],
            binary,
            b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nx\n",
        ):
            with self.subTest(data[:20]), self.assertRaises(DrawingError):
                read_drawing(data, "a.dxf")
        # Half a top is no top: a file without its end is refused, whatever could be read of it.
        whole = self.written(lambda out: [out.modelspace().add_line((0, k), (9, k))
                                          for k in range(300)])  # fmt: skip
        for share in (0.3, 0.6, 0.95):
            with self.subTest(share), self.assertRaises(DrawingError) as cut:
                read_drawing(whole[: int(share * len(whole))], "a.dxf")
            self.assertIn("breaks off before its end", str(cut.exception))
        with self.assertRaises(DrawingError) as caught:
            read_drawing(self.written(lambda out: out.modelspace().add_text("hello")), "a.dxf")
        self.assertIn("texts", str(caught.exception))


class NodingTests(TestCase):
    def grid(self, count: int, side: float = 4.0, shake: float = 0.0, seed: int = 0):
        rng = np.random.default_rng(seed)
        lines = []
        for row in range(count):
            for column in range(count):
                x, y = column * side, row * side
                square = np.array(
                    [(x, y), (x + side, y), (x + side, y + side), (x, y + side), (x, y)]
                )
                lines.append(square + rng.uniform(-shake, shake, square.shape))
        return Drawing(tuple(lines))

    @long
    @given(some.integers(1, 5), some.floats(0, 0.02), some.integers(0, 99))
    def test_squares_drawn_carelessly_meet(self, count, shake, seed):
        noded = chart_of(self.grid(count, 4, shake, seed), 0.1)
        self.assertEqual(len(noded.chart.patches), count * count)
        self.assertEqual(faults(noded.chart), [])
        self.assertAlmostEqual(
            noded.chart.outline.area, (4 * count) ** 2, delta=0.1 * count * count + 0.2
        )

    def test_short_ends_reach_the_line_and_are_counted(self):
        frame = np.array([(0, 0), (10, 0), (10, 8), (0, 8), (0, 0)], float)
        almost = np.array([(0.04, 3), (9.95, 5)])
        loose = np.array([(2, 6), (3, 7)], float)
        noded = chart_of(Drawing((frame, almost, loose)), 0.1)
        self.assertEqual((len(noded.chart.patches), noded.joined, noded.loose), (2, 2, 1))
        strict = chart_of(Drawing((frame, almost, loose)), 0.01)
        self.assertEqual(len(strict.chart.patches), 1)

    def test_islands_and_holes(self):
        def square(x, y, side):
            return np.array(
                [(x, y), (x + side, y), (x + side, y + side), (x, y + side), (x, y)], float
            )

        noded = chart_of(Drawing((square(0, 0, 10), square(3, 3, 2), square(20, 0, 1))), 0.05)
        self.assertEqual((len(noded.chart.patches), noded.islands), (2, 1))
        self.assertEqual(faults(noded.chart), [])

    def test_what_encloses_nothing_is_said(self):
        for lines, word in (
            ((), "no line"),
            ((np.array([(0, 0), (5, 5)], float),), "enclose nothing"),
        ):
            with self.assertRaises(ChartError) as caught:
                chart_of(Drawing(lines), 0.05)
            self.assertIn(word, str(caught.exception))

    def test_scaled_from_one_known_length(self):
        drawing = self.grid(2).scaled(3.0)
        self.assertEqual(drawing.bounds, (0, 0, 24, 24))
