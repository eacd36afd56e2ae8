"""Left anywhere and taken up again: everything is stitched once, nothing twice."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.formats import read_state, state_values
from chorograph_core.job import Job, job_linework, replayed_job
from chorograph_core.route import Policy, State, Step
from chorograph_core.route.progress import after_steps, cut_off, ripped_out, with_done
from chorograph_core.steering.standing import (
    as_it_is_now,
    layers_of,
    names_in,
    stands_after,
    touched,
)
from chorograph_core.tests import examples, long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed, irregular_top, small_top
from chorograph_core.tests.test_replay import is_fill
from chorograph_core.zones import zones_from_patches

CACHE = DrawingCache()
JOBS = {}


def job_of(rows: int, columns: int, **policy):
    """A small job, with its whole route, kept from test to test."""
    key = (rows, columns, *sorted(policy.items()))
    if key not in JOBS:
        job = designed(small_top(rows, columns))
        job = replace(job, policy=replace(job.policy, **policy))
        JOBS[key] = job, planned_job(job, CACHE)
    return JOBS[key]


def left_at(job, route, share: float, before: State = State()):  # noqa: B008
    """Where the work stands after so much of a route's time."""
    tops = {each.number: each.top for each in route.passes}
    seconds = share * sum(step.seconds for step in route.steps)
    return stands_after(job, route.steps, tops, seconds, before)


def inches(lines) -> float:
    return float(sum(np.hypot(*np.diff(line, axis=0).T).sum() for line in lines))


POLICIES = (
    {}, {"stabilise": "pass"}, {"stabilise": "zone"}, {"days": "basted"}, {"technique": "design"},
    {"oversized": "roll"},
)  # fmt: skip


class TakenUpTests(TestCase):
    @settings(max_examples=examples(8), deadline=None)
    @given(
        st.sampled_from(POLICIES), st.integers(1, 2),
        st.lists(st.tuples(st.floats(0.02, 0.95), st.booleans()), min_size=1, max_size=2),
    )  # fmt: skip
    @long
    def test_what_is_left_is_stitched_once_wherever_one_stops(self, policy, rows, stops):
        job, route = job_of(rows, 2, **policy)
        state = State()
        stitched = []
        for share, cut in stops:
            now = left_at(job, route, share, state)
            gone = self._stitched_until(route, share, job)
            stitched += gone
            state = cut_off(now) if cut else now
            # As it is kept and read back.
            state = read_state(state_values(state))
            route = planned_job(job, CACHE, state=state)
            self.assertEqual(replayed_job(job, route, state), [])
        stitched += [s.points for s in route.steps if s.kind == "stitch"]
        # With nothing of the planner or the replay: the inches of all goes together are those drawn,
        # but for seams of which a stretch was gone to its next corner only.
        drawn = [
            piece[0] for one in job_linework(job) for run in one.linework.runs if not run.in_ditch
            for piece in run.pieces() if piece[2] == "stitch"
        ]  # fmt: skip
        ditches = shapely.union_all(
            [shapely.linestrings(run.points) for one in job_linework(job)
             for run in one.linework.runs if run.in_ditch], grid_size=1e-4,
        ).length  # fmt: skip
        self.assertAlmostEqual(inches(stitched), inches(drawn) + ditches, delta=0.3)

    def _stitched_until(self, route, share, job):
        """The lines of the steps that are over, and of the one under the needle."""
        end = share * sum(step.seconds for step in route.steps)
        state = left_at(job, route, share)
        at, lines = 0.0, []
        for step in route.steps:
            if step.kind == "stitch" and at + step.seconds <= end + 1e-6:
                lines.append(step.points)
            elif step.kind == "stitch" and at < end:
                kept = [line for each in state.begun if each.run == step.run
                        for line in each.stitched] if not step.seams else state.sewn  # fmt: skip
                last = [line for line in kept if np.allclose(line[0], step.points[0])]
                if last and len(last[-1]) < len(step.points):
                    lines.append(last[-1])
                elif step.seams and state.needle is not None:
                    lines.append(self._until(step.points, state.needle))
                break
            at += step.seconds
        return lines

    def _until(self, points, spot):
        """A line as far as the corner *spot*; nothing where that is not on it."""
        off = np.hypot(*(points - np.array(spot)).T)
        return points[: int(off.argmin()) + 1] if off.min() < 1e-6 else points[:1]

    @long
    def test_seams_that_bend_and_lines_that_are_turned_round_are_left_where_seams_meet(self):
        chart = irregular_top(12, (24.0, 30.0))
        zones = tuple(zones_from_patches(chart))
        ditch, fill = Layer("ditch", {}, "clear", 10), Layer("parallel", {}, "indigo")
        entry = Entry("all", "all", tuple(zone.id for zone in zones), (ditch, fill))
        job = Job("Bent", chart, zones, legend=(entry,), policy=Policy(effort=0))
        bent = replace(
            job, machine=replace(job.machine, kind="sit-down", throat=24, directions="right")
        )
        for each in (job, bent):
            route = planned_job(each, CACHE)
            for share in (0.03, 0.11, 0.19, 0.27):
                state = left_at(each, route, share)
                rest = planned_job(each, CACHE, state=state)
                self.assertEqual(replayed_job(each, rest, state), [], share)

    def test_where_the_needle_is_down_the_rest_begins(self):
        job, route = job_of(2, 2)
        fills = [k for k, step in enumerate(route.steps) if is_fill(step)]
        middle = fills[len(fills) // 2]
        until = sum(step.seconds for step in route.steps[:middle])
        whole = sum(step.seconds for step in route.steps)
        state = left_at(job, route, (until + 0.5 * route.steps[middle].seconds) / whole)
        self.assertIsNotNone(state.needle)
        self.assertEqual([each.run for each in state.begun], [route.steps[middle].run])
        rest = planned_job(job, CACHE, state=state)
        moves = [s for s in rest.steps if s.kind in ("start", "tie_off", "stitch", "travel")]
        np.testing.assert_allclose(moves[0].points[0], state.needle, atol=1e-3)
        self.assertNotEqual(moves[0].kind, "start")
        other = planned_job(job, CACHE, state=cut_off(state))
        first = next(s for s in other.steps if s.kind in ("start", "stitch", "travel"))
        self.assertEqual(first.kind, "start")

    def test_a_line_that_is_left_twice_is_known_as_far_as_it_is_stitched(self):
        job, route = job_of(2, 2)
        ends = np.cumsum([step.seconds for step in route.steps])
        longest = max((k for k, s in enumerate(route.steps) if is_fill(s)),
                      key=lambda k: route.steps[k].seconds)  # fmt: skip
        run, whole = route.steps[longest].run, float(ends[-1])
        begun = float(ends[longest]) - route.steps[longest].seconds
        once = left_at(job, route, (begun + 0.3 * route.steps[longest].seconds) / whole)
        rest = planned_job(job, CACHE, state=once)
        ends = np.cumsum([step.seconds for step in rest.steps])
        again = next(k for k, s in enumerate(rest.steps) if s.run == run and is_fill(s))
        until = float(ends[again]) - 0.5 * rest.steps[again].seconds
        twice = left_at(job, rest, until / float(ends[-1]), once)
        (known,) = [each for each in twice.begun if each.run == run]
        (before,) = [each for each in once.begun if each.run == run]
        self.assertGreater(len(known.stitched), len(before.stitched))
        last = planned_job(job, CACHE, state=twice)
        self.assertEqual(replayed_job(job, last, twice), [])

    def test_a_way_behind_the_last_of_a_line_is_left_out(self):
        # Two arcs with a link of two legs between them; whoever did all but one of its legs has both arcs.
        spots = np.array([[0.0, 0.0], [1.0, 0.5], [1.0, 2.0], [1.0, 3.5], [0.0, 4.0]])
        kinds = "stitch", "travel", "travel", "stitch"
        one, two, three, four = (
            Step(kind, spots[k : k + 2], run="z/1/0", how="curved") for k, kind in enumerate(kinds)
        )
        past = after_steps([one, two, four], [three], State(), {})
        self.assertEqual((past.done, past.begun), (frozenset({"z/1/0"}), ()))
        half = after_steps([one, three], [two, four], State(), {})
        self.assertEqual(half.done, frozenset())
        (rest,) = half.begun[0].rest
        self.assertEqual(rest.points.tolist(), spots[3:].tolist())

    @long
    def test_the_quilt_is_rolled_from_where_it_lies(self):
        job, route = job_of(3, 2)
        self.assertGreater(len(route.passes), 1)
        for share in (0.3, 0.6, 0.9):
            state = left_at(job, route, share)
            rest = planned_job(job, CACHE, state=state)
            lies = min(rest.passes, key=lambda each: abs(each.top - state.lies)).number
            first = next(step for step in rest.steps if step.kind != "mark")
            self.assertEqual(first.reach, lies if first.kind != "roll" else first.reach)
            if first.kind == "roll":
                self.assertEqual(first.count, abs(first.reach - lies))
            for each in rest.passes:
                right = abs(first.reach - each.number) == first.count * (first.kind == "roll")
                faults = replayed_job(job, rest, replace(state, lies=each.top))
                self.assertEqual(not faults, right, (each, faults))

    def test_ripped_out_comes_again_and_done_does_not(self):
        job, route = job_of(2, 2)
        state = left_at(job, route, 0.8)
        fills = sorted(name for name in state.done if name.count("/") > 1 and ":" in name
                       and not name.startswith(("mark", "edge", "hold")))  # fmt: skip
        out = fills[:3]
        rest = planned_job(job, CACHE, state=ripped_out(state, out))
        stitched = {step.run for step in rest.steps if is_fill(step)}
        self.assertLessEqual(set(out), stitched)
        self.assertEqual(replayed_job(job, rest, ripped_out(state, out)), [])
        self.assertTrue(replayed_job(job, rest, state))
        some = sorted(stitched - set(out))[:2]
        more = with_done(state, some)
        rest = planned_job(job, CACHE, state=more)
        self.assertTrue(set(some).isdisjoint({step.run for step in rest.steps}))

    @long
    def test_the_replay_sees_a_rest_that_is_stitched_over(self):
        job, route = job_of(2, 2)
        begun = next(s for s in (left_at(job, route, k / 40) for k in range(16, 40)) if s.begun)
        forgetful = replace(begun, begun=())
        again = planned_job(job, CACHE, state=forgetful)
        self.assertTrue(replayed_job(job, again, begun))
        rest = planned_job(job, CACHE, state=begun)
        rest.steps = [s for s in rest.steps if s.run != begun.begun[0].run or s.kind != "stitch"]
        self.assertTrue(replayed_job(job, rest, begun))

    @long
    def test_a_design_changed_since_leaves_what_is_stitched(self):
        job, route = job_of(2, 2)
        state = left_at(job, route, 0.9)
        layers = touched(state, layers_of(job))
        entry = next(e for e in job.legend if f"{e.zones[0]}/1" in layers)
        changed = replace(entry, layers=(entry.layers[0], replace(entry.layers[1], seed=7)))
        after = replace(job, legend=tuple(changed if e is entry else e for e in job.legend))
        now, kept = as_it_is_now(after, state, layers, CACHE)
        self.assertLessEqual({name.rpartition("/")[0] for name in layers
                              if name.rpartition("/")[0] in entry.zones}, set(kept))  # fmt: skip
        rest = planned_job(after, CACHE, state=now)
        self.assertEqual(replayed_job(after, rest, now), [])
        touched_zones = {zone for zone in entry.zones if f"{zone}/1" in layers}
        self.assertTrue(touched_zones.isdisjoint({s.zone for s in rest.steps if is_fill(s)}))
        same, none = as_it_is_now(job, state, layers, CACHE)
        self.assertEqual((same, none), (state, ()))

    def test_zones_are_known_by_their_runs_and_seams(self):
        job, _ = job_of(1, 2)
        zone = job.legend[0].zones[0]
        names = names_in(job, [zone], CACHE)
        self.assertTrue(any("|" in name for name in names))
        self.assertTrue(all("|" in name or name.startswith(f"{zone}/") for name in names))
        self.assertTrue(all("|" not in n for n in names_in(job, [zone], CACHE, ditches=False)))

    @long
    def test_the_bobbin_is_reckoned_from_its_last_change(self):
        job, route = job_of(3, 2)
        full = job.machine.bobbin_yards * 36
        at, after_change = 0.0, None
        for step in route.steps:
            at += step.seconds
            if step.kind == "bobbin":
                after_change = at
        state = left_at(job, route, 1.0)
        self.assertLess(state.bobbin, full)
        self.assertAlmostEqual(state.bobbin, route.end.bobbin, delta=0.06 * full)
        if after_change is not None:
            whole = sum(step.seconds for step in route.steps)
            self.assertAlmostEqual(left_at(job, route, after_change / whole).bobbin, full, delta=1)

    def test_a_state_that_is_none_is_refused(self):
        for values in ({"done": 3}, {"needle": ["a", 1]}, {"begun": [{"run": 1}]}):
            with self.assertRaises(ValueError):
                read_state(values)
