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


def tuck_faults(chart, tucks, passes, steps, done) -> list[str]:
    """As many tucks on each side as it takes, apart from each other, each before its pass is begun."""
    left, top, right, bottom = chart.outline.bounds
    laid = [(i, s) for i, s in enumerate(steps, 1) if s.kind == "tuck"]
    begun = {s.reach for s in steps if s.kind in ("stitch", "travel")}
    faults: list[str] = []
    for side in ("top", "right", "bottom", "left"):
        mine = [(i, s) for i, s in laid if s.run.startswith(f"tuck:{side}.")]
        before = sum(name.startswith(f"tuck:{side}.") for name in done)
        wanted = tucks.get(side, 0) - before
        in_reach = len(begun) == len(passes) or not passes
        if len(mine) > wanted or (in_reach and begun and len(mine) < wanted):
            faults.append(f"{len(mine)} tucks are laid at the {side}, {wanted} are wanted")
        edge, along = {
            "top": (top, 0),
            "bottom": (bottom, 0),
            "left": (left, 1),
            "right": (right, 1),
        }[side]
        places = []
        for number, step in mine:
            x, y = step.points[0]
            if abs((y if along == 0 else x) - edge) > ALLOWANCE:
                faults.append(f"step {number}: lays a tuck away from the {side}")
            places.append((x, y)[along])
            first = next((i for i, s in enumerate(steps, 1)
                          if s.kind in ("stitch", "travel") and s.reach == step.reach), number)  # fmt: skip
            if first < number:
                faults.append(f"step {number}: lays a tuck after pass {step.reach} was begun")
        long = (right - left, bottom - top)[along]
        if len(places) > 1 and np.diff(np.sort(places)).min() < 0.5 * long / len(places):
            faults.append(f"the tucks at the {side} lie together")
    return faults
