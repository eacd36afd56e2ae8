"""Ruler work from the chart to a route that replays: figures over many zones, rings in turn, rows."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely
from shapely.geometry import LineString

from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy
from chorograph_core.rulers import stretches_of
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import zones_from_patches


def job_of(survey, *layers, where=lambda patch: True, **policy) -> Job:
    """A job on *survey* with one entry of *layers* for the patches that *where* wants."""
    chart = survey.chart()
    zones = tuple(zones_from_patches(chart))
    ids = tuple(z.id for z in zones if where(chart.patch(z.patches[0])))
    legend = (Entry("e", "", ids, tuple(layers)),)
    return Job("A story", chart, zones, survey=survey, legend=legend,
               policy=Policy(effort=0, **policy))  # fmt: skip


def over(key, thread="indigo", **settings) -> Layer:
    """A layer that lies over all zones of its entry as one."""
    return Layer(key, settings, thread, over="region")


class StoryTests(TestCase):
    def planned(self, job):
        route = planned_job(job)
        self.assertEqual(replayed_job(job, route), [])
        return route

    def stitched(self, job, layer=0):
        drawn = [one for one in wholes(job_linework(job)) if one.layer == layer]
        return [p for one in drawn for run in one.linework.runs
                for p, _, kind in run.pieces() if kind == "stitch" and len(p) > 1]  # fmt: skip

    def test_circles_between_blocks_take_no_cut(self):
        survey = StraightSet(3, 3, 6, ("plain",))
        job = job_of(survey, over("circle_chain", pitch=6.0, relative="top", echo=0.75))
        route = self.planned(replace(job, machine=Machine(kind="sit-down")))
        # The whole in one go: one start, and the thread is cut at the end.
        self.assertEqual(
            [s.kind for s in route.steps if s.kind in ("start", "tie_off")], ["start", "tie_off"]
        )
        # What the binding covers is kept free on all sides, so circles are a little smaller.
        radii = [s.radius for p in self.stitched(job) for s in stretches_of(p) if s.inches > 3]
        pitch = (18 - 2 * 0.375) / 3
        for wanted in (pitch / 2 - 0.75, pitch / 2, pitch / 2 + 0.75):
            self.assertTrue(any(abs(radius - wanted) < 0.03 for radius in radii), (wanted, radii))

    def test_rings_of_chevrons_round_a_star(self):
        survey = StraightSet(1, 1, 14, ("star_eight",))
        job = job_of(survey, Layer("ditch", {}, "indigo", 10),
                     Layer("chevrons", {"spacing": 0.5, "rings": "apart"}, "indigo"),
                     where=lambda p: p.fabric != "a")  # fmt: skip
        route = self.planned(job)
        runs = {s.run for s in route.steps if s.kind == "stitch" and "/1/" in s.run}
        self.assertGreater(len(runs), 24)
        # Lines of neighbours meet, so that going round takes hardly a cut.
        self.assertLess(sum(s.kind == "start" for s in route.steps), len(runs) / 4)

    @long
    def test_waves_through_a_whole_border_ignore_its_piecing(self):
        survey = StraightSet(
            2, 3, 6, ("plain",), borders=(Border(4, "block", None, "triangles", 4.0),)
        )
        job = job_of(survey, over("waves", spacing=0.625, period=3.0, height=0.75, angle=0.0, relative="top"),
                     where=lambda p: p.role in ("border", "corner"))  # fmt: skip
        self.planned(job)
        whole = wholes(job_linework(job))
        self.assertEqual(len(whole), 1)
        long = max(LineString(p).length for p in self.stitched(job))
        self.assertGreater(long, 24)

    def test_two_lines_in_every_row_all_one_way(self):
        survey = StraightSet(4, 3, 7, ("nine_patch", "plain"))
        job = job_of(survey, over("seam_rows", first=0.75, second=1.25))
        for directions in ("all", "right", "left"):
            with self.subTest(directions):
                route = self.planned(
                    replace(job, machine=Machine(kind="frame", directions=directions))
                )
                for step in route.steps:
                    if step.kind != "stitch" or directions == "all" or step.inches < 15:
                        continue
                    gone = float(np.asarray(step.points)[-1, 0] - np.asarray(step.points)[0, 0])
                    self.assertEqual(gone > 0, directions == "right")
        levels = {round(float(p[0, 1]), 3) for p in self.stitched(job)}
        # Rows of 7/3 inches in the pieced blocks do not run through; those of the blocks do.
        self.assertTrue({7.75, 14.75, 21.75} <= levels, levels)

    @long
    def test_lines_over_everything_stop_inside_a_turned_edge_and_a_second_set_crosses(self):
        survey = StraightSet(2, 2, 9, ("sawtooth_star",))
        chart = survey.chart()
        zones = tuple(zones_from_patches(chart))
        ids = tuple(z.id for z in zones)
        first, second = over("parallel", spacing=0.75, relative="top", angle=45.0), over(
            "parallel", "bracken", spacing=0.75, relative="top", angle=-45.0)  # fmt: skip
        job = Job("Everything", chart, zones, survey=survey, legend=(Entry("e", "", ids, (first, second)),),
                  policy=Policy(effort=0, edge_finish="turned"))  # fmt: skip
        route = self.planned(job)
        inside = chart.outline.buffer(-0.5 + 0.021, join_style="mitre")
        for layer in (0, 1):
            lines = self.stitched(job, layer)
            self.assertTrue(all(inside.covers(LineString(p)) for p in lines))
            self.assertGreater(max(LineString(p).length for p in lines), 23)
        self.assertGreater(sum(s.seconds for s in route.steps), 600)

    def test_lines_part_round_what_lies_on_top_and_go_on_beyond(self):
        survey = StraightSet(1, 1, 12, ("circle",))
        job = job_of(survey, Layer("parallel", {"spacing": 0.5, "relative": "top", "angle": 0.0}, "indigo"),
                     where=lambda p: p.fabric == "a")  # fmt: skip
        self.planned(job)
        zone = shapely.union_all([z.polygon for z in job.zones if z.id in job.legend[0].zones])
        for piece in self.stitched(job):
            self.assertTrue(zone.buffer(0.021).covers(LineString(piece)))

    def test_a_ring_of_wedges_by_turns(self):
        survey = StraightSet(1, 1, 14, ("plate_round",))
        chart = survey.chart()
        zones = tuple(zones_from_patches(chart))
        wedges = [z for z in zones if chart.patch(z.patches[0]).fabric in "bc"]
        legend = tuple(
            Entry(name, "", tuple(z.id for z in members), (Layer(key, {"spacing": 0.5}, "indigo"),))
            for name, key, members in (("a", "arc_rungs", wedges[::2]), ("b", "rays", wedges[1::2]))
        )
        job = Job("Wedges", chart, zones, survey=survey, legend=legend, policy=Policy(effort=0))
        self.planned(job)
        for entry in ("a", "b"):
            inches = {
                round(one.linework.inches, 3) for one in job_linework(job) if one.entry == entry
            }
            self.assertLessEqual(len(inches), 2)
