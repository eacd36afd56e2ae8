"""Going back over a line beside it: a ribbon that begins and ends on it, within the zone."""

from dataclasses import replace
from unittest import TestCase, mock

import numpy as np
import shapely

from chorograph_core.designs import drawing
from chorograph_core.designs.beside import ASIDE, STEP, beside
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import job_linework, replayed_job
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed, small_top

BACK = ("leaf", "leaf_vine", "feather", "half_feather")


def job_with(design: str, retrace: str, over: str = "zone"):
    """A small top, all blocks' centres and triangles in one design."""
    core = designed(small_top(2, 2))
    zones = tuple(
        zone.id for zone in core.zones if core.chart.patch(zone.patches[0]).role != "border"
    )
    border = tuple(zone.id for zone in core.zones if zone.id not in zones)
    legend = (Entry("e", "e", zones if over == "zone" else border,
                    (Layer(design, {}, core.threads[0].key, over=over),)),)  # fmt: skip
    return replace(core, policy=replace(core.policy, retrace=retrace)).with_legend(legend)


class BesideTests(TestCase):
    def pairs(self, design: str):
        """(run on the line, the same run beside it, its zone) of everything that is drawn."""
        on, aside = job_with(design, "on"), job_with(design, "beside")
        shapes = {zone.id: zone.polygon for zone in on.zones}
        for one, other in zip(job_linework(on), job_linework(aside), strict=True):
            for run, moved in zip(one.linework.runs, other.linework.runs, strict=True):
                yield run, moved, shapes[one.zone]

    @long
    def test_it_lies_a_ribbon_away_and_meets_the_line_at_its_ends(self):
        for design in BACK:
            moved_ones = 0
            for run, moved, zone in self.pairs(design):
                self.assertTrue(zone.buffer(0.02).covers(shapely.linestrings(moved.points)))
                self.assertEqual(len(run.spans), len(moved.spans))
                start = before = 0
                for span, new in zip(run.spans, moved.spans, strict=True):
                    old = run.points[start : span.stop + 1]
                    made = moved.points[before : new.stop + 1]
                    with self.subTest(design):
                        np.testing.assert_allclose(made[[0, -1]], old[[0, -1]], atol=1e-9)
                        if new.technique == span.technique:
                            np.testing.assert_allclose(made, old)
                        else:
                            moved_ones += 1
                            self.assertEqual((span.kind, new.kind), ("retrace", "stitch"))
                            self.assertIn(new.technique, ("fine", "medium", "large"))
                            off = shapely.distance(shapely.points(made), shapely.linestrings(old))
                            self.assertLessEqual(off.max(), ASIDE * 1.05)
                            self.assertGreater(off[len(off) // 2], 0.8 * ASIDE)
                    start, before = span.stop, new.stop
            self.assertTrue(moved_ones, f"{design} goes back nowhere: this tries nothing")

    @long
    def test_units_stop_where_they_did(self):
        for design in BACK:
            for run, moved, _ in self.pairs(design):
                for unit, new in zip(run.units, moved.units, strict=True):
                    off = np.hypot(*(run.points[unit.stop] - moved.points[new.stop]))
                    self.assertLess(off, ASIDE + STEP + 1e-6, (design, unit.name))

    def test_a_mirror_image_has_mirrored_ribbons(self):
        job = job_with("leaf", "on")
        one = next(one for one in job_linework(job) if one.linework.runs)
        room = next(zone.polygon for zone in job.zones if zone.id == one.zone)
        turned = replace(one.linework, runs=tuple(
            replace(run, points=run.points * [-1, 1]) for run in one.linework.runs))  # fmt: skip
        flipped = shapely.transform(room, lambda points: points * [-1, 1])
        as_it_is, mirrored = beside(one.linework, room), beside(turned, flipped, mirrored=True)
        for run, other in zip(as_it_is.runs, mirrored.runs, strict=True):
            np.testing.assert_allclose(other.points * [-1, 1], run.points, atol=1e-9)
        self.assertFalse(np.allclose(
            beside(turned, flipped).runs[0].points, mirrored.runs[0].points))  # fmt: skip

    @long
    def test_a_route_is_clean_and_is_reckoned_at_the_motifs_own_pace(self):
        minutes = {}
        for retrace in ("on", "beside"):
            job = job_with("leaf", retrace)
            rates = job.machine.rates
            speeds = {**rates.speeds, "fine": 110.0, "medium": 110.0}
            machine = replace(job.machine, rates=replace(rates, speeds=speeds))
            job = replace(job, machine=machine)
            route = planned_job(job)
            self.assertEqual(replayed_job(job, route), [])
            minutes[retrace] = route.minutes
        self.assertLess(minutes["beside"], minutes["on"])

    def test_a_figure_over_many_zones_goes_back_so_too(self):
        job = job_with("half_feather", "beside", over="region")
        drawn = [one for one in job_linework(job) if one.figure is not None]
        self.assertTrue(drawn)

        def back(made) -> int:
            return sum(kind == "retrace" for one in made for run in one.figure.linework.runs
                       for _, _, kind in run.pieces())  # fmt: skip

        on = [one for one in job_linework(job_with("half_feather", "on", over="region"))
              if one.figure is not None]  # fmt: skip
        self.assertLess(back(drawn), back(on))
        self.assertEqual(replayed_job(job, planned_job(job)), [])

    @long
    def test_a_ban_is_held_against_the_lines_as_they_are_stitched(self):
        # As much as light work allows on the line is too much with ribbons.
        job = job_with("leaf", "on")
        one = max((one for one in job_linework(job)), key=lambda one: one.linework.inches)
        area = next(zone.polygon.area for zone in job.zones if zone.id == one.zone)
        with mock.patch.object(drawing, "LIGHT", one.linework.inches / area + 1e-6):
            banned = mock.patch.object(drawing, "bans_of", lambda *_: {one.zone: "light"})
            with banned:
                drawn = {retrace: {each.zone for each in job_linework(job_with("leaf", retrace))}
                         for retrace in ("on", "beside")}  # fmt: skip
        self.assertIn(one.zone, drawn["on"])
        self.assertNotIn(one.zone, drawn["beside"])

    def test_a_ruler_goes_back_exactly(self):
        job = job_with("leaf", "on")
        one = next(one for one in job_linework(job) if one.linework.runs)
        ruled = replace(one.linework, runs=tuple(
            replace(run, technique="curved") for run in one.linework.runs))  # fmt: skip
        wide = shapely.box(-1e3, -1e3, 1e3, 1e3)
        for run, moved in zip(ruled.runs, beside(ruled, wide).runs, strict=True):
            self.assertIs(run, moved)
        freehand = zip(one.linework.runs, beside(one.linework, wide).runs, strict=True)
        self.assertTrue(any(run is not moved for run, moved in freehand))

    def test_what_has_no_room_stays_on_the_line(self):
        job = job_with("leaf", "on")
        one = next(one for one in job_linework(job) if one.linework.runs)
        tight = shapely.linestrings(one.linework.runs[0].points).buffer(0.01)
        for run, moved in zip(one.linework.runs, beside(one.linework, tight).runs, strict=True):
            np.testing.assert_allclose(moved.points, run.points)
