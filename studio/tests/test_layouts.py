"""Every layout through the form: charted, shown again as it was written, refused at its field."""

from dataclasses import replace

from django.test import TestCase
from django.urls import reverse

from chorograph_core.estimating import Measures
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top
from studio.charting.following import charted
from studio.charting.layout_forms import values_of_layout
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job, create_job
from studio.tests.helpers import make_studio

WRITTEN = {
    "straight_set": {"block": "nine_patch", "block_size": "9", "rows": "2", "columns": "3",
                     "sashing": "1 1/2", "cornerstones": "on"},
    "on_point": {"block": "sawtooth_star", "second_block": "plain", "block_size": "8", "rows": "2",
                 "columns": "2", "sashing": "1", "float_by": "1/2"},
    "offset_rows": {"block": "churn_dash", "block_size": "8", "rows": "3", "columns": "2"},
    "block_rows": {"width": "40", "rows_text": "8 pinwheel x 5\n4 rail x 10", "row_sashing": "1"},
    "strips": {"length": "50", "strips_text": "6 b\n8 nine patch\n3 1/2 a", "direction": "across"},
    "medallion": {"block": "log_cabin", "block_size": "16", "rings_text": "3 plain\n2 triangles 2"},
    "open_field": {"width": "50", "height": "60", "placed_text": "12 sawtooth star at 6, 6 1/2"},
}  # fmt: skip
BORDERS = {"border1": "2", "corner1": "block", "border2": "3, 2, 3, 2", "corner2": "mitred",
           "border3": "2", "corner3": "butted", "piecing3": "squares", "unit3": "2"}  # fmt: skip


class LayoutFormTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")

    def setUp(self):
        self.client.force_login(self.anna)

    def form(self, kind, **changes):
        return {"title": kind, "layout": kind, **WRITTEN[kind], **BORDERS, **changes}

    @long
    def test_each_is_charted_and_shown_again_as_it_was_written(self):
        for kind, fields in WRITTEN.items():
            with self.subTest(kind):
                answer = self.client.post(reverse("new-job"), self.form(kind))
                job = Job.objects.select_related("head").get(title=kind)
                self.assertRedirects(answer, reverse("work", args=[job.pk]))
                core = core_job(job)
                self.assertEqual(core.survey.kind, kind)
                self.assertGreater(len(core.chart.patches), 8)
                shown = self.client.get(reverse("chart", args=[job.pk])).context["form"]
                for name, value in {**fields, **BORDERS}.items():
                    seen = shown[name].value()
                    self.assertEqual("on" if seen is True else str(seen), value, name)
                # Charted once more from what is shown, it is the same chart.
                data = {name: shown[name].value() for name in shown.fields if shown[name].value()}
                self.client.post(reverse("chart", args=[job.pk]), {**data, "base": "1"})
                again = core_job(Job.objects.select_related("head").get(pk=job.pk))
                self.assertEqual(again.chart, core.chart)

    @long
    def test_the_preview_follows_and_names_the_field(self):
        for kind, changes, field, word in (
            ("on_point", {"float_by": "5"}, "float_by", "at most a quarter"),
            ("offset_rows", {"rows": "0"}, "rows", "at least one block"),
            (
                "block_rows",
                {"rows_text": "8 pinwheel x 5\n4 rug x 2"},
                "rows_text",
                "no block called",
            ),
            ("block_rows", {"rows_text": ""}, "rows_text", "between one and"),
            ("strips", {"strips_text": "wide"}, "strips_text", "begins with no length"),
            ("strips", {"length": ""}, "length", "at least 1″"),
            ("medallion", {"rings_text": "3 circles"}, "rings_text", "plain, of squares"),
            ("open_field", {"placed_text": "12 rail at 45, 2"}, "placed_text", "does not lie"),
            ("straight_set", {"border3": "2, 3"}, "border3", "one width, or four"),
            ("straight_set", {"border2": "", "corner2": ""}, "border3", "Border 2 has no width"),
            ("straight_set", {"rows": "100", "columns": "100"}, "rows", "10,000 blocks"),
            ("straight_set", {"layout": "spiral"}, "layout", "valid choice"),
        ):
            with self.subTest(kind=kind, **changes):
                answer = self.client.post(reverse("preview-job"), self.form(kind, **changes))
                self.assertIn(word, str(answer.context["form"].errors[field]))
                bad = self.client.post(reverse("new-job"), self.form(kind, **changes))
                self.assertEqual(bad.status_code, 400)
        good = self.client.post(reverse("preview-job"), self.form("on_point"))
        self.assertContains(good, "patches")
        self.assertEqual(Job.objects.count(), 0)


class ReconcileTests(TestCase):
    """The chart page with a measured top; places that outlast a new chart."""

    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.client.force_login(self.anna)
        core = designed(small_top(2, 2))
        width, height = core.chart.width, core.chart.height
        tape = Measures((width + 0.375,) * 3, (height,) * 3)
        core = replace(core, intake=replace(core.intake, measures=tape))
        self.job = create_job(self.studio, self.anna, core, "made for a test")
        self.width = width

    def form(self, **changes) -> dict:
        core = core_job(Job.objects.select_related("head").get(pk=self.job.pk))
        return {**values_of_layout(core.survey, "in"), "of_job": str(self.job.pk), **changes}

    def chart(self, **changes):
        self.job.refresh_from_db()
        answer = self.client.post(reverse("chart", args=[self.job.pk]),
                                  {**self.form(**changes), "base": self.job.head.number})  # fmt: skip
        self.assertEqual(answer.status_code, 302, answer.content[-3000:])
        return core_job(Job.objects.select_related("head").get(pk=self.job.pk))

    @long
    def test_agreement_is_told_only_where_the_tape_was_laid(self):
        core = designed(small_top(2, 2))
        tape = Measures((core.chart.width + 0.05,) * 3, (core.chart.height,) * 3)
        laid = replace(core, intake=replace(core.intake, measures=tape))
        for each, told in ((laid, True), (core, False)):
            job = create_job(self.studio, self.anna, each, "made for a test")
            page = self.client.get(reverse("chart", args=[job.pk]))
            self.assertEqual("The tape and the parts agree" in page.content.decode(), told)

    @long
    def test_the_difference_is_told_and_spread_or_left(self):
        page = self.client.get(reverse("chart", args=[self.job.pk]))
        self.assertContains(page, "3/8″ more")
        self.assertNotContains(page, "The tape and the parts agree")
        preview = self.client.post(reverse("preview-job"), self.form(block_size="10"))
        self.assertContains(preview, "less")
        self.assertAlmostEqual(self.chart(fit="spread").chart.width, self.width + 0.375)
        page = self.client.get(reverse("chart", args=[self.job.pk]))
        self.assertContains(page, 'value="spread" selected')
        self.assertAlmostEqual(self.chart(fit="").chart.width, self.width)
        core = self.chart(fit="border")
        self.assertAlmostEqual(core.chart.width, self.width + 0.375)
        self.assertAlmostEqual(core.survey.borders[-1].widths[1], 3 + 0.1875)

    def test_a_difference_too_large_is_refused_at_the_page(self):
        bad = self.form(block_size="20", fit="spread")
        answer = self.client.post(reverse("chart", args=[self.job.pk]), {**bad, "base": 1})
        self.assertContains(answer, "a number is wrong", status_code=400)

    def test_a_preview_for_another_studios_job_is_not_there(self):
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        for of_job in (str(self.job.pk), "nonsense"):
            answer = self.client.post(reverse("preview-job"), self.form(of_job=of_job))
            self.assertEqual(answer.status_code, 404)

    def test_a_sampler_keeps_its_blocks(self):
        core = core_job(self.job)
        many = ("sawtooth_star", "nine_patch", "churn_dash", "pinwheel")
        survey = replace(core.survey, blocks=many)
        change_job(self.job.pk, 1, self.anna, lambda before: charted(before, survey), "four")
        self.assertEqual(self.chart(block_size="10").survey.blocks, many)
        core = self.chart(second_block="snowball", sure="1")
        self.assertEqual(core.survey.blocks, ("sawtooth_star", "snowball"))

    @long
    def test_exchanged_blocks_and_open_crossings_outlast_a_new_chart(self):
        address = reverse("change", args=[self.job.pk, "exchange"])
        zone = next(z.id for z in core_job(self.job).zones if "b1.1" in z.id)
        self.client.post(
            address, {"base": 1, "zones": zone, "block": "friendship_star", "sure": "1"}
        )
        stone = next(z.id for z in core_job(self.job).zones if z.id.startswith("z:cs"))
        panel = self.client.post(reverse("block-panel", args=[self.job.pk]), {"zones": stone})
        self.assertContains(panel, "let the sashing run through")
        answer = self.client.post(reverse("change", args=[self.job.pk, "through"]),
                                  {"base": 2, "zones": stone, "sure": "1"})  # fmt: skip
        self.assertEqual(answer.status_code, 204)
        core = self.chart(block_size="10")
        self.assertEqual(
            {p.kind for p in core.chart.patches if p.block == (0, 0)}, {"friendship_star"}
        )
        self.assertFalse([p for p in core.chart.patches if p.role == "cornerstone"])
        # The form carries the crossings: taken out there, the cornerstones are back.
        core = self.chart(open_crossings="")
        self.assertTrue([p for p in core.chart.patches if p.role == "cornerstone"])
        answer = self.client.post(reverse("change", args=[self.job.pk, "through"]),
                                  {"base": 5, "zones": core.zones[0].id})  # fmt: skip
        self.assertContains(answer, "cornerstone", status_code=422)
