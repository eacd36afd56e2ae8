"""Large drawings are read by the worker, with progress, and can be left off."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from chorograph_core.chart import Chart, ChartError
from chorograph_core.formats import read_document, write_document
from chorograph_core.formats.apart import IN_THE_WORKER, chart_apart
from chorograph_core.formats.drawings import DrawingError
from chorograph_core.job import Job as CoreJob
from chorograph_core.zones import zones_from_patches
from studio.charting.models import Reading
from studio.jobs.models import Job

SMALL = 300_000
"""Bytes of a drawing that is read while one waits for the page."""
KEPT = 3
"""Readings of a job that are kept."""


class LeftOff(Exception):
    """The person does not want it any more."""


def begin(job: Job, author, file, width: float, tolerance: float) -> Reading:
    """Put a drawing in the worker's queue."""
    from studio.charting.tasks import read_drawing_in

    for old in job.readings.all()[KEPT - 1 :]:
        old.delete()
    with transaction.atomic():
        reading = Reading.objects.create(
            job=job, author=author, name=(file.name or "drawing")[:200], data=file.read(),
            width=width, tolerance=tolerance,
        )  # fmt: skip
        transaction.on_commit(lambda: read_drawing_in.defer(reading_id=reading.pk))
    return reading


def leave_off(reading: Reading) -> None:
    """Do not go on with it; what the worker has in hand it puts down at the next step."""
    Reading.objects.filter(pk=reading.pk, state__in=("queued", "running")).update(
        state="left", data=b"", message="Left off. The job is as it was."
    )


def carry_out(reading: Reading) -> None:
    """Read the drawing and keep the chart; a failure is kept as a sentence."""

    def tell(share: float, what: str) -> None:
        waiting = Reading.objects.filter(pk=reading.pk, state__in=("queued", "running"))
        if not waiting.update(
            state="running", progress=share, message=what, heard_of=timezone.now()
        ):
            raise LeftOff

    try:
        tell(0.05, "reading the file")
        taken = chart_apart(
            bytes(reading.data), reading.name, reading.width, reading.tolerance,
            reading.job.studio.units, IN_THE_WORKER, tell,
        )  # fmt: skip
        tell(0.95, "writing the chart down")
    except LeftOff:
        return
    except (ChartError, DrawingError) as error:
        reading.state, reading.message = "failed", str(error)[:400]
    else:
        reading.state, reading.progress, reading.message = "done", 1, ""
        reading.said = list(taken.said)
        reading.document = _written(taken.chart)
    reading.data = b""
    reading.save()


def _written(chart: Chart) -> dict:
    return write_document(CoreJob("drawing", chart, tuple(zones_from_patches(chart))))


def chart_of_reading(reading: Reading) -> Chart:
    """The chart of a reading that is done."""
    return read_document(reading.document).chart
