"""A plan begun in the middle of the work."""

from dataclasses import replace
from unittest import TestCase

from chorograph_core.job import job_linework, planned_job, replayed_job
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

    def half(self):
        """What is done when two steps in five are."""
        done: set[str] = set()
        upto = self.whole.steps[: len(self.whole.steps) * 2 // 5]
        for step in upto:
            done |= set(step.seams) if step.seams else {step.run} if is_fill(step) else set()
        last = {s.run for s in self.whole.steps[len(upto) :] if s.run}
        return replace(self.whole.end, done=frozenset(done - last))

    def test_a_plan_from_half_way_stitches_the_rest(self):
        state = self.half()
        rest = planned_job(self.job, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])
        stitched = {s.run for s in rest.steps if is_fill(s)}
        asked = {one.key(k) for one in job_linework(self.job) for k, run
                 in enumerate(one.linework.runs) if not run.in_ditch}  # fmt: skip
        self.assertEqual(stitched, asked - state.done)
        self.assertEqual(rest.end.done, self.whole.end.done)
        seams = {seam for s in rest.steps for seam in s.seams}
        self.assertFalse(seams & state.done)

    def test_a_seam_left_out_of_the_rest_is_noticed(self):
        state = self.half()
        rest = planned_job(self.job, state=replace(state, done=state.done))
        more = replace(state, done=frozenset())
        faults = replayed_job(self.job, rest, more)
        self.assertTrue(any("never stitched" in fault for fault in faults))
        if ditches := [s for s in rest.steps if is_ditch(s)]:
            rest.steps.remove(ditches[0])
            faults = replayed_job(self.job, rest, state)
            self.assertTrue(any("of ditch are never stitched" in fault for fault in faults))
