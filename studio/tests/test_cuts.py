"""Cutting from the work view: alike zones at once, designs kept, faults said, undone; charts followed."""

from dataclasses import replace

from django.contrib.auth import get_user_model
from django.test import TestCase
from django.urls import reverse
from shapely import unary_union

from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import Border, OpenField, Placed, StraightSet
from chorograph_core.tests import long
from chorograph_core.zones import zones_from_patches
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.tests.helpers import make_job, make_plan, make_studio
from studio.workbench.cuts import tools_in


class CutCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        survey = StraightSet(2, 2, 8, ("plain", "pinwheel"), 1)
        chart = survey.chart()
        zones = tuple(zones_from_patches(chart))
        legend = (
            Entry("e1", "ground", tuple(z.id for z in zones), (Layer("inset_echo", {}, "indigo"),)),
        )
        core = CoreJob("Cuts", chart, zones, survey=survey, legend=legend)
        cls.job = create_job(cls.studio, cls.anna, core, "made")
        cls.plain = [z.id for z in zones if z.patches[0] in ("b1.1.r0c0.0", "b2.2.r0c0.0")]

    def setUp(self):
        self.client.force_login(self.anna)

    def core(self):
        return core_job(Job.objects.select_related("head").get(pk=self.job.pk))

    def change(self, what="cut", **values):
        values.setdefault("zones", ",".join(self.plain))
        values.setdefault("base", Job.objects.get(pk=self.job.pk).head.number)
        return self.client.post(reverse("change", args=[self.job.pk, what]), values)


class CuttingTests(CutCase):
    @long
    def test_every_tool_cuts_all_chosen_and_the_pieces_keep_their_design(self):
        before = self.core()
        ways = [(unit, *tool) for unit in ("in", "cm") for tool in tools_in(unit)]
        for unit, key, _name, _measure, first in ways:
            self.studio.units = unit
            self.studio.save()
            with self.subTest(key, unit=unit):
                # The edge that is copied is that of the sashing, and of its sisters.
                also = [z.id for z in before.zones if z.patches[0].startswith("s")][:1]
                zones = ",".join([*self.plain, *(also if key == "edge" else [])])
                answer = self.change(
                    tool=key, measure=first, inwards="2" if key == "corner" else "", zones=zones
                )
                self.assertEqual(answer.status_code, 204, answer.content)
                core = self.core()
                pieces = [z for z in core.zones if z.kind == "part"]
                self.assertGreaterEqual(len(pieces), 4)
                self.assertEqual({z.patches for z in pieces}, {("b1.1.r0c0.0",), ("b2.2.r0c0.0",)})
                self.assertLessEqual({z.id for z in pieces}, set(core.legend[0].zones))
                self.assertAlmostEqual(sum(z.polygon.area for z in core.zones), 17 * 17, places=3)
                self.client.post(reverse("step-back", args=[self.job.pk, "undo"]),
                                 {"base": Job.objects.get(pk=self.job.pk).head.number})  # fmt: skip
                self.assertEqual(self.core(), before)

    def test_the_edge_of_the_last_zone_is_that_zones_edge_for_its_sisters_too(self):
        layout = StraightSet(2, 2, 12, ("plain",))
        zones = tuple(zones_from_patches(layout.chart()))
        job = create_job(self.studio, self.anna, CoreJob("Four", layout.chart(), zones), "made")
        last = zones[-1].id
        ids = ",".join([*(z.id for z in zones[:-1]), last])
        answer = self.client.post(
            reverse("change", args=[job.pk, "cut"]),
            {"zones": ids, "base": 1, "tool": "edge", "measure": "2"},
        )
        self.assertEqual(answer.status_code, 204, answer.content)
        core = core_job(Job.objects.select_related("head").get(pk=job.pk))
        areas = sorted(round(z.polygon.area, 2) for z in core.zones if z.kind == "part")
        # Two beside it: a strip 2 x 12 each. The one across the corner: a quarter of a circle of 2.
        self.assertEqual([a for a in areas if a > 10], [24.0, 24.0, 120.0, 120.0, 140.86])
        self.assertAlmostEqual(areas[0], 3.14, delta=0.01)

    def test_a_drawn_line_and_a_drawn_shape(self):
        self.assertEqual(self.change(tool="line", line="-0.5,3 4,4.5 8.5,3").status_code, 204)
        self.assertEqual(sum(z.kind == "part" for z in self.core().zones), 4)
        shape = "6,6 11,6 11,11 6,11"
        self.assertEqual(self.change("free", line=shape).status_code, 204)
        free = [z for z in self.core().zones if z.kind == "free"]
        self.assertAlmostEqual(free[0].polygon.area, 25, places=3)
        self.assertAlmostEqual(sum(z.polygon.area for z in self.core().zones), 17 * 17, places=2)
        plan = make_plan(Job.objects.select_related("head", "studio").get(pk=self.job.pk))
        self.assertEqual((plan.state, plan.message), ("done", ""))

    def test_what_cannot_be_cut_says_why_and_changes_nothing(self):
        for values, word in (
            ({"tool": "inset", "measure": "9"}, "leaves no core"),
            ({"tool": "inset", "measure": "wide"}, "not a length"),
            ({"tool": "saw"}, "Choose how"), ({"tool": "circle", "measure": "0"}, "above zero"),
            ({"tool": "line", "line": "1,1 x"}, "draw it again"),
            ({"tool": "line", "line": ""}, "from one side"),
            ({"tool": "line", "line": "nan,nan 1,1"}, "draw it again"),
            ({"tool": "line", "line": "1,2,3 4"}, "draw it"),
            ({"tool": "inset", "measure": "1", "zones": "z:gone"}, "no longer there"),
            ({"tool": "inset", "measure": "1", "zones": ""}, "at least one zone"),
        ):  # fmt: skip
            with self.subTest(**values):
                self.assertContains(self.change(**values), word, status_code=422)
        for line in ("1,1 2,2", "90,90 95,90 95,95", "0,0 4,4 4,0 0,4", ""):
            self.assertIn(self.change("free", line=line).status_code, (204, 422))
        self.assertEqual(self.change(tool="inset", measure="1", base="99").status_code, 409)

    def test_the_panel_counts_what_was_chosen(self):
        page = self.client.get(
            reverse("cutter", args=[self.job.pk]), {"zones": ",".join(self.plain)}
        )
        self.assertContains(page, "Cut 2 zones")
        many = {"zones": ",".join(z.id for z in self.core().zones)}
        for panel in ("cutter", "on-top", "block-panel", "drawer"):
            self.assertEqual(
                self.client.post(reverse(panel, args=[self.job.pk]), many).status_code, 200
            )
        gone = self.client.get(reverse("cutter", args=[self.job.pk]), {"zones": "z:gone"})
        self.assertContains(gone, "no longer there")


class FigureTests(CutCase):
    def test_figures_between_blocks_become_zones(self):
        from studio.tests.helpers import small_top

        chart = replace(small_top(3, 3, ("snowball",)), sashing=0.0, cornerstones=False).chart()
        core = CoreJob("Snow", chart, tuple(zones_from_patches(chart)))
        job = create_job(self.studio, self.anna, core, "made")
        page = self.client.get(reverse("work", args=[job.pk]) + "?stage=zones")
        self.assertContains(page, "Between the blocks")
        address = reverse("change", args=[job.pk, "figures"])
        self.assertEqual(self.client.post(address, {"base": "1", "number": "0"}).status_code, 204)
        joined = [
            z
            for z in core_job(Job.objects.select_related("head").get(pk=job.pk)).zones
            if z.kind == "joined"
        ]
        self.assertEqual(len(joined), 8)
        for number in ("9", "x", ""):
            answer = self.client.post(address, {"base": "2", "number": number})
            self.assertContains(answer, "no longer there", status_code=422)


class PiecingTests(CutCase):
    def test_blocks_are_exchanged_turned_and_mirrored_in_their_places(self):
        cabins = {"block": "log_cabin", "turn": "1", "mirror": "on"}
        asked = self.change("exchange", **cabins)
        self.assertContains(asked, "ground (2)", status_code=422)
        self.assertContains(asked, 'name="block" value="log_cabin"', status_code=422)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)
        self.assertEqual(self.change("exchange", sure="1", **cabins).status_code, 204)
        core = self.core()
        self.assertEqual({(e.row, e.column, e.block, e.turn, e.mirror) for e in core.survey.exchanged},
                         {(0, 0, "log_cabin", 1, True), (1, 1, "log_cabin", 1, True)})  # fmt: skip
        kinds = {p.block: p.kind for p in core.chart.patches if p.block}
        self.assertEqual((kinds[0, 0], kinds[0, 1]), ("log_cabin", "pinwheel"))
        # What was not touched keeps its design.
        self.assertIn("z:b1.2.r0c0.0", core.legend[0].zones)
        cabin = ",".join(z.id for z in core.zones if z.patches[0].startswith("b1.1."))
        self.assertEqual(self.change("exchange", zones=cabin, block="", turn="2").status_code, 204)
        again = {(e.row, e.column): e for e in self.core().survey.exchanged}
        self.assertEqual(
            (again[0, 0].block, again[0, 0].turn, again[0, 0].mirror), ("log_cabin", 2, False)
        )
        self.assertEqual(again[1, 1].turn, 1)
        page = self.client.get(reverse("block-panel", args=[self.job.pk]), {"zones": cabin})
        self.assertContains(page, "Lay in 1.1")

    def test_blocks_are_laid_where_the_sheet_was_touched(self):
        def kinds():
            return {p.block: p.kind for p in self.core().chart.patches if p.block is not None}

        page = self.client.get(reverse("block-panel", args=[self.job.pk]))
        self.assertContains(page, "Lay where I touch")
        self.assertNotContains(page, "Recolour")
        # A zone that flows through two blocks: only the one that was touched is meant.
        self.change("join", zones=",".join(z.id for z in self.core().zones))
        (whole,) = self.core().zones
        at = {"zones": whole.id, "sure": "1"}
        self.assertEqual(self.change("exchange", block="rail", at="12,3", **at).status_code, 204)
        self.assertEqual(
            kinds(), {(0, 0): "plain", (0, 1): "rail", (1, 0): "pinwheel", (1, 1): "plain"}
        )
        # LayerLinework over a block, its sashing and the next one; on the sashing alone there is nothing.
        self.change("exchange", block="churn_dash", at="2,10 2,12 8.5,12 13,12", **at)
        self.assertEqual({kinds()[1, 0], kinds()[1, 1]}, {"churn_dash"})
        for spots, word in (("8.5,12", "No block lies there"), ("400,3", "No block lies there"),
                            ("left", "draw it again"), ("1,nan", "draw it again")):  # fmt: skip
            with self.subTest(spots):
                answer = self.change("exchange", block="rail", at=spots, **at)
                self.assertContains(answer, word, status_code=422)

    def test_fabrics_are_recoloured_wherever_they_lie(self):
        self.assertEqual(
            self.change("recolour", fabric="b", colour="#AA3344", busy="0.7").status_code, 204
        )
        fabric = self.core().chart.fabric("b")
        self.assertEqual((fabric.colour, fabric.busy, fabric.background), ("#aa3344", 0.7, False))
        # And it stays so when a block is exchanged, which charts the top anew.
        self.change("exchange", block="churn_dash", sure="1")
        self.assertEqual(self.core().chart.fabric("b"), fabric)
        self.client.post(reverse("step-back", args=[self.job.pk, "undo"]), {"base": 3})
        self.assertEqual(len(self.core().legend[0].zones), len(self.core().zones))

    def test_what_cannot_be_is_said(self):
        sash = next(z.id for z in self.core().zones if z.patches[0].startswith("s"))
        for what, values, word in (
            ("exchange", {"block": "carpet"}, "Choose a block"), ("exchange", {"turn": "round"}, "quarters"),
            ("exchange", {"zones": sash, "block": "rail"}, "lies in a block"),
            ("recolour", {"fabric": "zebra", "colour": "#112233"}, "of this top"),
            ("recolour", {"fabric": "b", "colour": "red"}, "like #7f9cae"),
            ("recolour", {"fabric": "b", "colour": "#112233", "busy": "very"}, "0 to 1"),
        ):  # fmt: skip
            with self.subTest(**values):
                self.assertContains(self.change(what, **values), word, status_code=422)


class FollowingTests(CutCase):
    def test_designs_follow_a_new_chart_where_the_patch_is_still_there(self):
        self.change(tool="circle", measure="4")
        form = {"base": "2", "layout": "straight_set", "block": "plain", "second_block": "pinwheel",
                "block_size": "8", "rows": "2", "columns": "3", "sashing": "2"}  # fmt: skip
        self.assertEqual(
            self.client.post(reverse("chart", args=[self.job.pk]), form).status_code, 302
        )
        core = self.core()
        self.assertEqual(sum(z.kind == "part" for z in core.zones), 4)
        self.assertGreater(len(core.legend[0].zones), 12)
        self.assertEqual(self.job.book.first().text, "Charted from the form")
        bigger = {**form, "base": "3", "block_size": "10"}
        asked = self.client.post(reverse("chart", args=[self.job.pk]), bigger)
        self.assertContains(
            asked, "4 zones cannot follow, 4 of them with a design", status_code=422
        )
        self.assertContains(asked, "ground (4)", status_code=422)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 3)
        self.client.post(reverse("chart", args=[self.job.pk]), {**bigger, "sure": "1"})
        self.assertIn(
            "4 zones could not follow, 4 of them with a design", self.job.book.first().text
        )
        self.assertAlmostEqual(sum(z.polygon.area for z in self.core().zones),
                               self.core().chart.outline.area, places=3)  # fmt: skip

    def test_another_studio_cannot_cut(self):
        make_studio("Barn", "berta")
        self.client.force_login(get_user_model().objects.get(username="berta"))
        self.assertEqual(self.change(tool="diagonal").status_code, 404)
        self.assertEqual(replace(self.core()), self.core())


class PlacingTests(TestCase):
    """Blocks placed on an open field from the sheet."""

    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)
        survey = OpenField(40, 40, (Placed(2, 2, 9, "pinwheel"),), (Border(2),))
        chart = survey.chart()
        core = CoreJob("Open", chart, tuple(zones_from_patches(chart)), survey=survey)
        self.job = create_job(self.studio, self.anna, core, "made for a test")

    def place(self, status=204, **values):
        values = {"base": "1", "block": "friendship_star", "size": "9", "at": "27.06,30", **values}
        answer = self.client.post(reverse("change", args=[self.job.pk, "place"]), values)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer

    def test_placed_where_it_was_touched_and_undone(self):
        self.place(turn="1", mirror="on")
        core = core_job(Job.objects.select_related("head").get(pk=self.job.pk))
        made = core.survey.placed[-1]
        self.assertEqual((made.x, made.y, made.turn, made.mirror), (20.5, 23.5, 1, True))
        patches = [p.polygon for p in core.chart.patches if p.block == (0, 1)]
        whole = unary_union(patches)
        self.assertEqual(whole.bounds, (22.5, 25.5, 31.5, 34.5))

    def test_what_cannot_be_placed_is_said(self):
        for change, word in (
            ({"at": "10,10"}, "overlap"), ({"at": "1,1"}, "field"), ({"at": ""}, "Touch"),
            ({"at": "nan,3"}, "Touch"), ({"size": "x"}, "length"), ({"size": "0"}, "measures"),
            ({"turn": "7"}, "quarters"), ({"block": "egg"}, "block"),
        ):  # fmt: skip
            with self.subTest(change):
                self.assertContains(self.place(422, **change), word, status_code=422)
        page = self.client.get(reverse("work", args=[self.job.pk]), {"stage": "zones"})
        self.assertContains(page, "Place a block")
        look = reverse("place-look", args=[self.job.pk])
        self.assertContains(
            self.client.post(look, {"block": "pinwheel", "size": "9"}), "stamp-shape"
        )
        self.assertContains(self.client.post(look, {"size": "9"}), "fault", status_code=422)
        other = make_job(self.studio, self.anna)
        answer = self.client.post(reverse("change", args=[other.pk, "place"]),
                                  {"base": "1", "block": "pinwheel", "size": "9", "at": "9,9"})  # fmt: skip
        self.assertContains(answer, "open field", status_code=422)
