"""Let the simulated machine stitch a job, and print what was foretold against what it took."""

from __future__ import annotations

from datetime import timedelta

from django.core.management.base import BaseCommand, CommandError
from django.utils import timezone

from chorograph_core.estimating.own_rates import NAMES
from chorograph_core.stitching.rehearsing import Quilter
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.stitching.following import followed
from studio.stitching.rehearsal import keep, rehearse
from studio.templatetags.measures import hours

SLOW = {"ditch": 1.25, "straight": 0.9, "ruler_move": 1.4, "medium": 0.8, "fine": 1.1, "cut": 0.7}


class Command(BaseCommand):
    """Rehearses a job that has a route."""

    help = __doc__

    def add_arguments(self, parser) -> None:
        parser.add_argument("job", help="title of the job, or the beginning of it")
        parser.add_argument("--seed", type=int, default=1)
        parser.add_argument(
            "--pace", type=float, default=0.0, help="times as fast as life; 0: at once"
        )
        parser.add_argument("--hours", type=float, help="stop after so many hours at the machine")
        parser.add_argument("--keep", action="store_true", help="write it into the job's log")

    def handle(self, *args, **options) -> None:
        job = (
            Job.objects.select_related("head", "studio")
            .filter(title__istartswith=options["job"])
            .first()
        )
        if job is None:
            raise CommandError(f"No job is called {options['job']}.")
        now = followed(job, job.studio.units)
        if now is None:
            raise CommandError("This job has no route yet; plan it first.")
        core = core_job(job)
        quilter = Quilter(SLOW, bobbin=core.machine.bobbin_yards * 36)
        limit = options["hours"] * 3600 if options["hours"] else None
        made = rehearse(job, core, now, quilter, options["seed"], options["pace"], limit)
        self._print(made)
        if options["keep"] and made.events:
            began = timezone.now() - timedelta(seconds=made.events[-1]["seconds"])
            keep(job, now, made.events, began, None, job.studio.units)
            self.stdout.write("Kept in the log.")

    def _print(self, made) -> None:
        sums: dict[str, list[float]] = {}
        for piece in made.log.pieces:
            whole = sum(piece.parts.values()) or 1.0
            for name, seconds in piece.parts.items():
                one = sums.setdefault(name, [0.0, 0.0])
                one[0] += seconds
                one[1] += piece.took * seconds / whole
        self.stdout.write(f"{'what':26}{'foretold':>10}{'took':>10}")
        for name, (foretold, took) in sorted(sums.items(), key=lambda each: -each[1][0]):
            self.stdout.write(
                f"{NAMES.get(name, name):26}{hours(foretold / 60):>10}{hours(took / 60):>10}"
            )
        log = made.log
        self.stdout.write(f"{'in all':26}{hours(log.foretold / 60):>10}{hours(log.took / 60):>10}")
        days, otherwise = _many(len(log.days), "day"), _many(len(log.otherwise), "thing")
        self.stdout.write(f"{days}, {otherwise} otherwise than planned, "
                          f"{hours(log.pause / 60)} of pauses left out")  # fmt: skip


def _many(count: int, word: str) -> str:
    return f"{count} {word}{'s' if count != 1 else ''}"
