"""A ban is a hard fact: designs leave it out, the planner refuses it, the replay would see it."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from shapely.geometry import Point, box

from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.legend import Entry, Layer, LayerLinework
from chorograph_core.designs.linework import Linework, Run
from chorograph_core.formats import read_archive, write_archive
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.route import PlanError, Policy, plan, replay
from chorograph_core.route.model import Step
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.zones import LIGHT, bans_of, zones_from_patches

BIRD = Point(6, 6).buffer(2.5, quad_segs=8)


def birds(applique: str, layers=None) -> Job:
    """A square with a round appliqué, a ditch and a dense fill asked for in both."""
    chart = Chart(
        box(0, 0, 12, 12),
        (Patch("ground", box(0, 0, 12, 12).difference(BIRD)), Patch("bird", BIRD, "applique")),
    )
    zones = tuple(zones_from_patches(chart))
    layers = layers or (
        Layer("ditch", {}, "clear", 10),
        Layer("crosshatch", {"spacing": 0.5}, "indigo"),
    )
    legend = (Entry("e1", "all", tuple(zone.id for zone in zones), layers),)
    return Job("Birds", chart, zones, legend=legend, policy=Policy(applique=applique, effort=0))


class BanTests(TestCase):
    def test_each_rule_leaves_what_it_says(self):
        wanted = {"leave": set(), "outline": {"ditch"}, "light": {"ditch"},
                  "full": {"ditch", "crosshatch"}}  # fmt: skip
        for rule, designs in wanted.items():
            drawn = job_linework(birds(rule))
            with self.subTest(rule):
                self.assertEqual({one.design for one in drawn if one.zone == "z:bird"}, designs)
                self.assertEqual({one.design for one in drawn if one.zone == "z:ground"},
                                 {"ditch", "crosshatch"})  # fmt: skip

    def test_light_means_few_lines(self):
        job = birds("light", (Layer("parallel", {"spacing": 2.0}, "indigo"),))
        (one,) = [one for one in job_linework(job) if one.zone == "z:bird"]
        self.assertLessEqual(one.linework.inches, LIGHT * BIRD.area)
        self.assertGreater(one.linework.inches, 1)

    @long
    def test_a_plan_of_what_is_allowed_replays_clean(self):
        for rule in ("leave", "outline", "light", "full"):
            job = birds(rule)
            route = planned_job(job)
            with self.subTest(rule):
                self.assertEqual(replayed_job(job, route), [])

    def test_the_planner_refuses_what_slipped_through(self):
        everything = job_linework(birds("full"))
        for rule in ("leave", "outline", "light"):
            job = birds(rule)
            with self.assertRaises(PlanError) as caught:
                plan(job.chart, job.zones, everything, job.machine, job.policy)
            self.assertIn("z:bird", str(caught.exception))

    def test_the_replay_sees_a_needle_in_the_bird(self):
        line = np.array([(5.0, 6.0), (7.0, 6.0)])
        work = [LayerLinework("z:bird", "e1", 0, "x", "t", 10, 1, Linework((Run(line),)))]
        steps = [Step("thread", line[:0], thread="t"), Step("start", line[:1], thread="t"),
                 Step("stitch", line, 1, 2, "t", "z:bird", "e1", "z:bird/0/0", "fine"),
                 Step("tie_off", line[1:], thread="t")]  # fmt: skip
        for rule, faults in (("leave", 1), ("outline", 1), ("light", 0), ("full", 0)):
            job = birds(rule)
            with self.subTest(rule):
                found = replay(job.chart, job.zones, work, job.policy, steps)
                self.assertEqual(sum("forbidden" in fault for fault in found), faults)
        many = replace(steps[2], points=np.tile(line, (12, 1)), inches=46.0)
        found = replay(job.chart, job.zones, work, Policy(applique="light"), [many])
        self.assertTrue(any("more than light" in fault for fault in found))

    def test_joined_zones_and_whole_bans(self):
        job = birds("outline")
        joined = replace(job.zones[0], patches=("ground", "bird"))
        self.assertEqual(bans_of([joined], job.chart, "outline"), {"z:ground": "outline"})
        banned = replace(job.zones[0], forbidden=True)
        self.assertEqual(bans_of([banned], job.chart), {"z:ground": "leave"})

    def test_the_archive_keeps_the_ban(self):
        job = birds("outline")
        self.assertEqual(read_archive(write_archive(job)).policy.applique, "outline")
