"""The whole top with its stitching as a sheet to hang up: fabrics, threads, a graticule along the edges."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from xml.sax.saxutils import quoteattr

import numpy as np

from chorograph_core.designs.curves import thin
from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.formats.drawing import outline_path, svg_path
from chorograph_core.job import Job
from chorograph_core.measure import CM_PER_INCH

INK, SOFT = "#1e2b3c", "#8a8271"
FINEST = 0.012
"""Inches that a line of the drawing may lie off the stitching: a tenth of a millimetre on the sheet."""
THREAD = 0.05
"""Inches that a thread is drawn wide, so that it is seen on a sheet a quarter of the quilt."""
EDGE = 0.045
"""Share of the longer side that the graticule takes."""


def poster_frame(job: Job) -> tuple[float, float, float, float]:
    """The view box of the drawing, in inches of the quilt."""
    x0, y0, x1, y1 = job.chart.outline.bounds
    edge = EDGE * max(x1 - x0, y1 - y0)
    return x0 - edge, y0 - edge, x1 - x0 + 2 * edge, y1 - y0 + 2 * edge


def poster_drawing(job: Job, drawn: Sequence[LayerLinework], units: str = "in") -> str:
    """What stands in an SVG with the view box `poster_frame`: fabrics, each thread's lines in the order they
    lie on each other, seams, graticule in *units*. Travel and marks are left out: nobody hangs them up."""
    out = io.StringIO()
    chart = job.chart
    out.write(f'<g stroke="{SOFT}" stroke-width="0.03">')
    for patch in chart.patches:
        fill = chart.fabric(patch.fabric).colour
        out.write(f'<path fill="{fill}" fill-rule="evenodd" d="{outline_path(patch.polygon, 3)}"/>')
    out.write('</g><g fill="none" stroke-linecap="round" stroke-linejoin="round">')
    colours = {thread.key: thread.colour for thread in job.threads}
    lines: dict[tuple[str, float], list[str]] = {}
    for one in wholes(drawn):
        for run in one.linework.runs:
            # Bold on purpose: what is stitched several times over is seen so.
            wide = THREAD * math.sqrt(max(one.passes, 1))
            row = lines.setdefault((colours.get(one.thread, INK), round(wide, 4)), [])
            row += [svg_path(thin(np.asarray(points), FINEST), 3)
                    for points, _, kind in run.pieces() if kind == "stitch" and len(points) > 1]  # fmt: skip
    for (colour, wide), row in lines.items():
        if row:
            out.write(
                f'<path stroke={quoteattr(colour)} stroke-width="{wide}" d="{"".join(row)}"/>'
            )
    out.write("</g>")
    _graticule(out, job, units)
    return out.getvalue()


def _graticule(out: io.StringIO, job: Job, units: str) -> None:
    """Ticks every inch (every 2 cm), longer ones with their figure every 5 inches (every 10 cm)."""
    x0, y0, x1, y1 = job.chart.outline.bounds
    edge = EDGE * max(x1 - x0, y1 - y0)
    step, long = (2 / CM_PER_INCH, 5) if units == "cm" else (1.0, 5)
    each = 2 if units == "cm" else 1
    out.write(f'<g stroke="{INK}" fill="none" stroke-width="0.06">'
              f'<rect x="{x0:.3f}" y="{y0:.3f}" width="{x1 - x0:.3f}" height="{y1 - y0:.3f}"/>'
              f'<rect stroke-width="0.03" x="{x0 - edge * .4:.3f}" y="{y0 - edge * .4:.3f}" '
              f'width="{x1 - x0 + edge * .8:.3f}" height="{y1 - y0 + edge * .8:.3f}"/>')  # fmt: skip
    figures = []
    for low, high, across in ((x0, x1, True), (y0, y1, False)):
        near, far = (y0, y1) if across else (x0, x1)
        for k in range(1, math.ceil((high - low) / step)):
            at, size = low + k * step, edge * (0.3 if k % long == 0 else 0.14)
            for side, reach in ((near, -size), (far, size)):
                way = (
                    f"M{at:.3f},{side:.3f}v{reach:.3f}"
                    if across
                    else f"M{side:.3f},{at:.3f}h{reach:.3f}"
                )
                out.write(f'<path stroke-width="0.03" d="{way}"/>')
            if k % long == 0:
                figures.append((at, k * each, across))
    out.write(f'</g><g fill="{INK}" font-family="Commissioner, sans-serif" text-anchor="middle" '
              f'font-size="{edge * .34:.3f}">')  # fmt: skip
    for at, figure, across in figures:
        x, y = (at, y0 - edge * 0.55) if across else (x0 - edge * 0.7, at + edge * 0.12)
        out.write(f'<text x="{x:.3f}" y="{y:.3f}">{figure}</text>')
    out.write("</g>")
