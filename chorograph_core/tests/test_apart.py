"""Foreign drawings that are made to exhaust the machine: refused within the limits, with a sentence."""

import random
import resource
import time
from unittest import TestCase, mock

from chorograph_core.chart import ChartError
from chorograph_core.formats.apart import Limits, chart_apart, read_apart, shapes_apart
from chorograph_core.formats.drawings import DrawingError
from chorograph_core.tests import long
from chorograph_core.tests.test_drawings import svg

SHORT = Limits(2)
GOOD = svg('<rect width="12" height="12"/><path d="M6 0V12M0 6H12" fill="none"/>')


def strokes(count: int) -> bytes:
    """Random strokes all over the sheet: their crossings grow with the square of their number."""
    dice = random.Random(1)
    lines = "".join(
        f"M{dice.random() * 12:.2f} {dice.random() * 12:.2f}"
        f"L{dice.random() * 12:.2f} {dice.random() * 12:.2f}"
        for _ in range(count)
    )
    return svg(f'<path fill="none" d="{lines}"/>')


def dxf(*rows: str) -> bytes:
    return "\n".join([*rows, "0", "EOF", ""]).encode()


def insert_bomb() -> bytes:
    """Blocks that each hold ten of the next: ten million lines in two kilobytes."""
    rows = ["0", "SECTION", "2", "BLOCKS"]
    for level in range(7):
        rows += ["0", "BLOCK", "2", f"b{level}", "70", "0", "10", "0", "20", "0"]
        if level == 6:
            rows += ["0", "LINE", "8", "0", "10", "0", "20", "0", "11", "1", "21", "1"]
        else:
            for k in range(10):
                rows += ["0", "INSERT", "8", "0", "2", f"b{level + 1}", "10", str(k), "20", "0"]
        rows += ["0", "ENDBLK"]
    rows += ["0", "ENDSEC", "0", "SECTION", "2", "ENTITIES"]
    rows += ["0", "INSERT", "8", "0", "2", "b0", "10", "0", "20", "0", "0", "ENDSEC"]
    return dxf(*rows)


ATTACKS = {
    "strokes.svg": strokes(1500),
    "more strokes.svg": strokes(3000),
    "closings.svg": svg('<path d="M0 0L4 4' + "z" * 50_000 + '"/>'),
    "circles.svg": svg(
        "".join(f'<circle cx="6" cy="6" r="{1 + k / 500:.3f}"/>' for k in range(2000))
    ),
    "stairs.svg": svg('<path d="M0 0' + "h1v1z" * 60_000 + '"/>'),
    "inserts.dxf": insert_bomb(),
    "lines.dxf": dxf(
        "0", "SECTION", "2", "ENTITIES",
        *[
            row
            for k in range(9000)
            for row in ("0", "LINE", "8", "0", "10", str(k % 97), "20", str(k % 89), "11",
                        str(k * 7 % 97), "21", str(k * 11 % 89))
        ],
        "0", "ENDSEC",
    ),
}  # fmt: skip


class ApartTests(TestCase):
    @long
    def test_a_good_drawing_is_read(self):
        steps = []
        taken = chart_apart(GOOD, "a.svg", 24.0, 0.1, "in",
                            progress=lambda share, what: steps.append(what))  # fmt: skip
        self.assertEqual(len(taken.chart.patches), 4)
        self.assertAlmostEqual(taken.chart.width, 24)
        self.assertIn("finding what is enclosed", steps)
        shapes, size = shapes_apart(GOOD, "a.svg")
        self.assertEqual((len(shapes), size), (1, (12.0, 12.0)))

    @long
    def test_what_is_made_to_exhaust_the_machine_is_bounded(self):
        for name, data in ATTACKS.items():
            if name == "more strokes.svg":
                continue  # as the smaller one
            with self.subTest(name):
                before = resource.getrusage(resource.RUSAGE_CHILDREN)
                try:
                    taken = chart_apart(data, name, 60.0, 0.05, "in", SHORT)
                    # What is only long, and not wide, may as well be read.
                    self.assertLess(len(taken.chart.patches), 20_001)
                except (DrawingError, ChartError) as error:
                    self.assertRegex(str(error), r"^[A-Z].*\.$")
                after = resource.getrusage(resource.RUSAGE_CHILDREN)
                spent = after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
                self.assertLess(spent, SHORT.seconds + 3, "its own limit ends it")

    @long
    def test_many_crossings_are_refused_before_they_are_made(self):
        for name in ("strokes.svg", "more strokes.svg"):
            with self.subTest(name), self.assertRaises((DrawingError, ChartError)) as told:
                chart_apart(ATTACKS[name], name, 60.0, 0.05, "in", SHORT)
            self.assertIn("cross", str(told.exception))

    @long
    def test_whoever_leaves_off_puts_the_child_down(self):
        class LeftOff(Exception):
            pass

        children = []
        popen = __import__("subprocess").Popen

        def remember(*given, **named):
            children.append(popen(*given, **named))
            return children[-1]

        def told(share, what):
            raise LeftOff

        with (
            mock.patch("chorograph_core.formats.apart.subprocess.Popen", remember),
            self.assertRaises(LeftOff),
        ):
            chart_apart(ATTACKS["closings.svg"], "a.svg", 60.0, 0.05, "in", progress=told)
        self.assertIsNotNone(children[0].poll(), "it is gone by then")

    @long
    def test_a_child_that_says_nothing_is_a_sentence(self):
        began = time.monotonic()
        with self.assertRaises(DrawingError) as told:
            read_apart({"what": "chart", "name": "a.svg"}, GOOD, SHORT)
        self.assertIn("It takes more to read", str(told.exception))
        self.assertLess(time.monotonic() - began, 3 * SHORT.seconds + 10)
