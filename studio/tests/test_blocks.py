"""The studio's own blocks: drafted, kept, charted with, and the studio's alone."""

import json

from django.test import TestCase
from django.urls import reverse

from chorograph_core.blocks.drafting import Draft
from chorograph_core.blocks.own_blocks import drafted_block
from chorograph_core.formats import read_archive
from studio.blocks.models import OwnBlock
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.tests.browser import BrowserCase
from studio.tests.helpers import make_studio


def keep(studio, name: str = "Harbour light") -> OwnBlock:
    draft = Draft.empty((1, 2, 1), (1, 2, 1)).cut(1, 1, "quarters").cut(0, 0, "goose")
    item = OwnBlock(studio=studio)
    item.take(drafted_block(name, draft))
    item.save()
    return item


class BoardTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)

    def act(self, status: int = 200, **values):
        answer = self.client.post(reverse("block-act"), values)
        self.assertEqual(answer.status_code, status)
        return answer.context["board"]

    def test_a_cell_is_cut_turned_filled_and_undone(self):
        board = self.act(act="cell", row=0, column=1, piece=0, tool="cut-goose")
        self.assertEqual(board.draft.cells[0][1].word, "goose0:baa")
        for tool, word in (("cut-goose", "goose1:baa"), ("fabric-d", "goose1:bda")):
            board = self.act(act="cell", row=0, column=1, piece=1, tool=tool,
                             draft=board.written, past=board.past_written)  # fmt: skip
            self.assertEqual(board.draft.cells[0][1].word, word)
        for word in ("goose1:baa", "goose0:baa", "whole0:a"):
            board = self.act(act="undo", draft=board.written, past=board.past_written)
            self.assertEqual(board.draft.cells[0][1].word, word)
        self.assertIn("nothing left", self.act(422, act="undo", draft=board.written).fault)

    def test_grids(self):
        board = self.act(act="grid", columns="1, 2, 1", rows="3")
        self.assertEqual((board.draft.columns, board.draft.rows), ((1, 2, 1), (1, 1, 1)))
        for columns, rows, field in (
            ("x", "3", "columns"), ("3", "", "rows"), ("13", "3", "columns"), ("3", "0", "rows"),
            ("nan", "3", "columns"), ("1 1e9", "3", "columns"), ("3", "1 " * 5000, "rows"),
        ):  # fmt: skip
            with self.subTest(columns=columns, rows=rows[:9]):
                bad = self.act(422, act="grid", columns=columns, rows=rows, draft=board.written)
                self.assertEqual((bad.field, bad.draft), (field, board.draft))

    def test_four_times(self):
        board = self.act(act="grid", columns="2", rows="2")
        board = self.act(
            act="cell", row=0, column=0, piece=0, tool="cut-diagonal", draft=board.written
        )
        board = self.act(act="four", draft=board.written)
        self.assertEqual(len(board.draft.columns), 4)
        self.assertEqual(board.draft.cells[3][3].turn, 2)
        board = self.act(act="four-mirrored", draft=board.written)
        board = self.act(422, act="four", draft=board.written)
        self.assertIn("1 to 12", board.fault)

    def test_nonsense_is_told_and_never_an_error(self):
        good = Draft.empty((1,), (1,))
        for values in (
            {}, {"act": "cell"}, {"act": "cell", "row": "0", "column": "-1", "tool": "cut-half"},
            {"act": "cell", "row": "0", "column": "0", "tool": "cut-egg"},
            {"act": "cell", "row": "0", "column": "0", "piece": "0", "tool": "fabric-"},
            {"act": "cell", "row": "0", "column": "0", "piece": "9" * 30, "tool": "fabric-a"},
            {"act": "explode"},
        ):  # fmt: skip
            with self.subTest(values):
                self.assertTrue(self.act(422, **values).fault)
        for draft in ("{", "[]", '"x"', '{"columns": 1}', "[" * 5000, '{"round": {"shape": "star"}}',
                      "x" * 500_000):  # fmt: skip
            with self.subTest(draft[:20]):
                board = self.act(422, act="turn", draft=draft)
                self.assertIn("begin", board.fault)
        past = json.dumps(["nonsense"])
        board = self.act(422, act="undo", past=past)
        self.assertTrue(board.fault)
        self.assertEqual(self.act(act="turn", past='{"a": 1}').draft.columns, (1,) * 4)
        self.assertEqual(good.columns, (1,))

    def test_keeping_and_changing_a_block(self):
        board = self.act(act="cell", row=0, column=0, piece=0, tool="cut-half")
        answer = self.client.post(reverse("block-new"), {"name": "", "draft": board.written})
        self.assertContains(answer, "needs a name", status_code=400)
        self.assertContains(answer, "half0:ab", status_code=400)
        address = reverse("block-new")
        answer = self.client.post(address, {"name": "Pier", "draft": board.written})
        self.assertRedirects(answer, reverse("blocks"))
        item = OwnBlock.objects.get()
        self.assertEqual((item.name, item.block.drafted), ("Pier", board.draft))
        answer = self.client.post(address, {"name": "Pier", "draft": board.written})
        self.assertContains(answer, "already", status_code=400)
        board = self.act(act="turn", draft=board.written)
        before = item.key
        answer = self.client.post(
            reverse("block-item", args=[item.pk]), {"name": "Pier", "draft": board.written}
        )
        self.assertRedirects(answer, reverse("blocks"))
        item.refresh_from_db()
        self.assertNotEqual(item.key, before)
        self.assertContains(self.client.get(reverse("blocks")), "Pier")
        self.client.post(reverse("block-drop", args=[item.pk]))
        self.assertFalse(OwnBlock.objects.exists())

    def test_round_blocks_say_which_number_is_wrong(self):
        good = {"way": "round", "name": "Plate", "shape": "ring", "count": "14", "inner": "1 1/2",
                "outer": "4 3/4", "round_size": "12", "tip": "pointed"}  # fmt: skip
        self.assertContains(self.client.post(reverse("block-round"), good), "<path", count=19)
        for change in ({"inner": "x"}, {"outer": "7"}, {"round_size": "0"}, {"count": "2"},
                       {"count": "1e5"}, {"shape": "egg"}, {"tip": "blunt"}, {"inner": "6"}):  # fmt: skip
            with self.subTest(change):
                answer = self.client.post(reverse("block-round"), {**good, **change})
                self.assertContains(answer, "fault", status_code=422)
                answer = self.client.post(reverse("block-new"), {**good, **change})
                self.assertContains(answer, "fault", status_code=400)
        for shape in ("ring", "fan", "star"):
            answer = self.client.post(reverse("block-new"), {**good, "name": shape, "shape": shape})
            self.assertRedirects(answer, reverse("blocks"))
        for item in OwnBlock.objects.all():
            page = self.client.get(reverse("block-item", args=[item.pk]))
            self.assertContains(page, f'value="{item.name}"')
            self.assertContains(page, "4.75 in")

    def test_a_traditional_block_can_be_begun_with(self):
        page = self.client.get(reverse("block-new"), {"from": "churn_dash"})
        self.assertContains(page, "Churn dash, changed")
        self.assertEqual(len(page.context["board"].draft.columns), 3)
        for key in ("nonsense", "log_cabin"):
            page = self.client.get(reverse("block-new"), {"from": key})
            self.assertEqual(len(page.context["board"].draft.columns), 4)


class ChartedTests(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.other, (self.berta,) = make_studio("Barn")
        self.item = keep(self.studio)
        self.values = {"title": "Pier quilt", "layout": "straight_set", "block": self.item.key,
                       "second_block": "", "block_size": "8", "rows": "2", "columns": "2",
                       "sashing": "1", "cornerstones": "on"}  # fmt: skip

    def test_a_top_of_own_blocks_keeps_them_when_the_studio_does_not(self):
        self.client.force_login(self.anna)
        self.assertContains(self.client.get(reverse("new-job")), "Harbour light (own)")
        self.client.post(reverse("new-job"), self.values)
        job = Job.objects.get()
        core = core_job(job)
        self.assertEqual({p.kind for p in core.chart.patches if p.block}, {self.item.key})
        self.item.delete()
        page = self.client.get(reverse("chart", args=[job.pk]))
        self.assertContains(page, "Harbour light (own)")
        data = self.client.get(reverse("export-job", args=[job.pk])).content
        self.assertEqual(read_archive(data), core)

    def test_the_block_is_laid_in_by_its_name_and_by_exchange(self):
        self.client.force_login(self.anna)
        self.client.post(reverse("new-job"), {**self.values, "block": "pinwheel"})
        job = Job.objects.get()
        zone = next(z.id for z in core_job(job).zones if "b1.1" in z.id)
        answer = self.client.post(reverse("change", args=[job.pk, "exchange"]),
                                  {"base": "1", "zones": zone, "block": self.item.key})  # fmt: skip
        self.assertEqual(answer.status_code, 204)
        job.refresh_from_db()
        kinds = {p.kind for p in core_job(job).chart.patches if p.block == (0, 0)}
        self.assertEqual(kinds, {self.item.key})
        rows = {**self.values, "layout": "block_rows", "width": "24", "sashing": "",
                "rows_text": "8 harbour light x 3\n6 pinwheel x 4"}  # fmt: skip
        answer = self.client.post(reverse("chart", args=[job.pk]), {**rows, "base": "2"})
        self.assertRedirects(answer, reverse("work", args=[job.pk]), fetch_redirect_response=False)

    def test_another_studio_can_neither_see_nor_use_it(self):
        self.client.force_login(self.berta)
        self.assertNotContains(self.client.get(reverse("blocks")), "Harbour light")
        for name in ("block-item", "block-drop"):
            self.assertEqual(self.client.post(reverse(name, args=[self.item.pk])).status_code, 404)
        answer = self.client.post(reverse("new-job"), self.values)
        self.assertEqual(answer.status_code, 400)
        rows = {**self.values, "block": "pinwheel", "layout": "block_rows", "width": "24",
                "rows_text": "8 harbour light x 3"}  # fmt: skip
        self.assertContains(self.client.post(reverse("new-job"), rows), "no block", status_code=400)
        self.assertTrue(OwnBlock.objects.exists())

    def test_pages_with_blocks_ask_no_more_for_more(self):
        self.client.force_login(self.anna)
        for k in range(6):
            keep(self.studio, f"Light {k}")
        for name in ("blocks", "new-job"):
            with self.subTest(name), self.assertNumQueries(4):
                self.client.get(reverse(name))


class BoardStory(BrowserCase):
    def test_a_block_is_drafted_by_clicking_and_charted_with(self):
        page = self.page
        page.click("nav >> text=Blocks")
        page.click("text=Draft a block")
        page.fill("#columns", "2")
        page.fill("#rows", "2")
        page.click("text=Lay this grid")
        page.wait_for_selector("#p3-3-0", state="detached")
        self.assertEqual(page.locator("#draft-block path").count(), 4)
        page.click("#p0-0-0")
        page.wait_for_selector("#p0-0-1")
        page.click("text=a goose")
        page.click("#p1-1-0")
        page.wait_for_selector("#p1-1-2")
        before = page.get_attribute("#p1-1-0", "d")
        # With keys as well: the same cut again turns the cell.
        page.focus("#p1-1-0")
        page.keyboard.press("Enter")
        page.wait_for_function(
            "d => document.querySelector('#p1-1-0').getAttribute('d') != d", arg=before
        )
        page.click("text=russet")
        page.click("#p1-1-0")
        page.wait_for_selector("#p1-1-0[aria-label*=russet]")
        page.click("text=Four times, turned")
        page.wait_for_selector("#p3-3-0")
        page.click("text=Undo")
        page.wait_for_selector("#p3-3-0", state="detached")
        page.click("text=Four times, turned")
        page.wait_for_selector("#p3-3-0")
        page.fill("#name", "Lee shore")
        page.click("text=Keep the block")
        page.wait_for_selector("text=Lee shore")
        page.click("nav >> text=Jobs")
        page.click("text=New top")
        page.fill("#id_title", "Lee Quilt")
        page.select_option("#id_block", label="Lee shore (own)")
        page.fill("#id_rows", "1")
        page.fill("#id_columns", "1")
        page.fill("#id_border2", "")
        page.wait_for_selector("#preview:has-text('15″ × 15″')")
        page.click("text=Make the chart")
        page.wait_for_selector("#work[data-drawn]")
        own = OwnBlock.objects.get()
        core = core_job(Job.objects.get())
        self.assertEqual(
            sum(p.kind == own.key for p in core.chart.patches), len(own.block.draft(12))
        )
        self.assertEqual(self.faults, [])
