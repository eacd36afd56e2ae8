"""Load the demo studio, once."""

from __future__ import annotations

import contextlib
import datetime
import uuid
from dataclasses import replace

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from chorograph_core.chart import ChartError
from studio.accounts.models import Membership, Studio
from studio.agenda.models import DayOff
from studio.charting import tracing as tracings
from studio.demo import hand_work, intakes, ruler_work, stitched
from studio.demo import tops as demo
from studio.demo.camera import CORNERS, photograph
from studio.finishing import billing
from studio.intake.changes import describe
from studio.intake.newcomer import uncharted
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job, create_job
from studio.photos.keeping import keep_photo
from studio.quotes import documents
from studio.routes.models import Plan
from studio.routes.planning import carry_out
from studio.shelf.choices import ShelfChoices
from studio.shelf.starting import stock
from studio.stitching.models import Tap
from studio.workbench.applique import set_sewn

ADDRESS = "http://127.0.0.1:8000/for-you/{}/"


class Command(BaseCommand):
    """Makes the demo studio with its people and jobs unless some studio exists already."""

    help = __doc__

    def handle(self, *args, **options) -> None:
        """Load it: shelf and calendar, three intakes, a planned route, quotes in three states."""
        if Studio.objects.exists():
            return
        self.stdout.write("Loading the demo studio ...")
        with transaction.atomic():
            studio, (rosalind, imke) = self._people()
            stock(studio)
            today = timezone.localdate()
            rest = today + datetime.timedelta(days=31)
            DayOff.objects.create(studio=studio, first=rest, last=rest + datetime.timedelta(days=9),
                                  why="the studio is closed")  # fmt: skip
            shelf = ShelfChoices(studio)
            batting = {each.name: each for each in shelf.battings.values()}
            iso = today.isoformat()
            sampler = self._job(
                studio, rosalind, demo.sampler(), "Charted and designed",
                lambda core: intakes.sampler_intake(core, iso, batting["80/20"]),
            )  # fmt: skip
            throw = self._job(
                studio, imke, demo.pinwheels(), "Charted and half designed",
                lambda core: intakes.throw_intake(core, iso, batting["wool"], core.machine),
            )  # fmt: skip
            cot = self._job(
                studio, rosalind, demo.nursery(), "Charted from the form",
                lambda core: intakes.nursery_intake(core, iso, batting["cotton, unbonded"]),
            )  # fmt: skip
            create_job(studio, imke, demo.meadow(), "Charted on point")
            create_job(studio, imke, demo.terraces(), "Charted in offset rows")
            plates = create_job(studio, rosalind, ruler_work.harbour(),
                                "Charted and designed, all by ruler")  # fmt: skip
            create_job(studio, imke, ruler_work.tideway(), "Charted and designed, all by ruler")
            create_job(studio, rosalind, hand_work.lanterns(), "Charted and designed, all by hand")
            self._traced(studio, rosalind)
            self._photographs(sampler, throw, cot, rosalind)
            plan = Plan.objects.create(job=sampler, digest=sampler.head.work)
            carry_out(plan, first_answer=False)
            self._stitched(plates, rosalind)
            self._quotes(sampler, throw, rosalind, imke)
            record(sampler, "note", "Tried indigo against bracken on the sashing: bracken it is, "
                   "the indigo drew the eye away from the stars.", rosalind)  # fmt: skip
            record(cot, "note", "She will ask her aunt whether there is more of the duck print.",
                   rosalind)  # fmt: skip

    def _stitched(self, plates, author) -> None:
        """A quilt on the frame, stitched to its middle with some things off the plan and left for the
        night; and one that was finished some weeks ago."""
        finished = create_job(plates.studio, author, stitched.ferry_steps(), "Charted and designed")
        for job in (finished, plates):
            carry_out(Plan.objects.create(job=job, digest=job.head.work), first_answer=False)
        stitched.stitch(finished, author, stitched.some_days_ago(20), hours=0.8)
        stitched.stitch(plates, author, stitched.some_days_ago(1), 0.45, others=0.03, skips=0.015)
        for what, minutes, days in (
            ("loading and squaring it", 35, 25),
            ("tails and threads", 20, 19),
        ):
            Tap.objects.create(job=finished, key=uuid.uuid4(), device="by hand", kind="hand", text=what,
                               at=stitched.some_days_ago(days), facts={"minutes": minutes},
                               author=author)  # fmt: skip
        billing.measure(finished, {"width0": "50 1/4", "width1": "50 1/8", "width2": "50 1/4",
                                   "height0": "23 5/8", "height1": "23 1/2"}, author, "in")  # fmt: skip
        billing.bill(finished, {"extra0": "Quilting, by the hour as agreed", "amount0": "165",
                                "extra1": "A sleeve for hanging", "amount1": "18"}, author)  # fmt: skip
        billing.take_thread(finished, {}, author)
        billing.close(finished, author)
        record(finished, "note", "Take the crosshatch at 1 inch next time: the ruler moves ate the morning.",
               author)  # fmt: skip

    def _people(self):
        studio = Studio.objects.create(name=demo.STUDIO, address=demo.ADDRESS)
        people = []
        for name, first, role in demo.PEOPLE:
            person = get_user_model().objects.create_user(
                name, f"{name}@lantern-loft.example", demo.PASSWORD, first_name=first
            )
            Membership.objects.create(studio=studio, person=person, role=role, steps=["hidden"])
            people.append(person)
        return studio, people

    def _job(self, studio, author, core, summary: str, taken) -> Job:
        """A job as it came in, and its intake as a change of its own."""
        job = create_job(studio, author, core, summary)
        change_job(job.pk, job.head.number, author, taken, describe)
        return Job.objects.select_related("head", "studio").get(pk=job.pk)

    def _traced(self, studio, author) -> None:
        """A modern top with appliqué, traced from its photograph as a person would: each shape is
        touched, the chart is taken, what is sewn on is said, and the ground runs behind it."""
        survey = demo.lagoon()
        top = demo.lagoon_sewn(survey.chart())
        due = timezone.localdate() + datetime.timedelta(days=52)
        begun = uncharted({"title": "Low Water", "client": "Tamsin Ouse", "width": top.width,
                           "height": top.height}, timezone.localdate())  # fmt: skip
        begun = replace(begun, due=due.isoformat())
        job = create_job(studio, author, begun, "Begun with its measures")
        file = SimpleUploadedFile("photo.jpg", photograph(top, 11, 1300))
        photo = keep_photo(job, author, file, "whole", "on the studio floor")
        tracing = tracings.begin(job, photo, CORNERS, author)
        touched = [patch for patch in top.patches if patch.fabric != "a"]
        for patch in touched:
            spot = patch.polygon.representative_point()
            with contextlib.suppress(ChartError):
                tracings.touch(tracing, spot.x, spot.y, 16)
        noded = tracings.traced(tracing)
        said = f"Charted from a photograph: {len(tracing.shapes)} patches touched"
        change_job(job.pk, None, author, lambda core: tracings.with_chart(core, noded), said)
        names = {}
        job = Job.objects.select_related("head").get(pk=job.pk)
        for zone in core_job(job).zones:
            spot = zone.polygon.representative_point()
            below = next(
                (p for p in touched if p.role == "applique" and p.polygon.contains(spot)), None
            )
            if below is not None:
                names[zone.id] = below.cell
        change_job(job.pk, None, author, lambda core: set_sewn(core, list(names), True),
                   "Said what is appliqué")  # fmt: skip
        change_job(job.pk, None, author, lambda core: demo.lagoon_legend(core, names),
                   "Lines that run behind the shapes")  # fmt: skip

    def _photographs(self, sampler: Job, throw: Job, cot: Job, author) -> None:
        shown = [(sampler, "whole", "on the design wall"), (throw, "whole", "on the bed"),
                 (throw, "fragile", "one of the leaves"), (cot, "marks", "blue pen, lower left")]  # fmt: skip
        for seed, (job, about, note) in enumerate(shown):
            data = photograph(core_job(job).chart, seed)
            keep_photo(job, author, SimpleUploadedFile("photo.jpg", data), about, note)

    def _quotes(self, sampler: Job, throw: Job, rosalind, imke) -> None:
        first = documents.issue(sampler, rosalind, ["light", "full", "heirloom"])
        documents.make_link(first, rosalind)
        documents.accept(first.pk, "full", "the guild’s secretary")
        second = documents.issue(throw, imke, ["allover", "light"])
        link = documents.make_link(second, imke)
        documents.write_letter(link, imke, ADDRESS.format(documents.signed(link)))
        documents.comment(second, "Odalys", "Could the light level be ready before the wedding?")
