"""Numbers on drawings of the run sheet: each can be read, beside what it numbers."""

import math
import random
from itertools import combinations

from django.test import SimpleTestCase

from chorograph_core.formats.path_cards import Mark
from studio.routes.labels import BETWEEN, FIGURE, TALL, apart, beside


def marks(seed: int, count: int, side: float) -> list[Mark]:
    """Marks of which many begin in one place, as where seams meet."""
    rng = random.Random(seed)
    spots = [(rng.uniform(0, side), rng.uniform(0, side)) for _ in range(max(1, count // 3))]
    found = []
    for number in range(1, count + 1):
        (x, y), turn = rng.choice(spots), rng.uniform(0, 2 * math.pi)
        found.append(Mark(number, x, y, math.cos(turn), math.sin(turn)))
    return found


class ApartTests(SimpleTestCase):
    def test_no_disc_lies_on_another_and_each_is_near_where_it_begins(self):
        for seed in range(40):
            asked = marks(seed, 12, 17.0)
            made = apart(asked, 1.0)
            self.assertEqual([each.number for each in made], [each.number for each in asked])
            for one, other in combinations(made, 2):
                self.assertGreaterEqual(math.dist((one.x, one.y), (other.x, other.y)), 1.0 - 1e-9)
            for one, was in zip(made, asked, strict=True):
                self.assertLessEqual(math.dist((one.x, one.y), (was.x, was.y)), 2.1 + 1e-9)
                self.assertEqual((one.dx, one.dy), (was.dx, was.dy))

    def test_what_has_room_stays(self):
        asked = [Mark(k, 2.0 * k, 0.0, 1.0, 0.0) for k in range(1, 9)]
        self.assertEqual(apart(asked, 1.0), asked)

    def test_the_second_at_a_corner_is_numbered_a_little_on_its_way(self):
        made = apart([Mark(1, 0.0, 0.0, 1.0, 0.0), Mark(2, 0.1, 0.0, 0.0, 1.0)], 1.0)
        self.assertEqual([(each.x, each.y) for each in made], [(0.0, 0.0), (0.1, 1.05)])

    def test_a_hundred_in_one_place_are_all_still_there(self):
        asked = [Mark(k, 1.0, 1.0, 1.0, 0.0) for k in range(100)]
        self.assertEqual(len(apart(asked, 1.0)), 100)


class BesideTests(SimpleTestCase):
    FRAME = (0.0, 0.0, 40.0, 20.0)

    def box(self, found: dict) -> tuple[float, float, float, float]:
        wide = FIGURE * len(str(found["number"]))
        x = found["x"] - wide if found["ends"] else found["x"]
        return x, found["y"] - TALL, x + wide, found["y"]

    def test_numbers_of_what_begins_at_one_corner_stand_on_its_four_sides(self):
        asked = [Mark(k, 20.0, 10.0, 1.0, 0.0) for k in (7, 8, 9, 10)]
        found = beside(asked, 1.0, 0.2, 38.0, self.FRAME)
        for one, other in combinations(map(self.box, found), 2):
            self.assertTrue(one[0] >= other[2] or other[0] >= one[2]
                            or one[1] >= other[3] or other[1] >= one[3], (one, other))  # fmt: skip
        sides = {(each["ends"], each["y"] > 10) for each in found}
        self.assertEqual(len(sides), 4)

    def test_two_that_stand_side_by_side_are_not_read_as_one(self):
        """A 9 to the left of one corner and a 7 to the right of the next were 97."""
        for gap in (0.0, 0.3, 0.6, 1.0):
            nine, seven = Mark(9, 20.0 + gap, 10.0, 1.0, 0.0), Mark(7, 20.0, 10.0, 1.0, 0.0)
            one, other = map(self.box, beside([seven, nine], 1.0, 0.1, 38.0, self.FRAME))
            if one[1] < other[3] and other[1] < one[3]:
                self.assertGreaterEqual(max(other[0] - one[2], one[0] - other[2]), BETWEEN - 1e-9)

    def test_none_leaves_the_frame_and_none_stands_on_what_is_there_already(self):
        for x, y in ((0.3, 1.2), (39.7, 1.2), (39.7, 19.8), (0.3, 19.8), (20.0, 10.0)):
            taken = [(x + 0.1, y - 1.0, x + 1.5, y - 0.1)]
            (found,) = beside([Mark(12, x, y, 1.0, 0.0)], 1.0, 0.2, 38.0, self.FRAME, taken)
            box = self.box(found)
            self.assertTrue(
                box[0] >= 0 and box[1] >= 0 and box[2] <= 40 and box[3] <= 20, (x, y, box)
            )
            hit = box[0] < taken[0][2] and taken[0][0] < box[2] and box[1] < taken[0][3] \
                and taken[0][1] < box[3]  # fmt: skip
            self.assertFalse(hit, (x, y, box))
