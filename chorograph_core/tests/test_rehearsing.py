"""A made-up quilter: everything is stitched, the same seed gives the same days, and the log finds her
hand."""

from __future__ import annotations

import itertools
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import TestCase

import numpy as np

from chorograph_core.estimating.learning import learned
from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.log import Tapped, log_of, timed_of
from chorograph_core.stitching.rehearsing import DAY, Quilter, rehearse

HAND = {"ditch": 1.4, "ruler_move": 1.3, "medium": 0.7}
BEGAN = datetime(2026, 11, 2, 9, tzinfo=UTC)


def some_legs(count: int, rng) -> list[Leg]:
    made = []
    for number in range(count):
        names = rng.choice(list(HAND), rng.integers(1, 3), replace=False)
        parts = {str(name): float(rng.uniform(20, 160)) for name in names}
        made.append(Leg(number, "fill", 0, 0, seconds=sum(parts.values()), parts=parts, took=90.0))
    return made


class RehearsalTests(TestCase):
    def setUp(self):
        self.legs = some_legs(300, np.random.default_rng(1))

    def taps(self, events):
        facts = {leg.number: {"seconds": leg.seconds, "parts": leg.parts} for leg in self.legs}
        return [Tapped(e.kind, BEGAN + timedelta(seconds=e.seconds), "m", 1, e.leg, e.lasted, facts[e.leg])
                for e in events]  # fmt: skip

    def test_all_is_stitched_and_the_same_seed_gives_the_same_days(self):
        quilter = Quilter(HAND, skips=0.05, others=0.05, rips=0.05, hours=2)
        events = list(rehearse(self.legs, quilter, 3))
        self.assertEqual(events, list(rehearse(self.legs, quilter, 3)))
        self.assertNotEqual(events, list(rehearse(self.legs, quilter, 4)))
        self.assertEqual({e.leg for e in events if e.kind in ("done", "other")}, set(range(300)))
        self.assertTrue(all(a.seconds <= b.seconds for a, b in itertools.pairwise(events)))
        for kind in ("skip", "other", "rip", "rest", "stop", "go"):
            self.assertIn(kind, {e.kind for e in events})
        # What lasted is what lies between, by the clock that does not jump.
        for one, two in itertools.pairwise(events):
            self.assertAlmostEqual(two.lasted, two.seconds - one.seconds, places=6)
        nights = [e for e in events if e.kind == "go"]
        # Every day begins at the hour of the first.
        self.assertTrue(all(e.seconds % DAY == 0 for e in nights))

    def test_she_stops_where_she_is_told_and_goes_on_from_what_is_done(self):
        events = list(rehearse(self.legs, Quilter(HAND), 3, stop_after=3600))
        self.assertEqual(events[-1].kind, "stop")
        done = {e.leg for e in events if e.kind == "done"}
        stands = "".join("x" if k in done else "." for k in range(300))
        rest = {e.leg for e in rehearse(self.legs, Quilter(HAND), 5, stands) if e.kind == "done"}
        self.assertEqual(done | rest, set(range(300)))
        self.assertTrue(done.isdisjoint(rest))

    def test_bobbins_run_out_near_where_they_are_said_to(self):
        events = list(rehearse(self.legs, Quilter(HAND, bobbin=3060.0, rips=0), 3))
        out = [e.leg for e in events if e.kind == "bobbin"]
        # By hand: 34 legs of 90 inches are a bobbin of 3,060; a tenth more or less.
        apart = np.diff([0, *out])
        self.assertTrue(np.all((apart >= 30) & (apart <= 38)), apart)
        self.assertFalse([e for e in rehearse(self.legs, Quilter(HAND), 3) if e.kind == "bobbin"])

    def test_the_log_of_a_rehearsal_teaches_the_hand_that_stitched_it(self):
        quilter = Quilter(HAND, tires=0.0, rips=0.0, called_away=0.02)
        log = log_of(self.taps(rehearse(self.legs, quilter, 8)))
        found = learned(timed_of(log.pieces))
        for name, factor in HAND.items():
            self.assertAlmostEqual(found.factors[name].mean, factor, delta=0.12)
        calm = log_of(self.taps(rehearse(self.legs, replace(quilter, called_away=0.0), 8)))
        self.assertEqual(calm.pause, 0)
