"""The calendar against trying every order of small sets of jobs."""

import datetime
from dataclasses import replace
from datetime import date
from itertools import permutations
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as some
from icalendar import Calendar

from chorograph_core.estimating import Promise, WorkWeek, earliest, pushed_in, schedule
from chorograph_core.estimating.calendar import _laid
from chorograph_core.formats import calendar_file
from chorograph_core.tests import examples

START = date(2026, 11, 25)
WEEK = WorkWeek((5, 5, 5, 5, 5, 0, 0))
due = some.dates(START, START + datetime.timedelta(days=40))
jobs = some.lists(some.tuples(some.floats(0.5, 30), some.none() | due), max_size=4).map(
    lambda rows: [Promise(f"j{k}", f"J{k}", h, d) for k, (h, d) in enumerate(rows)]
)


def finishes(order, week=WEEK):
    """When each job of *order* ends, counting hours day by day."""
    ends, gone = {}, 0.0
    days = list(week.days(START))
    for promise in order:
        gone += promise.hours
        sum_, k = 0.0, -1
        while sum_ < gone - 1e-6:
            k += 1
            sum_ += days[k][1]
        ends[promise.key] = days[max(k, 0)][0]
    return ends


class ScheduleTests(TestCase):
    @given(jobs)
    def test_hours_fit_their_days_and_add_up(self, promises):
        used = {}
        for booked in schedule(promises, WEEK, START):
            self.assertAlmostEqual(sum(h for _, h in booked.days), booked.promise.hours, places=5)
            for day, hours in booked.days:
                used[day] = used.get(day, 0) + hours
        for day, hours in used.items():
            self.assertLessEqual(hours, WEEK.hours[day.weekday()] + 1e-6)

    @given(jobs, some.floats(0.5, 30))
    @settings(max_examples=examples(60), deadline=None)
    def test_the_earliest_date_is_the_best_of_all_orders(self, promises, hours):
        before = {b.promise.key: b.finish for b in schedule(promises, WEEK, START)}
        new = Promise("new", "", hours)
        best = None
        for order in permutations([*promises, new]):
            ends = finishes(order)
            if all(p.due is None or ends[p.key] <= max(p.due, before[p.key]) for p in promises):
                best = min(best or date.max, ends["new"])
        self.assertEqual(earliest(hours, promises, WEEK, START), best)

    @given(jobs, some.floats(0.5, 30), due)
    def test_what_moves_is_what_the_two_schedules_differ_in(self, promises, hours, wanted):
        before = {b.promise.key: b.finish for b in schedule(promises, WEEK, START)}
        pushed = pushed_in(hours, wanted, promises, WEEK, START)
        after = {b.promise.key: b for b in
                 schedule([*promises, Promise("\0new", "", hours, wanted)], WEEK, START)}  # fmt: skip
        self.assertEqual(pushed.finish, after["\0new"].finish)
        moved = {move.promise.key: move for move in pushed.moves}
        for promise in promises:
            if after[promise.key].finish != before[promise.key]:
                self.assertEqual(moved[promise.key].after, after[promise.key].finish)
            else:
                self.assertNotIn(promise.key, moved)

    def test_a_job_is_not_begun_before_it_is_at_hand_and_others_use_the_days(self):
        late = Promise("a", "A", 10, date(2026, 12, 9), at_hand=date(2026, 12, 7))
        free = Promise("b", "B", 12)
        laid = {b.promise.key: b for b in schedule([late, free], WEEK, START)}
        self.assertEqual(laid["a"].days[0][0], date(2026, 12, 7))
        self.assertEqual(
            (laid["a"].finish, laid["b"].finish), (date(2026, 12, 8), date(2026, 11, 27))
        )
        self.assertEqual(earliest(3, [late], WEEK, START), START)
        self.assertEqual(earliest(3, [], WEEK, START, date(2027, 1, 4)), date(2027, 1, 4))

    def test_what_is_left_of_today_and_what_comes_after_the_machine_count(self):
        tired = replace(WEEK, left_today=1.0)
        self.assertEqual(earliest(2, [], tired, START), START + datetime.timedelta(days=1))
        self.assertEqual(earliest(1, [], tired, START), START)
        self.assertEqual(earliest(1, [], replace(WEEK, left_today=0.0), START), date(2026, 11, 26))
        bound = Promise("a", "A", 5, None, None, 3.0)
        self.assertEqual(schedule([bound], WEEK, START)[0].finish, date(2026, 11, 26))

    def test_what_is_handed_over_is_begun_the_day_after_and_ends_in_time(self):
        """By hand: 12 h are three days of the studio, 5 + 5 + 2, until Friday; 7 h are four of hers, 2 each
        Monday to Wednesday and 1 on Thursday; finishing makes it 2."""
        hers = WorkWeek((2, 2, 2, 2, 0, 0, 0))
        week = replace(WEEK, others={"Imke": hers})
        shared = Promise("a", "A", 12, date(2026, 12, 3), away=7, away_by="Imke", finishing=1)
        other = Promise("b", "B", 5, date(2026, 12, 1))
        laid = {each.promise.key: each for each in schedule([other, shared], week, START)}
        self.assertEqual(
            laid["a"].days, ((START, 5.0), (date(2026, 11, 26), 5.0), (date(2026, 11, 27), 2.0))
        )
        self.assertEqual(laid["a"].away, tuple((date(2026, 11, 30) + datetime.timedelta(days=k), 2.0)
                                               for k in range(4)))  # fmt: skip
        self.assertEqual((laid["a"].finish, laid["a"].late), (date(2026, 12, 3), 0))
        # Though the other one is due before it, she would have no time for her part.
        self.assertEqual(laid["b"].finish, date(2026, 11, 30))
        alone = replace(shared, away_by="")
        self.assertEqual(alone.own_hours, 20)
        self.assertEqual(
            schedule([alone], week, START)[0].finish, START + datetime.timedelta(days=5)
        )

    @given(
        jobs,
        some.lists(some.sampled_from(["", "Imke", "Oda"]), min_size=4, max_size=4),
        some.floats(0.5, 12),
    )
    @settings(max_examples=examples(60), deadline=None)
    def test_days_of_others_hold_what_they_can_and_come_after(self, promises, who, away):
        week = replace(WEEK, others={"Imke": WorkWeek((2, 0, 2, 0, 2, 4, 0))})
        shared = [replace(p, away=away, away_by=by) for p, by in zip(promises, who, strict=False)]
        used = {}
        for each in schedule(shared, week, START):
            own = sum(hours for _, hours in each.days)
            self.assertAlmostEqual(
                own + sum(h for _, h in each.away), each.promise.all_hours, places=5
            )
            if each.promise.away_by:
                self.assertGreater(each.away[0][0], each.days[-1][0])
                self.assertEqual(each.finish, each.away[-1][0])
            else:
                self.assertEqual(each.away, ())
            for day, hours in each.away:
                key = (each.promise.away_by, day)
                used[key] = used.get(key, 0) + hours
        for (by, day), hours in used.items():
            self.assertLessEqual(hours, week.of(by).hours[day.weekday()] + 1e-6)

    @given(jobs, some.lists(some.integers(0, 20), min_size=4, max_size=4))
    @settings(max_examples=examples(60), deadline=None)
    def test_earliest_due_of_those_at_hand_keeps_what_any_order_keeps(self, promises, waits):
        """Against every fixed order of priorities: none has a smaller greatest lateness."""
        here = [replace(p, at_hand=START + datetime.timedelta(days=w))
                for p, w in zip(promises, waits, strict=False)]  # fmt: skip
        dated = [p for p in here if p.due]

        def worst(laid):
            return max(((b.finish - b.promise.due).days for b in laid if b.promise.due), default=0)

        best = min((worst(_laid(order, WEEK, START)) for order in permutations(dated)), default=0)
        self.assertLessEqual(worst(schedule(dated, WEEK, START)), best)

    def test_days_off_and_rest_after_a_long_day(self):
        week = WorkWeek((8, 8, 8, 4, 4, 0, 0), frozenset({date(2026, 11, 26)}), 6)
        hours = dict(zip(range(7), (h for _, h in week.days(START)), strict=False))
        # Wednesday 8, Thursday off, Friday 4, weekend, Monday 8, Tuesday at most 3.
        self.assertEqual([hours[k] for k in range(7)], [8, 0, 4, 0, 0, 8, 3])

    def test_a_studio_without_hours_promises_nothing(self):
        idle = WorkWeek((0,) * 7)
        self.assertIsNone(earliest(3, [], idle, START))
        self.assertIsNone(schedule([Promise("a", "A", 1, START)], idle, START)[0].finish)
        self.assertGreater(schedule([Promise("a", "A", 1, START)], idle, START)[0].late, 300)


class FileTests(TestCase):
    def test_the_file_reads_back(self):
        booked = schedule([Promise("a", "Gull, Quilt; one", 12, date(2026, 11, 26))], WEEK, START)
        stamp = datetime.datetime(2026, 11, 25, 8, tzinfo=datetime.UTC)
        off = [(date(2026, 12, 24), "closed")]
        data = calendar_file("Loft", booked, off, stamp)
        events = Calendar.from_ical(data).walk("VEVENT")
        self.assertEqual(len(events), 3 + 1 + 1)
        self.assertEqual(str(events[0]["summary"]), "Gull, Quilt; one: 5.0 h")
        self.assertEqual(events[0]["dtstart"].dt, START)
        self.assertIn("1 day late", str(events[3]["summary"]))
        self.assertEqual(len({str(e["uid"]) for e in events}), len(events))
        self.assertEqual(data, calendar_file("Loft", booked, off, stamp))
