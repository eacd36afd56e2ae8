"""The replay notices damage to passes, rolls and paths: each rule by a route that breaks it."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import job_linework, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.route import replay
from chorograph_core.route.passes import Pass
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed

MOVES = ("stitch", "travel")


class FrameCase(TestCase):
    """A top of several passes with alike blocks, and ways to damage its route."""

    @classmethod
    def setUpClass(cls):
        cls.job = designed(StraightSet(4, 2, 8, ("sawtooth_star", "nine_patch"), 1))
        cls.route = planned_job(cls.job)
        cls.asked = job_linework(cls.job, DrawingCache())

    def faults(self, steps, passes=None) -> list[str]:
        return replay(
            self.job.chart, self.job.zones, self.asked, self.job.policy, steps,
            self.job.loaded_machine, passes=self.route.passes if passes is None else passes,
        )  # fmt: skip

    def damaged(self, wanted, skip: int = 0, **values) -> list[str]:
        """Faults after one step is changed."""
        at = [k for k, step in enumerate(self.route.steps) if wanted(step)][skip]
        steps = list(self.route.steps)
        steps[at] = replace(steps[at], **values)
        return self.faults(steps)

    def told(self, faults, phrase: str) -> None:
        self.assertTrue(any(phrase in fault for fault in faults), (phrase, faults[:5]))


class ReachTests(FrameCase):
    def test_the_route_itself_is_clean(self):
        self.assertEqual(replayed_job(self.job, self.route), [])
        self.assertGreater(len(self.route.passes), 1)
        self.assertGreater(self.route.rolls, 1)

    def test_a_pass_deeper_than_the_machine_reaches(self):
        first, *rest = self.route.passes
        deeper = (replace(first, bottom=first.bottom + 3), *rest)
        self.told(self.faults(self.route.steps, deeper), "is reached")

    def test_a_step_out_of_reach(self):
        shallow = tuple(replace(each, bottom=each.bottom - 6) for each in self.route.passes)
        self.told(self.faults(self.route.steps, shallow), "lies out of reach")

    def test_passes_that_are_not_there(self):
        self.told(self.faults(self.route.steps, (Pass(1, 0, 17),)), "lies out of reach")

    def test_a_roll_left_out(self):
        at = next(k for k, step in enumerate(self.route.steps) if step.kind == "roll")
        steps = [step for k, step in enumerate(self.route.steps) if k != at]
        self.told(self.faults(steps), "the quilt lies at pass")

    def test_a_roll_counted_wrong(self):
        self.told(self.damaged(lambda s: s.kind == "roll", count=3), "rolls 3 times")

    def test_a_roll_that_takes_no_time(self):
        self.told(self.damaged(lambda s: s.kind == "roll", seconds=5.0), "for the rolling")

    def test_a_needle_rolled_out_of_reach(self):
        """Without its cut the thread would be rolled up with the quilt."""
        steps = self.route.steps
        for k, step in enumerate(steps):
            if step.kind == "tie_off" and k + 1 < len(steps) and steps[k + 1].kind == "roll":
                start = next(m for m in range(k, len(steps)) if steps[m].kind == "start")
                found = self.faults([s for m, s in enumerate(steps) if m not in (k, start)])
                self.told(found, "without a cut")
                return
        # Every pass goes on into the next: roll on from a place that is not in it.
        last = self.route.passes[-1]
        high = next(k for k, s in enumerate(steps) if s.kind == "stitch" and s.points[-1, 1] < 5)
        rolled = replace(next(s for s in steps if s.kind == "roll"), reach=last.number,
                         count=last.number - 1, seconds=(last.number - 1) * 150.0)  # fmt: skip
        self.told(
            self.faults([*steps[: high + 1], rolled, *steps[high + 1 :]]), "out of reach without"
        )


class PathTests(FrameCase):
    def test_alike_blocks_share_one_or_two_paths(self):
        for kind in ("sawtooth star: ditches", "nine patch: ditches"):
            paths = [path for path in self.route.paths if path.title == kind]
            self.assertLessEqual(len(paths), 2)
            self.assertEqual(sum(len(path.stations) for path in paths), 4)

    def test_a_station_that_does_not_follow_its_path(self):
        steps = self.route.steps
        key = next(p.key for p in self.route.paths if p.title == "sawtooth star: ditches")
        places = [k for k, s in enumerate(steps) if s.kind == "path" and s.path == key]
        first = next(k for k in range(places[1], len(steps)) if steps[k].kind in MOVES)
        moved = replace(steps[first], points=steps[first].points * (1.0, 1.2))
        self.told(self.faults([*steps[:first], moved, *steps[first + 1 :]]), "not stitched by path")

    def test_one_kind_told_to_follow_the_path_of_another(self):
        star, patch = (next(p.key for p in self.route.paths if p.title == title)
                       for title in ("sawtooth star: ditches", "nine patch: ditches"))  # fmt: skip
        steps = [replace(s, path=star) if s.path == patch else s for s in self.route.steps]
        self.told(self.faults(steps), "not stitched by path")

    def test_looking_up_that_takes_no_time(self):
        found = self.damaged(lambda s: s.kind == "path", 2, seconds=1.0)
        self.told(found, "for looking up")

    def test_a_path_read_once_and_then_only_placed(self):
        rates = self.job.machine.rates
        seen: set[str] = set()
        for step in self.route.steps:
            if step.kind == "path" and step.station:
                least = rates.place_path if step.path in seen else rates.read_path
                self.assertIn(step.seconds, (least, least + rates.find_place))
                seen.add(step.path)

    def test_sisters_turned_and_mirrored_are_told_from_others(self):
        from chorograph_core.route.replay.followed import sisters

        line = np.array([[0, 0], [4, 0], [4, 1], [1, 3.0]])
        for turned in (line * (-1, 1), line[:, ::-1], line[::-1], line + (9, 9)):
            self.assertTrue(sisters(line, turned))
        self.assertFalse(sisters(line, line * (1, 1.5)))
        self.assertFalse(sisters(line, line[[0, 2, 1, 3]]))
