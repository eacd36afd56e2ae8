"""How a run is laid, in words."""

from __future__ import annotations

from chorograph_core.designs.linework import RULED, Run, length
from chorograph_core.rulers import Reach, edge_named


def edge_of(run: Run, reach: Reach) -> str:
    """The edge that the longest ruled piece of *run* is stitched along, by its name, or by hand.

    Raises ValueError for a run for which no ruler is laid.
    """
    ruled = [
        points
        for points, technique, kind in run.pieces()
        if kind == "stitch" and technique in RULED
    ]
    return edge_named(max(ruled, key=length), reach)


def position_in(run: Run) -> str:
    """By what most of *run* is laid: how its second line is, since the first lies by a seam."""
    positions = [span.position for span in run.spans if span.position] or [run.position]
    return positions[min(1, len(positions) - 1)]
