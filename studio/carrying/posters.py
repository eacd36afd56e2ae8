"""What takes long to make of a job: its poster as PDF and as a picture, its drawing as DXF."""

from __future__ import annotations

import io

from chorograph_core.chart import Chart
from chorograph_core.designs.figures import wholes
from chorograph_core.formats.drawing_out import drawing_dxf
from chorograph_core.formats.poster import poster_drawing, poster_frame
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import CM_PER_INCH
from chorograph_core.reckon import stitched_inches
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.paper import pdf_of
from studio.papers.kinds import Kind, Tell, hand_in
from studio.workbench.linework import legend_of, linework_of

LAYOUT = 2
"""Version of the poster's layout."""
SHEETS = {"letter": (18.0, 24.0), "a4": (16.54, 23.39)}
"""Width and height in inches of the sheet, by the studio's paper."""
WIDE = 1.15
"""Times its height that a top is wide from which on the sheet lies."""
AROUND_MM, TITLE_MM, FOOT_MM, LINE_MM = 54, 54, 9, 14
"""Millimetres that margins, the title, the foot's own edges and a row of the legend take of the height: the
drawing has the rest, so that all stands on one sheet."""
PIXELS = 3000
"""Pixels of the longer side of the picture."""


def poster_context(job: Job, core: CoreJob) -> dict:
    """Everything the poster's template shows."""
    units = job.studio.units
    drawn = linework_of(job.head.body_id, core)
    x, y, wide, high = poster_frame(core)
    lines = [line for line in legend_of(job.head.body_id, core, units) if line.sample]
    foot = max(TITLE_MM, FOOT_MM + LINE_MM * -(-len(lines) // 3))
    room = _sheet(core, job.studio.paper)[1] * CM_PER_INCH * 10 - AROUND_MM - foot
    return {
        "job": job, "core": core, "units": units,
        "frame": f"{x:.3f} {y:.3f} {wide:.3f} {high:.3f}",
        "drawing": poster_drawing(core, drawn, units),
        "lines": lines, "room": max(round(room), 100),
        "blocks": _blocks(core.chart), "inches": stitched_inches(wholes(drawn)),
    }  # fmt: skip


def _blocks(chart: Chart) -> int:
    return len({patch.block for patch in chart.patches if patch.block is not None})


def _sheet(core: CoreJob, paper: str) -> tuple[float, float]:
    """Width and height of the sheet in inches."""
    width, height = SHEETS.get(paper, SHEETS["letter"])
    x0, y0, x1, y1 = core.chart.outline.bounds
    if x1 - x0 > WIDE * (y1 - y0):
        width, height = height, width
    return width, height


def _made_of(job: Job) -> str:
    return f"poster {LAYOUT}"


def poster_pdf(job: Job, tell: Tell) -> bytes:
    """The poster as PDF."""
    core = core_job(job)
    context = poster_context(job, core)
    width, height = _sheet(core, job.studio.paper)
    return pdf_of("carrying/poster.html", context, f"{width}in {height}in", tell)


def poster_picture(job: Job, tell: Tell) -> bytes:
    """The poster as PNG, from its PDF."""
    import pypdfium2

    document = pypdfium2.PdfDocument(poster_pdf(job, lambda share: tell(share * 0.8)))
    page = document[0]
    picture = page.render(scale=PIXELS / max(page.get_size())).to_pil()
    out = io.BytesIO()
    picture.convert("RGB").save(out, "PNG", optimize=True)
    return out.getvalue()


def _drawing(job: Job, tell: Tell) -> bytes:
    """Chart and linework as DXF, in the studio's measure."""
    core = core_job(job)
    drawn = linework_of(job.head.body_id, core)
    tell(0.2)
    return drawing_dxf(core, drawn, job.studio.units)


DRAWING = hand_in(Kind("drawing", "drawing", "dxf", lambda job: "", _drawing))
POSTER = hand_in(Kind("poster", "poster", "pdf", _made_of, poster_pdf))
PICTURE = hand_in(Kind("poster-picture", "poster", "png", _made_of, poster_picture))
