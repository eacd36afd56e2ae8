"""What the pages are given to show: sheet, legend, advice, profile, maps, filters."""

import re
from dataclasses import replace
from datetime import timedelta
from unittest import mock

import numpy as np
from django.template import Context, Template
from django.test import SimpleTestCase, TestCase
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as some
from shapely.geometry import Point

from chorograph_core.chart import Fabric
from chorograph_core.chart.applique import lay
from chorograph_core.choosing.take_up import take_up_of
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.estimating import Intake
from chorograph_core.job import Job, job_linework
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.route import Policy
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import zones_from_patches
from studio.charting.layout_forms import NewTopForm, starting_values
from studio.charting.sheet import chart_sheet, zone_classes, zone_sheet
from studio.demo import tops as demo
from studio.jobs.thumbnail import thumbnail
from studio.routes.models import Plan
from studio.routes.panel import _in_whole_minutes, adding_up
from studio.routes.printing import sheet_context
from studio.routes.profile import packed_steps
from studio.tests.helpers import make_job, make_plan, make_studio
from studio.tests.test_work import unpack
from studio.workbench import edits
from studio.workbench.advice import advice
from studio.workbench.linework import legend_lines, packed_linework


class SheetTests(SimpleTestCase):
    def test_the_graticule_counts_inches_or_centimetres(self):
        chart = StraightSet(5, 4, 12, ("plain",), 1.5).chart()
        inches = chart_sheet(chart)
        self.assertEqual(
            [f.text for f in inches.figures if f.anchor == "middle"], ["0", "12", "24", "36", "48"]
        )
        self.assertEqual(inches.marks.count("M"), int(chart.width) + 1 + int(chart.height) + 1)
        centimetres = chart_sheet(chart, "cm")
        across = [f for f in centimetres.figures if f.anchor == "middle"]
        self.assertEqual([f.text for f in across][:3], ["0", "25", "50"])
        self.assertAlmostEqual(across[1].x, 25 / 2.54, places=3)

    def test_every_zone_has_a_shape_that_can_be_found(self):
        job = designed(small_top(1, 1))
        sheet = zone_sheet(job)
        self.assertEqual([s.id for s in sheet.shapes], [z.id for z in job.zones])
        for shape, zone in zip(sheet.shapes, job.zones, strict=True):
            self.assertTrue(shape.d.startswith("M") and shape.d.endswith("Z"))
            self.assertTrue(shape.entry)
            self.assertLess(zone.polygon.distance(Point(shape.x, shape.y)), 0.02)

    def test_alike_zones_share_class_and_fabric(self):
        job = designed(small_top(1, 2))
        groups = {}
        for zone, kind in zip(job.zones, zone_classes(job), strict=True):
            groups.setdefault(kind, []).append(zone)
        for (_, fabric), members in groups.items():
            areas = {round(z.polygon.area, 4) for z in members}
            self.assertEqual(len(areas), 1)
            self.assertEqual({job.chart.patch(z.patches[0]).fabric for z in members}, {fabric})


class ThumbnailTests(SimpleTestCase):
    def test_one_path_for_each_fabric(self):
        chart = small_top(1, 2).chart()
        made = thumbnail(chart)
        self.assertEqual(len(made), len({p.fabric for p in chart.patches}))
        self.assertEqual(made[0][0], chart.fabric(chart.patches[0].fabric).colour)
        self.assertTrue(all(d.startswith("M") for _, d in made))
        self.assertLess(sum(len(d) for _, d in made), 8000)


class LegendTests(SimpleTestCase):
    def test_lines_have_figures_and_their_own_stitching(self):
        job = designed(small_top(1, 1))
        lines = legend_lines(job, tuple(job_linework(job)))
        self.assertEqual([line.entry.id for line in lines], [entry.id for entry in job.legend])
        for line in lines:
            self.assertGreater(line.minutes, 0)
            self.assertGreater(line.density, 0)
            self.assertTrue(line.sample.startswith("M"))
            self.assertEqual(len(line.threads), 2)

    def test_packed_lines_hold_every_point(self):
        job = designed(small_top(1, 1))
        drawn = job_linework(job)
        header, count = unpack(packed_linework(drawn, {"indigo": "#000000"}))
        points = sum(
            len(p) for d in drawn for r in d.linework.runs for p, _, _ in r.pieces() if len(p) > 1
        )
        self.assertEqual(count, 2 * points)
        self.assertEqual({g["colour"] for g in header if g["thread"] == "indigo"}, {"#000000"})

    def test_nothing_drawn_is_packed_too(self):
        self.assertEqual(unpack(packed_linework([], {})), ([], 0))


class AdviceTests(SimpleTestCase):
    def legend(self, tight, wide, units="in"):
        chart = StraightSet(1, 2, 10, ("plain",)).chart()
        zones = tuple(zones_from_patches(chart))
        entries = tuple(
            Entry(f"e{k}", name, (zones[k].id,), (Layer("parallel", {"spacing": s}, "indigo"),))
            for k, (name, s) in enumerate((("Close", tight), ("Open", wide)))
        )
        job = Job("Two", chart, zones, legend=entries)
        return advice(job, legend_lines(job, tuple(job_linework(job))), units)

    def test_applique_that_is_filled_before_anybody_asked(self):
        """Many clients forbid it: said until the consult is held, or she has said what she wants; not of
        lines that only hold."""
        plain = StraightSet(1, 1, 12, ("plain",)).chart()
        chart = lay(plain, [Point(6, 6).buffer(3)], Fabric("ruby", "ruby", "#aa3333"), "dot")
        zones = tuple(zones_from_patches(chart))
        (shape,) = (zone.id for zone in zones if chart.patch(zone.patches[0]).role == "applique")

        def told(gap, **changes):
            entry = Entry("e", "Dots", (shape,), (Layer("meander", {"gap": gap}, "indigo"),))
            job = replace(Job("One", chart, zones, legend=(entry,)), **changes)
            found = advice(job, legend_lines(job, tuple(job_linework(job))))
            return "Dots is stitched into appliqué." in [each.heading for each in found]

        self.assertTrue(told(0.25))
        self.assertFalse(told(3.0))
        self.assertFalse(told(0.25, intake=Intake(taken="2026-11-02")))
        self.assertFalse(told(0.25, policy=Policy(applique="light")))

    def test_a_border_that_the_ditch_round_it_holds_does_not_rise(self):
        """A start had left a border of a quarter inch to the ditch, and was told that it rises."""
        for wide, rises in ((0.25, False), (0.5, False), (1.5, True)):
            chart = StraightSet(1, 1, 20, ("plain",), borders=(Border(wide), Border(4))).chart()
            zones = tuple(zones_from_patches(chart))
            ditch, close = Layer("ditch", {}, "clear"), Layer("meander", {"gap": 0.25}, "indigo")
            thin = tuple(z.id for z in zones if z.label.startswith("border 1"))
            rest = tuple(z.id for z in zones if z.id not in thin)
            legend = (Entry("t", "Thin", thin, (ditch,)), Entry("r", "Rest", rest, (ditch, close)))
            job = Job("Thin", chart, zones, legend=legend)
            drawn = tuple(job_linework(job))
            told = [each.heading for each in advice(job, legend_lines(job, drawn))]
            self.assertEqual("Thin will rise." in told, rises, wide)
            dense = {zone.id: 0.0 if zone.id in thin else 4.0 for zone in zones}
            self.assertEqual(
                {each.zone for each in take_up_of(job, dense).rising}, set(thin) if rises else set()
            )

    def test_an_open_zone_beside_a_dense_one_will_rise(self):
        found = self.legend(0.25, 2.5)
        self.assertIn("Open will rise.", [a.heading for a in found])
        inches = re.findall(r"(\d\.\d) inches a square inch", found[0].text)
        told = " ".join(each.text for each in self.legend(0.25, 2.5, "cm"))
        metric = re.findall(r"(\d\.\d) centimetres a square centimetre", told)
        self.assertNotIn("inch", told)
        # By hand: lines 1/4" apart would be 4 inches a square inch, less what is free round the edge.
        self.assertTrue(3 < float(inches[1]) < 4)
        for here, there in zip(inches, metric, strict=True):
            self.assertAlmostEqual(float(here) / 2.54, float(there), delta=0.08)

    def test_even_zones_need_no_advice(self):
        self.assertEqual(self.legend(0.75, 1.0), [])

    def test_a_wide_gap_is_named_with_its_width(self):
        headings = [a.heading for a in self.legend(5, 5)]
        self.assertTrue(any("leaves" in h and "open" in h for h in headings))


class FormTests(SimpleTestCase):
    def test_the_form_starts_with_a_top_that_goes_together(self):
        form = NewTopForm({"title": "x", **starting_values()})
        self.assertTrue(form.is_valid(), form.errors)
        self.assertEqual(form.cleaned_data["survey"].size(), (65.5, 79.0))

    def test_a_border_left_out_between_two_is_named(self):
        form = NewTopForm({"title": "x", "block": "plain", "block_size": "6", "rows": 2, "columns": 2,
                           "border1": "2", "border3": "2"})  # fmt: skip
        self.assertFalse(form.is_valid())
        self.assertIn("border3", form.errors)


class EditTests(SimpleTestCase):
    def setUp(self):
        self.job = designed(small_top(1, 1))

    def test_a_zone_belongs_to_one_entry(self):
        zone = self.job.legend[0].zones[0]
        after = edits.keep_entry(self.job, "", "New", [zone], [Layer("meander", {}, "indigo")])
        owners = [e.id for e in after.legend if zone in e.zones]
        self.assertEqual(len(owners), 1)
        self.assertNotEqual(owners[0], self.job.legend[0].id)

    def test_an_entry_left_without_zones_goes(self):
        entry = self.job.legend[0]
        after = edits.keep_entry(
            self.job, "", "All", list(entry.zones), [Layer("meander", {}, "indigo")]
        )
        self.assertNotIn(entry.id, [e.id for e in after.legend])

    def test_layers_come_in_stitching_order(self):
        values = {"design": "meander", "thread": "indigo", "ditch": "on", "ditch_thread": "clear",
                  "breathing": "on", "breathing_first": "3/8", "set_gap": "1/2", "spi": "12",
                  "passes": "2", "seed": "7"}  # fmt: skip
        layers = edits.layers_from(values, self.job)
        self.assertEqual([layer.design for layer in layers], ["ditch", "inset_echo", "meander"])
        self.assertEqual(layers[1].settings, {"first": 0.375})
        self.assertEqual(
            (layers[2].settings, layers[2].passes, layers[2].seed), ({"gap": 0.5}, 2, 7)
        )

    def test_joined_zones_keep_the_design_they_had_in_common(self):
        group = next(e for e in self.job.legend if e.id == "crosshatch")
        core = self.job
        star = [z for z in core.zones if z.label.startswith("block 1.1")]
        joined = edits.join_zones(core, [z.id for z in star])
        made = next(z for z in joined.zones if z.kind == "joined")
        # Its parts had several designs, so it has none.
        self.assertNotIn(made.id, joined.entry_of())
        self.assertTrue(group.zones)
        again = edits.part_zones(joined, [made.id])
        self.assertEqual({z.id for z in again.zones}, {z.id for z in core.zones})


class FilterTests(SimpleTestCase):
    def shown(self, text, **values):
        return Template(text).render(Context(values))

    def test_lengths_times_and_yards(self):
        self.assertEqual(self.shown("{{ v|inches }}", v=3.375), "3 3/8″")
        self.assertEqual(self.shown("{{ v|inches:'cm' }}", v=10), "25.4 cm")
        self.assertEqual(self.shown("{{ v|hours }}", v=59.4), "59 min")
        self.assertEqual(self.shown("{{ v|hours }}", v=485), "8 h 05")
        self.assertEqual(self.shown("{{ v|yards }}", v=3601), "101 yd")


class RouteShownTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio()
        cls.job = make_job(cls.studio, cls.anna)
        cls.plan = make_plan(cls.job)

    def test_the_profile_lasts_as_long_as_the_route(self):
        from studio.jobs.revisions import core_job

        route = self.plan.route()
        header, count = unpack(packed_steps(core_job(self.job), route))
        self.assertAlmostEqual(
            sum(r[3] for r in header["steps"]) / 60, self.plan.figures["minutes"], delta=0.2
        )
        self.assertEqual(count, 2 * sum(len(s["points"]) for s in route["steps"]))
        self.assertTrue(all(row[2] < len(header["labels"]) for row in header["steps"]))

    def test_maps_show_what_their_group_stitches(self):
        context = sheet_context(self.plan, "in")
        self.assertTrue(context["thread"])
        drawn = [(each["map"], each["card"].lines) for each in context["cards"] + context["strips"]]
        drawn += [(each["map"], each["part"].lines) for each in context["parts"]]
        self.assertGreater(len(drawn), 4)
        for framed, lines in drawn:
            x, y, wide, tall = map(float, framed["box"].split())
            for _, points in lines:
                self.assertTrue((points >= (x - 0.01, y - 0.01)).all())
                self.assertTrue((points <= (x + wide + 0.01, y + tall + 0.01)).all())
            self.assertTrue(np.isfinite(framed["ratio"]))

    def test_the_panel_tells_minutes_by_kind_and_where_each_path_begins(self):
        from studio.jobs.revisions import core_job
        from studio.routes.panel import _kinds, panel_context

        context = panel_context(self.plan, core_job(self.job), "in")
        figures = self.plan.figures
        rows = [row for row in _kinds(figures, True) if row[1] is not None]
        here, least = (sum(column) for column in list(zip(*rows, strict=True))[1:])
        least += figures["floor_by_kind"].get("together", 0.0)
        self.assertAlmostEqual(here, figures["lost_minutes"], delta=0.3)
        self.assertAlmostEqual(least, figures["floor_lost_minutes"], delta=0.6)
        # Who adds up what she reads comes to what is said below it.
        for column, whole in ((1, "lost_minutes"), (2, "floor_lost_minutes")):
            told = sum(row[column] or 0 for row in context["kinds"])
            self.assertEqual(told, int(figures[whole] + 0.5))
        steps = self.plan.route()["steps"]
        for each in context["paths"]:
            gone = 0.0
            for step in steps:
                if step["kind"] == "path" and step["path"] == each["card"].key:
                    break
                gone += step["seconds"]
            self.assertEqual(each["at"], round(gone))
        self.assertTrue(context["stretches"])

    def test_a_plan_is_read_for_its_panel_once_and_another_one_anew(self):
        from studio.jobs.revisions import core_job
        from studio.routes.panel import days_context, panel_context

        core, days = core_job(self.job), [(timezone.localdate(), 4.0)]
        self.plan.planned += timedelta(seconds=1)
        with mock.patch.object(Plan, "route", autospec=True, side_effect=Plan.route) as read:
            first = panel_context(self.plan, core, "in")
            days_context(self.plan, core, days, days, 0.0, "in")
            self.assertEqual(panel_context(self.plan, core, "in")["paths"], first["paths"])
            self.assertEqual(read.call_count, 1)
            self.plan.planned += timedelta(seconds=1)
            panel_context(self.plan, core, "in")
            self.assertEqual(read.call_count, 2)

    def test_thread_is_reckoned_with_its_reserve(self):
        figures = self.plan.figures
        stitched = figures["stitched_inches"] / 36
        self.assertGreater(figures["thread_yards_all"], stitched * 1.1)
        self.assertAlmostEqual(
            sum(figures["thread_yards"].values()), figures["thread_yards_all"], delta=0.2
        )


class AddingUpTests(SimpleTestCase):
    @given(some.lists(some.floats(0, 200), min_size=1, max_size=7), some.floats(-0.4, 0.4))
    def test_whole_minutes_add_up(self, parts, off):
        """None is further than a minute from what it is, whatever small part is not among them."""
        whole = max(0.0, sum(parts) + off)
        told = adding_up(parts, whole)
        self.assertEqual(sum(told), int(whole + 0.5))
        self.assertTrue(all(abs(a - b) <= 1.5 for a, b in zip(told, parts, strict=True)))

    def test_what_is_the_same_is_told_the_same(self):
        """Seventeen rolls are forty-two minutes and a half, in the plan and in what it costs at least."""
        rows = [("travel", 113.3, 104.2), ("rolls", 42.5, 42.5), ("reading", 14.2, 13.9),
                ("laying", 0.9, 0.0), ("thread", 15.2, 13.7), ("together", None, 2.8)]  # fmt: skip
        told = _in_whole_minutes(rows, 186.1, 177.1)
        self.assertEqual(told[1][1], told[1][2])
        self.assertEqual(sum(row[1] or 0 for row in told), 186)
        self.assertEqual(sum(row[2] for row in told), 177)
        self.assertIsNone(told[-1][1])

    @given(
        some.lists(some.tuples(some.floats(0, 90), some.floats(0, 90)), min_size=1, max_size=6),
        some.floats(0, 9),
    )
    def test_nothing_is_told_to_cost_more_at_least_than_it_does(self, pairs, together):
        rows = [(str(k), max(pair), min(pair)) for k, pair in enumerate(pairs)]
        lost = sum(row[1] for row in rows)
        rows.append(("together", None, together))
        floor = sum(row[2] for row in rows)
        told = _in_whole_minutes(rows, lost, floor)
        self.assertEqual(sum(row[1] or 0 for row in told), int(lost + 0.5))
        self.assertEqual(sum(row[2] for row in told), int(floor + 0.5))
        self.assertTrue(all(least <= here for _, here, least in told if here is not None), told)

    def test_what_is_rounded_down_here_is_not_rounded_up_at_least(self):
        told = _in_whole_minutes([("one", 13.4, 13.3), ("other", 5.6, 0.2)], 19.0, 13.5)
        self.assertEqual(told, [("one", 13, 13), ("other", 6, 1)])


class DemoTests(SimpleTestCase):
    def test_the_sampler_has_twenty_blocks_two_borders_and_no_bare_zone(self):
        job = demo.sampler()
        self.assertEqual(len({p.block for p in job.chart.patches if p.block}), 20)
        self.assertEqual(len(job.survey.borders), 2)
        self.assertEqual({z.id for z in job.zones}, set(job.entry_of()))
        self.assertGreaterEqual(len({p.kind for p in job.chart.patches if p.block}), 6)

    def test_the_other_two_are_in_earlier_stages(self):
        self.assertTrue(0 < len(demo.pinwheels().entry_of()) < len(demo.pinwheels().zones))
        self.assertEqual(demo.nursery().legend, ())
