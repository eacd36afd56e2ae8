"""One quilt on two machines: each stitches its own part, the quilt is carried over once."""

from __future__ import annotations

import json
from dataclasses import replace
from unittest import TestCase

import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.formats import ArchiveError, read_archive, route_json, run_sheet, write_archive
from chorograph_core.formats.archive import read_document, write_document
from chorograph_core.job import Job, planned_job, replayed_job
from chorograph_core.reckon import Machine, thread_inches
from chorograph_core.route import Route, State
from chorograph_core.route.handing_over import LATER, MOVED, Handover
from chorograph_core.route.model import Wish
from chorograph_core.route.progress import followed, ripped_out
from chorograph_core.steering.schools import asked_of
from chorograph_core.steering.standing import full_bobbin, names_in, stands_after
from chorograph_core.steering.why import why
from chorograph_core.stitching.legs import route_legs
from chorograph_core.stitching.standing import stands_with
from chorograph_core.tests import examples, long
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones.cutting import cut, diagonal

CACHE = DrawingCache()
SIT = Machine("sit-down machine", "sit-down", throat=18, bobbin_yards=35)


def shared(job: Job, zones, who: str = "Imke") -> Job:
    return replace(job, handover=Handover(SIT, tuple(zones), who))


def stars(job: Job) -> list[str]:
    """Every zone of the first block and of the last."""
    blocks = sorted({patch.cell for patch in job.chart.patches if patch.block})
    wanted = {blocks[0], blocks[-1]}
    return [z.id for z in job.zones if job.chart.patch(z.patches[0]).cell in wanted
            and job.chart.patch(z.patches[0]).block]  # fmt: skip


class TwoMachineTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.plain = designed(small_top())
        cls.away = stars(cls.plain)
        cls.job = shared(cls.plain, cls.away)
        cls.route = planned_job(cls.job, CACHE)
        cls.over = next(k for k, s in enumerate(cls.route.steps) if s.kind == "move")

    def faults(self, steps, job: Job | None = None) -> list[str]:
        return replayed_job(job or self.job, replace(self.route, steps=list(steps)))

    def test_each_machine_stitches_its_own_part_and_the_quilt_is_carried_over_once(self):
        self.assertEqual(replayed_job(self.job, self.route), [])
        before, after = self.route.steps[: self.over], self.route.steps[self.over + 1 :]
        self.assertEqual([s.kind for s in (*before, *after) if s.kind == "move"], [])
        filled = [
            {s.zone for s in part if s.kind == "stitch" and s.zone} for part in (before, after)
        ]
        self.assertTrue(filled[0] and filled[1])
        self.assertTrue(filled[0].isdisjoint(self.away))
        self.assertLessEqual(filled[1], set(self.away))
        numbers = {each.number: each.another for each in self.route.passes}
        self.assertTrue(all(not numbers[s.reach] for s in before))
        self.assertTrue(all(numbers[s.reach] for s in after))

    def test_minutes_and_thread_are_those_of_both(self):
        away = sum(s.seconds for s in self.route.steps[self.over + 1 :]) / 60
        self.assertAlmostEqual(self.route.away_minutes, away, places=6)
        self.assertEqual(self.route.steps[self.over].seconds, self.job.machine.rates.move)
        self.assertLessEqual(self.route.floor.lost_minutes, self.route.lost_minutes + 1e-6)
        loft = self.job.loaded_machine.loft
        for thread, told in self.route.thread_inches.items():
            least = sum(thread_inches(s.inches, 6, loft) for s in self.route.steps
                        if s.thread == thread and s.kind in ("stitch", "travel", "secure"))  # fmt: skip
            self.assertGreater(told, least)

    def test_the_whole_quilt_is_basted_on_the_frame_and_each_place_keeps_its_own_until_it_is_stitched(
        self,
    ):
        kinds = [s.kind for s in self.route.steps]
        self.assertLess(
            max(k for k, kind in enumerate(kinds) if kind == "secure"), kinds.index("stitch")
        )
        laid = shapely.union_all([shapely.linestrings(s.points) for s in self.route.steps
                                  if s.kind == "secure" and s.run.startswith("hold:")])  # fmt: skip
        theirs = shapely.union_all([self.job.zone(name).polygon for name in self.away])
        out = sum(s.inches for s in self.route.steps[self.over :] if s.kind == "unpick")
        self.assertGreater(out, 0.97 * laid.intersection(theirs.buffer(-0.01)).length)

    def test_where_the_first_machine_only_sewed_ditches_the_basting_comes_out_once(self):
        # A zone of each block is handed over, and nothing but its ditches stays beside it.
        some = [
            zone.id for zone in self.plain.zones if self.plain.chart.patch(zone.patches[0]).block
        ]
        legend = tuple(
            replace(entry, zones=left)
            for entry in self.plain.legend
            if (left := tuple(zone for zone in entry.zones if zone in some))
        )
        ditches = tuple(replace(entry, id=f"d{entry.id}", zones=entry.zones[::2], layers=entry.layers[:1])
                        for entry in legend)  # fmt: skip
        rest = tuple(replace(entry, zones=entry.zones[1::2]) for entry in legend)
        away = [zone for entry in rest for zone in entry.zones]
        job = shared(self.plain.with_legend((*ditches, *rest)), away)
        job = replace(job, policy=replace(job.policy, stabilise="zone"))
        route = planned_job(job, CACHE)
        self.assertEqual(replayed_job(job, route), [])
        over = next(k for k, s in enumerate(route.steps) if s.kind == "move")
        self.assertTrue(any(s.kind == "unpick" for s in route.steps[:over]))
        laid = sum(
            s.inches for s in route.steps if s.kind == "secure" and s.run.startswith("hold:")
        )
        out = sum(s.inches for s in route.steps if s.kind == "unpick")
        self.assertAlmostEqual(out, laid, delta=1.0)

    def test_paths_have_letters_of_their_own(self):
        keys = [path.key for path in self.route.paths]
        self.assertEqual(len(keys), len(set(keys)))
        for path in self.route.paths:
            there = {s.station for s in self.route.steps if s.path == path.key and s.station}
            self.assertLessEqual(there, set(path.stations))

    @long
    @settings(max_examples=examples(12), deadline=None)
    @given(st.floats(0.02, 0.98))
    def test_from_anywhere_the_rest_is_planned_and_nothing_comes_twice(self, share):
        whole = sum(s.seconds for s in self.route.steps)
        tops = {each.number: each.top for each in self.route.passes}
        state = followed(self.route.steps, share * whole, State(), self.job.chart, tops)
        rest = planned_job(self.job, CACHE, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])
        moves = sum(s.kind == "move" for s in rest.steps)
        self.assertEqual(moves, MOVED not in state.done)

    def test_what_is_ripped_out_after_the_move_is_stitched_where_the_quilt_lies(self):
        stays = next(
            z for e in self.job.legend for z in e.zones if z not in self.away and e.id == "meander"
        )
        state = ripped_out(self.route.end, names_in(self.job, [stays], CACHE, ditches=False))
        rest = planned_job(self.job, CACHE, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])
        self.assertEqual({s.zone for s in rest.steps if s.kind == "stitch" and s.zone}, {stays})
        self.assertTrue(all(each.another for each in rest.passes))

    def test_all_of_it_handed_over_is_still_basted_on_the_frame(self):
        job = shared(self.plain, [zone.id for zone in self.plain.zones])
        route = planned_job(job, CACHE)
        self.assertEqual(replayed_job(job, route), [])
        over = [s.kind for s in route.steps].index("move")
        self.assertEqual(
            {s.kind for s in route.steps[:over]} - {"mark"}, {"thread", "secure", "roll"}
        )

    @long
    def test_between_two_sit_down_machines_nothing_is_basted(self):
        job = shared(
            replace(self.plain, machine=replace(self.plain.machine, kind="sit-down")), self.away
        )
        route = planned_job(job, CACHE)
        self.assertEqual(replayed_job(job, route), [])
        self.assertFalse({"secure", "unpick"} & {s.kind for s in route.steps})

    def test_zones_that_are_gone_are_nobodys(self):
        job = shared(self.plain, ["z:gone"])
        self.assertIsNone(job.loaded_handover)
        self.assertNotIn("move", [s.kind for s in planned_job(job, CACHE).steps])

    @long
    def test_a_wish_that_the_other_machine_comes_first_is_not_kept_and_says_so(self):
        stays = next(z.id for z in self.job.zones if z.id not in self.away)
        late = Wish("before", (self.away[0],), (stays,))
        fine = Wish("before", (stays,), (self.away[0],))
        job = replace(self.job, policy=replace(self.job.policy, wishes=(late, fine)))
        route = planned_job(job, CACHE)
        self.assertEqual(route.notes, {0: LATER})
        self.assertEqual(replayed_job(job, route), [])

    # --- routes that break one rule
    def test_carried_over_twice(self):
        steps = list(self.route.steps)
        self.assertTrue(any("a second time" in f for f in self.faults([*steps, steps[self.over]])))

    def test_not_carried_over(self):
        steps = [s for s in self.route.steps if s.kind != "move"]
        found = self.faults(steps)
        self.assertTrue(any("belongs to the other machine" in f for f in found), found)

    def test_left_lying_on_the_first_machine(self):
        found = self.faults(self.route.steps[: self.over])
        self.assertTrue(any("on neither machine" in f for f in found), found)

    def test_carried_over_in_no_time(self):
        steps = list(self.route.steps)
        steps[self.over] = replace(steps[self.over], seconds=1.0)
        self.assertEqual(
            self.faults(steps), [f"step {self.over + 1}: says 1 seconds for carrying over"]
        )

    def test_stitched_on_the_wrong_machine(self):
        steps = list(self.route.steps)
        moved = steps.pop(self.over)
        later = max(k for k, s in enumerate(steps) if s.kind == "tie_off")
        self.assertTrue(self.faults([*steps[: later + 1], moved, *steps[later + 1 :]]))

    def test_basting_of_the_other_part_is_taken_out_too_soon(self):
        """As if the planner had forgotten that the other machine wants it."""
        steps = list(self.route.steps)
        late = [k for k, s in enumerate(steps) if s.kind == "unpick" and k > self.over]
        early = [steps[k] for k in late]
        left = [s for k, s in enumerate(steps) if k not in late]
        found = self.faults([*left[: self.over], *early, *left[self.over :]])
        self.assertTrue(any("basting" in f for f in found), found)

    def test_more_thread_told_than_is_taken(self):
        told = {key: 1.2 * inches for key, inches in self.route.thread_inches.items()}
        found = replayed_job(self.job, replace(self.route, thread_inches=told))
        self.assertEqual(len([f for f in found if "are told" in f]), len(told))

    def test_who_stitches_there_has_carried_the_quilt_over_whether_she_said_so_or_not(self):
        legs = route_legs(self.job, json.loads(route_json(self.job, self.route, [])))
        move = next(leg.number for leg in legs if leg.kind == "move")
        stop = next(leg.number for leg in legs[move:] if leg.kind == "fill") + 1
        passes = {each.number: (each.top, each.bottom) for each in self.route.passes}
        done = set(range(stop)) - {move}
        state = stands_with(self.job, self.route.steps, legs, done, passes, State())
        self.assertIn(MOVED, state.done)
        rest = planned_job(self.job, CACHE, state=state)
        self.assertEqual(replayed_job(self.job, rest, state), [])
        before = stands_with(self.job, self.route.steps, legs, set(range(move)), passes, State())
        self.assertNotIn(MOVED, before.done)

    # --- kept and told
    def test_the_document_keeps_it_and_names_what_it_does_not_know(self):
        self.assertEqual(read_archive(write_archive(self.job)), self.job)
        self.assertNotIn("handover", write_document(self.plain))
        document = write_document(self.job)
        document["handover"]["zones"] = ["z:nowhere"]
        with self.assertRaisesMessage("There is no zone called"):
            read_document(document)
        document = write_document(self.job)
        document["handover"]["machine"]["kind"] = "frame"
        with self.assertRaisesMessage("Only a sit-down machine"):
            read_document(document)

    def assertRaisesMessage(self, words: str):
        return self.assertRaisesRegex(ArchiveError, words)

    def test_pieces_of_a_zone_that_is_cut_go_where_it_went(self):
        name = self.away[0]
        pieces = cut([self.job.zone(name)], diagonal())
        zones = (*(z for z in self.job.zones if z.id != name), *pieces)
        settled = replace(self.job, zones=zones).settled()
        self.assertEqual(set(settled.handover.zones), {*self.away[1:], *(p.id for p in pieces)})
        gone = replace(self.job, zones=tuple(z for z in self.job.zones if z.id not in self.away))
        self.assertIsNone(gone.settled().handover)

    def test_the_run_sheet_and_the_legs_say_who_goes_on_and_where(self):
        document = json.loads(route_json(self.job, self.route, []))
        sheet = run_sheet(self.job, document)
        move = next(part for part in sheet.parts if part.kind == "move")
        self.assertEqual((move.rows[0].detail, move.minutes), ("Imke goes on from here", 15.0))
        after = sheet.parts[sheet.parts.index(move) + 1 :]
        self.assertTrue(after and all(part.where == "sit-down machine" for part in after))
        legs = route_legs(self.job, document)
        number = next(leg.number for leg in legs if leg.kind == "move")
        self.assertEqual({leg.on for leg in legs[:number]}, {""})
        self.assertEqual({leg.on for leg in legs[number:]}, {"sit-down machine"})
        self.assertEqual(legs[number].parts, {"move": 900.0})

    def test_bobbins_stay_with_their_machine(self):
        whole = sum(s.seconds for s in self.route.steps[: self.over + 1])
        tops = {each.number: each.top for each in self.route.passes}
        state = stands_after(self.job, self.route.steps, tops, whole + 0.5, State())
        self.assertIn(MOVED, state.done)
        self.assertEqual((state.aside, state.needle, state.thread), ((), None, ""))
        self.assertEqual(state.bobbin, 35 * 36)
        self.assertEqual(full_bobbin(self.job, state), 35 * 36)
        self.assertEqual(full_bobbin(self.job, State()), 85 * 36)

    @long
    def test_reasons_are_those_of_the_machine_it_is_on(self):
        away = {each.number for each in self.route.passes if each.another}
        move = self.route.steps[self.over]
        told = why(self.job, self.route.steps, self.over, "in", away)
        self.assertEqual((told.what, told.seconds), ("Over to the other machine", 900.0))
        # As if the quilt had to be turned there.
        turned = replace(move, kind="roll", how="on", count=1, reach=max(away))
        steps = [*self.route.steps, turned]
        self.assertEqual(why(self.job, steps, len(steps) - 1, "in", away).what, "The quilt turned")
        self.assertIn("Rolled to pass", why(self.job, steps, len(steps) - 1, "in").what)

    def test_how_the_days_go_is_no_question_any_more(self):
        self.assertIn("days", {each.key for each in asked_of(self.plain)})
        self.assertNotIn("days", {each.key for each in asked_of(self.job)})
        other = replace(self.job, policy=replace(self.job.policy, days="basted"))
        route: Route = planned_job(other, CACHE)
        self.assertEqual(route.minutes, self.route.minutes)
