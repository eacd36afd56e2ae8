"""The route as SVG in true scale: a layer for each thread and for each kind of travel, cuts apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from chorograph_core.formats.drawing_out import layer_key
from chorograph_core.formats.route_files import svg_path
from chorograph_core.job import Job
from chorograph_core.route import Step

INK, TRAVEL, CUT = "#1e2b3c", "#b9822b", "#a63a2b"
DOT = 0.12
"""Radius of the ring round a cut, in inches."""
HOW = {
    "ditch": "travel in the ditch", "edge": "travel along the edge", "open": "travel over open cloth",
    "retrace": "retraced", "link": "from line to line",
}  # fmt: skip


@dataclass
class _Part:
    """One line of the route: what is stitched or travelled between two others."""

    number: int
    name: str
    layer: str
    step: Step
    points: list[np.ndarray] = field(default_factory=list)


def route_svg(job: Job, steps: Sequence[Step]) -> bytes:
    """A route's steps as SVG, one path for each run and one for each travel; 1 user unit is 1 inch.

    A layer is a group with its name as title. ``id`` (r1, r2, …) numbers the paths of all layers in the order
    in which they are stitched; within a layer they stand in that order. ``data-run``, ``data-thread``,
    ``data-pass`` and ``data-zone`` say what a path is.
    """
    threads = {thread.key: thread for thread in job.threads}
    x0, y0, x1, y1 = job.chart.outline.bounds
    width, height = x1 - x0, y1 - y0
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}in" height="{height:g}in" '
        f'viewBox="{x0:g} {y0:g} {width:g} {height:g}">',
        f"<title>{escape(job.title)}</title>",
        "<desc>1 user unit is 1 inch. r1, r2, … are the paths in stitching order, through all layers.</desc>",
    ]
    layers: dict[str, list[_Part]] = {}
    for part in _parts(steps):
        layers.setdefault(part.layer, []).append(part)
    for key, thread in threads.items():
        lines += _group(f"thread {thread.name}", thread.colour, layers.get(key, []))
    lines += _group("thread not named", INK, layers.get("", []))
    for how, name in HOW.items():
        lines += _group(
            name, TRAVEL, layers.get(f"travel:{how}", []), ' stroke-dasharray="0.15 0.1"'
        )
    lines += [*_cuts(steps), "</svg>", ""]
    return "\n".join(lines).encode("utf-8")


def _parts(steps: Sequence[Step]) -> list[_Part]:
    """What the needle does, run by run; steps of one run that follow each other are one part."""
    found: list[_Part] = []
    for step in steps:
        if step.kind not in ("stitch", "travel") or not len(step.points):
            continue
        name = step.run if step.kind == "stitch" or step.run else f"travel:{step.how}"
        last = found[-1] if found else None
        if last is not None and last.name == name and not name.startswith("travel:"):
            last.points.append(step.points)
            continue
        # A run's own links and retraces belong to its line; travel by itself is apart.
        how = step.how if step.how in HOW else "open"
        layer = f"travel:{how}" if name.startswith("travel:") else step.thread
        found.append(_Part(len(found) + 1, name, layer, step, [step.points]))
    return found


def _group(name: str, colour: str, parts: Sequence[_Part], dash: str = "") -> list[str]:
    if not parts:
        return []
    head = (
        f'<g id={quoteattr(layer_key(name))} fill="none" stroke={quoteattr(colour)} stroke-width="0.04" '
        f'stroke-linecap="round" stroke-linejoin="round"{dash}><title>{escape(name)}</title>'
    )
    lines = [head]
    for part in parts:
        points = np.concatenate(part.points)
        lines.append(
            f'<path id="r{part.number}" data-run={quoteattr(part.name)} '
            f"data-thread={quoteattr(part.step.thread)} data-zone={quoteattr(part.step.zone)} "
            f'data-pass="{part.step.reach}" d="{svg_path(points)}"/>'
        )
    return [*lines, "</g>"]


def _cuts(steps: Sequence[Step]) -> list[str]:
    """A ring where the thread is cut."""
    places, needle = [], None
    for step in steps:
        if len(step.points):
            needle = step.points[-1]
        if step.kind == "tie_off" and needle is not None:
            places.append(needle)
    if not places:
        return []
    rings = [f'<circle cx="{x:.4f}" cy="{y:.4f}" r="{DOT}"/>' for x, y in places]
    head = f'<g id="cuts" fill="none" stroke="{CUT}" stroke-width="0.04"><title>cuts</title>'
    return [head, *rings, "</g>"]
