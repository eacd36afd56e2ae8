"""What a log teaches: by closed formulas, over simulated studios, and how taps become minutes."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.estimating.learning import DOUBT, EIGHTY, PRIOR, STRAYS, Timed, learned
from chorograph_core.estimating.own_rates import NAMES as NAMES_OF
from chorograph_core.estimating.own_rates import SECONDS, by_default, rates_with
from chorograph_core.reckon import Rates
from chorograph_core.stitching.legs import COUNTED
from chorograph_core.stitching.log import Tapped, bobbins_of, log_of, timed_of
from chorograph_core.tests import examples, long

NAMES = ("ditch", "straight", "medium", "ruler_move", "cut")
MORNING = datetime(2026, 11, 24, 9, tzinfo=UTC)


def studio(rng, things: int, odd: float = 0.0):
    """A hand with factors of its own, and what was timed of it: a quarter of straying, some pauses unseen."""
    true = dict(zip(NAMES, np.maximum(rng.normal(1, PRIOR, len(NAMES)), 0.3), strict=True))
    timed = []
    for _ in range(things):
        parts = {str(name): float(rng.lognormal(3.5, 0.8))
                 for name in rng.choice(NAMES, rng.integers(1, 4), replace=False)}  # fmt: skip
        took = sum(true[name] * seconds for name, seconds in parts.items())
        took *= rng.lognormal(-0.03125, 0.25) * (rng.uniform(3, 9) if rng.random() < odd else 1)
        timed.append(Timed(parts, float(took)))
    return true, timed


class LearningTests(TestCase):
    def test_nothing_timed_teaches_nothing(self):
        self.assertEqual(learned([]).factors, {})
        self.assertEqual(learned([Timed({}, 10), Timed({"cut": 60}, 0)]).aside, (0, 1))
        mean, low, high = learned([]).estimate({"cut": 100})
        self.assertEqual(mean, 100)
        # By hand: 100 s, give or take 1.1 x 1.2816 x 35.
        self.assertAlmostEqual(high - mean, DOUBT * EIGHTY * 100 * PRIOR)
        self.assertAlmostEqual(mean - low, high - mean)

    def test_one_thing_is_shrunk_as_the_formula_says(self):
        found = learned([Timed({"ditch": 100.0}, 150.0)])
        factor = found.factors["ditch"].mean
        # Of one technique: m = (t x / (s m x)^2 + 1/p^2) / (x^2 / (s m x)^2 + 1/p^2), at its own fixed point.
        strays = found.strays
        pull = 1 / (strays * factor) ** 2
        self.assertAlmostEqual(
            factor, (1.5 * pull + 1 / PRIOR**2) / (pull + 1 / PRIOR**2), delta=0.01
        )
        self.assertTrue(1 < factor < 1.5)
        self.assertLess(abs(strays - STRAYS), 0.05)

    def test_many_things_teach_what_is_true_and_what_was_never_timed_stays(self):
        true, timed = studio(np.random.default_rng(5), 600)
        found = learned(timed)
        for name in NAMES:
            self.assertAlmostEqual(found.factors[name].mean, true[name], delta=0.12)
            self.assertGreater(found.factors[name].share, 0.9)
        self.assertNotIn("roll", found.factors)
        self.assertAlmostEqual(found.strays, 0.25, delta=0.05)

    def test_what_strays_far_is_set_aside_and_moves_nothing(self):
        true, timed = studio(np.random.default_rng(6), 200)
        plain = learned(timed)
        odd = [*timed, Timed({"cut": 60.0}, 60.0 * true["cut"] * 20)]
        found = learned(odd)
        self.assertIn(200, found.aside)
        for name in NAMES:
            self.assertAlmostEqual(found.factors[name].mean, plain.factors[name].mean, delta=0.02)

    @long
    def test_ranges_hold_the_truth_four_times_in_five(self):
        rng = np.random.default_rng(7)
        for things in (12, 120):
            held = asked = jobs = 0
            for number in range(120):
                true, timed = studio(rng, things, odd=0.04 if number % 2 else 0.0)
                found = learned(timed)
                for name, factor in found.factors.items():
                    asked += 1
                    held += factor.low <= true[name] <= factor.high
                parts = {name: float(rng.uniform(300, 4000)) for name in NAMES}
                _, low, high = found.estimate(parts)
                jobs += low <= sum(true[n] * s for n, s in parts.items()) <= high
            self.assertTrue(0.75 <= held / asked <= 0.87, held / asked)
            self.assertTrue(0.70 <= jobs / 120 <= 0.90, jobs / 120)

    @settings(max_examples=examples(60), deadline=None)
    @given(st.lists(st.tuples(
        st.dictionaries(st.sampled_from(NAMES), st.floats(0, 1e5) | st.just(5e-324), max_size=4),
        st.floats(0, 1e6)), max_size=20))  # fmt: skip
    def test_whatever_was_logged_it_stays_a_number(self, rows):
        found = learned([Timed(parts, seconds) for parts, seconds in rows])
        for factor in found.factors.values():
            self.assertTrue(np.isfinite([factor.mean, factor.low, factor.high]).all())
            self.assertGreaterEqual(factor.high, factor.low)

    def test_own_rates_take_so_many_times_as_long(self):
        rates = rates_with({"ditch": 2.0, "cut": 1.5, "look_up": 0.5, "unknown": 3, "advance": 99})
        self.assertAlmostEqual(rates.seconds(90, "ditch"), 2 * Rates().seconds(90, "ditch"))
        self.assertEqual((rates.cut, rates.read_path, rates.place_path), (90, 10, 1.5))
        self.assertEqual(rates.advance, 5 * Rates().advance)
        self.assertEqual(rates.seconds(90, "large"), Rates().seconds(90, "large"))
        self.assertEqual(rates_with({}), Rates())

    def test_everything_that_is_foretold_has_a_name_and_comes_back_to_the_defaults(self):
        self.assertEqual(set(NAMES_OF), {*Rates().speeds, "unpick", *SECONDS})
        self.assertLessEqual(set(COUNTED.values()) | {"cut"}, set(NAMES_OF))
        factors = {name: 1 + k / 40 for k, name in enumerate(NAMES_OF)}
        slow = {name: 100.0 * factor for name, factor in factors.items()}
        for name, seconds in by_default(slow, rates_with(factors)).items():
            self.assertAlmostEqual(seconds, 100, delta=0.6, msg=name)


def tap(kind, minute, leg=None, lasted=None, device="a", **facts):
    return Tapped(kind, MORNING + timedelta(minutes=minute), device, 1, leg, lasted, facts)


class LogTests(TestCase):
    def test_minutes_are_those_between_taps_and_pauses_are_left_out_by_the_rule(self):
        parts = {"ditch": 120.0}
        log = log_of([
            tap("done", 2, 0, 120, seconds=120, parts=parts),
            # By hand: over 3 x 120 + 300 s, so it counts 120 and 1,080 are a pause.
            tap("done", 22, 1, 1200, seconds=120, parts=parts),
            # Just under the rule: all of it counts.
            tap("done", 33, 2, 659, seconds=120, parts=parts),
        ])  # fmt: skip
        self.assertEqual([piece.took for piece in log.pieces], [120, 120, 659])
        self.assertEqual((log.pause, log.foretold, log.took), (1080, 360, 899))
        self.assertEqual([(day.pieces, day.took) for day in log.days], [(3, 899)])
        # A pause teaches nothing.
        self.assertEqual([each.seconds for each in timed_of(log.pieces)], [120, 659])

    def test_nobody_stitches_while_stopped_or_resting(self):
        log = log_of([
            tap("done", 1, 0, 60, seconds=60), tap("stop", 3, 1, 120), tap("go", 60, 1, 3420),
            tap("done", 61, 1, 60, seconds=180), tap("rest", 70, 2, 540),
            tap("done", 72, 2, 120, seconds=100),
        ])  # fmt: skip
        self.assertEqual([piece.took for piece in log.pieces], [60, 180, 120])

    def test_taken_back_and_done_again_was_foretold_once(self):
        log = log_of([tap("done", 1, 0, 60, seconds=60), tap("back", 2, 0, 30),
                      tap("done", 3, 0, 45, seconds=60)])  # fmt: skip
        self.assertEqual((log.took, log.foretold), (135, 60))

    def test_what_a_piece_took_is_shared_out_as_its_techniques_were_foretold(self):
        parts = {"ditch": 90.0, "ruler_move": 30.0}
        log = log_of([tap("done", 3, 0, 180, seconds=120, parts=parts),
                      tap("done", 4, 1, 60, seconds=60, parts={"ditch": 60.0})])  # fmt: skip
        told = {each.name: (each.took, each.foretold) for each in
                log.by_technique({"ditch": "in the ditch", "ruler_move": "laying"})}  # fmt: skip
        # By hand: three quarters of 180 s and all of 60; a quarter of 180.
        self.assertEqual(told, {"in the ditch": (195, 150), "laying": (45, 30)})

    def test_bobbins_are_told_by_what_was_stitched_from_them(self):
        def at(kind, minute, leg, took=0.0, what="fill", thread="indigo"):
            facts = {"seconds": 60, "took": took, "kind": what, "thread": thread}
            return replace(tap(kind, minute, leg, 60), facts=facts)

        log = log_of([
            at("done", 0, 0, 900), at("done", 1, 1, 1100), at("bobbin", 2, 2), at("done", 3, 2, 700),
            at("done", 4, 3, 0, "bobbin"), at("done", 5, 4, 500),
            at("done", 6, 5, 0, "thread", "ecru"), at("done", 7, 6, 300, thread="ecru"),
            at("done", 8, 7, 0, "thread"), at("done", 9, 8, 400), at("bobbin", 10, 9), at("bobbin", 10, 9),
        ])  # fmt: skip
        # By hand: 900 + 1,100 ran out; 700 changed as planned; 500 + 400 ran out, with ecru between, of which
        # nobody knows yet what its bobbin holds.
        told = [(each.inches, each.ran_out) for each in bobbins_of(log)]
        self.assertEqual(told, [(2000, True), (700, False), (900, True)])

    def test_what_lies_on_the_bobbins_of_one_machine_is_not_used_up_on_another(self):
        def at(minute, leg, took, what="fill", thread="indigo", on="", kind="done"):
            facts = {"seconds": 60, "took": took, "kind": what, "thread": thread, "on": on}
            return replace(tap(kind, minute, leg, 60), facts=facts)

        sit = "sit-down machine"
        log = log_of([at(0, 0, 900), at(1, 1, 0, "move", "", sit), at(2, 2, 600, on=sit),
                      at(3, 3, 0, on=sit, kind="bobbin")])  # fmt: skip
        told = [(each.inches, each.ran_out, each.on) for each in bobbins_of(log)]
        self.assertEqual(told, [(600, True, sit)])

    def test_what_was_tapped_in_one_go_teaches_as_one_thing(self):
        parts = {"fine": 100.0}
        log = log_of([tap("done", k, k, lasted, seconds=100, parts=parts)
                      for k, lasted in enumerate((300, 1, 1, 90))])  # fmt: skip
        self.assertEqual([each.seconds for each in timed_of(log.pieces)], [300, 92])
        self.assertEqual([each.foretold for each in timed_of(log.pieces)], [100, 300])

    def test_devices_do_not_time_each_other_and_what_is_written_down_counts_for_its_day(self):
        log = log_of([
            tap("done", 0, 0, None, seconds=60), tap("done", 1, 1, None, "b", seconds=60),
            tap("done", 3, 2, None, seconds=100), tap("hand", 60 * 24, minutes=70),
        ])  # fmt: skip
        # The first of each device is known by nothing but what was foretold.
        self.assertEqual([piece.took for piece in log.pieces], [60, 60, 180])
        self.assertEqual([day.written for day in log.days], [0, 4200])
        self.assertEqual(timed_of(log.pieces), [])
