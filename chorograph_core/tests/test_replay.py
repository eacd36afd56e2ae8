"""The replay notices every kind of damage: for each of its rules, a route that breaks only that."""

from collections.abc import Callable
from dataclasses import replace
from unittest import TestCase, mock

import numpy as np

from chorograph_core.designs import Linework, Run, designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.layouts import StraightSet
from chorograph_core.route import Step, replay
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import zones_from_patches

MOVES = ("stitch", "travel")


def is_fill(step: Step) -> bool:
    return step.kind == "stitch" and bool(step.zone) and not step.run.startswith("ditch:")


def is_ditch(step: Step) -> bool:
    return step.kind == "stitch" and step.run.startswith("ditch:")


def inches(points: np.ndarray) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


class ReplayCase(TestCase):
    """A job, its route, and ways to damage it."""

    job: Job

    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 1))
        cls.route = planned_job(cls.job)
        cls.steps = cls.route.steps
        cls.asked = job_linework(cls.job, DrawingCache())

    def faults(self, steps, policy=None, zones=None, asked=None, machine=None, done=frozenset()):
        return replay(
            self.job.chart, zones or self.job.zones, self.asked if asked is None else asked,
            policy or self.job.policy, steps, machine or self.job.loaded_machine, done,
        )  # fmt: skip

    def first(self, wanted: Callable[[Step], bool], skip: int = 0) -> int:
        return [k for k, step in enumerate(self.steps) if wanted(step)][skip]

    def changed(self, index: int, **values) -> list[Step]:
        steps = list(self.steps)
        if "points" in values:
            values.setdefault("inches", inches(values["points"]))
        steps[index] = replace(steps[index], **values)
        return steps

    def without(self, *indices: int) -> list[Step]:
        return [step for k, step in enumerate(self.steps) if k not in indices]

    def only(self, found: list[str], *phrases: str) -> None:
        """The first phrase is told, and nothing that is in none of them."""
        self.assertTrue(any(phrases[0] in fault for fault in found), (phrases[0], found))
        others = [fault for fault in found if not any(phrase in fault for phrase in phrases)]
        self.assertEqual(others, [])


class NeedleTests(ReplayCase):
    def test_the_route_itself_is_clean(self):
        self.assertEqual(self.faults(self.steps), [])
        self.assertEqual(replayed_job(self.job, self.route), [])

    def test_the_thread_is_changed_without_a_cut(self):
        k = self.first(lambda s: s.kind == "thread", 1)
        cut = max(i for i in range(k) if self.steps[i].kind == "tie_off")
        self.only(self.faults(self.without(cut)), "changed without a cut", "already stitching")

    def test_a_start_while_stitching(self):
        k = self.first(lambda s: s.kind == "travel")
        start = self.steps[self.first(lambda s: s.kind == "start")]
        again = replace(start, points=self.steps[k].points[-1:])
        self.only(self.faults([*self.steps[: k + 1], again, *self.steps[k + 1 :]]), "starts while")

    def test_a_start_left_out(self):
        k = self.first(lambda s: s.kind == "start", 1)
        self.only(self.faults(self.without(k)), "moves without a start", "jumps")

    def test_a_jump(self):
        k = self.first(lambda s: s.kind == "travel" and s.how == "ditch" and s.inches > 1)
        self.only(self.faults(self.without(k)), "jumps")

    def test_a_stretch_in_another_thread(self):
        k = self.first(lambda s: s.kind == "travel")
        self.only(self.faults(self.changed(k, thread="moonlight")), "is threaded")

    def test_inches_that_are_not_there(self):
        k = self.first(is_fill)
        self.only(self.faults(self.changed(k, inches=self.steps[k].inches + 2)), "is not so long")

    def test_a_cut_where_nothing_was_stitched(self):
        k = self.first(lambda s: s.kind == "tie_off")
        steps = [*self.steps[: k + 1], self.steps[k], *self.steps[k + 1 :]]
        self.only(self.faults(steps), "cuts where nothing")

    def test_the_last_thread_is_never_tied_off(self):
        k = max(i for i, s in enumerate(self.steps) if s.kind == "tie_off")
        self.only(self.faults(self.without(k)), "never tied off")


class RunTests(ReplayCase):
    def whole_runs(self) -> dict[str, list[int]]:
        """Where each filling run is stitched."""
        found: dict[str, list[int]] = {}
        for k, step in enumerate(self.steps):
            if step.kind in MOVES and step.run and not step.run.startswith("ditch:"):
                found.setdefault(step.run, []).append(k)
        return found

    def test_a_run_left_out(self):
        run, where = next(iter(self.whole_runs().items()))
        found = self.faults(self.without(*where))
        self.only(found, f"{run} is never stitched", "jumps", "layings")

    def test_a_run_stitched_twice(self):
        steps = list(self.steps)
        k = next(k for where in self.whole_runs().values() for k in where
                 if len(where) == 1 and is_fill(steps[k])
                 and np.hypot(*(steps[k].points[0] - steps[k].points[-1])) < 1e-6)  # fmt: skip
        other = self.first(lambda s: s.kind == "tie_off", -1)
        again = [replace(steps[k], kind="start", points=steps[k].points[:1], inches=0.0),
                 steps[k], steps[other]]  # fmt: skip
        thread = replace(next(s for s in steps if s.kind == "thread"), thread=steps[k].thread)
        found = self.faults([*steps, thread, *again])
        self.only(
            found, "a second time", "not stitched as it was drawn", "drawn again", "no doorway"
        )

    def test_a_run_in_a_thread_nobody_asked_for(self):
        entry = self.steps[self.first(is_fill)]
        asked = [replace(one, thread="moonlight") if one.zone == entry.zone and one.role != "ditch"
                 else one for one in self.asked]  # fmt: skip
        self.only(self.faults(self.steps, asked=asked), "in the wrong thread")

    def test_a_run_nobody_asked_for(self):
        gone = self.steps[self.first(is_fill)]
        asked = [one for one in self.asked if one.zone != gone.zone or one.role == "ditch"]
        self.only(self.faults(self.steps, asked=asked), "never asked for")

    def test_a_run_that_is_another_line(self):
        run, where = next((r, w) for r, w in self.whole_runs().items()
                          if not self.redrawable(r) and len(w) == 1)  # fmt: skip
        points = self.steps[where[0]].points.copy()
        middle = len(points) // 2
        points[middle] += [0.31, -0.17]
        self.only(self.faults(self.changed(where[0], points=points)),
                  f"{run} is not stitched as it was drawn", "seconds")  # fmt: skip

    def redrawable(self, run: str) -> bool:
        one = next(o for o in self.asked for k in range(len(o.linework.runs)) if o.key(k) == run)
        return one.pattern is not None and len(
            designs()[one.design].doors(one.pattern, one.settings)
        ) > 1  # fmt: skip

    def test_a_run_in_one_go_only_if_the_policy_asks_for_it(self):
        run, where = next((r, w) for r, w in self.whole_runs().items() if len(w) == 1)
        step = self.steps[where[0]]
        half = len(step.points) // 2
        parts = [replace(step, points=p, inches=inches(p), seconds=step.seconds * inches(p)
                         / step.inches) for p in (step.points[: half + 1], step.points[half:])]  # fmt: skip
        seam = replace(next(s for s in self.steps if is_ditch(s)), kind="travel", how="open",
                       points=step.points[[half, half]], inches=0.0, seams=(),
                       thread=step.thread, seconds=0.0)  # fmt: skip
        steps = [*self.steps[: where[0]], parts[0], seam, parts[1], *self.steps[where[0] + 1 :]]
        self.only(self.faults(steps), f"{run} is stitched a second time")
        loose = replace(self.job.policy, whole_runs=False)
        self.assertEqual(self.faults(steps, policy=loose), [])


class RedrawnTests(ReplayCase):
    """A meander between doorways, alone in a zone."""

    @classmethod
    def setUpClass(cls):
        chart = StraightSet(1, 2, 8, ("plain",)).chart()
        zones = tuple(zones_from_patches(chart))
        legend = (Entry("e", "", tuple(z.id for z in zones), (Layer("meander", {}, "indigo"),)),)
        cls.job = Job("Two", chart, zones, legend=legend)
        cls.asked = job_linework(cls.job, DrawingCache())
        cls.route = planned_job(cls.job)
        cls.steps = cls.route.steps
        cls.one = cls.asked[0]
        cls.doors = cls.one.placement.apply(
            designs()["meander"].doors(cls.one.pattern, cls.one.settings)
        )
        cls.at = cls.one.key(0)

    def with_line(self, points: np.ndarray) -> list[str]:
        """The faults when the first zone's run is this line, reached by a cut."""
        steps: list[Step] = []
        like = next(s for s in self.steps if s.run == self.at and s.kind == "stitch")
        rest = [s for s in self.steps if s.run != self.at]
        cut = next(s for s in self.steps if s.kind == "tie_off")
        start = next(s for s in self.steps if s.kind == "start")
        seconds = self.job.loaded_machine.rates.seconds(inches(points), like.how)
        steps = [*rest, replace(start, points=points[:1]),
                 replace(like, points=points, inches=inches(points), seconds=seconds), cut]  # fmt: skip
        return [f for f in self.faults(steps) if "jumps" not in f]

    def between(self, low: int, high: int) -> np.ndarray:
        pattern, doors = self.one.pattern, designs()["meander"].doors(self.one.pattern, {})
        made = designs()["meander"].draw(
            pattern, {}, self.one.seed, (tuple(doors[low]), tuple(doors[high]))
        )
        return self.one.placement.apply(made.runs[0].points)

    def test_a_line_that_begins_at_no_doorway(self):
        line = self.one.linework.runs[0].points
        fault = self.with_line(line[5:])
        self.only(fault, "where the design has no doorway")

    def test_a_line_that_leaves_its_zone(self):
        line = self.between(0, 1).copy()
        x0, y0, x1, y1 = self.job.zone(self.one.zone).polygon.bounds
        far = [x1 + 2 if x0 < 1 else x0 - 2, (y0 + y1) / 2]
        line = np.insert(line, len(line) // 2, [far], axis=0)
        self.only(self.with_line(line), "leaves its zone")

    def test_a_line_of_half_the_inches(self):
        line = self.between(0, 1)
        short = np.vstack([line[: len(line) // 3], line[-1:]])
        self.only(self.with_line(short), "inches in place of")

    def test_a_line_that_leaves_a_hole(self):
        # As many inches, all in one half of the zone: there and back along what is stitched.
        line = self.between(0, 1)
        third = line[: len(line) // 3]
        first = inches(self.one.linework.runs[0].points)
        line = np.vstack([third, third[::-1], third, third[-1:], self.doors[1:2]])
        spare = first - inches(line)
        times = max(0, round(spare / inches(third) / 2)) * 2
        for _ in range(times // 2):
            line = np.vstack([third, third[::-1], line])
        share = inches(line) / first
        self.assertAlmostEqual(share, 1, delta=0.149)
        self.only(self.with_line(line), "leaves a gap of")

    def test_a_planner_that_redraws_as_a_straight_stroke_is_found_out(self):
        def stroke(design, space, settings, seed=0, doorways=None):
            if doorways is None:
                return honest(design, space, settings, seed)
            return Linework((Run(np.array(doorways, float)),), kept_doorways=True)

        meander = type(designs()["meander"])
        honest = meander.draw
        with (
            mock.patch.object(meander, "draw", stroke),
            mock.patch("chorograph_core.designs.redrawing.fills_alike", return_value=True),
        ):
            route = planned_job(self.job, DrawingCache())
        self.assertLess(route.stitched_inches, 0.5 * self.route.stitched_inches)
        self.only(replayed_job(self.job, route), "inches in place of")


class DitchTests(ReplayCase):
    def test_a_ditch_left_out(self):
        k = self.first(is_ditch)
        self.only(self.faults(self.without(k)), "of ditch are never stitched", "jumps")

    def test_a_ditch_stitched_twice(self):
        k = self.first(is_ditch)
        step = self.steps[k]
        back = replace(step, points=step.points[::-1])
        self.only(self.faults([*self.steps[: k + 1], back, step, *self.steps[k + 1 :]]),
                  "stitched twice over")  # fmt: skip

    def test_a_ditch_nobody_asked_for(self):
        asked = [one for one in self.asked if one.role != "ditch"]
        self.only(self.faults(self.steps, asked=asked), "that nobody asked for")
        zone = next(one.zone for one in self.asked if one.role == "ditch")
        alone = [one for one in self.asked if one.role != "ditch" or one.zone == zone]
        self.only(self.faults(self.steps, asked=alone), "as ditches that nobody asked for")

    def test_a_seam_that_was_done_comes_again(self):
        seam = self.steps[self.first(is_ditch)].seams[0]
        self.only(self.faults(self.steps, done=frozenset({seam})),
                  f"{seam} is stitched in the ditch a second time")  # fmt: skip


class SequenceTests(ReplayCase):
    def test_filling_before_the_ditches(self):
        steps = self.steps
        cuts = [i for i, s in enumerate(steps) if s.kind == "thread"]
        moved = [*steps[: cuts[0]], *steps[cuts[1] :], *steps[cuts[0] : cuts[1]]]
        self.only(self.faults(moved), "before all ditches", "along a seam", "after it was begun")
        free = replace(self.job.policy, stabilise="free")
        self.assertFalse([f for f in self.faults(moved, policy=free) if "before all" in f])

    def test_a_zone_filled_before_it_is_framed(self):
        step = self.steps[self.first(is_fill)]
        other = next(s for s in self.steps if is_fill(s) and s.thread == step.thread
                     and s.zone != step.zone and s.run != step.run)  # fmt: skip
        # The later run is taken for an outer layer of the zone where the first lies.
        asked, later = [], other.run
        for one in self.asked:
            keys = [one.key(k) for k in range(len(one.linework.runs))]
            if step.run in keys:
                asked.append(_Named(replace(one, layer=5), keys))
            elif later in keys:
                asked.append(_Named(replace(one, layer=1, zone=step.zone), keys))
            else:
                asked.append(one)
        self.only(self.faults(self.steps, asked=asked), "framed after it was filled",
                  "drawn again and leaves its zone")  # fmt: skip


class _Named:
    """Linework that keeps its runs' names whatever zone it is said to lie in."""

    def __init__(self, one, keys):
        self.__dict__.update({name: getattr(one, name) for name in one.__dataclass_fields__})
        self._keys = keys

    def key(self, run: int) -> str:
        return self._keys[run]


class PlaceTests(ReplayCase):
    def test_hidden_travel_that_is_not_hidden(self):
        k = self.first(lambda s: s.kind == "travel" and s.how == "ditch" and s.inches > 1)
        points = self.steps[k].points
        aside = np.array([[0, -1], [1, 0]]) @ (points[-1] - points[0])
        bowed = np.vstack([points[0], points[[0, -1]].mean(axis=0) + 0.3 * aside, points[-1]])
        self.only(self.faults(self.changed(k, points=bowed)), "along a seam, but does not")

    def test_off_the_top(self):
        k = self.first(lambda s: s.kind == "travel" and s.inches > 1)
        points = self.steps[k].points
        out = np.vstack([points[0], [-3.0, -3.0], points[-1]])
        self.only(self.faults(self.changed(k, points=out)), "leaves the top", "but does not")

    def edge(self) -> tuple[int, np.ndarray]:
        k = self.first(lambda s: s.kind == "travel")
        x0, y0, x1, _ = self.job.chart.outline.bounds
        return k, np.array([[x0, y0], [x1, y0]])

    def test_travel_along_the_edge_that_is_elsewhere(self):
        k, _ = self.edge()
        x0, y0, x1, _ = self.job.chart.outline.bounds
        steps = self.changed(k, points=np.array([[x0 + 2, y0 + 2], [x1, y0 + 2]]), how="edge")
        self.only(self.faults(steps), "along the raw edge, but does not", "jumps")

    def test_the_raw_edge_where_the_finish_forbids_it(self):
        k, points = self.edge()
        steps = self.changed(k, points=points, how="edge")
        policy = replace(self.job.policy, edge_finish="turned")
        self.only(self.faults(steps, policy=policy), "finish forbids", "jumps")
        self.only(self.faults(steps), "jumps")

    def test_a_forbidden_zone(self):
        zone = self.steps[self.first(is_fill)].zone
        zones = [replace(z, forbidden=z.id == zone) for z in self.job.zones]
        self.only(self.faults(self.steps, zones=zones), f"stitches in {zone}, which is forbidden")

    def test_more_than_light_in_applique(self):
        zone = next(s.zone for s in self.steps
                    if is_fill(s) and s.inches > self.job.zone(s.zone).polygon.area)  # fmt: skip
        chart = self.job.chart
        sewn = {p for z in self.job.zones if z.id == zone for p in z.patches}
        patches = tuple(replace(p, role="applique") if p.id in sewn else p for p in chart.patches)
        policy = replace(self.job.policy, applique="light")
        found = replay(replace(chart, patches=patches), self.job.zones, self.asked, policy,
                       self.steps, self.job.loaded_machine)  # fmt: skip
        self.only(found, f"{zone} holds", "which is more than light")


class SumTests(ReplayCase):
    def test_seconds_that_do_not_add_up(self):
        k = self.first(is_fill)
        step = self.steps[k]
        self.only(self.faults(self.changed(k, seconds=step.seconds * 0.8)), "seconds, not")

    def test_a_ruler_laid_too_seldom_in_the_ditch(self):
        k = self.first(lambda s: is_ditch(s) and s.count > 1)
        step = self.steps[k]
        rate = self.job.loaded_machine.rates.ruler_move
        steps = self.changed(k, count=0, seconds=step.seconds - step.count * rate)
        self.only(self.faults(steps), "too seldom")

    def test_a_ruler_laid_too_seldom_in_a_filling(self):
        k = self.first(lambda s: s.kind == "ruler" and s.count > 1)
        self.only(self.faults(self.changed(k, count=0)), "layings where")
