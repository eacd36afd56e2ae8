"""The words blocks are drafted with, and what is no word."""

import gc
from unittest import TestCase

from shapely import affinity
from shapely.geometry import Polygon
from shapely.ops import unary_union

from chorograph_core.blocks import block_library
from chorograph_core.blocks.library import _LATELY, _OWN, Block, block
from chorograph_core.blocks.own_blocks import own_block
from chorograph_core.chart import ChartError


def areas(word: str) -> dict[str, float]:
    """Area of each fabric in a cell of one inch."""
    found: dict[str, float] = {}
    for piece in Block("t", "t", (1, 1), (word,)).draft(1.0):
        found[piece.fabric] = found.get(piece.fabric, 0.0) + Polygon(piece.points).area
    return found


class CellTests(TestCase):
    def test_every_word_fills_its_cell(self):
        for word, shares in {
            "a": {"a": 1}, "a/b": {"a": 0.5, "b": 0.5}, "a\\b": {"a": 0.5, "b": 0.5},
            "abca": {"a": 0.5, "b": 0.25, "c": 0.25}, "a-b": {"a": 0.5, "b": 0.5},
            "a|b": {"a": 0.5, "b": 0.5},
        }.items():  # fmt: skip
            with self.subTest(word):
                found = areas(word)
                self.assertEqual(set(found), set(shares))
                for fabric, share in shares.items():
                    self.assertAlmostEqual(found[fabric], share)

    def test_quarter_circles_have_their_area(self):
        for corner in ("tl", "tr", "bl", "br"):
            for radius in (0.5, 0.75, 1.0):
                found = areas(f"({corner}:ab@{radius})")
                with self.subTest(corner, radius=radius):
                    self.assertAlmostEqual(found["a"], 3.14159 / 4 * radius**2, delta=0.012)
                    self.assertAlmostEqual(found["a"] + found["b"], 1.0)

    def test_the_first_letter_lies_where_the_words_say(self):
        places = {"a/b": (0.2, 0.2), "a\\b": (0.2, 0.8), "a-b": (0.5, 0.2), "a|b": (0.2, 0.5),
                  "abcd": (0.5, 0.1), "(tl:ab)": (0.1, 0.1), "(br:ab)": (0.9, 0.9)}  # fmt: skip
        for word, (x, y) in places.items():
            pieces = Block("t", "t", (1, 1), (word,)).draft(1.0)
            first = next(Polygon(p.points) for p in pieces if p.fabric == "a")
            with self.subTest(word):
                self.assertTrue(first.contains(Polygon([(x, y), (x + 0.01, y), (x, y + 0.01)])))

    def test_what_is_no_word_is_refused(self):
        for cells in (("a+b",), ("",), ("(xx:ab)",), ("a a",), ("abc",)):
            with self.subTest(cells), self.assertRaises(ChartError):
                Block("t", "t", (1, 1), cells).draft(1.0)

    def test_an_unknown_block_names_the_known_ones(self):
        with self.assertRaises(ChartError) as caught:
            block("unheard_of")
        self.assertIn("nine_patch", str(caught.exception))


SIDES = (0, 0, 7.5, 7.5)


class LibraryTests(TestCase):
    def test_finished_size_is_what_was_asked(self):
        for key, each in block_library().items():
            with self.subTest(key):
                whole = unary_union([Polygon(p.points) for p in each.draft(7.5)])
                self.assertTrue(
                    all(
                        abs(a - b) < 1e-6
                        for a, b in zip(whole.bounds, (0, 0, 7.5, 7.5), strict=True)
                    )
                )

    def test_places_have_names_of_their_own(self):
        for key, each in block_library().items():
            cells = [piece.cell for piece in each.draft(6)]
            with self.subTest(key):
                self.assertEqual(len(cells), len(set(cells)))

    def test_a_pinwheel_turns(self):
        # A quarter turn lays the block on itself; a mirror does not.
        dark = unary_union(
            [Polygon(p.points) for p in block("pinwheel").draft(2) if p.fabric == "b"]
        )
        turned = affinity.rotate(dark, 90, origin=(1, 1))
        mirrored = affinity.scale(dark, -1, 1, origin=(1, 1))
        self.assertLess(dark.symmetric_difference(turned).area, 1e-9)
        self.assertGreater(dark.symmetric_difference(mirrored).area, 0.5)


class RegisterTests(TestCase):
    """Blocks of studios are known as long as somebody holds them, however many pass by."""

    def made(self, number: int) -> Block:
        return own_block({"name": f"n{number}", "columns": [1, 1 + number / 100], "rows": [1],
                          "cells": ["whole0:a whole0:b"]})  # fmt: skip

    def test_what_nobody_holds_is_let_go(self):
        held = self.made(2)
        for number in range(3, 1003):
            self.made(number)
        gc.collect()
        self.assertLess(len(_OWN), _LATELY.maxlen + 50)
        self.assertIs(block(held.key), held)
        self.assertIs(self.made(2), held, "the same content is the same block")
