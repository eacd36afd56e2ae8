"""Chart and linework as drawings for other programs, in true size and in layers that keep their names:
patches, each thread, travel, marks."""

from __future__ import annotations

import io
import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from xml.sax.saxutils import escape, quoteattr

import ezdxf
import numpy as np
from ezdxf import units as dxf_units

from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.formats.drawing import outline_path, svg_path
from chorograph_core.job import Job
from chorograph_core.measure import CM_PER_INCH

DIGITS = 4
WIDTH = 0.02
"""Inches that a line is drawn wide."""


@dataclass
class Sheet:
    """A layer: its *name* and *colour*, closed *rings* and open *lines*, each (n, 2) in inches with y
    downwards, each with a name of its own. *key* is the name as both kinds of drawing take it, the layer's
    alone."""

    name: str
    colour: str
    rings: list[tuple[str, np.ndarray]] = field(default_factory=list)
    lines: list[tuple[str, np.ndarray]] = field(default_factory=list)
    key: str = ""


def layers_of(job: Job, drawn: Sequence[LayerLinework]) -> list[Sheet]:
    """The layers of a job with its linework, those that are empty left out."""
    outline = Sheet("outline", "#1e2b3c", [("top", np.asarray(job.chart.outline.exterior.coords))])
    patches = Sheet("patches", "#8a8271")
    for patch in job.chart.patches:
        rings = [patch.polygon.exterior, *patch.polygon.interiors]
        patches.rings += [(patch.id, np.asarray(ring.coords)) for ring in rings]
    threads = {t.key: Sheet(f"thread {t.name}", t.colour) for t in job.threads}
    travel, marks = Sheet("travel", "#b9822b"), Sheet("marks", "#a63a2b")
    for one in wholes(drawn):
        for number, run in enumerate(one.linework.runs):
            name = one.key(number)
            for points, _, kind in run.pieces():
                if len(points) > 1:
                    there = threads.get(one.thread) if kind == "stitch" else travel
                    (there or travel).lines.append((name, np.asarray(points)))
        for mark in one.linework.marks:
            marks.lines.append((mark.label, np.asarray(mark.points)))
    found = [outline, patches, *threads.values(), travel, marks]
    kept = [each for each in found if each.rings or each.lines]
    taken: set[str] = set()
    for each in kept:
        names = (f"{layer_key(each.name)}{'' if k == 1 else f'-{k}'}" for k in itertools.count(1))
        each.key = next(name for name in names if name not in taken)
        taken.add(each.key)
    return kept


def drawing_svg(job: Job, drawn: Sequence[LayerLinework]) -> bytes:
    """An SVG whose user unit is an inch: a group a layer, with its name as its title and, made fit, as its
    id."""
    x0, y0, x1, y1 = job.chart.outline.bounds
    wide, high = x1 - x0, y1 - y0
    out = io.StringIO()
    out.write('<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" '
              f'width="{wide:.4f}in" height="{high:.4f}in" '
              f'viewBox="{x0:.4f} {y0:.4f} {wide:.4f} {high:.4f}">\n'
              f"<title>{escape(job.title)}</title>\n")  # fmt: skip
    for layer in layers_of(job, drawn):
        out.write(f'<g id={quoteattr(layer.key)} fill="none" stroke="{layer.colour}" '
                  f'stroke-width="{WIDTH}" stroke-linejoin="round">'
                  f"<title>{escape(layer.name)}</title>\n")  # fmt: skip
        if layer.name == "patches":
            # Once, with their holes, in their fabrics.
            for patch in job.chart.patches:
                fill = job.chart.fabric(patch.fabric).colour
                out.write(f'<path id={quoteattr(layer_key("patch " + patch.id))} fill="{fill}" '
                          f'fill-rule="evenodd" d="{outline_path(patch.polygon, DIGITS)}"/>\n')  # fmt: skip
        else:
            for name, points in layer.rings:
                out.write(
                    f'<path data-name={quoteattr(name)} d="{svg_path(points[:-1], DIGITS)}Z"/>\n'
                )
        for name, points in layer.lines:
            out.write(_line(name, points))
        out.write("</g>\n")
    out.write("</svg>\n")
    return out.getvalue().encode()


def _line(name: str, points: np.ndarray) -> str:
    if len(points) == 1:
        x, y = points[0]
        return f'<circle data-name={quoteattr(name)} cx="{x:.4f}" cy="{y:.4f}" r="0.04"/>\n'
    return f'<path data-name={quoteattr(name)} d="{svg_path(points, DIGITS)}"/>\n'


def drawing_dxf(job: Job, drawn: Sequence[LayerLinework], units: str = "in") -> bytes:
    """A DXF (R2010) in *units*, inches or centimetres, and saying so; y upwards as such drawings have it: a
    layer each, what is closed as closed polylines, dots as points."""
    unit = dxf_units.CM if units == "cm" else dxf_units.IN
    document = ezdxf.new("R2010", setup=False, units=unit)
    space = document.modelspace()
    _, y0, _, y1 = job.chart.outline.bounds
    scale = CM_PER_INCH if units == "cm" else 1.0

    def up(points: np.ndarray) -> list[tuple[float, float]]:
        flat = np.column_stack([points[:, 0], y0 + y1 - points[:, 1]]) * scale
        return [(round(float(x), DIGITS), round(float(y), DIGITS)) for x, y in flat]

    for layer in layers_of(job, drawn):
        name = layer.key
        made = document.layers.add(name)
        red, green, blue = (int(layer.colour[k : k + 2], 16) for k in (1, 3, 5))
        made.rgb = red, green, blue
        for _, points in layer.rings:
            space.add_lwpolyline(up(points[:-1]), close=True, dxfattribs={"layer": name})
        for _, points in layer.lines:
            if len(points) == 1:
                x, y = up(points)[0]
                space.add_point((x, y), dxfattribs={"layer": name})
            else:
                space.add_lwpolyline(up(points), dxfattribs={"layer": name})
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode(document.output_encoding, errors="replace")


def layer_key(name: str) -> str:
    """A name as it may stand as an id, and as a layer: letters, digits, dashes."""
    return re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower() or "layer"
