"""Jobs that nobody would think of: drawn, planned, replayed, told, left in the middle and taken up again."""

from unittest import TestCase

from chorograph_core.tests import examples, long
from chorograph_core.tests.mixed import faults_of, mixed_job


class MixedTests(TestCase):
    """A few of those that ``./chorograph bench mixed`` tries by hundreds; always the same, so that what is
    found is found by everybody."""

    @long
    def test_nothing_is_wrong_with_them(self):
        for seed in (102, 103, 105, 735, 821, 109, 110, 111, 112, 113)[: examples(10)]:
            with self.subTest(seed):
                self.assertEqual(faults_of(mixed_job(seed), seed), [])
