"""The fewest changes of thread, against every order of threads, and against plans of two schools."""

import itertools
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import planned_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.route.thread_turns import least_turns
from chorograph_core.tests import examples
from chorograph_core.tests.shapes import designed

TURN = some.frozensets(some.sampled_from("abc"), min_size=1)


class TurnTests(TestCase):
    @settings(max_examples=examples(80), deadline=None)
    @given(some.lists(TURN, max_size=4), some.sampled_from(["", "a", "c"]))
    def test_no_order_has_fewer_and_one_has_as_few(self, turns, first):
        found = []
        for orders in itertools.product(*(itertools.permutations(sorted(each)) for each in turns)):
            threads = [*([first] if first else []), *itertools.chain(*orders)]
            found.append(sum(one != two for one, two in itertools.pairwise(threads)))
        self.assertEqual(least_turns(turns, first), min(found))

    def test_pass_by_pass_it_is_told_what_the_school_costs(self):
        """Three threads in each pass: until then the floor said two changes, whatever the passes."""
        core = designed(
            StraightSet(4, 2, 9, ("nine_patch",), 1, False, True, (Border(3, "mitred"),))
        )
        cache = DrawingCache()
        for school, fewest in (("pass", 5), ("zone", 12), ("quilt", 1)):
            made = replace(core, policy=replace(core.policy, stabilise=school))
            route = planned_job(made, cache)
            with self.subTest(school):
                changed = sum(step.kind == "thread" for step in route.steps)
                bobbins = sum(step.kind == "bobbin" for step in route.steps)
                rates = made.machine.rates
                least = route.floor.changes * 60 - bobbins * rates.bobbin
                self.assertGreater(len(route.passes), 2)
                self.assertGreaterEqual(changed, fewest)
                # All that is lost to thread is what no route of this school can do without, or nearly.
                self.assertGreater(least, (changed - 2) * rates.thread_change - 1e-6)
                self.assertLess(least, (changed + 1) * rates.thread_change + 1e-6)
