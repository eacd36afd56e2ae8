"""Every design in the registry keeps the contract, at all corners of its settings, on forty shapes."""

import hashlib
import itertools
import os
import subprocess
import sys
import types
from dataclasses import dataclass
from pathlib import Path
from unittest import TestCase, mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some
from shapely.geometry import box

from chorograph_core.designs import (
    Design,
    Fit,
    Linework,
    Run,
    Space,
    broken_designs,
    designs,
    registry,
)
from chorograph_core.designs.drawing import drawn_safely, fit_of
from chorograph_core.designs.linework import Span
from chorograph_core.designs.settings import SettingError, Settings, length_setting
from chorograph_core.tests import examples, long
from chorograph_core.tests.contracts import SHAPES, broken_promise, wrong_with

HOME = Path(__file__).resolve().parents[2]
MOST_CORNERS = 5
SEEDS = (0, 1, 20_251)
STROKES = ("0,0 1,0", "-1,-1 1,1 -1,1 1,-1 0,8 0,-8", "0,1 .2,-1 .9,-1 .1,1 1,-1")
"""Strokes of one's own as far from good ones as they may be."""


def corners_of(drawing: Design) -> list[dict]:
    """Lowest, default and highest of every setting, every choice, in all combinations; of many, an
    even share that holds the first and the last."""
    ranges = [
        [key for key, _ in p.choices] if p.kind == "choice" else
        [p.default, *STROKES] if p.kind == "stroke" else
        list(dict.fromkeys([p.low, p.default, p.high]))
        for p in drawing.parameters
    ]  # fmt: skip
    keys, every = [p.key for p in drawing.parameters], list(itertools.product(*ranges))
    chosen = np.unique(np.linspace(0, len(every) - 1, min(MOST_CORNERS, len(every))).astype(int))
    return [dict(zip(keys, every[k], strict=True)) for k in chosen]


def random_settings(drawing: Design):
    """A strategy for any settings the design takes."""
    return some.fixed_dictionaries(
        {
            p.key: some.sampled_from([key for key, _ in p.choices]) if p.kind == "choice"
            else some.sampled_from([p.default, *STROKES]) if p.kind == "stroke"
            else some.integers(int(p.low), int(p.high)) if p.kind == "count"
            else some.floats(p.low, p.high)
            for p in drawing.parameters
        }
    )  # fmt: skip


def digest_of_all() -> str:
    """Everything the registry draws on some shapes, as one number."""
    found = hashlib.sha256()
    for key, drawing in designs().items():
        for name in ("wedge",):
            # A ruler knows no chance.
            for seed in SEEDS if drawing.family == "freehand" else SEEDS[:1]:
                for run in drawing.draw(Space(SHAPES[name]), drawing.clean({}), seed).runs:
                    found.update(f"{key}{name}{seed}".encode() + run.points.tobytes())
    return found.hexdigest()


class ContractTests(TestCase):
    def check(self, drawing, name, given_settings, seed):
        space, clean = Space(SHAPES[name]), drawing.clean(given_settings)
        try:
            made = drawing.draw(space, clean, seed)
        except SettingError as error:
            # Too fine for a zone so large: a sentence about a setting, from both.
            self.assertIn(error.field, {p.key for p in drawing.parameters})
            self.assertEqual(fit_of(drawing, space, clean).score, 0)
            made = Linework()
        self.assertEqual(wrong_with(drawing, space, clean, made), [])
        return space, clean, made

    def test_forty_shapes_are_enough(self):
        self.assertGreaterEqual(len(SHAPES), 40)
        for name, shape in SHAPES.items():
            self.assertTrue(shape.is_valid and shape.geom_type == "Polygon", name)

    def test_nothing_is_broken(self):
        self.assertEqual(broken_designs(), {})

    @long
    def test_all_corners_of_the_settings(self):
        names = itertools.cycle(SHAPES)
        for key, drawing in designs().items():
            for corner in corners_of(drawing):
                name = next(names)
                with self.subTest(key, on=name, corner=corner):
                    self.check(drawing, name, corner, 1)

    @long
    def test_every_shape_by_default_and_what_fits_promises(self):
        for turn, (key, drawing) in enumerate(designs().items()):
            # Every design on every fifth shape, the next ones on those between; the bench has all of them.
            for number, name in list(enumerate(SHAPES))[turn % 5 :: 5]:
                with self.subTest(key, shape=name):
                    seed = SEEDS[number % len(SEEDS)]
                    space, clean, made = self.check(drawing, name, {}, seed)
                    self.assertEqual(broken_promise(drawing, space, clean, made), "")

    @settings(max_examples=examples(40), deadline=None)
    @given(some.data())
    def test_any_settings_on_any_shape(self, data):
        drawing = designs()[data.draw(some.sampled_from(sorted(designs())))]
        given_settings = data.draw(random_settings(drawing))
        name = data.draw(some.sampled_from(sorted(SHAPES)))
        self.check(drawing, name, given_settings, data.draw(some.sampled_from(SEEDS)))

    @long
    def test_what_is_proposed_for_a_zone_draws_there_where_it_fits(self):
        for key, drawing in designs().items():
            for shape in (
                box(0, 0, 4.5, 1.2),
                box(0, 0, 8, 2),
                box(0, 0, 3, 2.25),
                box(0, 0, 12, 11),
            ):
                space = Space(shape)
                proposed = drawing.proposed(space)
                if drawing.fits(space, proposed).score < 0.5:
                    continue
                with self.subTest(key, shape=shape.bounds):
                    made = drawing.draw(space, proposed, 1)
                    self.assertGreater(made.inches, 0.5 * shape.area**0.5)

    @long
    def test_another_process_draws_the_same(self):
        told = subprocess.run(
            [sys.executable, "-c",
             "from chorograph_core.tests.test_contracts import digest_of_all as d; print(d())"],
            cwd=HOME, capture_output=True, text=True, check=True,
            env={**os.environ, "PYTHONHASHSEED": "77"},
        )  # fmt: skip
        self.assertEqual(told.stdout.strip(), digest_of_all())

    @long
    def test_units_part_a_run_and_put_it_together_again(self):
        for key, drawing in designs().items():
            for name in ("bent", "wedge", "square"):
                for run in drawing.draw(Space(SHAPES[name]), drawing.clean({}), 1).runs:
                    for at in range(len(run.stops())):
                        try:
                            one, two = run.split(at)
                        except ValueError:
                            continue
                        with self.subTest(key, shape=name, at=at):
                            self.assertTrue((one.points[-1] == two.points[0]).all())
                            self.assertAlmostEqual(one.inches + two.inches, run.inches, places=9)
                            for kind in ("stitch", "link", "retrace"):
                                sums = [
                                    sum(Run(p).inches for p, _, k in part.pieces() if k == kind)
                                    for part in (run, one, two)
                                ]
                                self.assertAlmostEqual(sums[0], sums[1] + sums[2], places=9)


@dataclass(frozen=True)
class PlainSettings(Settings):
    spacing: float = length_setting("Spacing", 0.5, 0.25, 2.0)


class Fake(Design[PlainSettings]):
    """Says that it suits anything; what it draws is up to the test."""

    key, name, family, stroke = "fake", "Fake", "freehand", "none"
    settings_type = PlainSettings
    runs: tuple[Run, ...] = ()

    def fits(self, space, settings=None):
        return Fit(0.9, ("always",))

    def spacing(self, space, settings=None):
        return self.clean(settings).spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        return Linework(self.runs)


class ChecksCheckTests(TestCase):
    """The checks themselves find what they look for."""

    def fault(self, *runs: Run) -> list[str]:
        drawing, space = Fake(), Space(box(0, 0, 6, 6))
        drawing.runs = runs
        made = drawing.draw(space)
        found = wrong_with(drawing, space, PlainSettings(), made)
        return found or [broken_promise(drawing, space, PlainSettings(), made)]

    def test_a_design_that_draws_nothing_fails(self):
        self.assertEqual(self.fault(), ["says 0.90 and draws nothing"])

    def test_a_stroke_that_fills_nothing_fails(self):
        told = self.fault(Run(np.array([[1.0, 1.0], [2.0, 1.0]])))
        self.assertIn("covers 9%", told[0])

    def test_other_faults(self):
        line = np.array([[1.0, 1.0], [2.0, 1.0], [2.0, 2.0]])
        for run, word in (
            (Run(line + 5), "leaves its zone by 1.4"),
            (Run(line * np.nan), "no numbers"),
            (Run(line[:1]), "fewer than two"),
            (Run(line, "magic"), "nobody knows"),
            (Run(line, closed=True), "does not close"),
            (Run(line, spans=(Span(1, "fine"),)), "do not cover"),
        ):
            with self.subTest(word):
                self.assertTrue(any(word in fault for fault in self.fault(run)), self.fault(run))

    def test_who_declines_must_say_why(self):
        drawing, space = Fake(), Space(box(0, 0, 6, 6))
        with mock.patch.object(Fake, "fits", return_value=Fit(0.1, ())):
            told = broken_promise(drawing, space, PlainSettings(), Linework())
        self.assertEqual(told, "declines without a reason")


class SafetyTests(TestCase):
    """One design's mistake takes no page with it."""

    def test_what_raises_draws_nothing_and_is_said(self):
        with (
            mock.patch.object(Fake, "draw", side_effect=RuntimeError("oh")),
            self.assertLogs("chorograph_core.designs.drawing", "ERROR"),
        ):
            made, fault = drawn_safely(Fake(), Space(box(0, 0, 6, 6)), PlainSettings())
        self.assertEqual(made.runs, ())
        self.assertIn("Fake cannot be drawn in this shape", fault)

    def test_coordinates_that_are_no_numbers_are_left_out(self):
        drawing = Fake()
        drawing.runs = (Run(np.array([[1.0, 1], [np.nan, 1]])),)
        made, _ = drawn_safely(drawing, Space(box(0, 0, 6, 6)), PlainSettings())
        self.assertEqual(made.runs, ())

    def test_a_run_that_leaves_is_left_out_and_said(self):
        drawing = Fake()
        drawing.runs = (Run(np.array([[1.0, 1], [2, 1]])), Run(np.array([[1.0, 1], [7, 1]])))
        made, fault = drawn_safely(drawing, Space(box(0, 0, 6, 6)), PlainSettings())
        self.assertEqual(len(made.runs), 1)
        self.assertIn("leave this zone by 1″", fault)


class RegistryTests(TestCase):
    def module(self, **members) -> types.ModuleType:
        found = types.ModuleType("some.designs")
        for name, member in members.items():
            member.__module__ = found.__name__
            setattr(found, name, member)
        return found

    def test_subclasses_of_subclasses_are_found_and_abstract_ones_are_not(self):
        class Base(Design[PlainSettings]):
            settings_type = PlainSettings

        class Whole(Base):
            key, name, family, stroke = "whole", "Whole", "ruler", "none"

            def fits(self, space, settings=None):
                return Fit(1.0)

            def draw(self, space, settings=None, seed=0, doorways=None):
                return Linework()

        class Deeper(Whole):
            key = "deeper"

        found = registry.designs_in(self.module(Base=Base, Whole=Whole, Deeper=Deeper))
        self.assertEqual({each.key for each in found}, {"whole", "deeper"})

    def test_a_broken_file_is_named_and_the_others_stay(self):
        honest = registry.importlib.import_module

        def load(name):
            if name.endswith(".meander"):
                raise SyntaxError("a slip of the pen")
            return honest(name)

        registry._found.cache_clear()
        try:
            with mock.patch.object(registry.importlib, "import_module", load):
                self.assertNotIn("meander", designs())
                self.assertIn("loops", designs())
                self.assertEqual(
                    broken_designs(),
                    {"chorograph_core.designs.freehand.meander": "SyntaxError: a slip of the pen"},
                )
        finally:
            registry._found.cache_clear()
        self.assertIn("meander", designs())
