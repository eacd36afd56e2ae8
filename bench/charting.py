"""Charting: drawn lines to patches, alike classes, a cut on many alike zones."""

from __future__ import annotations

import time

import cv2
import numpy as np

from bench.table import calibration, peak_megabytes, table
from chorograph_core.chart import alike, noded_edges
from chorograph_core.chart.noding import Drawing, chart_of
from chorograph_core.layouts import StraightSet
from chorograph_core.photo.tracing import read_picture, squared, touched
from chorograph_core.zones import cutting, zones_from_patches


def main() -> None:
    """Time each, beside its limit."""
    rng = np.random.default_rng(0)
    side = 2.0
    lines = []
    for row in range(70):
        for column in range(72):
            x, y = column * side, row * side
            square = np.array([(x, y), (x + side, y), (x + side, y + side), (x, y + side), (x, y)])
            lines.append(square + rng.uniform(-0.02, 0.02, square.shape))
    count = sum(len(line) - 1 for line in lines)
    noded, noding = _timed(lambda: chart_of(Drawing(tuple(lines)), 0.1))
    chart = StraightSet(13, 13, 8, ("sawtooth_star", "nine_patch"), 1.5, False, True).chart()
    zones = zones_from_patches(chart)[:2500]
    _, classing = _timed(lambda: alike([zone.polygon for zone in zones]))
    squares = [z for z in zones_from_patches(StraightSet(25, 20, 4, ("plain",), 0.5).chart())
               if "r0c0" in z.id]  # fmt: skip
    cut, cutting_time = _timed(lambda: cutting.cut(squares, cutting.inset(0.5)))
    _, edges = _timed(lambda: noded_edges(chart))
    picture = rng.integers(60, 200, (3000, 4000, 3), dtype=np.uint8)
    picture[800:1600, 1000:2000] = (40, 60, 170)
    photograph = cv2.imencode(".jpg", picture)[1].tobytes()
    corners = [(200, 150), (3800, 120), (3900, 2900), (150, 2850)]
    flat, squaring = _timed(lambda: squared(read_picture(photograph), corners, (80.0, 60.0)))
    _, touching = _timed(lambda: touched(flat, 28.0, 22.0, 40.0))
    rows = [
        [f"{count:,} drawn pieces to {len(noded.chart.patches):,} patches", noding, 4.0],
        [f"alike classes of {len(zones):,} zones", classing, 1.0],
        [f"inset on {len(squares)} alike zones, {len(cut):,} pieces", cutting_time, 1.0],
        [f"all seams of {len(chart.patches):,} patches noded", edges, ""],
        ["photograph of 12 megapixels read and squared", squaring, 3.0],
        ["a touched patch found", touching, 1.0],
        ["peak MB", peak_megabytes(), 500.0],
        ["this machine: 10,000 sums of 1,000, seconds", calibration(), ""],
    ]  # fmt: skip
    table("Charting", ["", "seconds", "limit"], rows)


def _timed(work):
    began = time.perf_counter()
    made = work()
    return made, time.perf_counter() - began
