"""Taps from the machine: kept once, in order, whatever the device and its clock do; and what they teach."""

from __future__ import annotations

import itertools
import json
import random
import re
import uuid
from collections import Counter
from datetime import timedelta
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from chorograph_core.reckon import Rates
from chorograph_core.tests import long
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import Told, last_told
from studio.quotes.hands import ByHand
from studio.routes.models import Plan
from studio.routes.planning import carry_out, plan_of, standing_of
from studio.routes.standing import tell_followed
from studio.stitching.following import followed
from studio.stitching.models import Accepted, Tap
from studio.tests.helpers import ChangingCase, make_job, make_plan, make_studio
from studio.tests.pictures import png


class TapCase(ChangingCase):
    def setUp(self):
        super().setUp()
        self.plan = make_plan(self.job)
        self.numbers = itertools.count(1)

    def tap(self, kind, leg, **more):
        now = timezone.now().timestamp() * 1000
        return {"key": str(uuid.uuid4()), "kind": kind, "leg": leg, "plan": self.plan.pk,
                "seq": next(self.numbers), "at": int(now), "lasted": 30.0, "text": "", **more}  # fmt: skip

    def send(self, *taps, device="tablet", now=None, status=200):
        moment = int(timezone.now().timestamp() * 1000) if now is None else now
        answer = self.client.post(
            reverse("stitch-taps", args=[self.job.pk]),
            json.dumps({"device": device, "now": moment, "taps": list(taps)}),
            content_type="application/json",
        )
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    @property
    def now(self):
        self.job = Job.objects.select_related("head").get(pk=self.job.pk)
        self.job.studio = self.studio
        return followed(self.job, "in")


class ReceivingTests(TapCase):
    def test_what_is_sent_twice_and_out_of_order_counts_once(self):
        taps = [self.tap("done", leg) for leg in range(6)]
        taps.insert(4, self.tap("back", 3))
        mixed = [*taps, *taps[:3]]
        random.Random(3).shuffle(mixed)
        self.assertEqual(self.send(*mixed)["refused"], {})
        self.send(*taps)
        self.assertEqual(Tap.objects.count(), 7)
        # Done, taken back, done again is not what the order of sending says.
        stands = self.send()["stands"]
        self.assertEqual(stands[:7], "xxx.xx.")
        facts = Tap.objects.filter(leg=5).get().facts
        self.assertEqual(facts["title"], self.now.legs[5].title)
        self.assertAlmostEqual(sum(facts["parts"].values()), facts["seconds"], delta=0.5)

    def test_a_clock_that_jumps_puts_nothing_out_of_order(self):
        noon = int(timezone.now().timestamp() * 1000)
        year = 365 * 24 * 3600 * 1000
        self.send(self.tap("done", 0, at=noon), self.tap("done", 1, at=noon - year),
                  self.tap("back", 1, at=noon + year), self.tap("done", 2, at=None), now=noon)  # fmt: skip
        ats = list(Tap.objects.order_by("seq").values_list("at", flat=True))
        self.assertEqual(ats, sorted(ats))
        self.assertLessEqual(ats[-1], timezone.now())
        self.assertEqual(self.now.stands[:3], "x.x")

    def test_two_tablets_agree_the_later_tap_counts(self):
        self.send(self.tap("done", 0), self.tap("done", 1), device="one")
        self.send(self.tap("back", 1), device="two")
        self.assertEqual(self.send(device="one")["stands"][:2], "x.")
        self.send(self.tap("done", 1), device="one")
        self.assertEqual(self.send(device="two")["stands"][:2], "xx")

    def test_what_is_no_tap_is_refused_with_a_sentence_and_the_rest_is_kept(self):
        good = self.tap("done", 0)
        bad = [None, 7, {"key": "x"}, {**self.tap("done", 1), "kind": "dance"},
               self.tap("done", None), {**self.tap("done", 1), "plan": "first"},
               {**self.tap("hand", 1)}]  # fmt: skip
        refused = self.send(*bad, good)["refused"]
        self.assertTrue(all(says.endswith(".") for says in refused.values()))
        self.assertEqual(Tap.objects.count(), 1)
        odd = self.tap("done", 9_999, lasted=-5)
        odd["text"], odd["at"] = "\x00" * 3 + "x" * 900, 10**18
        self.assertEqual(self.send(odd, self.tap("done", 2, lasted="long"))["refused"], {})
        kept = Tap.objects.get(leg=9_999)
        self.assertEqual((kept.lasted, len(kept.text) <= 500), (None, True))
        for body in (b"", b"[]", b"{", b'{"taps": 3}', b"\xff\xfe"):
            answer = self.client.post(reverse("stitch-taps", args=[self.job.pk]), body,
                                      content_type="application/json")  # fmt: skip
            self.assertEqual(answer.status_code, 200)
            self.assertIn("could not be read", answer.json()["says"])

    @long
    def test_where_the_work_stands_is_told_as_it_is_tapped(self):
        legs = self.now.legs
        stop = next(k for k in range(len(legs)) if legs[k].cut) + 1
        self.send(*(self.tap("done", leg) for leg in range(stop)))
        # Enough was done by then to be told; a stop tells it at once.
        self.send(self.tap("stop", stop))
        told = last_told(self.job)
        self.assertTrue(told.by_taps)
        self.assertAlmostEqual(told.seconds, sum(leg.seconds for leg in legs[:stop]), delta=1)
        state, _ = standing_of(self.now.plan.job, self.core, told)
        self.assertIsNone(state.needle)
        # The plan goes on, and so do the taps.
        self.assertEqual(self.now.plan.pk, self.plan.pk)
        self.assertEqual(self.now.at, stop)
        self.job.refresh_from_db()
        self.assertAlmostEqual(self.job.planned["behind"], told.minutes)
        self.send(self.tap("back", stop - 1))
        self.assertEqual(self.now.at, stop - 1)

    @long
    def test_what_was_left_out_is_planned_with_the_rest(self):
        count = len(self.now.legs)
        fills = [leg.number for leg in self.now.legs if leg.kind == "fill"]
        skipped, other = fills[1], fills[2]
        self.send(*(self.tap("done", leg) for leg in range(fills[3] + 1) if leg not in (skipped, other)),
                  self.tap("skip", skipped), self.tap("other", other, text="loops instead"))  # fmt: skip
        self.assertEqual(self.now.stands[skipped] + self.now.stands[other], "so")
        answer = self.client.post(reverse("stitch-rest", args=[self.job.pk]))
        self.assertEqual(answer.status_code, 204)
        rest = Plan.objects.get(job=self.job, told=last_told(self.job))
        carry_out(rest)
        rest = plan_of(self.now.plan.job) if self.now else rest
        self.assertEqual(rest.figures["replay"], "clean")
        again = {s["run"] for s in rest.route()["steps"] if s["kind"] == "stitch"}
        legs = followed(self.job, "in").legs
        self.assertLess(len(legs), count)
        done = make_legs(self.plan, self.job)
        self.assertTrue(set(done[skipped].runs) <= again)
        self.assertTrue(set(done[other].runs).isdisjoint(again))

    @long
    def test_a_device_that_was_away_tells_what_it_finished_on_the_plan_before(self):
        legs = self.now.legs
        late = [self.tap("done", leg) for leg in range(len(legs) // 2)]
        tell_followed(self.job, self.core, plan_of(self.job), 60.0, False, self.anna)
        self.client.post(reverse("stitch-rest", args=[self.job.pk]))
        carry_out(Plan.objects.get(job=self.job, told=last_told(self.job)))
        self.assertNotEqual(self.now.plan.pk, self.plan.pk)
        before = Told.objects.count()
        answer = self.send(*late, device="away")
        self.assertIn("another plan", answer["says"])
        self.assertEqual(Told.objects.count(), before + 1)
        rest = Plan.objects.get(job=self.job, told=last_told(self.job))
        carry_out(rest)
        again = {
            s["run"] for s in Plan.objects.get(pk=rest.pk).route()["steps"] if s["kind"] == "stitch"
        }
        finished = {run for leg in legs[: len(legs) // 2] if leg.kind == "fill" for run in leg.runs}
        later = {run for leg in legs[len(legs) // 2 :] for run in leg.runs}
        self.assertTrue((finished - later).isdisjoint(again))
        # Sent once more it says nothing new.
        self.send(*late, device="away")
        self.assertEqual(Told.objects.count(), before + 1)

    @long
    def test_what_was_said_on_the_profile_counts_until_something_later_is_tapped(self):
        legs = self.now.legs
        self.send(*(self.tap("done", leg) for leg in range(3)))
        seconds = sum(leg.seconds for leg in legs[:8])
        tell_followed(self.job, self.core, plan_of(self.job), seconds, False, self.anna)
        self.assertEqual(self.now.at, 8)
        self.send(self.tap("done", 8))
        self.assertEqual(self.now.at, 9)
        # What is told of the taps afterwards does not forget what was said on the profile.
        self.send(self.tap("stop", 9))
        self.assertTrue(last_told(self.job).by_taps)
        self.assertEqual(self.now.at, 9)
        self.assertEqual(self.now.behind, set(range(9)))

    @long
    def test_a_bobbin_that_ran_out_early_is_remembered(self):
        legs = self.now.legs
        ran = next(k for k in range(5, len(legs)) if legs[k].took > 30 and legs[k + 1].took)
        before = [self.tap("done", leg) for leg in range(ran)]
        self.send(
            *before, self.tap("bobbin", ran), self.tap("done", ran), self.tap("stop", ran + 1)
        )
        full = self.core.machine.bobbin_yards * 36
        # By hand: a full one, less what was stitched since.
        self.assertAlmostEqual(
            last_told(self.job).standing().bobbin, full - legs[ran].took, delta=1
        )
        self.send(self.tap("done", ran + 1), self.tap("stop", ran + 2))
        left = full - legs[ran].took - legs[ran + 1].took
        self.assertAlmostEqual(last_told(self.job).standing().bobbin, left, delta=1)
        data = self.client.get(reverse("stitch-plan", args=[self.job.pk])).json()
        self.assertEqual(data["fresh"], ran)
        # The ditches' thread waits on its own bobbin meanwhile, less what it gave.
        gone = sum(leg.took for leg in legs[:ran] if leg.thread == "clear")
        self.assertAlmostEqual(
            dict(last_told(self.job).standing().aside)["clear"], full - gone, delta=2
        )


def make_legs(plan, job):
    """The legs of a plan that is followed no more."""
    from studio.stitching.following import legs_of_plan

    return legs_of_plan(job, Plan.objects.get(pk=plan.pk), "in")


class PageTests(TapCase):
    @long
    def test_the_plan_is_one_document_with_all_that_is_shown(self):
        page = self.client.get(reverse("stitch", args=[self.job.pk]))
        self.assertContains(page, "Not like this")
        with self.assertNumQueries(12):
            data = self.client.get(reverse("stitch-plan", args=[self.job.pk])).json()
        self.assertEqual(len(data["legs"]), len(data["stands"]))
        steps = self.plan.route()["steps"]
        self.assertEqual(data["legs"][-1]["stop"], len(steps))
        ruled = [leg for leg in data["legs"] if leg["rulers"]]
        self.assertTrue(ruled)
        for edge, line in ruled[0]["rulers"]:
            # The foot's radius lies between the edge and the stitching.
            apart = ((edge[0] - line[0]) ** 2 + (edge[1] - line[1]) ** 2) ** 0.5
            self.assertAlmostEqual(apart, 0.25, delta=0.02)

    def test_in_a_centimetre_studio_nothing_speaks_of_inches(self):
        self.studio.units = "cm"
        self.studio.save()
        data = self.client.get(reverse("stitch-plan", args=[self.job.pk])).json()
        told = [f"{leg['title']} {leg['detail']} {' '.join(leg['check'])}" for leg in data["legs"]]
        self.assertNotRegex(" ".join([*told, *data["last"], *data["first"]]), "inch|″")
        self.assertIn("2.5 cm", " ".join(data["legs"][0]["check"]))
        self.assertNotRegex(
            self.client.get(reverse("stitch", args=[self.job.pk])).content.decode(), "an inch|″"
        )

    @long
    def test_without_a_route_it_says_so(self):
        bare = make_job(self.studio, self.anna)
        page = self.client.get(reverse("stitch", args=[bare.pk]))
        self.assertContains(page, "There is no route")
        for name in ("stitch-plan",):
            self.assertEqual(self.client.get(reverse(name, args=[bare.pk])).status_code, 404)
        self.assertEqual(self.client.post(reverse("stitch-rest", args=[bare.pk])).status_code, 409)

    @long
    def test_the_worker_keeps_the_machine_alone(self):
        answer = self.client.get(reverse("stitch-worker"))
        self.assertEqual(answer["Service-Worker-Allowed"], "/")
        self.assertContains(answer, "app.js")
        self.assertEqual(self.client.get(reverse("stitch-manifest")).json()["name"], "Chorograph")


class LogTests(TapCase):
    def log(self):
        return self.client.get(reverse("log", args=[self.job.pk]))

    @long
    def test_it_fills_from_taps_and_from_what_is_written_down(self):
        self.assertContains(self.log(), "Nothing is timed yet")
        legs = self.now.legs
        self.send(*(self.tap("done", leg, lasted=2 * legs[leg].seconds) for leg in range(8)),
                  self.tap("broke", 8, text="to the left"))  # fmt: skip
        page = self.log()
        self.assertContains(page, "Foretold and true")
        self.assertContains(page, "to the left")
        log = page.context["log"]
        self.assertAlmostEqual(log.took, 2 * log.foretold, delta=1)
        made = self.client.post(reverse("log", args=[self.job.pk]),
                                {"what": "third row", "took": "1 h 10", "day": ""})  # fmt: skip
        self.assertRedirects(made, reverse("log", args=[self.job.pk]))
        self.assertAlmostEqual(self.log().context["log"].took, log.took + 4200, delta=1)

    @long
    def test_a_bobbin_that_held_less_and_the_first_block_are_kept(self):
        self.send(*(self.tap("done", leg) for leg in range(5)), self.tap("bobbin", 5))
        bobbins = self.log().context["bobbins"]
        [(bobbin, _)] = bobbins.each
        self.assertTrue(bobbin.ran_out and bobbins.early)
        self.assertAlmostEqual(bobbin.inches, sum(leg.took for leg in self.now.legs[:5]), delta=0.5)
        self.assertContains(self.log(), "write the smaller figure")
        sent = {
            "photos": SimpleUploadedFile("a.png", png()),
            "about": "first",
            "note": "one leaf more",
        }
        self.client.post(reverse("photos", args=[self.job.pk]), sent)
        self.assertContains(self.log(), "one leaf more")

    @long
    def test_impossible_minutes_are_told_at_their_field(self):
        soon = (timezone.localdate() + timedelta(days=2)).isoformat()
        for values, says in (
            ({"what": "", "took": "70"}, "Say what"), ({"what": "row", "took": "long"}, "1 h 10"),
            ({"what": "row", "took": "99 h"}, "sixteen"), ({"what": "row", "took": "0"}, "minute"),
            ({"what": "row", "took": "5", "day": soon}, "still to come"),
            ({"what": "row", "took": "5", "day": "yesterday"}, "2026-11-24"),
            ({"what": "row", "took": "9" * 400 + " h"}, "sixteen"),
        ):  # fmt: skip
            answer = self.client.post(reverse("log", args=[self.job.pk]), values)
            with self.subTest(values["took"][:9]):
                self.assertContains(answer, says, status_code=400)
                self.assertContains(answer, 'aria-invalid="true"', status_code=400)
        self.assertFalse(Tap.objects.filter(kind="hand").exists())


class LessonTests(TapCase):
    def practise(self, factor):
        legs = self.now.legs
        for round_number in range(4):
            self.send(*(self.tap("done", leg.number, lasted=factor * leg.seconds) for leg in legs
                        if leg.seconds > 1), device=f"tablet {round_number}")  # fmt: skip

    @long
    def test_nothing_learned_is_used_before_it_is_taken(self):
        self.practise(1.5)
        page = self.client.get(reverse("lesson"))
        lines = {line.key: line for line in page.context["lines"]}
        self.assertAlmostEqual(lines["ruler_move"].factor.mean, 1.5, delta=0.1)
        self.assertEqual(make_rates(make_job(self.studio, self.anna)), Rates())
        taken = self.client.post(reverse("take-lesson"), {"key": ["ruler_move", "straight"]})
        self.assertRedirects(taken, reverse("lesson"))
        self.studio.refresh_from_db()
        job = make_job(self.studio, self.anna)
        self.assertAlmostEqual(make_rates(job).ruler_move, 10.5, delta=0.7)
        self.assertEqual(make_rates(job).cut, Rates().cut)
        # A job under way takes them when she says so, as a revision.
        self.assertEqual(make_rates(self.job), Rates())
        self.assertContains(self.client.get(reverse("log", args=[self.job.pk])), "your own rates")
        self.client.post(reverse("use-rates", args=[self.job.pk]), {"base": "1"})
        self.assertAlmostEqual(self.core.machine.rates.ruler_move, 10.5, delta=0.7)
        page = self.client.get(reverse("log", args=[self.job.pk]))
        self.assertNotContains(page, "Foretell this job")
        self.client.post(reverse("take-lesson"), {"what": "forget"})
        self.studio.refresh_from_db()
        self.assertEqual((self.studio.factors, Accepted.objects.count()), ({}, 2))

    @long
    def test_what_is_learned_is_told_against_the_defaults_whatever_a_job_was_foretold_by(self):
        self.practise(1.5)
        self.client.post(reverse("take-lesson"), {"key": ["ruler_move"]})
        taken = Accepted.objects.first().factors["ruler_move"]
        self.studio.refresh_from_db()
        self.job = make_job(self.studio, self.anna)
        self.plan = make_plan(self.job)
        ruled = next(leg for leg in self.now.legs if "ruler_move" in leg.parts)
        # The very same hand on a job that foretells it rightly: it is still half as long again.
        self.send(self.tap("done", ruled.number, lasted=ruled.seconds))
        parts = Tap.objects.order_by("-pk").first().facts["parts"]
        self.assertAlmostEqual(parts["ruler_move"] * taken, ruled.parts["ruler_move"], delta=0.1)
        lines = {line.key: line for line in self.client.get(reverse("lesson")).context["lines"]}
        self.assertAlmostEqual(lines["ruler_move"].factor.mean, 1.5, delta=0.1)

    @long
    def test_a_quote_says_how_long_her_own_hand_takes_with_a_range(self):
        page = reverse("quotes", args=[self.job.pk])
        self.assertNotContains(self.client.get(page), "by your own hand")
        self.practise(1.5)
        answer = self.client.get(page)
        self.assertContains(answer, "by your own hand")
        hand, whole = answer.context["hand"], sum(leg.seconds for leg in self.now.legs)
        self.assertAlmostEqual(hand.mean / whole, 1.5, delta=0.12)
        self.assertTrue(hand.low < hand.mean < hand.high)
        # By hand: what the longest time brings an hour is the least.
        self.assertEqual(ByHand(7200, 3600, 14400, 30).hourly(100, 1), (20.0, 50.0))
        worst, best = answer.context["hourly"]
        self.assertLess(worst, best)

    @long
    def test_motifs_that_cost_more_and_threads_that_break_are_named(self):
        legs = self.now.legs
        ruled = [leg for leg in legs if "rosshatch" in leg.title and leg.kind == "fill"]
        free = [leg for leg in legs if leg.kind == "fill" and "ruler_move" not in leg.parts][:2]
        self.send(*(self.tap("done", leg.number, lasted=1.4 * leg.seconds) for leg in ruled))
        self.send(
            *(self.tap("done", leg.number, lasted=0.8 * leg.seconds) for leg in free), device="b"
        )
        self.send(self.tap("broke", ruled[0].number, text="to the left"))
        with mock.patch("studio.stitching.habits.FEWEST", 1):
            page = self.client.get(reverse("lesson"))
        # By hand: every one took 1.4 times as long.
        self.assertContains(page, "Costs 40% more time than is charged for")
        self.assertContains(page, "Goes well: 20% quicker")
        ((name, broke),) = page.context["breaking"]
        self.assertEqual((broke.times, broke.words), (1, ("to the left",)))
        inches = sum(leg.inches for leg in (*ruled, *free) if leg.thread == ruled[0].thread)
        self.assertAlmostEqual(broke.every_yards, inches / 36, delta=1)
        self.assertContains(page, f"<b>{name}</b> 1 time,")

    def test_what_says_too_little_cannot_be_taken(self):
        answer = self.client.post(reverse("take-lesson"), {"key": ["cut"]})
        self.assertContains(answer, "at least one line", status_code=422)
        self.assertContains(self.client.get(reverse("lesson")), "Nothing is timed yet")

    @long
    def test_another_studio_learns_nothing_from_this_one(self):
        self.practise(2)
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        self.assertContains(self.client.get(reverse("lesson")), "Nothing is timed yet")


def make_rates(job):
    """The rates of a job's document, its rulers left out."""
    job = Job.objects.select_related("head").get(pk=job.pk)
    return core_job(job).machine.rates


class CaseTests(TestCase):
    def test_taps_stand_for_something(self):
        from studio.stitching.following import STANDS

        self.assertTrue(set(STANDS) <= {kind for kind, _ in Tap.KINDS})


class SettingTests(TapCase):
    """How the machine is set: kept with the taps, proposed on the next quilt, found in the book."""

    def plan_of(self, job):
        return self.client.get(reverse("stitch-plan", args=[job.pk])).json()

    @long
    def test_it_is_kept_for_its_thread_and_kind_of_work_and_proposed_on_the_next_quilt(self):
        leg = next(leg for leg in self.now.legs if "ruler_move" in leg.parts)
        told = {"mode": "regulated", "needle": "4.0", "speed": "", "wings": "2"}
        self.send(self.tap("set", leg.number, settings=told))
        key = f"{leg.thread}/ruler"
        kept = self.plan_of(self.job)["settings"]
        self.assertEqual(
            kept, {key: {"settings": {"mode": "regulated", "needle": "4.0"}, "of": ""}}
        )
        # Nothing is done by it.
        self.assertNotIn("x", self.now.stands)
        other = make_job(self.studio, self.anna)
        make_plan(other)
        self.assertEqual(self.plan_of(other)["settings"][key]["of"], "A small top")
        found = self.client.get(reverse("find"), {"q": "needle 4.0"})
        self.assertContains(found, "Set for indigo 40, by ruler")
        # What is set later counts.
        self.send(self.tap("set", leg.number, settings={"needle": "4.5"}))
        self.assertEqual(self.plan_of(self.job)["settings"][key]["settings"], {"needle": "4.5"})
        log = self.client.get(reverse("log", args=[self.job.pk])).context["log"]
        self.assertEqual((log.pieces, log.otherwise), ([], []))

    @long
    def test_what_says_nothing_is_refused(self):
        for settings in (None, {}, {"wings": "2"}, {"mode": "wild"}, [1], {"needle": "  "}):
            with self.subTest(settings):
                refused = self.send(self.tap("set", 0, settings=settings))["refused"]
                self.assertIn("how the machine is set", next(iter(refused.values())))
        self.send(self.tap("set", 0, settings={"foot": "x" * 900}))
        self.assertEqual(len(Tap.objects.get().facts["settings"]["foot"]), 40)


class ChangingTests(TapCase):
    """Another design, chosen at the machine."""

    def fills(self):
        """Legs in alike zones of one entry, each in a zone of its own."""
        areas = {each.id: (round(each.polygon.area, 1), len(each.polygon.exterior.coords))
                 for each in self.core.zones}  # fmt: skip
        legs = [leg for leg in self.now.legs if leg.kind == "fill" and len(self.zones(leg)) == 1]
        kinds = [(leg.entry, areas[next(iter(self.zones(leg)))]) for leg in legs]
        [(most, times)] = Counter(kinds).most_common(1)
        self.assertGreater(times, 2)
        return [leg for leg, kind in zip(legs, kinds, strict=True) if kind == most]

    def card(self, leg, **more):
        return self.client.get(reverse("change-card", args=[self.job.pk]),
                               {"plan": self.plan.pk, "leg": leg, **more})  # fmt: skip

    def keep(self, leg, status=200, **more):
        values = {"plan": self.plan.pk, "leg": leg, "base": self.job.head.number, **more}
        answer = self.client.post(reverse("change-design", args=[self.job.pk]), values)
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer

    def zones(self, leg):
        return {run.rsplit("/", 2)[0] for run in leg.runs}

    @long
    def test_here_only_and_what_is_stitched_stays(self):
        first, second, *_ = self.fills()
        self.send(*(self.tap("done", leg) for leg in range(first.number + 1)))
        entry = self.core.entry_of()[next(iter(self.zones(first)))]
        self.keep(second.number, design="loops", whom="here")
        core = core_job(Job.objects.get(pk=self.job.pk))
        owner = core.entry_of()
        self.assertEqual({owner[zone] for zone in self.zones(first)}, {entry})
        changed = {owner[zone] for zone in self.zones(second)}
        self.assertEqual(len(changed), 1)
        made = next(e for e in core.legend if e.id in changed)
        self.assertEqual(made.layers[-1].design, "loops")
        self.assertEqual(set(made.zones), self.zones(second))
        # The rest is planned without what is stitched, and with the new design.
        plan = plan_of(Job.objects.get(pk=self.job.pk))
        carry_out(plan)
        runs = {run for leg in self.now.legs for run in leg.runs}
        self.assertTrue(any(run.startswith(zone) for zone in made.zones for run in runs))
        self.assertFalse(runs & set(first.runs))

    def test_all_its_sisters_still_to_come(self):
        first, second, *more = self.fills()
        self.send(*(self.tap("done", leg) for leg in range(first.number + 1)))
        self.keep(second.number, design="loops", whom="all")
        core = core_job(Job.objects.get(pk=self.job.pk))
        made = next(e for e in core.legend if e.layers[-1].design == "loops")
        self.assertTrue(self.zones(more[-1]) | self.zones(second) <= set(made.zones))
        self.assertFalse(self.zones(first) & set(made.zones))

    @long
    def test_a_setting_is_stepped_and_the_drawing_follows(self):
        area = {zone.id: zone.polygon.area for zone in self.core.zones}
        fills = [leg for leg in self.now.legs if leg.kind == "fill"]
        leg = max(fills, key=lambda each: max(area[zone] for zone in self.zones(each))).number
        before = self.card(leg, design="parallel").content.decode()
        said = {"design": "parallel", "of": "parallel", "set_spacing": "1"}
        more = self.card(leg, step="spacing:more", **said).content.decode()
        less = self.card(leg, step="spacing:less", **said).content.decode()
        paths = [
            re.search(r'<path d="(M[^"]*)" fill="none"', each)[1] for each in (before, more, less)
        ]
        self.assertEqual(len(set(paths)), 3)
        # Wider lines are fewer.
        self.assertLess(len(paths[1]), len(paths[2]))
        wrong = self.card(leg, **{**said, "set_spacing": "a foot or so"}).content.decode()
        self.assertIn('role="alert"', wrong)

    def test_what_has_no_design_of_its_own_or_is_followed_no_more_says_so(self):
        ditch = next(leg.number for leg in self.now.legs if leg.kind == "ditch")
        for leg, plan in (
            (ditch, self.plan.pk),
            (10**6, self.plan.pk),
            ("x", self.plan.pk),
            (0, "z"),
        ):
            answer = self.client.get(
                reverse("change-card", args=[self.job.pk]), {"plan": plan, "leg": leg}
            )
            self.assertEqual(answer.status_code, 200)
            self.assertRegex(answer.content.decode(), r'role="alert">[A-Z][^<]+\.')
        good = self.fills()[0].number
        self.keep(good, 422, design="dance", whom="here")
        self.keep(good, 409, design="loops", whom="here", base=self.job.head.number + 5)
        self.assertEqual(core_job(Job.objects.get(pk=self.job.pk)), self.core)
