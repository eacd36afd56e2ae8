"""Changes from the work view: revisions, undo, conflicts, designs."""

import json
import re
import struct
from dataclasses import replace
from datetime import timedelta
from unittest import mock

from django.db import connection
from django.test import TestCase, TransactionTestCase
from django.urls import reverse
from django.utils import timezone

from chorograph_core.designs import designs
from chorograph_core.designs.legend import main_layer
from chorograph_core.tests import long
from studio.jobs.models import Body, Job, Revision
from studio.jobs.revisions import Conflict, change_job, core_job, redo, undo
from studio.routes.models import Plan
from studio.tests.helpers import make_job, make_plan, make_studio


def unpack(data: bytes):
    (length,) = struct.unpack("<I", data[:4])
    return json.loads(data[4 : 4 + length]), (len(data) - 4 - length) // 4


class WorkCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna, cls.berta) = make_studio("Loft", "anna", "berta")
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)

    def post(self, view, *arguments, **values):
        values.setdefault("base", Job.objects.get(pk=self.job.pk).head.number)
        return self.client.post(reverse(view, args=[self.job.pk, *arguments]), values)

    def core(self):
        return core_job(Job.objects.select_related("head").get(pk=self.job.pk))


class RevisionTests(WorkCase):
    def titled(self, base, title, author=None):
        return change_job(
            self.job.pk, base, author or self.anna, lambda c: replace(c, title=title), f"to {title}"
        )

    def test_undo_and_redo_walk_through_every_change(self):
        for number, title in enumerate(["one", "two", "three"], 1):
            self.titled(number, title)
        titles = []
        base = 4
        for step in (undo, undo, redo, undo, undo, redo, redo, redo):
            base = step(self.job.pk, base, self.anna).number
            titles.append(self.core().title)
        self.assertEqual(titles, ["two", "one", "two", "one", "A small top", "one", "two", "three"])
        self.assertEqual(Revision.objects.filter(job=self.job).count(), 12)
        self.assertEqual(Body.objects.count(), 4)

    def test_a_new_change_ends_the_redo(self):
        self.titled(1, "one")
        undo(self.job.pk, 2, self.anna)
        self.titled(3, "other")
        self.assertEqual(self.post("step-back", "redo").status_code, 422)

    def test_revisions_are_never_altered(self):
        revision = self.titled(1, "one")
        with self.assertRaises(TypeError):
            revision.save()

    def test_the_later_of_two_people_is_told_and_nothing_is_lost(self):
        self.titled(1, "anna's", self.anna)
        with self.assertRaises(Conflict) as caught:
            self.titled(1, "berta's", self.berta)
        self.assertEqual([r.summary for r in caught.exception.since], ["to anna's"])
        self.assertEqual(self.core().title, "anna's")
        zone = self.core().zones[0].id
        answer = self.post("change", "ban", zones=zone, base=1)
        self.assertContains(answer, "to anna&#x27;s", status_code=409)
        self.assertEqual(self.core().title, "anna's")

    def test_a_change_that_changes_nothing_is_no_revision(self):
        self.assertEqual(self.titled(1, "A small top").number, 1)


class ConcurrencyTests(TransactionTestCase):
    def test_two_at_the_very_same_moment(self):
        from concurrent.futures import ThreadPoolExecutor

        studio, (anna,) = make_studio()
        job = make_job(studio, anna)

        def attempt(title):
            try:
                change_job(job.pk, 1, anna, lambda c: replace(c, title=title), title)
                return "done"
            except Conflict:
                return "told"
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            results = sorted(pool.map(attempt, "abcd"))
        self.assertEqual(results, ["done", "told", "told", "told"])
        self.assertEqual(job.revisions.count(), 2)


class DrawerTests(WorkCase):
    def values(self, **more):
        zone = self.core().zones[0].id
        return {"zones": zone, "design": "crosshatch", "thread": "indigo", "set_spacing": "1/2",
                "ditch": "on", "ditch_thread": "clear", **more}  # fmt: skip

    def test_a_preview_draws_without_changing_anything(self):
        wide = self.post("preview", **self.values(set_spacing="1"))
        tight = self.post("preview", **self.values(set_spacing="1/2"))
        (wide_header, wide_count), (header, count) = unpack(wide.content), unpack(tight.content)
        self.assertGreater(count, wide_count)
        self.assertEqual(sum(sum(g["lines"]) for g in header) * 2, count)
        self.assertEqual({g["thread"] for g in wide_header}, {"clear", "indigo"})
        self.assertEqual(Revision.objects.filter(job=self.job).count(), 1)

    def test_keeping_moves_the_zone_into_the_entry(self):
        values = self.values(name="Middles")
        self.assertEqual(self.post("keep", **values).status_code, 204)
        core = self.core()
        entry = next(e for e in core.legend if e.name == "Middles")
        self.assertEqual([layer.design for layer in entry.layers], ["ditch", "crosshatch"])
        self.assertEqual(core.entry_of()[values["zones"]], entry.id)
        self.assertEqual(self.post("change", "drop", entry=entry.id).status_code, 204)
        self.assertNotIn(entry.id, {e.id for e in self.core().legend})

    def test_settings_that_cannot_be_name_their_field(self):
        for values, field in [
            ({"set_spacing": "wide"}, "set_spacing"), ({"set_spacing": "99"}, "set_spacing"),
            ({"spi": "300"}, "spi"), ({"design": "unheard"}, "design"), ({"thread": "gold"}, "thread"),
            ({"passes": "x"}, "passes"), ({"breathing": "on", "breathing_first": "0"}, "breathing_first"),
        ]:  # fmt: skip
            for name in ("preview", "keep"):
                with self.subTest(field, name=name):
                    answer = self.post(name, **self.values(**values))
                    self.assertContains(answer, f'data-field="{field}"', status_code=422)

    @long
    def test_the_drawer_says_what_suits(self):
        address = reverse("drawer", args=[self.job.pk])
        zone = next(z.id for z in self.core().zones if z.id.startswith("z:border1"))
        answer = self.client.get(address, {"zones": zone})
        self.assertContains(answer, "What suits here, best first")
        found = []
        for rest in ("", "1"):
            tray = self.client.get(
                reverse("tray", args=[self.job.pk]), {"zones": zone, "rest": rest}
            )
            found.append(
                re.findall(
                    r'data-design="(\w+)".*?<path d="([^"]*)" class="line"',
                    tray.content.decode(),
                    re.S,
                )
            )
            self.assertEqual("data-more" in tray.content.decode(), not rest)
        tiles = [*found[0], *found[1]]
        # What is seen at once comes first; each comes once.
        self.assertEqual((len(found[0]), len(tiles)), (12, len({key for key, _ in tiles})))
        shipped = {key for key, each in designs().items() if not each.own}
        self.assertEqual({key for key, _ in tiles}, shipped)
        self.assertIn("half_feather", [key for key, _ in tiles[:6]])
        self.assertGreater(sum(bool(path) for _, path in tiles), 15)
        self.assertContains(self.client.get(address, {"zones": ""}), "Choose at least one")
        self.assertContains(self.client.get(address, {"zones": "z:gone"}), "no longer there")

    def test_a_tile_that_is_taken_brings_its_own_settings_only(self):
        zone = self.core().zones[0].id
        answer = self.client.get(
            reverse("drawer", args=[self.job.pk]),
            {"zones": zone, "design": "chevrons", "part": "chosen"},
        )
        self.assertContains(answer, 'name="set_begun"')
        self.assertContains(answer, 'id="d-design" name="design" value="chevrons"')
        self.assertNotContains(answer, 'id="tray"')

    def test_what_is_laid_as_one_is_proposed_for_all_that_it_goes_over(self):
        """Waves in a patch are no longer than that; over all of its block they are as long as a ruler's."""
        core = self.core()
        block = [
            zone.id for zone in core.zones if core.chart.patch(zone.patches[0]).block == (0, 0)
        ]
        form = {"zones": ",".join(block), "design": "waves", "part": "chosen"}
        alone, as_one = (
            self.client.get(reverse("drawer", args=[self.job.pk]), {**form, "over": over})
            for over in ("zone", "region")
        )
        self.assertContains(as_one, '<option value="region" selected>')
        self.assertContains(as_one, "data-proposed")
        first, second = (
            {row["parameter"].key: row["text"] for row in answer.context["settings"]}
            for answer in (alone, as_one)
        )
        self.assertNotEqual(first, second)

    def test_of_places_that_differ_figures_are_those_of_the_largest(self):
        zones = sorted(self.core().zones, key=lambda zone: zone.polygon.area)
        small, large = zones[0].id, zones[-1].id
        values = {"design": "parallel", "set_spacing": "1/2", "set_chord": "", "set_height": ""}
        alone = self.post("figures", **self.values(zones=large, **values))
        both = self.post("figures", **self.values(zones=f"{small},{large}", **values))
        self.assertContains(both, "in the largest")
        self.assertEqual(both.context["told"].rulers, alone.context["told"].rulers)
        self.assertNotContains(alone, "in the largest")

    def test_figures_say_layings_minutes_and_what_no_ruler_stitches(self):
        zone = next(z.id for z in self.core().zones if z.id.startswith("z:border1"))
        values = self.values(
            zones=zone, design="scallops", set_spacing="", set_chord="3", set_height="1"
        )
        answer = self.post("figures", **values)
        self.assertContains(answer, "layings")
        told = answer.context["told"]
        # Nodes at both ends of every arc of the side, four seconds each.
        self.assertIn("3 arcs", told.notes[0])
        self.assertEqual(told.dots, 4)
        self.assertAlmostEqual(told.marking, (told.dots * 4 + told.marked * 0.5) / 60)
        self.assertContains(answer, f"{told.dots} dots")
        self.assertContains(answer, "No edge of yours stitches a radius of 1 5/8″")
        # What is said of the design above its settings goes with them.
        self.assertContains(answer, 'id="design-fit" class="text-sm text-soft" hx-swap-oob="true"')
        wider = self.post("figures", **{**values, "set_chord": "4 1/2"})
        self.assertNotEqual(answer.context["fit"].reasons, wider.context["fit"].reasons)
        self.assertEqual(self.post("figures", **self.values(set_spacing="wide")).content, b"")

    def test_notes_of_a_design_are_read_in_centimetres_where_the_studio_writes_so(self):
        self.studio.units = "cm"
        self.studio.save()
        zone = next(z.id for z in self.core().zones if z.id.startswith("z:border1"))
        values = self.values(zones=zone, design="swirls", set_spacing="", set_size="1.5")
        answer = self.post("figures", **values)
        self.assertIn("apart", answer.context["told"].notes[0])
        self.assertContains(answer, "cm apart")
        self.assertNotContains(answer, "″")

    def test_figures_are_those_of_the_legend(self):
        zones = ",".join(z.id for z in self.core().zones if z.id.startswith("z:border1"))
        values = self.values(zones=zones, name="Border")
        told = self.post("figures", **values).context["told"]
        self.assertEqual(self.post("keep", **values).status_code, 204)
        page = self.client.get(reverse("work", args=[self.job.pk]))
        line = next(each for each in page.context["lines"] if each.name == "Border")
        self.assertAlmostEqual(told.minutes, line.minutes, places=6)
        self.assertAlmostEqual(told.density, line.density, places=6)
        # Thread by hand: lines and ditches, a little more than once their inches.
        self.assertGreater(told.thread, line.density * 4 * 3 * 18)

    def test_a_motif_may_have_a_ground_round_it_that_stays(self):
        values = {
            **self.values(),
            "design": "circles",
            "set_spacing": "",
            "ground": "crosshatch",
            "name": "Rings",
        }
        self.assertEqual(self.post("keep", **values).status_code, 204)
        entry = next(e for e in self.core().legend if e.name == "Rings")
        self.assertEqual(
            [layer.design for layer in entry.layers], ["ditch", "circles", "crosshatch"]
        )
        self.assertEqual(entry.layers[main_layer(entry)].design, "circles")
        drawer = self.client.get(reverse("drawer", args=[self.job.pk]), {"entry": entry.id})
        self.assertContains(drawer, '<option value="crosshatch" selected>')
        self.assertContains(drawer, 'value="circles"')
        told = self.post("keep", **{**values, "entry": entry.id, "ground": "ditch"})
        self.assertContains(told, "Choose what is laid round it", status_code=422)

    def test_the_first_one_only_leaves_its_sisters_as_they_are(self):
        zones = [z.id for z in self.core().zones[:3]]
        values = self.values(zones=",".join(zones), only="first", name="A test")
        self.assertEqual(self.post("keep", **values).status_code, 204)
        entry = next(e for e in self.core().legend if e.name == "A test")
        self.assertEqual(entry.zones, (zones[0],))

    def test_kinds_of_place_come_first(self):
        page = self.client.get(reverse("work", args=[self.job.pk]), {"stage": "zones"})
        self.assertContains(page, "Kinds of place")
        places = page.context["places"]
        ids = [zone for each in places for zone in each["zones"]]
        self.assertEqual(sorted(ids), sorted(z.id for z in self.core().zones))
        self.assertContains(page, "border sides")

    def test_the_sides_of_a_border_are_one_kind_whatever_their_lengths(self):
        """Butted: two of 46" and two of 41" one way, all 2 1/2" wide."""
        sides = [each for each in self.client.get(
            reverse("work", args=[self.job.pk]), {"stage": "zones"}).context["places"]
            if each["name"] == "border sides"]  # fmt: skip
        borders = {zone.id.split(".")[0] for zone in self.core().zones if ".top" in zone.id}
        self.assertEqual(len(sides), len(borders))
        for each in sides:
            self.assertEqual(len(each["zones"]), 4)
            lengths = {round(max(zone.polygon.bounds[2] - zone.polygon.bounds[0],
                                 zone.polygon.bounds[3] - zone.polygon.bounds[1]), 6)
                       for zone in self.core().zones if zone.id in each["zones"]}  # fmt: skip
            self.assertEqual((round(each["least"], 6), round(each["most"], 6)),
                             (min(lengths), max(lengths)))  # fmt: skip

    def test_all_linework_is_packed(self):
        header, count = unpack(self.client.get(reverse("linework", args=[self.job.pk])).content)
        self.assertEqual({g["entry"] for g in header}, {e.id for e in self.core().legend})
        self.assertEqual(sum(sum(g["lines"]) for g in header) * 2, count)


class PlanTests(WorkCase):
    def test_planning_goes_to_the_worker_and_comes_back(self):
        with self.captureOnCommitCallbacks(execute=True):
            self.assertContains(self.post("plan"), "waiting for the worker")
        plan = Plan.objects.get(job=self.job)
        self.assertEqual(plan.state, "queued")
        from studio.routes.tasks import plan_route

        plan_route(plan_id=plan.pk)
        state = self.client.get(reverse("plan-state", args=[self.job.pk]))
        self.assertEqual(state["HX-Trigger"], "board-changed")
        self.assertContains(state, "no route from place to place can lose less than")
        plan.refresh_from_db()
        self.assertEqual(plan.figures["replay"], "clean")

    def test_a_plan_whose_worker_fell_silent_can_be_asked_for_again(self):

        from django.utils import timezone

        self.post("plan")
        state = reverse("plan-state", args=[self.job.pk])
        self.assertContains(self.client.get(state), "Planning…")
        old = timezone.now() - timedelta(minutes=9)
        Plan.objects.filter(job=self.job).update(state="running", heard_of=old)
        self.assertContains(self.client.get(state), "broke off")
        with self.captureOnCommitCallbacks(execute=True) as calls:
            self.assertContains(self.post("plan"), "Planning…")
        self.assertEqual(len(calls), 1)

    @long
    def test_a_change_makes_the_route_stale(self):
        make_plan(self.job)
        self.assertEqual(self.client.get(reverse("run-sheet", args=[self.job.pk])).status_code, 200)
        self.post("change", "ban", zones=self.core().zones[0].id)
        self.assertEqual(self.client.get(reverse("run-sheet", args=[self.job.pk])).status_code, 404)
        self.post("step-back", "undo")
        self.assertEqual(self.client.get(reverse("run-sheet", args=[self.job.pk])).status_code, 200)

    def test_steps_are_packed_with_all_their_points(self):
        plan = make_plan(self.job)
        header, count = unpack(self.client.get(reverse("plan-steps", args=[self.job.pk])).content)
        self.assertEqual(len(header["steps"]), len(plan.route()["steps"]))
        self.assertEqual(sum(row[5] for row in header["steps"]) * 2, count)

    @long
    def test_a_plan_by_an_older_engine_is_made_again(self):
        plan = make_plan(self.job)
        Plan.objects.filter(pk=plan.pk).update(engine="of old")
        self.assertEqual(self.client.get(reverse("run-sheet", args=[self.job.pk])).status_code, 404)
        again = make_plan(self.job)
        self.assertNotEqual(again.engine, "of old")
        self.assertEqual(self.client.get(reverse("run-sheet", args=[self.job.pk])).status_code, 200)

    def test_the_route_as_files(self):
        make_plan(self.job)
        svg = self.client.get(reverse("route-svg", args=[self.job.pk])).content
        self.assertIn(b"1 user unit is 1 inch", svg)
        route = json.loads(self.client.get(reverse("route-json", args=[self.job.pk])).content)
        self.assertEqual(route["figures"]["replay"], "clean")

    def test_a_plan_can_be_left_off_and_asked_for_again(self):
        from studio.routes import planning

        self.post("plan")
        self.assertContains(self.post("plan-leave"), "Plan the route")
        plan = Plan.objects.get(job=self.job)
        planning.carry_out(plan)
        plan.refresh_from_db()
        self.assertEqual((plan.state, plan.figures), ("left", {}))
        self.assertContains(self.post("plan"), "waiting for the worker")
        planned = planning.planned_job

        def slow(core, cache, tell, state, bound=True, found=None):
            def told(share, what):
                planning.leave_off(self.job)
                tell(share, what)

            return planned(core, cache, told, state)

        with mock.patch.object(planning, "planned_job", slow):
            planning.carry_out(Plan.objects.get(job=self.job))
        self.assertEqual(Plan.objects.get(job=self.job).state, "left")
        self.post("plan")
        planning.carry_out(Plan.objects.get(job=self.job))
        done = Plan.objects.get(job=self.job)
        self.assertEqual((done.state, done.improving), ("done", False))

    def ask_for_a_better_one(self):
        """A plan in which more than a first answer is looked for."""
        change_job(
            self.job.pk, 1, self.anna,
            lambda core: replace(core, policy=replace(core.policy, effort=1)), "looked longer",
        )  # fmt: skip
        self.post("plan")

    def test_a_first_answer_is_there_while_a_better_one_is_looked_for(self):
        from studio.routes import planning

        self.ask_for_a_better_one()
        planned, seen = planning.planned_job, []

        def watched(core, cache, tell, state, bound=True, found=None):
            if core.policy.effort:
                # The first answer is on the page by now, and stays when she takes it.
                shown = self.client.get(reverse("plan-state", args=[self.job.pk]))
                again = self.client.get(
                    reverse("plan-state", args=[self.job.pk]), {"shown": "first"}
                )
                seen.append((shown, again, Plan.objects.get(job=self.job)))
                self.post("plan-leave")
            return planned(core, cache, tell, state)

        with mock.patch.object(planning, "planned_job", watched):
            planning.carry_out(Plan.objects.get(job=self.job))
        shown, again, first = seen[0]
        self.assertContains(shown, "A first answer")
        self.assertEqual(shown["HX-Trigger"], "board-changed")
        self.assertNotIn("HX-Trigger", again)
        self.assertEqual((first.improving, first.figures["replay"]), (True, "not yet"))
        kept = Plan.objects.get(job=self.job)
        self.assertEqual((kept.state, kept.improving), ("done", False))
        self.assertEqual(kept.figures["replay"], "clean")
        self.assertEqual(kept.figures["minutes"], first.figures["minutes"])

    def test_the_best_is_shown_as_soon_as_it_is_found_and_proved_afterwards(self):
        from studio.routes import planning

        self.ask_for_a_better_one()
        bounded, seen = planning.Route.bounded, []

        def watched(route):
            asked = [self.client.get(reverse("plan-state", args=[self.job.pk]), {"shown": shown})
                     for shown in ("first", "found")]  # fmt: skip
            panel = self.client.get(reverse("plan-panel", args=[self.job.pk]))
            seen.append((*asked, panel, Plan.objects.get(job=self.job)))
            return bounded(route)

        with mock.patch.object(planning.Route, "bounded", watched):
            planning.carry_out(Plan.objects.get(job=self.job))
        fresh, again, panel, found = seen[0]
        self.assertContains(fresh, "it is being proved")
        self.assertContains(fresh, "is still worked out")
        self.assertEqual(fresh["HX-Trigger"], "board-changed")
        self.assertNotIn("HX-Trigger", again)
        self.assertContains(panel, "…</td>")
        self.assertEqual((found.shown, found.lost), ("found", False))
        proved = Plan.objects.get(job=self.job)
        self.assertEqual((proved.shown, proved.figures["replay"]), ("proved", "clean"))
        # The same route, under the same name: nothing of it is fetched again.
        same = ("minutes", "lost_minutes", "cuts", "steps")
        for key in same:
            self.assertEqual(proved.figures.get(key), found.figures.get(key), key)
        self.assertEqual(proved.named(""), found.named(""))
        self.assertGreater(
            proved.figures["floor_lost_minutes"], found.figures["floor_lost_minutes"]
        )
        # What is open beside the sheet stays as it is but for the figures that are known now.
        told = self.client.get(reverse("plan-state", args=[self.job.pk]), {"shown": "found"})
        self.assertContains(told, "can lose less than")
        self.assertEqual(told["HX-Trigger"], "route-proved")
        self.assertContains(panel, "route-proved from:body, load")
        panel = self.client.get(reverse("plan-panel", args=[self.job.pk]))
        self.assertNotContains(panel, "route-proved from:body")
        self.assertNotContains(panel, "…</td>")

    def test_a_first_answer_whose_worker_was_killed_can_be_planned_again(self):

        from studio.jobs.in_hand import SILENCE
        from studio.routes.models import NOT_YET

        plan = make_plan(self.job)
        long_ago = timezone.now() - timedelta(seconds=SILENCE + 1)
        Plan.objects.filter(pk=plan.pk).update(
            improving=True, figures={**plan.figures, "replay": NOT_YET}, heard_of=long_ago
        )
        state = self.client.get(reverse("plan-state", args=[self.job.pk]), {"shown": "found"})
        self.assertContains(state, "broke off")
        self.assertContains(state, "Plan again")
        self.assertNotContains(state, "hx-trigger")
        self.post("plan")
        plan.refresh_from_db()
        self.assertEqual((plan.state, plan.improving), ("queued", False))

    def test_a_first_answer_stays_when_the_search_for_a_better_one_fails(self):
        from studio.routes import planning, tasks

        self.ask_for_a_better_one()
        planned = planning.planned_job

        def failing(core, cache, tell, state, bound=True, found=None):
            if core.policy.effort:
                raise MemoryError("gone")
            return planned(core, cache, tell, state)

        plan = Plan.objects.get(job=self.job)
        with mock.patch.object(planning, "planned_job", failing), self.assertRaises(MemoryError):
            tasks.plan_route(plan_id=plan.pk)
        plan.refresh_from_db()
        self.assertEqual((plan.state, plan.first, plan.lost), ("done", True, True))

    def test_a_plan_with_no_design_is_refused_in_words(self):
        for entry in self.core().legend:
            self.post("change", "drop", entry=entry.id)
        self.assertContains(self.post("plan"), "Give at least one zone a design")


class StrangeLettersTests(WorkCase):
    def test_letters_no_database_holds_are_left_out(self):
        entry = self.core().legend[0]
        form = {"zones": ",".join(entry.zones), "entry": entry.id, "design": "meander",
                "thread": "indigo", "name": "nul\0ls"}  # fmt: skip
        self.assertEqual(self.post("keep", **form).status_code, 204)
        self.assertEqual(self.core().legend[0].name, "nulls")
        self.assertEqual(self.post("book", text="a\0b").status_code, 302)
        self.assertEqual(self.job.book.first().text, "ab")
