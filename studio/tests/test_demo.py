"""The demo: its jobs load once, replay clean, and show what they are there to show."""

from django.test import TestCase

from chorograph_core.chart import faults
from chorograph_core.estimating import fullness
from chorograph_core.estimating.findings import backing_for
from chorograph_core.tests import long
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.progress.models import last_told
from studio.routes.models import Plan
from studio.stitching.following import followed
from studio.stitching.job_times import log_of_job
from studio.stitching.lessons import lesson_of
from studio.tests.helpers import make_plan


class DemoTests(TestCase):
    @long
    def test_the_demo_loads_once_and_replays_clean(self):
        from django.core.management import call_command

        for _ in range(2):
            call_command("load_demo", verbosity=0)
        self.assertEqual(Job.objects.count(), 10)
        traced = core_job(Job.objects.select_related("head").get(title="Low Water"))
        self.assertEqual(sum(p.role == "applique" for p in traced.chart.patches), 7)
        self.assertEqual([zone.whole is not None for zone in traced.zones].count(True), 1)
        plan = make_plan(Job.objects.select_related("head").get(title="Low Water"))
        self.assertEqual(plan.figures["replay"], "clean")
        plan.delete()
        # One is on the frame, left in its middle.
        half = Plan.objects.get(job__title="Harbour Plates")
        self.assertEqual(half.figures["replay"], "clean")
        self.assertEqual(last_told(half.job).plan, half.pk)
        stands = followed(half.job, "in")
        self.assertTrue(0.3 < len(stands.behind) / len(stands.legs) < 0.7)
        self.assertGreaterEqual(len(log_of_job(half.job).otherwise), 2)
        # One was finished, over several days, by a hand that is not the default's.
        done = Job.objects.get(title="Ferry Steps")
        self.assertEqual(followed(done, "in").at, len(followed(done, "in").legs))
        self.assertGreaterEqual(len(log_of_job(done).days), 4)
        self.assertTrue(done.closed)
        self.assertEqual(done.invoices.get().document["total"], "183.00")
        lesson = lesson_of(half.job.studio)
        self.assertGreater(lesson.learned.factors["ruler_move"].low, 1.2)
        self.assertTrue(lesson.motifs)
        plan = Plan.objects.get(job__title="Kelp Road Sampler")
        self.assertEqual(plan.figures["replay"], "clean")
        self.assertEqual(plan.job.assigned, plan.job.zones)
        self.assertGreaterEqual(len({z.label.split(",")[0] for z in core_job(plan.job).zones
                                     if z.label.startswith("block")}), 20)  # fmt: skip
        self.assertEqual({job.stage for job in Job.objects.all()}, {"zones", "designs", "route"})
        # Three real intakes: a rippled border, a ban on appliqué, a backing too narrow.
        jobs = {job.title: core_job(job) for job in Job.objects.select_related("head")}
        advice = [f.advice for f in fullness(jobs["Kelp Road Sampler"].intake.measures)]
        self.assertEqual(advice, ["ease", "none", "tuck", "none"])
        self.assertEqual(jobs["Windmill Throw"].policy.applique, "outline")
        self.assertTrue(any(p.role == "applique" for p in jobs["Windmill Throw"].chart.patches))
        cot = jobs["Nine Ducks Cot Quilt"]
        self.assertFalse(backing_for(cot.intake, cot.size, cot.machine).large_enough)
        for core in jobs.values():
            self.assertEqual(faults(core.chart), [], core.title)
