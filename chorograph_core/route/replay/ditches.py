"""Ditches: all that were asked for, and nothing twice."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import STRtree

from chorograph_core.route.replay.measuring import NEAR
from chorograph_core.zones.edges import done_edges, named_edges

CROSSING = 0.45
"""Inches along which a line that only crosses another, or meets it at a sharp point, may lie beside it."""


def ditch_faults(chart, zones, drawn, steps, done, sewn=()) -> list[str]:
    """All that was asked to be stitched in the ditch is, and nothing of it twice; *sewn* are lines that were
    stitched before."""
    lines = [
        shapely.linestrings(run.points)
        for one in drawn
        for run in one.linework.runs
        if run.in_ditch
    ]
    made = [s for s in steps if s.kind == "stitch" and s.run.startswith("ditch:")]
    edges, names = named_edges(chart, zones) if done else (np.empty((0, 2, 2)), [])
    before_now = done_edges(chart, edges, names, done)
    sewn_names = {name for name, there in zip(names, before_now, strict=True) if there}
    again = {seam for step in made for seam in getattr(step, "seams", ())} & (done | sewn_names)
    if again:
        return [f"{seam} is stitched in the ditch a second time" for seam in sorted(again)]
    if not lines:
        return ["a ditch is stitched that nobody asked for"] if made else []
    wanted = shapely.union_all(lines, grid_size=1e-4)
    # That nothing of what was done before comes again, the names of the seams have told.
    asked_for = wanted
    if done:
        wanted = _not_done(wanted, edges[before_now])
    before = [shapely.linestrings(line) for line in sewn if len(line) > 1]
    if before:
        there = shapely.union_all(before, grid_size=1e-4)
        wanted = wanted.difference(there.buffer(NEAR, cap_style="flat"))
    stitched = shapely.linestrings(next(s.points for s in made)) if len(made) == 1 else (
        shapely.union_all([shapely.linestrings(s.points) for s in made], grid_size=1e-4)
        if made else shapely.from_wkt("LINESTRING EMPTY"))  # fmt: skip
    faults = []
    left = _uncovered(wanted, stitched)
    if left > 0.1:
        faults.append(f"{left:.1f} inches of ditch are never stitched")
    if before:
        along = stitched.intersection(there.buffer(NEAR))
        lengths = shapely.length(shapely.get_parts(shapely.line_merge(along)))
        # Lines that only cross one of them lie along it for a hair.
        over = float(lengths[lengths > CROSSING].sum())
        if over > 0.1:
            faults.append(f"{over:.1f} inches of ditch are stitched that were stitched before")
    extra = _uncovered(stitched, asked_for)
    if extra > 0.1:
        faults.append(f"{extra:.1f} inches are stitched as ditches that nobody asked for")
    twice = sum(s.inches for s in made) - stitched.length
    if twice > 0.1 + 1e-4 * stitched.length:
        faults.append(f"{twice:.1f} inches of ditch are stitched twice over")
    return faults


def _not_done(wanted, sewn):
    """What of the *wanted* ditches lies on no edge that was *sewn* before. A line that is wanted may run on
    over several seams, so it is the edges of patches and zones that are asked for their names."""
    if not len(sewn):
        return wanted
    there = shapely.union_all(shapely.linestrings(sewn)).buffer(NEAR, cap_style="flat")
    left = [part for part in shapely.get_parts(wanted.difference(there)) if part.length > 2 * NEAR]
    return shapely.union_all(left, grid_size=1e-4)


def _uncovered(wanted, made) -> float:
    """Inches of *wanted* further than `NEAR` from *made*, sampled every quarter inch."""
    if wanted.is_empty:
        return 0.0
    parts = shapely.get_parts(wanted)
    parts = parts[shapely.length(parts) > 1e-9]
    spots: list[np.ndarray] = []
    weights: list[np.ndarray] = []
    for part, inches in zip(parts, shapely.length(parts), strict=True):
        count = max(1, int(np.ceil(inches / 0.25)))
        at = (np.arange(count) + 0.5) * inches / count
        spots.append(shapely.line_interpolate_point(part, at))
        weights.append(np.full(count, inches / count))
    where = np.concatenate(spots)
    near = STRtree(shapely.get_parts(made)).query(where, predicate="dwithin", distance=NEAR)[0]
    bare = np.ones(len(where), bool)
    bare[near] = False
    return float(np.concatenate(weights)[bare].sum())
