"""Parts of a route: kept in their order, exchanged, and refused where no wish can bring it about."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.formats import read_archive, write_archive
from chorograph_core.job import replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.route.model import Wish
from chorograph_core.route.precedence import contradiction
from chorograph_core.steering.parts import NoPart, exchanged, kept_in_order, part_of
from chorograph_core.tests import examples, long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed

CACHE = DrawingCache()


def order_of(route, thread: str) -> list[str]:
    """The zones filled in a thread, in order; written here anew."""
    found: list[str] = []
    for step in route.steps:
        if step.kind == "stitch" and step.thread == thread and step.zone and not step.seams:
            found += [zone for zone in route.figures.get(step.zone, (step.zone,))
                      if zone not in found]  # fmt: skip
    return found


class PartTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(StraightSet(2, 3, 9, ("nine_patch",), 1, borders=(Border(3),)))
        cls.route = planned_job(cls.job, CACHE)
        cls.whole = cls.route.minutes * 60

    def part(self, begins, ends, route=None):
        route = route or self.route
        return part_of(route.steps, begins, ends, route.figures)

    def wished(self, *wishes):
        return replace(self.job, policy=replace(self.job.policy, wishes=wishes))

    def moments(self, thread):
        """When each place of a thread is gone through: (begins, ends) in seconds."""
        at, found = 0.0, {}
        for step in self.route.steps:
            if step.kind == "stitch" and step.zone and step.thread == thread and not step.seams:
                key = (step.station, step.reach)
                found[key] = (found.get(key, (at,))[0], at + step.seconds)
            at += step.seconds
        return list(found.values())

    @long
    def test_a_part_that_is_kept_stays_and_its_reverse_is_another_route(self):
        part = self.part(0.5 * self.whole, 0.8 * self.whole)
        wish = kept_in_order(part)
        mine = [zone for zone in order_of(self.route, part.thread) if zone in wish.zones]
        self.assertEqual(tuple(mine), wish.zones)
        kept = self.wished(wish)
        route = planned_job(kept, CACHE)
        self.assertEqual(replayed_job(kept, route), [])
        self.assertEqual(replayed_job(kept, self.route), [])
        self.assertNotIn(0, route.notes)

    @long
    def test_a_part_taken_the_other_way_round_is_seen_by_the_replay(self):
        thread = self.route.steps[-1].thread
        thread = max(
            {s.thread for s in self.route.steps}, key=lambda t: len(order_of(self.route, t))
        )
        passes = {s.reach for s in self.route.steps if s.thread == thread}
        there = [
            self.part(*moment) for moment in self.moments(thread) if moment[1] - moment[0] > 30
        ]
        reach = max(passes, key=lambda r: sum(each.passes == (r,) for each in there))
        there = [each for each in there if each.passes == (reach,)]
        self.assertGreater(len(there), 1)
        backwards = Wish(
            "kept", tuple(z for each in reversed(there) for z in each.zones), thread=thread
        )
        job = self.wished(backwards)
        self.assertTrue(any("kept after" in fault for fault in replayed_job(job, self.route)))
        route = planned_job(job, CACHE)
        self.assertEqual((route.notes, replayed_job(job, route)), ({}, []))
        wanted = [each.stations[0] for each in reversed(there)]
        seen = dict.fromkeys(s.station for s in route.steps if s.kind == "stitch" and s.zone
                             and s.thread == thread and s.reach == reach)  # fmt: skip
        self.assertEqual([station for station in seen if station in wanted], wanted)

    @long
    def test_two_parts_are_exchanged_either_way(self):
        thread = max(
            {s.thread for s in self.route.steps}, key=lambda t: len(order_of(self.route, t))
        )
        moments = self.moments(thread)
        early, late = self.part(*moments[0]), self.part(*moments[1])
        self.assertEqual(exchanged(late, early, later=False), exchanged(early, late, later=True))
        wish = exchanged(early, late, later=True)
        job = self.wished(wish)
        route = planned_job(job, CACHE)
        self.assertEqual((route.notes, replayed_job(job, route)), ({}, []))
        order = order_of(route, thread)
        self.assertLess(order.index(late.zones[0]), order.index(early.zones[0]))
        self.assertTrue(replayed_job(job, self.route))

    def test_what_cannot_be_is_told(self):
        with self.assertRaisesRegex(NoPart, "No zone is filled"):
            self.part(0, 1)
        first = self.part(*self.moments("indigo")[0])
        with self.assertRaisesRegex(NoPart, "one place alone"):
            kept_in_order(first)
        with self.assertRaisesRegex(NoPart, "same place"):
            exchanged(first, first, later=True)
        with self.assertRaisesRegex(NoPart, "other threads"):
            exchanged(first, replace(first, thread="gone"), later=True)
        with self.assertRaisesRegex(NoPart, "other passes"):
            exchanged(first, replace(first, stations=("x",), passes=(99,)), later=True)

    def test_an_order_that_is_kept_contradicts_its_reverse_and_nothing_in_another_thread(self):
        kept = Wish("kept", ("a", "b", "c"), thread="blue")
        self.assertEqual(contradiction((kept, replace(kept, zones=("c", "b", "a")))), (0, 1))
        self.assertEqual(contradiction((kept, Wish("before", ("c",), ("a",)))), (0, 1))
        self.assertEqual(contradiction((kept, Wish("last", ("a",)))), (0, 1))
        self.assertEqual(contradiction((kept, Wish("last", ("c",)))), ())
        self.assertEqual(contradiction((kept, Wish("first", ("b",)))), (0, 1))
        self.assertEqual(contradiction((kept, Wish("last", ("a",), thread="red"))), ())

    def test_the_archive_keeps_it(self):
        job = self.wished(Wish("kept", ("z:a", "z:b"), thread="indigo"))
        self.assertEqual(read_archive(write_archive(job)).policy.wishes, job.policy.wishes)

    @long
    @settings(max_examples=examples(10), deadline=None)
    @given(st.floats(0, 1), st.floats(0, 1))
    def test_any_part_is_kept_at_no_cost_of_faults(self, one, two):
        begins, ends = sorted((one * self.whole, two * self.whole))
        try:
            wish = kept_in_order(self.part(begins, ends))
        except NoPart:
            return
        job = self.wished(wish)
        self.assertEqual(replayed_job(job, self.route), [])
        route = planned_job(job, CACHE)
        self.assertEqual((route.notes, replayed_job(job, route)), ({}, []))
