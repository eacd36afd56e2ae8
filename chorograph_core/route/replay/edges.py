"""Edges: basted all round within the binding allowance, before anything else in a pass."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import STRtree

ALLOWANCE = 0.25
"""Inches from the raw edge that a binding covers."""
STEP, NEAR_LINE, LEFT = 0.5, 0.2, 2.0
"""Inches between places that are looked at, how near basting must be, and how much may be missing."""


def edge_faults(chart, passes, policy, machine, steps, done) -> list[str]:
    """The edge is basted wherever the quilt was reached; no stitch of a pass comes before its basting."""
    made = [(i, s) for i, s in enumerate(steps, 1)
            if s.kind == "secure" and not s.run.startswith("hold:")]  # fmt: skip
    if machine is None:
        return []
    if machine.kind != "frame" or policy.edges != "baste":
        return [f"step {made[0][0]}: bastes, which nobody asked for"] if made else []
    faults = []
    border = chart.outline.boundary
    for number, step in made:
        inside = chart.outline.buffer(1e-6).covers(shapely.linestrings(step.points))
        spots = shapely.points(step.points)
        if not inside or shapely.distance(border, spots).max() > ALLOWANCE:
            faults.append(f"step {number}: bastes where the binding does not cover it")
        first = next((i for i, s in enumerate(steps, 1)
                      if s.kind in ("stitch", "travel") and s.reach == step.reach), None)  # fmt: skip
        if first is not None and first < number:
            faults.append(f"step {number}: bastes pass {step.reach} after it was begun")
    if done:
        # What was basted before is not known by its place.
        return faults
    return faults + _bare(border, passes, steps, made)


def _bare(border, passes, steps, made) -> list[str]:
    """Edge that was in reach and is not basted."""
    visited = {s.reach for s in steps if s.kind in ("stitch", "travel")}
    if not visited:
        return []
    spots = shapely.get_coordinates(shapely.segmentize(border, STEP))
    if len(passes) > 1:
        there = np.zeros(len(spots), bool)
        other = np.zeros(len(spots), bool)
        for each in passes:
            held = (spots[:, 1] >= each.top) & (spots[:, 1] <= each.bottom)
            if each.number in visited:
                there |= held
            else:
                other |= held
        spots = spots[there & ~other]
    bare = np.ones(len(spots), bool)
    if made:
        lines = STRtree([shapely.linestrings(s.points) for _, s in made])
        near = lines.query(shapely.points(spots), predicate="dwithin", distance=NEAR_LINE)[0]
        bare[near] = False
    inches = float(bare.sum()) * STEP
    return [f"{inches:.0f} inches of the edge are not basted"] if inches > LEFT else []
