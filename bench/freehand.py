"""Freehand motifs: how fast they are drawn, and the sheet of all of them on eight shapes."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np

from bench.layouts import ZONES, many_zones, sheet, top
from bench.table import table
from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.drawing import drawn_safely

SHEET = Path(__file__).parent.parent / "docs" / "freehand-motifs.png"


def motifs() -> list[Design]:
    """All that is drawn by hand."""
    return [design for design in designs().values() if design.family == "freehand"]


def main() -> None:
    """Milliseconds for each motif, seconds for a top, and the sheet."""
    zones, rows, each_ms = many_zones(), [], []
    for design in motifs():
        took = []
        for zone in zones[:: ZONES // 24]:
            began = time.perf_counter()
            space = Space(zone)
            drawn_safely(design, space, design.proposed(space), 1)
            took.append((time.perf_counter() - began) * 1000)
        each_ms += took
        rows.append([design.name, float(np.median(took)), float(np.percentile(took, 95))])
    table("One zone, drawn cold", ["motif", "median ms", "95 % ms"], rows)
    table("All motifs", ["measure", "ours", "aim"], [
        [f"{ZONES} zones of a top, motifs in turn, seconds", top(motifs()), 20.0],
        ["one zone, median ms", float(np.median(each_ms)), 40.0],
        ["one zone, 95th percentile ms", float(np.percentile(each_ms, 95)), 200.0],
    ])  # fmt: skip
    sheet(motifs(), SHEET)
