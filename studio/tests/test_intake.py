"""The consult from the outside: kept, refused, merged, undone; what it binds."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from chorograph_core.tests import long
from studio.intake.changes import missing
from studio.intake.sheet import context
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job
from studio.paper import laid_out
from studio.routes.planning import plan_of
from studio.shelf.starting import stock
from studio.tests.helpers import intake_form, make_applique_job, make_job, make_plan, make_studio

HTMX = {"HX-Request": "true"}


class IntakeCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna, cls.eva) = make_studio("Loft", "anna", "eva")
        stock(cls.studio)
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)

    def post(self, name="intake", job=None, **changes):
        job = job or self.job
        return self.client.post(reverse(name, args=[job.pk]), intake_form(**changes))

    def core(self, job=None):
        return core_job(Job.objects.select_related("head").get(pk=(job or self.job).pk))


class KeepingTests(IntakeCase):
    def test_everything_asked_is_kept_and_written_in_the_book(self):
        wool = self.studio.battings.get(name="wool")
        machine = self.studio.machines.get(kind="sit-down")
        due = timezone.localdate() + timedelta(days=30)
        answer = self.post(
            client="Marit", contact="by the mill", taken=timezone.localdate().isoformat(),
            due=due.isoformat(), widths_0="12", widths_1="12 1/8", widths_2="12", heights_1="31 cm",
            diagonals_0="17", borders_0="12 3/4", bodies_0="12", found_stains="on",
            note_stains="tea, top left", backing_width="20", backing_height="22",
            batting=str(wool.pk), batting_layers="2", edge_finish="knife", applique="light",
            machine=str(machine.pk), threads=["oat", "clear"], style="airy", level="light",
            repair_hours="1.5", rush="on", note="no hearts",
        )  # fmt: skip
        self.assertRedirects(answer, reverse("intake", args=[self.job.pk]))
        core = self.core()
        intake = core.intake
        self.assertEqual(
            (core.client, intake.contact, core.due), ("Marit", "by the mill", due.isoformat())
        )
        self.assertEqual(intake.measures.widths, (12.0, 12.125, 12.0))
        self.assertAlmostEqual(intake.measures.heights[1], 31 / 2.54)
        self.assertEqual(intake.condition("stains").note, "tea, top left")
        self.assertEqual(
            (intake.batting.name, intake.batting.layers, intake.batting.gap), ("wool", 2, 4.0)
        )
        self.assertEqual((core.policy.edge_finish, core.policy.applique), ("knife", "light"))
        self.assertEqual((core.machine.kind, core.machine.backing_allowance), ("sit-down", 2.0))
        self.assertEqual({t.key for t in core.threads}, {"indigo", "clear", "bracken", "oat"})
        self.assertEqual((intake.wishes.level, intake.wishes.repair_hours), ("light", 1.5))
        said = self.job.book.first().text
        for word in ("Marit", "wool, 2 layers", "knife edge", "a few holding lines", "tea, top left",
                     "12 1/8″", "no hearts", "Rush: yes"):  # fmt: skip
            self.assertIn(word, said)
        page = self.client.get(reverse("intake", args=[self.job.pk]))
        self.assertContains(page, 'value="12 1/8"')
        self.assertContains(page, "2 layers")
        # Kept once more as shown, nothing changes.
        head = Job.objects.get(pk=self.job.pk).head_id
        shown = page.context["form"].initial | {"base": "2"}
        data = {k: v for k, v in shown.items() if v not in (None, False)}
        self.client.post(reverse("intake", args=[self.job.pk]), data)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head_id, head, self.job.book.first().text)

    def test_undo_brings_the_intake_back(self):
        self.post(style="airy")
        self.client.post(reverse("step-back", args=[self.job.pk, "undo"]), {"base": "2"})
        self.assertEqual(self.core().intake.wishes.style, "")

    def test_a_consult_begins_with_two_measures(self):
        address = reverse("new-consult")
        answer = self.client.post(address, {"title": "Gull", "width": "60", "height": "70 1/2"})
        job = Job.objects.get(title="Gull")
        self.assertRedirects(answer, reverse("intake", args=[job.pk]))
        self.assertEqual((job.stage, self.core(job).size), ("chart", (60.0, 70.5)))
        self.assertEqual(missing(self.core(job))[0], "measures")
        self.assertContains(self.client.get(reverse("jobs")), reverse("intake", args=[job.pk]))
        page = self.client.get(reverse("chart", args=[job.pk]))
        self.assertContains(page, "60″ × 70 1/2″")
        bad = self.client.post(address, {"title": "Gull", "width": "600", "height": "x"})
        self.assertContains(bad, "wider than any quilt", status_code=400)
        self.assertContains(bad, "not a length", status_code=400)
        self.assertContains(bad, 'value="600"', status_code=400)

    def test_a_job_is_charted_later_and_keeps_its_intake(self):
        self.client.post(reverse("new-consult"), {"title": "Gull", "width": "60", "height": "70"})
        job = Job.objects.get(title="Gull")
        form = {"base": "1", "block": "pinwheel", "block_size": "6", "rows": "2", "columns": "3"}
        answer = self.client.post(reverse("chart", args=[job.pk]), form)
        self.assertRedirects(answer, reverse("work", args=[job.pk]))
        core = self.core(job)
        self.assertEqual((core.chart.width, core.intake.measures.width), (18.0, 60.0))
        late = self.client.post(reverse("chart", args=[job.pk]), form)
        self.assertContains(late, "was changed while you were charting", status_code=409)
        bad = self.client.post(reverse("chart", args=[job.pk]), {**form, "base": "2", "rows": "0"})
        self.assertEqual(bad.status_code, 400)
        self.assertEqual(Job.objects.get(pk=job.pk).head.number, 2)


class RefusingTests(IntakeCase):
    @long
    def test_each_fault_is_named_at_its_field_and_what_was_typed_stays(self):
        past = (timezone.localdate() - timedelta(days=1)).isoformat()
        tomorrow = (timezone.localdate() + timedelta(days=1)).isoformat()
        for changes, field, word in (
            ({"widths_1": "600"}, "widths_1", "wider than any quilt"),
            ({"heights_0": "tall"}, "heights_0", "not a length"),
            ({"diagonals_1": "-3"}, "diagonals_1", "below zero"),
            ({"due": past}, "due", "is past"),
            ({"due": "31.31.3131"}, "due", "valid date"),
            ({"taken": tomorrow}, "taken", "not come yet"),
            ({"backing_width": "60"}, "backing_height", "Both width and height"),
            ({"backing_width": "600", "backing_height": "9"}, "backing_width", "any roll"),
            ({"cloth_width": "1"}, "cloth_width", "between"),
            ({"batting": "other"}, "batting_name", "Say what it is"),
            (
                {"batting": "other", "batting_name": "x", "batting_gap": "90"},
                "batting_gap",
                "goes from",
            ),
            ({"batting": "999999"}, "batting", "valid choice"),
            ({"batting_layers": "40"}, "batting_layers", "less than or equal"),
            ({"threads": ["gold"]}, "threads", "valid choice"),
            ({"repair_hours": "nan"}, "repair_hours", "number"),
            ({"level": "royal"}, "level", "valid choice"),
            ({"title": ""}, "title", "required"),
            ({"edge_finish": "frayed"}, "edge_finish", "valid choice"),
        ):
            answer = self.post(style="typed with care", **changes)
            with self.subTest(**changes):
                self.assertEqual(answer.status_code, 400)
                self.assertIn(word, str(answer.context["form"].errors[field]))
                self.assertContains(answer, "typed with care", status_code=400)
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    def test_a_due_date_that_has_passed_meanwhile_may_stay(self):
        past = (timezone.localdate() - timedelta(days=9)).isoformat()
        from dataclasses import replace

        change_job(self.job.pk, 1, self.anna, lambda core: replace(core, due=past), "long ago")
        self.assertEqual(self.post(base="2", due=past, style="x").status_code, 302)

    def test_a_page_without_its_number_is_refused(self):
        self.assertEqual(self.post(base="").status_code, 400)
        self.assertEqual(self.post(base="x").status_code, 400)


class TogetherTests(IntakeCase):
    def test_the_later_one_is_told_and_keeps_what_she_typed(self):
        self.client.force_login(self.eva)
        self.post(style="airy", budget="200", note_stains="tea", found_stains="on")
        self.client.force_login(self.anna)
        answer = self.post(client="Marit", budget="300")
        self.assertEqual(answer.status_code, 409)
        self.assertContains(answer, "eva", status_code=409)
        form = answer.context["form"]
        # Hers over the newest: her client, her budget; the other's style and stains.
        self.assertEqual(form["client"].value(), "Marit")
        self.assertEqual(form["budget"].value(), "300")
        self.assertEqual(form["style"].value(), "airy")
        self.assertTrue(form["found_stains"].value())
        self.assertEqual(answer.context["theirs"], [("Budget", "200")])
        self.assertEqual(self.core().client, "")
        data = {k: v for k, v in form.data.items() if v not in (None, False)}
        self.assertEqual(
            self.client.post(
                reverse("intake", args=[self.job.pk]), {**data, "base": "2"}
            ).status_code,
            302,
        )
        core = self.core()
        self.assertEqual((core.client, core.intake.wishes.style, core.intake.wishes.budget),
                         ("Marit", "airy", "300"))  # fmt: skip
        self.assertTrue(core.intake.condition("stains").found)


class LookingTests(IntakeCase):
    def look(self, **changes):
        return self.client.post(
            reverse("intake-look", args=[self.job.pk]), intake_form(**changes), headers=HTMX
        )

    def test_findings_and_prices_follow_the_tape(self):
        answer = self.look(widths_0="60", widths_1="60", widths_2="60", heights_1="80",
                           backing_width="64", backing_height="90",
                           borders_1="84", bodies_1="80")  # fmt: skip
        self.assertContains(answer, "The backing is too small")
        self.assertContains(answer, "Right border: 4″ full, 5.0%")
        self.assertContains(answer, "Full custom")
        self.assertContains(answer, "$552.00")
        self.assertEqual(Job.objects.get(pk=self.job.pk).head.number, 1)

    def test_a_field_that_cannot_be_read_is_told_and_the_rest_still_counts(self):
        answer = self.look(widths_0="60", widths_1="60", widths_2="wide", heights_1="80")
        self.assertContains(answer, "not a length")
        self.assertContains(answer, "$552.00")

    def test_a_date_that_cannot_be_held_is_warned_of(self):
        tomorrow = (timezone.localdate() + timedelta(days=1)).isoformat()
        self.assertContains(
            self.look(widths_1="100", heights_1="100", due=tomorrow), "cannot be held"
        )


class BindingTests(IntakeCase):
    @long
    def test_words_leave_the_route_standing_and_batting_does_not(self):
        make_plan(self.job)
        self.post(style="airy", note="anything", widths_1="12")
        job = Job.objects.select_related("head").get(pk=self.job.pk)
        self.assertEqual(plan_of(job).state, "done")
        self.assertContains(self.client.get(reverse("run-sheet", args=[job.pk])), "Run sheet")
        self.post(base="2", batting=str(self.studio.battings.get(name="wool").pk), style="airy")
        job = Job.objects.select_related("head").get(pk=self.job.pk)
        self.assertIsNone(plan_of(job))

    @long
    def test_a_ban_refuses_designs_and_says_whose_it_is(self):
        job = make_applique_job(self.studio, self.anna)
        leaves = [z.id for z in self.core(job).zones if "leaf" in z.id]
        keep = reverse("keep", args=[job.pk])
        form = {
            "base": "1",
            "zones": ",".join(leaves),
            "design": "meander",
            "thread": "indigo",
            "ditch": "on",
        }
        answer = self.client.post(keep, form)
        self.assertContains(answer, "outlined in the ditch", status_code=422)
        self.assertNotContains(answer, "Put it in the other", status_code=422)
        more = [z.id for z in self.core(job).zones if "leaf" not in z.id][:2]
        # The drawer says so before anything is chosen.
        drawer = reverse("drawer", args=[job.pk])
        opened = self.client.post(drawer, {"zones": ",".join(leaves)})
        self.assertContains(opened, "outlined in the ditch and nothing else.")
        opened = self.client.post(drawer, {"zones": ",".join([*leaves, *more])})
        self.assertContains(opened, f"{len(leaves)} of these {len(leaves) + 2} zones")
        self.assertNotContains(
            self.client.post(drawer, {"zones": ",".join(more)}), "The client wants"
        )
        both = {**form, "zones": ",".join([*leaves, *more])}
        self.assertContains(self.client.post(keep, both), "Put it in the other 2", status_code=422)
        self.assertEqual(self.client.post(keep, {**form, "design": "ditch"}).status_code, 204)
        self.post(job=job, base="2", title="x", applique="leave")
        answer = self.client.post(keep, {**form, "base": "3", "design": "ditch"})
        self.assertContains(answer, "has forbidden stitching", status_code=422)
        job = Job.objects.select_related("head").get(pk=job.pk)
        # The ditch in the legend is left out of the drawing: nothing is drawn in a leaf.
        plan = make_plan(job)
        self.assertEqual((plan.state, plan.message), ("done", ""))

    def test_advice_holds_zones_against_the_battings_own_distance(self):
        from studio.workbench.advice import advice
        from studio.workbench.linework import legend_lines, linework_of

        self.post(batting="other", batting_name="thin one", batting_gap="0.5")
        job = Job.objects.select_related("head").get(pk=self.job.pk)
        core = core_job(job)
        said = advice(core, legend_lines(core, linework_of(job.head.body_id, core)))
        self.assertIn("Thin one holds only with lines no further than 1/2″", said[0].text)

    @long
    def test_the_consult_sheet_is_one_page_and_says_what_binds(self):
        self.post(applique="leave", note="no hearts", found_bleeding="on", level="full",
                  backing_width="14", backing_height="14", client="Marit")  # fmt: skip
        page = self.client.get(reverse("consult-sheet", args=[self.job.pk]))
        for word in (
            "leave it alone",
            "no hearts",
            "may bleed",
            "Full custom",
            "too small",
            "Marit",
        ):
            self.assertContains(page, word)
        pdf = self.client.get(reverse("consult-sheet-pdf", args=[self.job.pk])).content
        self.assertTrue(pdf.startswith(b"%PDF"))
        job = Job.objects.select_related("head", "studio").get(pk=self.job.pk)
        pages = laid_out("intake/consult_sheet.html", context(job, "in")).pages
        self.assertEqual(len(pages), 1)
        boxes = list(pages[0]._page_box.descendants())
        place = next(box for box in boxes if box.element_tag == "figure")
        (drawn,) = [box for box in boxes if box.element_tag == "img"]
        self.assertEqual(drawn.element.get("alt"), "The top, drawn to scale")
        self.assertGreater(max(drawn.width / place.width, drawn.height / place.height), 0.9)
