"""Stretches of a line drawn otherwise, as many as the rest of it bears."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as some

from chorograph_core.designs.engine.patches import TRIALS, Patch, patched, with_what_fits


def line(count: int = 40) -> np.ndarray:
    return np.column_stack([np.arange(count), np.zeros(count)]).astype(float)


def raised(at: int, by: float = 1.0) -> Patch:
    return Patch(at, at, np.array([(at, by)]))


class PatchTests(TestCase):
    @given(
        some.sets(some.integers(0, 19), max_size=12), some.sets(some.integers(0, 19), max_size=3)
    )
    def test_all_are_taken_but_those_that_do_not_fit(self, places, wrong):
        choices = [[raised(2 * at)] for at in sorted(places)]
        tried = 0

        def fits(made):
            nonlocal tried
            tried += 1
            return not any(made[2 * at, 1] for at in wrong)

        made = with_what_fits(line(), choices, fits)
        self.assertEqual(set(np.flatnonzero(made[:, 1]) // 2), places - wrong)
        # All at once where all go, and by halves where not.
        self.assertLessEqual(tried, 1 if not places & wrong else TRIALS)

    def test_the_next_choice_is_taken_where_the_first_does_not_fit(self):
        choices = [[raised(3, 9), raised(3, 2)], [raised(8, 5)], [raised(12, 9)]]
        made = with_what_fits(line(), choices, lambda some: some[:, 1].max() < 7)
        self.assertEqual((made[3, 1], made[8, 1], made[12, 1]), (2, 5, 0))

    def test_one_does_not_lie_over_another(self):
        wide = Patch(2, 9, np.array([(2, 1.0), (9, 1.0)]))
        made = with_what_fits(line(), [[wide], [raised(5)], [raised(20)]], lambda _: True)
        self.assertEqual(made[made[:, 1] > 0, 0].tolist(), [2, 9, 20])

    def test_where_none_fits_it_is_the_same_line(self):
        points = line()
        self.assertIs(with_what_fits(points, [[raised(4)]], lambda _: False), points)
        self.assertIs(with_what_fits(points, [], lambda _: True), points)

    def test_they_are_put_in_their_places(self):
        made = patched(line(6), [Patch(3, 4, np.zeros((0, 2))), Patch(0, 1, np.full((3, 2), 7.0))])
        self.assertEqual(made[:, 0].tolist(), [7, 7, 7, 2, 5])
