"""The sheet: zones or patches as SVG paths to scale, with a graticule of inches along the edges."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from chorograph_core.chart import Chart, alike
from chorograph_core.formats.drawing import outline_path
from chorograph_core.formats.wording import place_in
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import CM_PER_INCH

ROOM = 4.5
"""Share of room left for the graticule, in percent of the larger side."""


@dataclass(frozen=True)
class Shape:
    """One path on the sheet. *label* is what it is, *says* all that one who does not see it wants to know."""

    id: str
    d: str
    fill: str
    label: str = ""
    klass: int = 0
    fabric: str = ""
    entry: str = ""
    forbidden: bool = False
    block: str = ""
    cell: str = ""
    role: str = ""
    x: float = 0.0
    y: float = 0.0
    says: str = ""


@dataclass(frozen=True)
class Figure:
    """A figure of the graticule: where, what, and how it is anchored."""

    x: float
    y: float
    text: str
    anchor: str


@dataclass(frozen=True)
class Sheet:
    """All that the sheet's template draws. Lengths in inches."""

    width: float
    height: float
    frame: str
    shapes: list[Shape]
    marks: str
    figures: list[Figure]
    small: float

    @property
    def hair(self) -> str:
        """Width of a graticule line."""
        return f"{self.small * 0.11:.4f}"

    @property
    def text(self) -> str:
        """Size of the graticule's figures."""
        return f"{self.small * 1.9:.3f}"


def zone_classes(core: CoreJob) -> list[tuple[int, str]]:
    """For each zone the number of its alike class, and its fabric."""
    classes = _classes(core.zones)
    fabrics = [core.chart.patch(z.patches[0]).fabric if z.patches else "" for z in core.zones]
    return list(zip(classes, fabrics, strict=True))


@lru_cache(maxsize=24)
def _classes(zones: tuple) -> tuple[int, ...]:
    return alike([zone.polygon for zone in zones]).classes


@dataclass(frozen=True)
class Crossing:
    """A crossing of the sashing, which a touch opens or closes: its name, its middle and half its side."""

    name: str
    x: float
    y: float
    r: float
    open: bool


def crossings_of(survey: Any) -> list[Crossing]:
    """Where the lanes of a sashed layout with cornerstones cross."""
    named = getattr(survey, "open_crossings", None)
    if named is None or not survey.sashing or not survey.cornerstones:
        return []
    whole = replace(survey, open_crossings=()).chart()
    found = []
    for patch in whole.patches:
        if patch.role == "cornerstone" and re.fullmatch(r"cs\d+(\.\d+)?", patch.id):
            x0, y0, x1, y1 = patch.polygon.bounds
            name = patch.id[2:]
            found.append(Crossing(name, round((x0 + x1) / 2, 3), round((y0 + y1) / 2, 3),
                                  round((x1 - x0) / 2, 3), name in named))  # fmt: skip
    return found


def chart_sheet(chart: Chart, units: str = "in") -> Sheet:
    """The patches of a chart, for previews."""
    shapes = [
        Shape(patch.id, outline_path(patch.polygon, 3), chart.fabric(patch.fabric).colour)
        for patch in chart.patches
    ]
    return _sheet(chart, shapes, units)


def zone_sheet(core: CoreJob, units: str = "in") -> Sheet:
    """The zones of a job, with what scripts need to select alike ones."""
    entry_of = core.entry_of()
    banned = core.untouchable
    names = {entry.id: entry.name or entry.id for entry in core.legend}
    boxes = _block_boxes(core.chart)
    shapes = []
    for zone, (klass, fabric) in zip(core.zones, zone_classes(core), strict=True):
        patch = core.chart.patch(zone.patches[0]) if zone.patches else None
        x, y = zone.polygon.representative_point().coords[0]
        shapes.append(
            Shape(
                zone.id, outline_path(zone.polygon, 3), core.chart.fabric(fabric).colour,
                zone.label, klass, fabric, entry_of.get(zone.id, ""), zone.id in banned,
                f"{patch.block[0]}.{patch.block[1]}" if patch and patch.block else "",
                patch.cell if patch else "", patch.role if patch else "free",
                round(x, 2), round(y, 2), _says(zone.label, boxes.get(patch.block if patch else None), (x, y),
                                                names.get(entry_of.get(zone.id, "")), zone.id in banned),
            )
        )  # fmt: skip
    return _sheet(core.chart, shapes, units)


def _block_boxes(chart: Chart) -> dict:
    """The bounds of every block, by its row and column."""
    boxes: dict = {}
    for patch in chart.patches:
        if patch.block is not None:
            x0, y0, x1, y1 = patch.polygon.bounds
            a0, b0, a1, b1 = boxes.get(patch.block, (x0, y0, x1, y1))
            boxes[patch.block] = (min(a0, x0), min(b0, y0), max(a1, x1), max(b1, y1))
    return boxes


def _says(label: str, box, spot: tuple[float, float], design: str | None, banned: bool) -> str:
    """A zone in words: what it is, where in its block, its design or that it is left open."""
    told = [label]
    if box is not None:
        told.append(
            f"in the {place}" if (place := place_in(box, spot)) == "middle" else f"at the {place}"
        )
    told.append("left open: the client forbids it" if banned else design or "no design yet")
    return ", ".join(told)


def _sheet(chart: Chart, shapes: list[Shape], units: str) -> Sheet:
    width, height = chart.width, chart.height
    small = max(width, height) / 100
    pad = small * ROOM
    # Centimetres have figures of three digits.
    left = pad * (1.6 if units == "cm" else 1.35)
    frame = f"{-left:.2f} {-pad:.2f} {width + left + pad * 0.4:.2f} {height + pad * 1.4:.2f}"
    marks, figures = [], []
    for at, text in _ticks(width, units):
        long = 1.5 if text else 0.6
        marks.append(f"M{at:g},{-small * 0.6:.3f}v{-small * long:.3f}")
        if text:
            figures.append(Figure(at, round(-small * 2.6, 3), text, "middle"))
    for at, text in _ticks(height, units):
        long = 1.5 if text else 0.6
        marks.append(f"M{-small * 0.6:.3f},{at:g}h{-small * long:.3f}")
        if text:
            figures.append(Figure(round(-small * 2.6, 3), round(at + small * 0.65, 3), text, "end"))
    return Sheet(width, height, frame, shapes, "".join(marks), figures, small)


def _ticks(length: float, units: str) -> list[tuple[float, str]]:
    """Marks every inch with figures every foot, or every 5 cm with figures every 25."""
    step = 5 / CM_PER_INCH if units == "cm" else 1.0
    every = 5 if units == "cm" else 12 if length >= 30 else 6
    marks = []
    for k in range(int(length / step + 1e-6) + 1):
        shown = str(k * 5) if units == "cm" else str(k)
        marks.append((round(k * step, 4), shown if k % every == 0 else ""))
    return marks
