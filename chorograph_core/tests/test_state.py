"""A plan begun in the middle of the work."""

from dataclasses import replace
from unittest import TestCase

from chorograph_core.job import job_linework, replayed_job
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.tests.test_replay import MOVES, is_ditch, is_fill


class StateTests(TestCase):
    """A plan begun in the middle stitches the rest, and only the rest."""

    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 2))
        cls.whole = planned_job(cls.job)

    def test_the_first_plan_ends_with_all_done(self):
        again = planned_job(self.job, state=self.whole.end)
        self.assertEqual([s for s in again.steps if s.kind in MOVES], [])
        self.assertEqual(replayed_job(self.job, again, self.whole.end), [])

    def after(self, share: float, wanted):
        """What is done when that *share* of the *wanted* steps is."""
        steps = self.whole.steps
        places = [k for k, step in enumerate(steps) if wanted(step)]
        stop = places[int(share * len(places))]

        def names(some):
            return {name for s in some for name in (s.seams or ((s.run,) if is_fill(s) else ()))}

        return replace(self.whole.end, done=frozenset(names(steps[:stop]) - names(steps[stop:])))

    @long
    def test_a_plan_from_half_way_stitches_the_rest(self):
        for share, wanted in ((0.5, is_ditch), (0.4, is_fill), (0.9, is_fill)):
            with self.subTest(share, among=wanted.__name__):
                state = self.after(share, wanted)
                self.assertTrue(state.done)
                rest = planned_job(self.job, state=state)
                self.assertEqual(replayed_job(self.job, rest, state), [])
                stitched = {s.run for s in rest.steps if is_fill(s)}
                asked = {one.key(k) for one in job_linework(self.job) for k, run
                         in enumerate(one.linework.runs) if not run.in_ditch}  # fmt: skip
                self.assertEqual(stitched, asked - state.done)
                ended = {
                    name for name in self.whole.end.done if not name.startswith(("mark:", "unmark"))
                }
                self.assertLessEqual(ended, rest.end.done)
                seams = {seam for s in rest.steps for seam in s.seams}
                self.assertFalse(seams & state.done)

    def test_what_is_left_out_of_the_rest_is_noticed(self):
        state = self.after(0.5, is_ditch)
        rest = planned_job(self.job, state=state)
        # Had nothing been done before, the rest would be too little.
        faults = replayed_job(self.job, rest, replace(state, done=frozenset()))
        self.assertTrue(any("of ditch are never stitched" in fault for fault in faults))
        ditches = [step for step in rest.steps if is_ditch(step)]
        self.assertTrue(ditches)
        longest = max(ditches, key=lambda step: step.inches)
        rest.steps = [step for step in rest.steps if step is not longest]
        faults = replayed_job(self.job, rest, state)
        self.assertTrue(any("of ditch are never stitched" in fault for fault in faults), faults)
