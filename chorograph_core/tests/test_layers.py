"""Layers of a zone, figures over many zones, what lies round a zone, and what is kept of drawings."""

import itertools
import sys
import threading
from dataclasses import dataclass
from unittest import TestCase, mock

import numpy as np
import shapely
from shapely.geometry import Point, box

from chorograph_core.chart import Chart, Fabric, Patch
from chorograph_core.designs import Design, Fit, Linework, Run, Space, designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.drawing import IN_THE_FINISH, draw_legend
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.designs.settings import Settings, length_setting
from chorograph_core.designs.surroundings import Surroundings
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches

CHECKED = {"spacing": 0.5}


@dataclass(frozen=True)
class MedallionSettings(Settings):
    radius: float = length_setting("Radius", 2.0, 0.5, 9.0)


class Medallion(Design[MedallionSettings]):
    """A motif: one ring in the widest place, which keeps half an inch round itself free."""

    key, name, family, stroke, role = "medallion", "Medallion", "freehand", "round", "motif"
    settings_type = MedallionSettings

    def fits(self, space, settings=None):
        return Fit(0.9, ("always",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        ring = self._disc(space, settings, 0).exterior
        return Linework((Run(shapely.get_coordinates(ring), closed=True),))

    def reserves(self, space, settings, linework):
        return self._disc(space, settings, 0.5)

    def _disc(self, space, settings, more):
        return Point(space.widest[0]).buffer(self.clean(settings).radius + more)


class Wave(Design[MedallionSettings]):
    """A figure: a line from end to end of whatever it is laid over."""

    key, name, family, stroke, role = "wave", "Wave", "freehand", "on", "figure"
    settings_type = MedallionSettings

    def fits(self, space, settings=None):
        return Fit(0.9, ("always",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        x0, y0, x1, y1 = space.polygon.bounds
        x = np.linspace(x0, x1, 200)
        middle = (y0 + y1) / 2
        return Linework((Run(np.c_[x, middle + 0.5 * np.sin(x)]),))


def with_fakes():
    known = {**designs(), "medallion": Medallion(), "wave": Wave()}
    return mock.patch("chorograph_core.designs.registry._found", lambda: (known, {}))


def top(columns: int = 1) -> tuple[Chart, list]:
    chart = StraightSet(1, columns, 12, ("plain",)).chart()
    return chart, zones_from_patches(chart)


class LayerTests(TestCase):
    def test_a_fill_keeps_clear_of_the_motif(self):
        chart, zones = top()
        layers = (Layer("medallion", {"radius": 2}, "t"), Layer("crosshatch", CHECKED, "t"))
        with with_fakes():
            motif, fill = draw_legend(chart, zones, [Entry("e", "", (zones[0].id,), layers)])
        lines = shapely.union_all([shapely.linestrings(r.points) for r in fill.linework.runs])
        centre = Point(6, 6)
        self.assertAlmostEqual(motif.linework.inches, 4 * np.pi, delta=0.1)
        self.assertAlmostEqual(lines.distance(centre), 2.5, delta=0.03)
        whole = draw_legend(chart, zones, [Entry("e", "", (zones[0].id,), layers[1:])])[0]
        self.assertLess(fill.linework.inches, 0.95 * whole.linework.inches)
        # It goes up to what is kept free all round, and fills the rest as before.
        for at in np.linspace(0, 2 * np.pi, 12):
            spot = Point(6 + 3 * np.cos(at), 6 + 3 * np.sin(at))
            self.assertLess(lines.distance(spot), 0.55)

    def test_alike_zones_get_alike_motifs(self):
        chart, zones = top(3)
        layers = (Layer("medallion", {"radius": 2}, "t"), Layer("crosshatch", CHECKED, "t"))
        ids = tuple(zone.id for zone in zones)
        with with_fakes():
            drawn = draw_legend(chart, zones, [Entry("e", "", ids, layers)])
        self.assertEqual({one.layer for one in drawn}, {0, 1})
        middle = [one for one in drawn if one.zone == zones[1].id]
        self.assertEqual(len(middle), 2)

    def test_a_figure_over_many_zones_is_one(self):
        chart, zones = top(3)
        ids = tuple(zone.id for zone in zones)
        layer = Layer("wave", {}, "t", over="region")
        with with_fakes():
            drawn = draw_legend(chart, zones, [Entry("e", "", ids, (layer,))])
        self.assertEqual([one.zone for one in drawn], list(ids))
        figures = {run.figure for one in drawn for run in one.linework.runs}
        self.assertEqual(figures, {"f0.0"})
        for one, zone in zip(drawn, zones, strict=True):
            line = shapely.union_all([shapely.linestrings(r.points) for r in one.linework.runs])
            self.assertTrue(zone.polygon.buffer(0.03).covers(line))
        # One line to the eye: each piece goes on where the last one ended.
        for left, right in itertools.pairwise(drawn):
            gap = left.linework.runs[-1].points[-1] - right.linework.runs[0].points[0]
            self.assertLess(np.hypot(*gap), 1e-4)

    def test_parts_of_a_figure_in_one_zone_have_names_of_their_own(self):
        # A zone like a U whose bridge lies in the edge's finish, with another between its legs.
        inner = box(5, 0.3, 15, 5)
        chart = Chart(box(0, 0, 20, 5), (Patch("u", box(0, 0, 20, 5).difference(inner)),
                                         Patch("in", inner)))  # fmt: skip
        zones = zones_from_patches(chart)
        layer = Layer("parallel", {"spacing": 0.5}, "indigo", over="region")
        job = Job("U", chart, tuple(zones),
                  legend=(Entry("e", "", tuple(z.id for z in zones), (layer,)),))  # fmt: skip
        drawn = job_linework(job)
        self.assertEqual(len(drawn), 2, "one linework for each zone")
        for one in drawn:
            names = [one.key(k) for k in range(len(one.linework.runs))]
            self.assertEqual(len(set(names)), len(names))
        legs = {round(run.points[0][0] // 10) for one in drawn if one.zone == "z:u"
                for run in one.linework.runs}  # fmt: skip
        self.assertEqual(legs, {0, 1}, "both legs are stitched")
        self.assertEqual(replayed_job(job, planned_job(job)), [])

    def test_zones_that_do_not_touch_are_regions_of_their_own(self):
        chart, zones = top(3)
        layer = Layer("wave", {}, "t", over="region")
        with with_fakes():
            drawn = draw_legend(
                chart, zones, [Entry("e", "", (zones[0].id, zones[2].id), (layer,))]
            )
        self.assertEqual(
            {run.figure for one in drawn for run in one.linework.runs}, {"f0.0", "f1.0"}
        )

    def test_a_zone_in_the_finish_is_a_fault_and_no_error(self):
        chart = StraightSet(1, 1, 12, ("plain",), borders=(Border(0.25),)).chart()
        zones = zones_from_patches(chart)
        ids = tuple(zone.id for zone in zones)
        drawn = draw_legend(chart, zones, [Entry("e", "", ids, (Layer("crosshatch", {}, "t"),))])
        faults = [one.fault for one in drawn]
        self.assertEqual(sorted(faults), ["", *[IN_THE_FINISH] * 4])

    def test_a_top_as_narrow_as_its_finish(self):
        chart = Chart(box(0, 0, 20, 0.6), (Patch("p", box(0, 0, 20, 0.6)),))
        zones = zones_from_patches(chart)
        layers = (Layer("ditch", {}, "t"), Layer("meander", {}, "t"))
        drawn = draw_legend(chart, zones, [Entry("e", "", (zones[0].id,), layers)])
        self.assertEqual([one.fault for one in drawn if one.layer == 1], [IN_THE_FINISH])

    def test_a_design_nobody_knows(self):
        chart, zones = top()
        (one,) = draw_legend(
            chart, zones, [Entry("e", "", (zones[0].id,), (Layer("unheard_of", {}, "t"),))]
        )
        self.assertIn("no design called “unheard_of”", one.fault)


class SurroundingTests(TestCase):
    """Three squares in a row: light, dark, light; the last turned on its point elsewhere."""

    def setUp(self):
        fabrics = (Fabric("l", "light", "#f0f0e0"), Fabric("d", "dark", "#202030"))
        self.chart = Chart(
            box(0, 0, 15, 5),
            tuple(Patch(f"p{k}", box(5 * k, 0, 5 * k + 5, 5), fabric="ldl"[k]) for k in range(3)),
            fabrics,
        )
        self.zones = zones_from_patches(self.chart)
        self.around = Surroundings(self.chart, self.zones)

    def told(self, number):
        return self.around.told(Space(self.zones[number].polygon), self.zones[number])

    def test_seams_and_neighbours(self):
        middle = self.told(1)
        self.assertEqual(middle.neighbours, (self.zones[0].id, self.zones[2].id))
        self.assertEqual({seam.beyond for seam in middle.seams}, {"p0", "p2", ""})
        inches = sum(shapely.linestrings(seam.line).length for seam in middle.seams)
        self.assertAlmostEqual(inches, 20)
        self.assertEqual(self.told(0).neighbours, (self.zones[1].id,))

    def test_the_lighter_side_is_low(self):
        low = {seam.beyond: seam.low for seam in self.told(1).seams}
        self.assertEqual(low, {"p0": False, "p2": False, "": None})
        self.assertEqual({s.beyond: s.low for s in self.told(0).seams}, {"p1": True, "": None})

    def test_grain_is_that_of_the_block(self):
        self.assertEqual(self.told(0).grain, 0.0)
        from chorograph_core.layouts import OnPoint

        chart = OnPoint(2, 2, 8, ("plain",)).chart()
        zones = zones_from_patches(chart)
        block = next(z for z in zones if chart.patch(z.patches[0]).block is not None
                     and len(z.polygon.exterior.coords) == 5)  # fmt: skip
        grain = Surroundings(chart, zones).told(Space(block.polygon), block).grain
        self.assertAlmostEqual(grain, np.pi / 4)

    def test_next_to_nothing_is_taken_off_without_losing_holes(self):
        ring = Space(box(0, 0, 20, 20).difference(box(1, 1, 19, 19)))
        for distance in (0.0, 1e-252, 1e-9):
            self.assertAlmostEqual(ring.inset(distance)[0].area, ring.polygon.area)

    def test_facts_are_found_once_for_all_designs(self):
        space, found = Space(box(0, 0, 30, 4)), []
        for _ in range(3):
            space.fact("slow", lambda: found.append(1))
        self.assertEqual(len(found), 1)
        with mock.patch("chorograph_core.designs.strip.strip", wraps=designs_strip()) as strip:
            for drawing in designs().values():
                drawing.fits(space)
            self.assertLessEqual(strip.call_count, 1, "all ask for the same strip")


def designs_strip():
    from chorograph_core.designs.strip import strip

    return strip


class CacheTests(TestCase):
    def test_four_threads_at_once(self):
        cache, errors = DrawingCache(50), []

        def work(seed):
            dice = np.random.default_rng(seed)
            try:
                for key in dice.integers(0, 120, 20_000):
                    if cache.get(str(key)) is None:
                        cache.put(str(key), int(key))
                    elif cache.get(str(key)) not in (int(key), None):
                        errors.append("another's drawing")
            except Exception as error:
                errors.append(repr(error))

        # As if many hands came at once: the interpreter changes threads wherever it can.
        self.addCleanup(sys.setswitchinterval, sys.getswitchinterval())
        sys.setswitchinterval(1e-6)
        threads = [threading.Thread(target=work, args=(k,)) for k in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(errors, [])
        self.assertLessEqual(len(cache), 50)
