"""The consult sheet: one page to print and sign; and the drawing of a top as it was measured."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils import timezone

from chorograph_core.estimating import CONDITIONS, Measures, Shape
from chorograph_core.estimating.findings import materials_findings, measure_findings
from chorograph_core.formats.drawing import outline_path
from studio.intake.forms import APPLIQUE
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.paper import pdf_of
from studio.quotes.pricing import dated_offers
from studio.writing import written_as

EXAGGERATED = 4.0
"""A lean or belly is drawn this many times larger, else nobody would see it."""


@dataclass(frozen=True)
class MeasuredDrawing:
    """A rectangle bent as the tape says, in a box 100 wide: path data and the box's height."""

    height: float
    path: str
    square: str


def measured_drawing(
    measures: Measures, shape: Shape, size: tuple[float, float]
) -> MeasuredDrawing:
    """Draw the outline, its lean and its waist, exaggerated."""
    scale = 100 / max(size)
    width, height = size[0] * scale, size[1] * scale

    def off(value: float | None, mean: float | None) -> float:
        return (value - mean) * scale * EXAGGERATED / 2 if value and mean else 0.0

    shift = (shape.shift or 0.0) * scale * EXAGGERATED / 2
    rows = [off(value, measures.width) for value in measures.widths]
    ends = [off(value, measures.height) for value in (measures.heights[0], measures.heights[2])]
    left = [
        (-rows[0] - shift, -ends[0]),
        (-rows[1], height / 2),
        (-rows[2] + shift, height + ends[0]),
    ]
    right = [(width + rows[0] - shift, -ends[1]), (width + rows[1], height / 2),
             (width + rows[2] + shift, height + ends[1])]  # fmt: skip

    def through(points) -> str:
        # A quadratic curve that passes the middle point: its control lies twice as far out.
        (ax, ay), (bx, by), (cx, cy) = points
        return f"Q{2 * bx - (ax + cx) / 2:.2f},{2 * by - (ay + cy) / 2:.2f} {cx:.2f},{cy:.2f}"

    path = (f"M{left[0][0]:.2f},{left[0][1]:.2f}L{right[0][0]:.2f},{right[0][1]:.2f}"
            f"{through(right)}L{left[2][0]:.2f},{left[2][1]:.2f}{through(left[::-1])}Z")  # fmt: skip
    return MeasuredDrawing(height, path, f"M0,0H{width:.2f}V{height:.2f}H0Z")


def context(job: Job, units: str) -> dict:
    """Everything the consult sheet shows."""
    core = core_job(job)
    intake = core.intake
    found = measure_findings(intake.measures, units)
    found += materials_findings(intake, core.extent, core.chart.fabrics, core.machine,
                                core.policy.edge_finish, units)  # fmt: skip
    offers = dated_offers(job, core)
    chosen = [dated for dated in offers if dated.offer.level.key == intake.wishes.level]
    has_applique = any(patch.role == "applique" for patch in core.chart.patches)
    return {
        "job": job, "core": core, "intake": intake, "units": units, "size": core.size,
        "frame": f"0 0 {core.chart.width:g} {core.chart.height:g}",
        "patches": [(outline_path(p.polygon, 2), core.chart.fabric(p.fabric).colour)
                    for p in core.chart.patches],
        "findings": [each for each in found if each.weight != "fine"],
        "conditions": [(CONDITIONS[c.kind], c.note) for c in intake.conditions if c.found],
        "risks": {c.kind for c in intake.conditions if c.found},
        "offers": chosen or offers, "chosen": bool(chosen),
        "applique": dict(APPLIQUE)[core.policy.applique],
        "has_applique": has_applique or core.policy.applique != "full",
        "banned": sum(zone.forbidden for zone in core.zones),
        "today": timezone.localdate(),
    }  # fmt: skip


def pdf(job: Job, units: str) -> bytes:
    """The consult sheet as PDF, as the studio writes to its clients."""
    with written_as(job.studio.locale):
        return pdf_of("intake/consult_sheet.html", context(job, units), job.studio.paper)
