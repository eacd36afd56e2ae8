"""Lines that were begun before a plan: stitched once, over themselves only where they go so of themselves."""

from types import SimpleNamespace
from unittest import TestCase

import numpy as np
from shapely import box

from chorograph_core.designs import Run
from chorograph_core.route.replay.runs import _gone_on

GROUND = box(0, 0, 12, 8)


def rows(doubled: float) -> np.ndarray:
    """Rows an inch apart, to and fro in `GROUND`; *doubled* inches of the third are gone over again."""
    line = []
    for k in range(7):
        ends = [[0.5, k + 1.0], [11.5, k + 1.0]]
        line += ends if k % 2 == 0 else ends[::-1]
        if k == 3 and doubled:
            line += [[0.5, 3.0], [0.5 + doubled, 3.0], [0.5, 3.0], [0.5, 4.0]]
    return np.array(line)


class GoneOnTests(TestCase):
    def fault(self, line, cut: int, more=()) -> str:
        """What is said of a *line* stitched to its point *cut*, then on from there by way of *more*; its
        end was turned a little, as one drawn from another doorway is."""
        line = np.array(line)
        after = np.vstack([line[cut : cut + 1], *more, line[cut:]])
        after[-1] += [0.0, 0.2]
        parts = [SimpleNamespace(kind="stitch", points=after)]
        return _gone_on(SimpleNamespace(), Run(line), [line[: cut + 1]], parts, GROUND)

    def test_a_line_left_and_taken_up(self):
        self.assertEqual(self.fault(rows(0), 7), "")

    def test_what_is_stitched_before_is_stitched_again(self):
        # Back along two inches of the row just stitched, and out again.
        line = rows(0)
        back = line[7] + 2.0 * np.sign(line[6] - line[7])
        self.assertIn("twice over for 4.", self.fault(line, 7, [[back]]))

    def test_a_line_that_goes_over_itself_does_so_when_it_is_taken_up(self):
        # Cut between a row and what goes back over it.
        for doubled in (1.5, 3.0, 4.5):
            with self.subTest(doubled):
                self.assertEqual(self.fault(rows(doubled), 8), "")

    def test_more_than_it_goes_over_itself_is_noticed(self):
        line = rows(1.0)
        back = line[7] + 5.0 * np.sign(line[6] - line[7])
        self.assertIn("twice over for 10.", self.fault(line, 7, [[back]]))
