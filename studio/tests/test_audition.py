"""Auditions: candidates in their place, one taken, the book told; a start for a whole quilt."""

import re
from dataclasses import replace

from django.test import TestCase
from django.urls import reverse

from chorograph_core.choosing import (
    LEVELS,
    Custom,
    Heard,
    Setting,
    balance_of,
    heard,
    proposed_legend,
    ranked,
    reasons_for,
    setting_of,
)
from chorograph_core.choosing.hearing import lightness
from chorograph_core.choosing.proposing import candidate, space_in
from chorograph_core.choosing.setting_out import Beside
from chorograph_core.designs import designs
from chorograph_core.designs.legend import Layer
from chorograph_core.estimating import Batting
from chorograph_core.job import job_linework
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import zones_from_patches
from studio.audition.cards import panels
from studio.audition.custom import custom_of
from studio.jobs.revisions import core_job
from studio.papers.models import Paper
from studio.papers.tasks import print_paper
from studio.tests.helpers import make_job, make_studio


def bare(core):
    """A job without a legend."""
    return replace(core, zones=tuple(zones_from_patches(core.chart)), legend=())


def place_like(density: float, **more) -> Setting:
    """A plain place beside one neighbour as dense as told."""
    core = bare(designed(small_top()))
    made = setting_of(core, [core.zones[0].id], [])
    beside = (Beside("n", "Stars", "crosshatch", "ruler", density, 0.0),) if density else ()
    return replace(made, **{"beside": beside, "busy": 0.0, "gap": 0.0, **more})


def voice(key: str, density: float, gap: float = 1.0) -> Heard:
    """A candidate with figures of one's own."""
    layer = Layer(key, {}, "indigo")
    return Heard((layer,), (), 0.7, (), density, gap, 10.0, 0, 5.0, 0.5)


class ReasonTests(TestCase):
    def texts(self, one, place, level=LEVELS[1]):
        return " ".join(reason.text for reason in reasons_for(one, place, level))

    def test_appliqué_is_stitched_as_little_as_holds_it(self):
        sewn = place_like(0, role="applique")
        self.assertIn(
            "hold the appliqué and leave it open", self.texts(voice("inset_echo", 0.5), sewn)
        )
        close = "closer than it takes to hold the appliqué"
        self.assertIn(close, self.texts(voice("swirls", 3.0), sewn))
        said = [
            next(each.weight for each in reasons_for(voice("swirls", dense), sewn, LEVELS[0])
                 if close in each.text)
            for dense in (1.5, 2.0, 3.0)
        ]  # fmt: skip
        self.assertEqual(said, sorted(said, reverse=True))
        self.assertEqual(len(set(said)), 3)
        self.assertNotIn("appliqué", self.texts(voice("swirls", 3.0), place_like(0)))

    def test_a_full_border_wants_what_takes_it_up(self):
        full = place_like(0, full=0.02, loft=0.125)
        self.assertIn("takes up the 2.0%", self.texts(voice("swirls", 2.5), full))
        self.assertIn("would ease it", self.texts(voice("swirls", 0.8), full))

    def test_thread_that_is_not_there_and_what_the_hand_knows(self):
        custom = Custom({"indigo": 5.0}, {"swirls": 3, "meander": 1}, 6)
        place = place_like(0, custom=custom)
        long = replace(voice("swirls", 2.0), thread=36 * 8.0)
        self.assertIn("needs 8 yd of its thread; 5 yd are on the shelf", self.texts(long, place))
        self.assertIn("in 3 of your last 6 quilts", self.texts(long, place))
        short = replace(voice("meander", 2.0), thread=36 * 4.0)
        self.assertNotIn("shelf", self.texts(short, place))
        self.assertNotIn("quilts", self.texts(short, place))

    def test_a_busy_print_hides_fine_work_and_plain_cloth_shows_it(self):
        fine = voice("swirls", 3.0)
        self.assertIn("hides work as fine", self.texts(fine, place_like(0, busy=0.8)))
        self.assertIn("is plain: fine work shows", self.texts(fine, place_like(0)))

    def test_twice_as_dense_stands_out_and_alike_melts(self):
        self.assertIn(
            "2.5 times as dense as Stars", self.texts(voice("swirls", 2.5), place_like(1.0))
        )
        self.assertIn("4.0 times less dense", self.texts(voice("swirls", 0.5), place_like(2.0)))
        self.assertIn("melt into each other", self.texts(voice("parallel", 2.0), place_like(2.0)))
        self.assertIn("another kind of line", self.texts(voice("swirls", 2.0), place_like(2.0)))

    def test_what_the_batting_forbids_weighs_most(self):
        said = reasons_for(voice("swirls", 2.0, gap=3.5), place_like(0, gap=3.0), LEVELS[1])
        self.assertIn("leaves 3 1/2″ open; the batting holds up to 3″", said[0].text)
        self.assertLess(said[0].weight, -0.4)

    def test_two_busy_fills_want_a_breathing_line(self):
        place = place_like(0)
        beside = (Beside("n", "Curls", "curls", "freehand", 3.4, 0.0),)
        told = self.texts(voice("swirls", 4.0), replace(place, beside=beside))
        self.assertIn("breathing line", told)

    def test_lightness_is_that_of_the_standard(self):
        # CIE L* of middle grey #777777 is 50.0, of pure red 53.2.
        self.assertAlmostEqual(lightness("#777777"), 50.03, delta=0.1)
        self.assertAlmostEqual(lightness("#ff0000"), 53.24, delta=0.1)


class BalanceTests(TestCase):
    def test_the_mean_is_all_inches_over_all_of_the_quilt(self):
        core = designed(small_top())
        drawn = job_linework(core)
        found = balance_of(core, drawn)
        inches = sum(run.inches for one in drawn for run in one.linework.runs if not run.in_ditch)
        self.assertAlmostEqual(
            found.mean, inches / core.chart.outline.area, delta=0.01 * found.mean
        )
        part = {each.name: each.density for each in found.parts}
        for one, two in (("left half", "right half"), ("upper half", "lower half")):
            self.assertAlmostEqual((part[one] + part[two]) / 2, found.mean, delta=0.01)

    def test_an_edge_left_bare_waves_and_is_named(self):
        core = designed(small_top())
        legend = tuple(e for e in core.legend if e.id != "half_feather")
        core = core.with_legend(legend)
        found = balance_of(core, job_linework(core))
        self.assertIn("the edge will wave", " ".join(found.said))
        self.assertTrue(any("border" in each.name for each in found.outliers))


class HearingTests(TestCase):
    def test_figures_are_those_of_the_linework(self):
        core = bare(designed(small_top()))
        zone = max(core.zones, key=lambda z: z.polygon.area if z.polygon.area < 60 else 0)
        place = setting_of(core, [zone.id], [])
        layers = candidate(designs()["parallel"], space_in(core, place), LEVELS[1], "indigo")
        one = heard(core, place, layers)
        inches = sum(run.inches for work in one.drawn for run in work.runs)
        self.assertAlmostEqual(one.density, inches / zone.polygon.area, places=6)
        # The same two zones take twice as long as one.
        sisters = [z.id for z in core.zones if abs(z.polygon.area - zone.polygon.area) < 1e-9][:2]
        both = heard(core, setting_of(core, sisters, []), layers)
        self.assertAlmostEqual(both.minutes, len(sisters) * one.minutes, delta=0.02 * both.minutes)
        # By hand: each inch takes 1 + 10 stitches x 0.09 loft of top thread; tails come with the route.
        self.assertAlmostEqual(one.thread, inches * 1.9, delta=0.01 * one.thread)

    def test_a_ranking_is_in_order_and_has_both_kinds_of_work(self):
        core = bare(designed(small_top()))
        zone = max(core.zones, key=lambda z: z.polygon.area if z.polygon.area < 60 else 0)
        found = ranked(core, setting_of(core, [zone.id], []), LEVELS[1])
        scores = [one.score for one in found]
        self.assertEqual(scores, sorted(scores, reverse=True))
        self.assertEqual({one.design.family for one in found}, {"freehand", "ruler"})
        self.assertTrue(all(one.reasons for one in found))


class AuditionPageTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft")
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)
        core = core_job(self.job)
        squares = [z for z in core.zones if 4 < z.polygon.area < 40]
        self.ids = [z.id for z in squares if abs(z.polygon.area - squares[0].polygon.area) < 1e-9][
            :3
        ]
        self.query = {"zones": ",".join(self.ids)}

    def test_four_candidates_stand_in_their_place_with_figures_and_reasons(self):
        page = self.client.get(reverse("audition", args=[self.job.pk]), self.query)
        self.assertEqual(page.status_code, 200)
        self.assertEqual(len(page.context["shown"]), 4)
        for each in page.context["shown"]:
            self.assertTrue(each.paths, each.proposed.design.key)
        self.assertContains(page, "recommended", count=1)
        self.assertContains(page, "widest gap", count=4)

    def test_those_that_are_asked_for_are_heard_and_no_more_than_four(self):
        keys = ["meander", "swirls", "crosshatch", "loops", "pebbles", "nonsense"]
        page = self.client.get(
            reverse("audition", args=[self.job.pk]), {**self.query, "design": keys}
        )
        self.assertEqual([each.proposed.design.key for each in page.context["shown"]], keys[:4])

    def test_one_is_taken_and_the_book_says_what_was_heard(self):
        asked = {**self.query, "design": ["meander", "swirls"], "taken": "swirls", "level": "custom",
                 "base": self.job.head.number, "note": "she liked the round ones"}  # fmt: skip
        answer = self.client.post(reverse("audition-take", args=[self.job.pk]), asked)
        self.assertEqual(answer.status_code, 302)
        self.job.refresh_from_db()
        core = core_job(self.job)
        entry = next(e for e in core.legend if set(e.zones) == set(self.ids))
        self.assertEqual([layer.design for layer in entry.layers], ["ditch", "swirls"])
        line = self.job.book.filter(kind="note").first().text
        self.assertIn("Swirls taken; heard too: Meander. she liked the round ones", line)
        drawn = [one for one in job_linework(core) if one.entry == entry.id and one.role == "fill"]
        self.assertTrue(all(one.linework.runs for one in drawn))

    def test_the_first_one_only_leaves_its_sisters(self):
        asked = {**self.query, "taken": "meander", "base": self.job.head.number, "only": "first"}
        self.client.post(reverse("audition-take", args=[self.job.pk]), asked)
        self.job.refresh_from_db()
        entry = core_job(self.job).legend[-1]
        self.assertEqual(len(entry.zones), 1)

    @long
    def test_who_was_slower_is_told_and_nothing_is_kept(self):
        asked = {**self.query, "taken": "meander", "base": self.job.head.number}
        # In a second browser somebody takes another one first.
        self.client.post(reverse("audition-take", args=[self.job.pk]), {**asked, "taken": "swirls"})
        before = self.job.book.count()
        answer = self.client.post(reverse("audition-take", args=[self.job.pk]), asked)
        self.assertContains(
            answer, "Somebody changed the job meanwhile: Swirls in", status_code=409
        )
        self.assertEqual(self.job.book.count(), before)
        designs_of = {layer.design for e in self.fresh().legend if set(e.zones) == set(self.ids)
                      for layer in e.layers}  # fmt: skip
        self.assertEqual(designs_of, {"ditch", "swirls"})
        slow = {"level": "light", "what": "all", "base": 1}
        answer = self.client.post(reverse("proposal", args=[self.job.pk]), slow)
        self.assertContains(answer, "Somebody changed the job meanwhile", status_code=422)

    START = {"level": "light", "what": "all"}

    def tried(self):
        """The page of a start once the worker has had it in hand."""
        address = reverse("proposal", args=[self.job.pk])
        self.assertContains(self.client.get(address, self.START), "Trying what suits")
        asked = Paper.objects.get(job=self.job, kind="start-light-all")
        print_paper(paper_id=asked.pk, key=asked.key)
        return self.client.get(address, {**self.START, "wait": "1"})

    def test_a_start_is_waited_for_and_asked_for_once(self):
        address = reverse("proposal", args=[self.job.pk])
        page = self.client.get(address, self.START)
        self.assertContains(page, "wait=1")
        self.client.get(address, self.START)
        self.assertEqual(Paper.objects.filter(job=self.job).count(), 1)
        Paper.objects.update(share=0.4)
        page = self.client.get(address, {**self.START, "wait": "1"})
        self.assertContains(page, 'value="0.40"')
        self.assertFalse(page.context["told"])
        # Who waits for what broke off is told so, and may ask once more.
        Paper.objects.update(state="failed")
        page = self.client.get(address, {**self.START, "wait": "1"})
        self.assertContains(page, "Ask for it once more")
        self.assertEqual(Paper.objects.get().state, "failed")
        self.assertContains(self.client.get(address, self.START), "Trying what suits")
        self.assertEqual(Paper.objects.get().state, "queued")

    def test_how_far_a_start_is_is_told_kind_by_kind(self):
        core, shares = core_job(self.job), []
        proposed_legend(core.with_legend(()), LEVELS[0], tell=shares.append)
        self.assertGreater(len(shares), 3)
        self.assertEqual(shares, [k / len(shares) for k in range(len(shares))])

    def fresh(self):
        self.job.refresh_from_db()
        return core_job(self.job)

    @long
    def test_centimetres_everywhere(self):
        self.studio.units = "cm"
        self.studio.save()
        self.addCleanup(type(self.studio).objects.filter(pk=self.studio.pk).update, units="in")
        pages = [
            ("audition", self.query),
            ("balance", {}),
            ("proposal", {"level": "light", "what": "all"}),
        ]
        self.tried()
        for name, query in pages:
            page = self.client.get(reverse(name, args=[self.job.pk]), query)
            text = re.sub(r"<[^>]+>", " ", page.content.decode())
            with self.subTest(name):
                self.assertNotRegex(text, r"in/in²|″|inches a square|\binch")
                self.assertIn("cm/cm²", text)

    def test_the_balance_shows_every_zone(self):
        page = self.client.get(reverse("balance", args=[self.job.pk]))
        self.assertEqual(len(page.context["shapes"]), len(core_job(self.job).zones))
        self.assertContains(page, "outer ring".capitalize())

    def test_nonsense_is_answered_in_words(self):
        for query in (
            {},
            {"zones": "nobody"},
            {"zones": ""},
            {**self.query, "level": "x", "thread": "y"},
        ):
            page = self.client.get(reverse("audition", args=[self.job.pk]), query)
            self.assertIn(page.status_code, (200, 422))
        answer = self.client.post(
            reverse("audition-take", args=[self.job.pk]), {"zones": "x", "base": "y"}
        )
        self.assertEqual(answer.status_code, 422)

    @long
    def test_the_sheet_for_the_client_is_a_pdf(self):
        page = self.client.get(reverse("audition-pdf", args=[self.job.pk]), self.query)
        self.assertEqual(page["Content-Type"], "application/pdf")
        self.assertTrue(page.content.startswith(b"%PDF"))

    def test_the_studio_is_asked_for_its_shelf_and_its_last_quilts(self):
        for _ in range(2):
            make_job(self.studio, self.anna)
        self.studio.threads.create(key="indigo", name="i", weight=40, cone=1500, left=7)
        found = custom_of(self.job)
        self.assertEqual(found.quilts, 2)
        self.assertEqual(found.used["meander"], 2)
        self.assertEqual(found.at_hand["indigo"], 7.0)
        self.assertNotIn("ditch", found.used)
        # In every process the same, however it orders what it has no order for.
        self.assertEqual(list(found.used), sorted(found.used))
        self.assertGreater(len(found.used), 2)

    @long
    def test_a_motif_has_a_practice_sheet_true_to_size(self):
        for key in ("wishbone", "swirls"):
            page = self.client.get(reverse("practice", args=[key]))
            self.assertTrue(page.content.startswith(b"%PDF"), key)
        made = panels(designs()["wishbone"])
        self.assertEqual(
            [each.name for each in made][:3], ["lying, small", "lying, middle", "lying, large"]
        )
        self.assertEqual(made[0].size, (6.7, 1.2))
        self.assertTrue(all(each.numbers for each in made))
        for key in ("crosshatch", "nonsense"):
            self.assertEqual(self.client.get(reverse("practice", args=[key])).status_code, 404)

    @long
    def test_a_start_gives_every_zone_a_design_and_can_be_undone(self):
        asked = {"level": "light", "what": "all", "base": self.job.head.number}
        page = self.tried()
        self.assertTrue(page.context["told"])
        # The quilt is shown with it: as many lines as it then has, on all its patches.
        picture = reverse("proposal-picture", args=[self.job.pk])
        self.assertContains(page, f"{picture}?level=light&amp;what=all")
        shown = self.client.get(picture, {"level": "light", "what": "all"}).content.decode()
        before = core_job(self.job)
        answer = self.client.post(reverse("proposal", args=[self.job.pk]), asked)
        self.assertEqual(answer.status_code, 302)
        self.job.refresh_from_db()
        core = core_job(self.job)
        given = core.entry_of()
        self.assertTrue(
            all(zone.id in given for zone in core.zones if zone.id not in core.untouchable)
        )
        drawn = job_linework(core)
        self.assertEqual([one.fault for one in drawn if one.fault], [])
        self.assertEqual(shown.count("<path fill="), len(before.chart.patches))
        self.assertEqual(
            shown.count("<path stroke="), sum(bool(one.linework.runs) for one in drawn)
        )

    def test_a_batting_that_holds_three_inches_rules_wide_lines_out(self):
        core = core_job(self.job)
        core = replace(
            core, intake=replace(core.intake, batting=Batting("unbonded cotton", gap=3.0))
        )
        place = setting_of(core, self.ids, [])
        self.assertEqual(place.gap, 3.0)
        wide = ranked(core, place, LEVELS[0], only=["cross"])[0]
        if wide.heard.gap > 3.0:
            self.assertIn("the batting holds", " ".join(reason.text for reason in wide.reasons))
