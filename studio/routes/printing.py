"""The run sheet for page and PDF: groups with their small maps."""

from __future__ import annotations

from chorograph_core.chart import Chart
from chorograph_core.formats import Group, read_steps, route_svg, run_sheet
from chorograph_core.formats.drawing import outline_path
from chorograph_core.formats.route_files import svg_path
from chorograph_core.job import Job as CoreJob
from studio.jobs.revisions import core_job
from studio.paper import pdf_of
from studio.routes.models import Plan
from studio.workbench.linework import legend_lines, linework_of

PAD = 2.5
"""Inches of top shown around a group on its map."""
SMALLEST_MAP = 14.0


def sheet_context(plan: Plan, units: str) -> dict:
    """Everything the run sheet's template shows."""
    core = core_job(plan.job)
    route = plan.route()
    groups = run_sheet(core, route["steps"], units)
    colours = {thread.name: thread.colour for thread in core.threads}
    return {
        "core": core,
        "units": units,
        "figures": plan.figures,
        "thread": [
            (thread, plan.figures["thread_yards"][thread.key])
            for thread in core.threads
            if thread.key in plan.figures.get("thread_yards", {})
        ],
        "lines": legend_lines(core, linework_of(plan.digest, core), units),
        "groups": [
            {"group": group, "map": _map(core.chart, group), "colour": colours.get(group.thread)}
            for group in groups
        ],
    }


def _map(chart: Chart, group: Group) -> dict | None:
    """The part of the top a group works in: patches, lines, and where each instruction begins."""
    if not group.paths:
        return None
    x0, y0, x1, y1 = group.box
    side = max(x1 - x0, y1 - y0, SMALLEST_MAP) + 2 * PAD
    wide = min(side, max(x1 - x0, SMALLEST_MAP) + 2 * PAD)
    tall = min(side, max(y1 - y0, SMALLEST_MAP * 0.6) + 2 * PAD)
    left, top = (x0 + x1 - wide) / 2, (y0 + y1 - tall) / 2
    patches = [
        (outline_path(patch.polygon, 2), chart.fabric(patch.fabric).colour)
        for patch in chart.patches
        if _touches(patch.polygon.bounds, (left, top, left + wide, top + tall))
    ]
    numbers, taken = [], set()
    for step in group.instructions:
        if step.at is None or not step.number:
            continue
        spot = (round(step.at[0] / wide * 24), round(step.at[1] / wide * 24))
        if spot not in taken:
            taken.add(spot)
            numbers.append((step.number, round(step.at[0], 2), round(step.at[1], 2)))
    whole = chart.outline.bounds
    return {
        "box": f"{left:.2f} {top:.2f} {wide:.2f} {tall:.2f}",
        "ratio": tall / wide,
        "hair": f"{wide / 500:.3f}",
        "thread": f"{wide / 260:.3f}",
        "dash": f"{wide / 90:.3f} {wide / 130:.3f}",
        "dot": f"{wide / 46:.3f}",
        "figure": f"{wide / 34:.3f}",
        "drop": f"{wide / 100:.3f}",
        "patches": patches,
        "paths": [(kind, svg_path(points, 2)) for kind, points in group.paths],
        "numbers": numbers,
        "whole": f"0 0 {whole[2]:.1f} {whole[3]:.1f}",
        "part": (max(0, left), max(0, top), wide, tall),
        "size": (whole[2], whole[3]),
    }


def _touches(a, b) -> bool:
    return a[0] < b[2] and a[2] > b[0] and a[1] < b[3] and a[3] > b[1]


def run_sheet_pdf(plan: Plan) -> bytes:
    """The run sheet as PDF."""
    context = sheet_context(plan, plan.job.studio.units)
    return pdf_of("routes/run_sheet.html", {**context, "job": plan.job, "plan": plan})


def stored_svg(core: CoreJob, route: dict) -> bytes:
    """The stored route as SVG in true scale."""
    return route_svg(core, read_steps(route))
