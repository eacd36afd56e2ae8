"""From the bytes of a drawing to a chart, with everything worth telling about it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from chorograph_core.chart import Chart, faults
from chorograph_core.chart.noding import Noded, chart_of
from chorograph_core.formats.drawings import DrawingError, read_drawing
from chorograph_core.layouts import LARGEST_TOP
from chorograph_core.measure import format_length


@dataclass(frozen=True)
class TakenIn:
    """A chart read from a drawing, with everything worth telling about it."""

    chart: Chart
    said: tuple[str, ...]


def chart_in(
    data: bytes, name: str, width: float, tolerance: float, units: str,
    progress: Callable[[float, str], None] | None = None,
) -> TakenIn:  # fmt: skip
    """The chart of a drawing. Raises `DrawingError` or `ChartError` with the reason."""
    drawing = read_drawing(data, name)
    x0, y0, x1, y1 = drawing.bounds
    if max(x1 - x0, y1 - y0) <= 0:
        raise DrawingError("The drawing has no extent.")
    factor = width / (x1 - x0) if width and x1 > x0 else 1.0
    if max(x1 - x0, y1 - y0) * factor > LARGEST_TOP:
        raise DrawingError(
            f"It comes to {format_length((x1 - x0) * factor, units)} × "
            f"{format_length((y1 - y0) * factor, units)}: say how wide the top is.", ""
        )  # fmt: skip
    noded = chart_of(drawing.scaled(factor), tolerance, progress)
    return TakenIn(noded.chart, _said(noded, drawing, units))


def _said(noded: Noded, drawing, units: str) -> tuple[str, ...]:
    """What was taken, what was mended, what was left out."""
    chart = noded.chart
    said = [f"{len(drawing.lines):,} lines make {len(chart.patches):,} patches, "
            f"{format_length(chart.width, units)} × {format_length(chart.height, units)}."]  # fmt: skip
    if noded.joined:
        said.append(f"{noded.joined} ends that did not quite meet were joined.")
    if noded.slivers:
        said.append(f"{noded.slivers} slivers were given to their neighbours.")
    if noded.islands:
        said.append(f"{noded.islands} patches beside the top were left out.")
    if noded.loose:
        said.append(f"{noded.loose} pieces of line close nothing and were left out.")
    if drawing.left_out:
        parts = ", ".join(f"{count} {what}" for what, count in drawing.left_out.items())
        said.append(f"Not taken: {parts}.")
    broken = faults(chart)
    said += [fault.sentence() for fault in broken[:5]]
    return tuple(said)
