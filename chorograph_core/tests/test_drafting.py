"""The drafting board: cells tile, turns and mirrors are what they are called, own blocks travel."""

from __future__ import annotations

import json
import math
import unittest
from dataclasses import replace

import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import affine_transform
from shapely.geometry import Polygon

from chorograph_core.blocks import block_library
from chorograph_core.blocks.drafting import KINDS, Cell, Draft, read_cell
from chorograph_core.blocks.library import block
from chorograph_core.blocks.own_blocks import (
    block_name,
    data_of,
    draft_of,
    drafted_block,
    own_block,
    round_block,
)
from chorograph_core.chart import ChartError
from chorograph_core.formats import ArchiveError, read_archive, write_archive
from chorograph_core.job import Job
from chorograph_core.layouts import StraightSet, notation
from chorograph_core.tests import examples
from chorograph_core.zones import zones_from_patches


@st.composite
def cells(draw) -> Cell:
    kind = draw(st.sampled_from(sorted(KINDS)))
    count = draw(st.integers(2, 9)) if kind == "wedges" else KINDS[kind].count
    letters = draw(st.text("abcd", min_size=count, max_size=count))
    return Cell(kind, draw(st.integers(0, 3)), letters)


@st.composite
def drafts(draw, square: bool = False) -> Draft:
    columns = tuple(draw(st.lists(st.sampled_from([1.0, 2.0, 1.5]), min_size=1, max_size=4)))
    rows = columns if square else tuple(
        draw(st.lists(st.sampled_from([1.0, 3.0, 0.5]), min_size=1, max_size=4))
    )  # fmt: skip
    grid = tuple(tuple(draw(cells()) for _ in columns) for _ in rows)
    return Draft(columns, rows, grid)


def _by_fabric(pieces) -> dict:
    """The union of all pieces of each fabric."""
    found: dict[str, list] = {}
    for points, fabric, *_ in pieces:
        found.setdefault(fabric, []).append(Polygon(points))
    return {fabric: shapely.union_all(shapes) for fabric, shapes in found.items()}


def _same(one: dict, two: dict) -> bool:
    keys = set(one) | set(two)
    empty = Polygon()
    return all(one.get(k, empty).symmetric_difference(two.get(k, empty)).area < 1e-6 for k in keys)


class CellTests(unittest.TestCase):
    @given(cells(), st.floats(0.5, 12))
    def test_the_pieces_of_a_cell_tile_it(self, cell, inches):
        shapes = [Polygon(points) for points, _ in cell.pieces(inches)]
        self.assertTrue(all(shape.is_valid and shape.area > 1e-4 for shape in shapes))
        self.assertAlmostEqual(sum(shape.area for shape in shapes), 1.0, places=9)
        self.assertAlmostEqual(shapely.union_all(shapes).area, 1.0, places=9)

    @given(cells())
    def test_a_word_is_read_back(self, cell):
        self.assertEqual(read_cell(cell.word), cell)

    @given(cells())
    def test_a_mirror_shows_left_for_right(self, cell):
        seen = [([(1 - x, y) for x, y in points], f) for points, f in cell.pieces(4)]
        self.assertTrue(_same(_by_fabric(cell.mirrored().pieces(4)), _by_fabric(seen)))

    @given(cells())
    def test_twice_mirrored_or_four_times_turned_is_as_before(self, cell):
        self.assertEqual(cell.mirrored().mirrored(), cell)
        self.assertEqual(cell.turned(4), cell)

    def test_what_is_no_cell_is_refused(self):
        for word in ("", "whole", "goose1:ba", "goose4:bab", "wedges0:a", "whole0:e", "x" * 500):
            with self.subTest(word[:20]), self.assertRaises(ChartError) as told:
                read_cell(word)
            self.assertEqual(told.exception.field, "cells")


class DraftTests(unittest.TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(drafts())
    def test_a_draft_tiles_its_block(self, draft):
        shapes = [Polygon(points) for points, *_ in draft.pieces(12, 9)]
        self.assertAlmostEqual(sum(shape.area for shape in shapes), 108, places=6)
        self.assertAlmostEqual(shapely.union_all(shapes).area, 108, places=6)

    @settings(max_examples=examples(30), deadline=None)
    @given(drafts())
    def test_turning_the_board_turns_what_is_on_it(self, draft):
        before = _by_fabric(draft.pieces(12, 9))
        # A quarter clockwise, y down: (x, y) goes to (height - y, x).
        turned = {k: affine_transform(v, [0, -1, 1, 0, 9, 0]) for k, v in before.items()}
        self.assertTrue(_same(_by_fabric(draft.turned().pieces(9, 12)), turned))

    @settings(max_examples=examples(30), deadline=None)
    @given(drafts())
    def test_the_mirrored_board_is_symmetric_to_the_first(self, draft):
        before = _by_fabric(draft.pieces(12, 9))
        seen = {k: affine_transform(v, [-1, 0, 0, 1, 12, 0]) for k, v in before.items()}
        self.assertTrue(_same(_by_fabric(draft.mirrored().pieces(12, 9)), seen))

    @settings(max_examples=examples(30), deadline=None)
    @given(drafts(square=True))
    def test_four_times_looks_the_same_after_a_quarter_turn(self, draft):
        whole = draft.four_times()
        self.assertTrue(
            _same(_by_fabric(whole.pieces(8, 8)), _by_fabric(whole.turned().pieces(8, 8)))
        )

    @settings(max_examples=examples(30), deadline=None)
    @given(drafts())
    def test_four_times_mirrored_is_its_own_image_both_ways(self, draft):
        whole = draft.four_times(mirror=True)
        flat = _by_fabric(whole.pieces(8, 6))
        self.assertTrue(_same(_by_fabric(whole.mirrored().pieces(8, 6)), flat))
        self.assertTrue(_same(_by_fabric(whole.turned().turned().pieces(8, 6)), flat))
        # And its upper left quarter is the draft itself.
        quarter = {k: v.intersection(shapely.box(0, 0, 4, 3)) for k, v in flat.items()}
        self.assertTrue(_same(quarter, _by_fabric(draft.pieces(4, 3))))

    def test_cutting_the_same_way_again_turns_the_cell(self):
        draft = Draft.empty((1, 1), (1,)).cut(0, 1, "goose")
        self.assertEqual(draft.cells[0][1].turn, 0)
        self.assertEqual(draft.cut(0, 1, "goose").cells[0][1].turn, 1)
        self.assertEqual(draft.cut(0, 1, "wedges", 5).cells[0][1].word, "wedges0:bcdbc")

    def test_a_piece_gets_another_fabric(self):
        draft = Draft.empty((1,), (1,)).cut(0, 0, "half").coloured(0, 0, 1, "d")
        self.assertEqual(draft.cells[0][0].fabrics, "ad")
        for place in ((0, 0, 2, "d"), (1, 0, 0, "d"), (0, 0, 0, "zz"), (0, 0, -1, "a")):
            with self.subTest(place), self.assertRaises(ChartError):
                draft.coloured(*place)

    def test_another_grid_keeps_the_cells_that_are_still_there(self):
        draft = Draft.empty((1, 1), (1, 1)).cut(0, 0, "diagonal").cut(1, 1, "goose")
        wider = draft.resized((1, 2, 1), (1,))
        self.assertEqual(wider.cells[0][0].kind, "diagonal")
        self.assertEqual([cell.kind for cell in wider.cells[0][1:]], ["whole", "whole"])

    def test_boards_that_cannot_be(self):
        for columns, rows in (
            ((), (1,)),
            ((1,) * 13, (1,)),
            ((0.0,), (1,)),
            ((float("nan"),), (1,)),
        ):
            with self.subTest(columns), self.assertRaises(ChartError) as told:
                Draft.empty(columns, rows)
            self.assertEqual(told.exception.field, "columns")
        with self.assertRaises(ChartError):
            Draft.empty((1, 2), (1,)).four_times()


class OwnBlockTests(unittest.TestCase):
    @settings(max_examples=examples(30), deadline=None)
    @given(drafts())
    def test_an_own_block_is_found_by_a_key_made_of_its_content(self, draft):
        made = drafted_block("Harbour light", draft)
        self.assertEqual(block(made.key), made)
        again = own_block(json.loads(json.dumps(data_of(made))))
        self.assertEqual(again.key, made.key)
        self.assertNotEqual(drafted_block("Harbour night", draft).key, made.key)

    def test_a_width_of_1_and_of_1_point_0_is_the_same(self):
        one = own_block({"name": "n", "columns": [1], "rows": [1], "cells": ["whole0:b"]})
        two = own_block({"name": "n", "columns": [1.0], "rows": [1.0], "cells": ["whole0:b"]})
        self.assertEqual(one.key, two.key)

    def test_blocks_that_ship_come_onto_the_board_as_they_are(self):
        shown = 0
        for each in block_library().values():
            draft = draft_of(each)
            if draft is None:
                continue
            shown += 1
            with self.subTest(each.key):
                pieces = [(p.points, p.fabric) for p in each.draft(12)]
                self.assertTrue(_same(_by_fabric(pieces), _by_fabric(draft.pieces(12, 12))))
        self.assertGreater(shown, 15)

    def test_the_outer_radius_is_as_far_as_the_tips_reach(self):
        """The furthest point of every wedge, whatever its tip, for a 20 inch plate and a fan of 9."""
        for shape, size, middle, outer in (("ring", 20.0, (10, 10), 0.2), ("ring", 12.0, (6, 6), 0.45),
                                           ("fan", 9.0, (0, 9), 0.95)):  # fmt: skip
            for tip in ("straight", "pointed", "round"):
                made = round_block("Plate", shape, wedges=9, inner=0.1, outer=outer, tip=tip)
                wedges = [p for p in made.draft(size) if p.fabric != "a"]
                self.assertEqual(len(wedges), 9)
                for piece in wedges:
                    far = max(math.dist(p, middle) for p in piece.points)
                    # Chords of a round tip stay within their error of the arc.
                    self.assertAlmostEqual(far, outer * size, delta=0.006)

    def test_round_blocks(self):
        made = round_block("Plate", "ring", wedges=11, inner=0.15, outer=0.38, tip="round")
        self.assertAlmostEqual(sum(Polygon(p.points).area for p in made.draft(12)), 144, places=3)
        with self.assertRaises(ChartError):
            round_block("Plate", "ring", wedges=11, inner=0.5, outer=0.42)
        with self.assertRaises(ChartError):
            round_block("Plate", "ring", wedges="many")

    def test_bad_data_is_named(self):
        good = {"name": "n", "columns": [1], "rows": [1], "cells": ["whole0:b"]}
        for change, field in (
            ({"name": ""}, "name"), ({"columns": "1"}, "columns"), ({"rows": [True]}, "rows"),
            ({"cells": ["whole0:z"]}, "cells"), ({"cells": []}, "cells"), ({"x": 1}, "block"),
            ({"round": {"shape": "egg"}}, "round"), ({"round": {"shape": "star", "tip": 1}}, "round"),
        ):  # fmt: skip
            with self.subTest(change), self.assertRaises(ChartError) as told:
                own_block({**good, **change})
            self.assertEqual(told.exception.field, field)


class TravelTests(unittest.TestCase):
    def _job(self) -> Job:
        draft = Draft.empty((1, 2, 1), (1, 2, 1)).cut(1, 1, "quarters").cut(0, 0, "curve")
        made = drafted_block("Harbour light", draft)
        survey = StraightSet(2, 2, 9, (made.key, "pinwheel"), 1, False, True, ())
        chart = survey.chart()
        return Job("Own", chart, tuple(zones_from_patches(chart)), survey=survey)

    def test_an_archive_carries_the_blocks_that_its_survey_speaks_of(self):
        job = self._job()
        data = write_archive(job)
        document = json.loads(data)
        self.assertEqual([each["name"] for each in document["blocks"]], ["Harbour light"])
        self.assertEqual(read_archive(data), job)
        self.assertEqual(block_name(job.survey.blocks[0]), "Harbour light")
        self.assertEqual(block_name("own-nobody knows"), "")

    def test_a_changed_block_is_not_taken_for_the_one_that_was_meant(self):
        document = json.loads(write_archive(self._job()))
        document["survey"]["blocks"][0] = "own-00000000000000000000"
        with self.assertRaises(ArchiveError) as told:
            read_archive(json.dumps(document).encode())
        self.assertIn("survey", told.exception.where)
        document = json.loads(write_archive(self._job()))
        document["blocks"][0]["cells"][0] = "whole0:a"
        with self.assertRaises(ArchiveError) as told:
            read_archive(json.dumps(document).encode())
        self.assertEqual(told.exception.where, "blocks[0].cells")

    def test_rows_are_written_with_the_name_of_an_own_block(self):
        made = drafted_block("Harbour light", Draft.empty((1,), (1,)))
        rows = notation.read_rows("8 harbour  light x 3", own=[made])
        self.assertEqual(rows[0].block, made.key)
        self.assertEqual(notation.write_rows(rows), "8 Harbour light x 3")
        with self.assertRaises(ChartError):
            notation.read_rows("8 harbour light x 3")
        self.assertEqual(replace(rows[0], count=1).height, 8)
