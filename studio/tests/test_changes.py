"""Changes made from the work view: zones joined and taken apart, bans, undo."""

import math

from chorograph_core.layouts import StraightSet
from chorograph_core.tests.shapes import designed
from studio.jobs.revisions import create_job
from studio.tests.test_work import WorkCase


class ChangeTests(WorkCase):
    def test_joining_and_taking_apart(self):
        core = self.core()
        pair = [z.id for z in core.zones if z.label.startswith("block 1.1")]
        joined = self.post("change", "join", zones=",".join(pair))
        self.assertEqual(joined.status_code, 204)
        made = next(z for z in self.core().zones if z.kind == "joined")
        self.assertEqual(self.post("change", "part", zones=made.id).status_code, 204)
        self.assertEqual({z.id for z in self.core().zones}, {z.id for z in core.zones})

    def test_quarters_of_many_circles_become_as_many_circles(self):
        survey = StraightSet(2, 2, 11, ("circle",), sashing=2.0)
        self.job = create_job(self.studio, self.anna, designed(survey), "moons")
        fabric = {patch.id: patch.fabric for patch in self.core().chart.patches}
        round_ones = [z for z in self.core().zones if len(z.polygon.exterior.coords) > 8]
        quarters = [z for z in round_ones if z.polygon.convex_hull.area < z.polygon.area + 0.5]
        self.assertEqual({fabric[z.patches[0]] for z in quarters}, {fabric[quarters[0].patches[0]]})
        self.assertEqual(len(quarters), 16)
        strip = next(z for z in self.core().zones if z not in round_ones)
        before = len(self.core().zones)
        chosen = ",".join([*(z.id for z in quarters), strip.id])
        self.assertEqual(self.post("change", "join", zones=chosen).status_code, 204)
        circles = [z for z in self.core().zones if z.kind == "joined"]
        self.assertEqual(len(circles), 4)
        for each in circles:
            self.assertAlmostEqual(each.polygon.area, math.pi * 4.95**2, delta=0.2)
        # What touches none of them is as it was; one step takes all of it back.
        self.assertEqual(len(self.core().zones), before - 12)
        self.assertIn(strip, self.core().zones)

    def test_zones_apart_are_refused_in_words(self):
        ids = [z.id for z in self.core().zones]
        answer = self.post("change", "join", zones=f"{ids[0]},{ids[3]}")
        self.assertContains(answer, "do not touch", status_code=422)

    def test_background_flows_together_and_keeps_its_design(self):
        # Two stars side by side share the ground between them once nothing lies between.
        survey = StraightSet(1, 2, 6, ("sawtooth_star",))
        self.job = create_job(self.studio, self.anna, designed(survey), "two stars")
        self.assertEqual(self.post("change", "flow").status_code, 204)
        core = self.core()
        negative = [z for z in core.zones if z.kind == "negative"]
        # The corners above and below, and the triangles between the points.
        self.assertEqual(len(negative), 3)
        self.assertIn(negative[0].id, core.entry_of())
        again = self.post("change", "flow")
        self.assertContains(again, "No two background", status_code=422)

    def test_a_ban_leaves_the_zone_empty(self):
        zone = self.core().legend[0].zones[0]
        self.post("change", "ban", zones=zone)
        self.assertTrue(self.core().zone(zone).forbidden)
        self.post("change", "allow", zones=zone)
        self.assertFalse(self.core().zone(zone).forbidden)

    def test_a_base_that_is_no_number(self):
        self.assertEqual(self.post("change", "flow", base="x").status_code, 400)

    def test_nothing_chosen(self):
        self.assertContains(self.post("change", "join", zones=""), "Choose", status_code=422)
