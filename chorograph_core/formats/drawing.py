"""Zones and linework as SVG in true scale, without a route."""

from __future__ import annotations

from collections.abc import Sequence
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.formats.route_files import svg_path
from chorograph_core.job import Job
from chorograph_core.zones import Zone

_DASHES = {"stitch": "", "link": ' stroke-dasharray="0.12 0.08"', "retrace": ""}


def drawing_svg(job: Job, zones: Sequence[Zone], drawn: Sequence[LayerLinework]) -> bytes:
    """SVG of *zones* and the linework in them; 1 user unit is 1 inch."""
    bounds = [zone.polygon.bounds for zone in zones]
    x0, y0 = min(b[0] for b in bounds), min(b[1] for b in bounds)
    x1, y1 = max(b[2] for b in bounds), max(b[3] for b in bounds)
    pad = 0.25
    x0, y0, width, height = x0 - pad, y0 - pad, x1 - x0 + 2 * pad, y1 - y0 + 2 * pad
    colours = {thread.key: thread.colour for thread in job.threads}
    wanted = {zone.id for zone in zones}
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}in" height="{height:g}in" '
        f'viewBox="{x0:g} {y0:g} {width:g} {height:g}">',
        f"<title>{escape(job.title)}</title>",
        "<desc>1 user unit is 1 inch.</desc>",
        '<g stroke="#8a8271" stroke-width="0.02">',
    ]
    for zone in zones:
        fill = job.chart.fabric(job.chart.patch(zone.patches[0]).fabric).colour if (
            zone.patches) else "#f1e8d3"  # fmt: skip
        lines.append(
            f'<path id={quoteattr(zone.id)} fill={quoteattr(fill)} fill-rule="evenodd" '
            f'd="{outline_path(zone.polygon)}"/>'
        )
    lines.append("</g>")
    lines.append('<g fill="none" stroke-width="0.04" stroke-linecap="round">')
    for one in drawn:
        if one.zone not in wanted:
            continue
        colour = quoteattr(colours.get(one.thread, "#1e2b3c"))
        for number, run in enumerate(one.linework.runs):
            for points, _, kind in run.pieces():
                lines.append(
                    f"<path data-run={quoteattr(one.key(number))} stroke={colour}"
                    f'{_DASHES[kind]} d="{svg_path(points)}"/>'
                )
    lines += ["</g>", "</svg>", ""]
    return "\n".join(lines).encode("utf-8")


def outline_path(shape: Polygon, digits: int = 4) -> str:
    """Path data for a polygon with its holes."""
    rings = [shape.exterior, *shape.interiors]
    return " ".join(svg_path(np.asarray(ring.coords)[:-1], digits) + "Z" for ring in rings)
