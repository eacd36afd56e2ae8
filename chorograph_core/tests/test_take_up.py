"""Take-up: closed formula, the whole quilt, fullness that goes, open zones that rise."""

import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as some
from scipy.integrate import quad

from chorograph_core.choosing.take_up import MOST, density_for, take_up_of, taken_up
from chorograph_core.estimating import Batting, Measures
from chorograph_core.tests.shapes import designed, small_top


def job(measures: Measures | None = None, loft: float = 0.125):
    core = designed(small_top())
    intake = replace(core.intake, batting=Batting("b", loft=loft), measures=measures or Measures())
    return replace(core, intake=intake)


def even(core, density: float) -> dict[str, float]:
    return {zone.id: density for zone in core.zones}


class FormulaTests(TestCase):
    @given(some.floats(0.5, 5), some.floats(0.02, 0.2))
    def test_it_is_half_of_what_a_flat_parabola_is_longer(self, density, loft):
        apart, high = 1 / density, loft / 2
        # y = h (1 - (2x/a)²) between two lines.
        long, _ = quad(
            lambda x: math.sqrt(1 + (8 * high * x / apart**2) ** 2), -apart / 2, apart / 2
        )
        more = long / apart - 1
        if more < 0.08:
            self.assertAlmostEqual(taken_up(density, loft), more / 2, delta=0.06 * more + 1e-9)

    @given(some.floats(0.001, MOST - 1e-6), some.floats(0.02, 0.3))
    def test_the_density_that_takes_a_share_takes_it(self, share, loft):
        self.assertAlmostEqual(taken_up(density_for(share, loft), loft), share, places=9)

    def test_never_more_than_a_tenth(self):
        self.assertEqual(taken_up(40, 0.5), MOST)
        self.assertEqual(taken_up(-1, 0.5), 0.0)


class QuiltTests(TestCase):
    def test_an_evenly_stitched_quilt_shrinks_by_the_formula_in_both_directions(self):
        core = job()
        found = take_up_of(core, even(core, 2.0))
        share = taken_up(2.0, 0.125)
        self.assertAlmostEqual(found.width, share, places=6)
        self.assertAlmostEqual(found.height, share, places=6)
        self.assertAlmostEqual(found.size[0], core.chart.width * (1 - share), places=6)
        self.assertIn("Expect", found.said[0])
        self.assertEqual((found.rising, found.eased), ((), ()))
        self.assertEqual(take_up_of(core, even(core, 0.0)).said, ())

    def test_thicker_batting_takes_more(self):
        thin, thick = job(loft=0.06), job(loft=0.2)
        self.assertLess(
            take_up_of(thin, even(thin, 2)).width, take_up_of(thick, even(thick, 2)).width
        )

    def test_an_edge_that_is_denser_cups_and_a_middle_that_is_waves(self):
        core = job()
        outline = core.chart.outline
        inner = outline.buffer(-outline.bounds[2] / 6)
        border = {zone.id for zone in core.zones if not zone.polygon.intersects(inner.buffer(-1))}
        dense_edge = {zone.id: 4.0 if zone.id in border else 1.0 for zone in core.zones}
        dense_middle = {zone.id: 1.0 if zone.id in border else 4.0 for zone in core.zones}
        self.assertIn("cup", " ".join(take_up_of(core, dense_edge).said))
        self.assertIn("wave", " ".join(take_up_of(core, dense_middle).said))

    def test_fullness_goes_where_what_lies_on_it_takes_as_much(self):
        core = job(Measures(borders=(20.6, None, None, 20.1), bodies=(20.0, None, None, 20.0)))
        little, much = take_up_of(core, even(core, 1.0)), take_up_of(core, even(core, 2.6))
        self.assertEqual([each.side for each in little.eased], ["top", "left"])
        top = little.eased[0]
        self.assertAlmostEqual(top.full, 0.03)
        self.assertAlmostEqual(top.wanted, density_for(0.03, 0.125))
        self.assertIn("would take all of it", " ".join(little.said))
        self.assertEqual(" ".join(much.said).count("the fullness goes"), 2)
        self.assertIn("/cm²", " ".join(take_up_of(core, even(core, 1.0), "cm").said))

    def test_a_zone_left_open_among_dense_ones_rises(self):
        core = job()
        large = max(core.zones, key=lambda zone: zone.polygon.area)
        densities = even(core, 4.0) | {large.id: 0.5}
        found = take_up_of(core, densities)
        self.assertEqual([each.zone for each in found.rising], [large.id])
        self.assertAlmostEqual(found.rising[0].around, 4.0, places=6)
        self.assertIn("bulge", " ".join(found.said))
        self.assertEqual(take_up_of(core, even(core, 4.0) | {large.id: 1.2}).rising, ())
