"""Places and order: travel lies where it says, nothing is forbidden, what comes first comes first."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
import shapely
from shapely import STRtree

from chorograph_core.route.replay.measuring import NEAR


def order_faults(chart, shapes, asked, policy, steps, passes) -> list[str]:
    """Stabilise before filling; outer layers of a zone before its inner ones."""
    faults = []
    fills = [
        i for i, s in enumerate(steps) if s.kind == "stitch" and not s.run.startswith("ditch:")
    ]
    ditches = [i for i, s in enumerate(steps) if s.kind == "stitch" and s.run.startswith("ditch:")]
    if policy.stabilise == "quilt" and fills and ditches and fills[0] < ditches[-1]:
        faults.append(f"step {fills[0] + 1}: fills before all ditches are stitched")
    if policy.stabilise == "pass":
        for reach in {steps[i].reach for i in ditches}:
            filled = [i for i in fills if steps[i].reach == reach]
            if filled and filled[0] < max(i for i in ditches if steps[i].reach == reach):
                faults.append(f"step {filled[0] + 1}: fills before the ditches of pass {reach}")
    if policy.stabilise == "zone":
        faults += _place_by_place(steps, fills, ditches)
    if policy.edges == "border":
        faults += _border_first(chart, steps, ditches)
    faults += _techniques(asked, policy, steps, fills)
    deepest: dict[tuple, int] = {}
    for i in fills:
        if steps[i].run not in asked:
            continue
        one, _ = asked[steps[i].run]
        keys: list[tuple] = [(zone, one.thread, steps[i].reach) for zone in _under(one)]
        # What reaches on to the next pass has its own time there.
        if one.figure is None and _within_a_pass(shapes[one.zone], passes):
            keys.append((one.zone, one.thread))
        for key in keys:
            if one.layer < deepest.get(key, -1):
                faults.append(f"step {i + 1}: {key[0]} is framed after it was filled")
            deepest[key] = max(one.layer, deepest.get(key, -1))
    return faults


def _under(one) -> tuple[str, ...]:
    """The zones that linework lies in: one, or all that its figure lies over."""
    return (one.zone,) if one.figure is None else one.figure.zones


def _within_a_pass(shape, passes) -> bool:
    low, high = shape.bounds[1::2]
    return not passes or any(each.top <= low and high <= each.bottom for each in passes)


def _place_by_place(steps, fills, ditches) -> list[str]:
    """In each pass the ditches inside a place come before its fillings."""
    last = {(steps[i].reach, steps[i].station): i for i in ditches if steps[i].station}
    return [
        f"step {i + 1}: fills before the ditches of {steps[i].station}"
        for i in fills
        if i < last.get((steps[i].reach, steps[i].station), -1)
    ]


def _border_first(chart, steps, ditches) -> list[str]:
    """In each pass the seam between body and border is stitched before other ditches."""
    border = [p.polygon for p in chart.patches if p.role in ("border", "corner")]
    if not border:
        return []
    ring = shapely.union_all(border, grid_size=1e-4).boundary
    seam = ring.difference(chart.outline.boundary.buffer(NEAR)).buffer(NEAR)
    faults: list[str] = []
    other: dict[tuple, int] = {}
    for i in ditches:
        where = (steps[i].reach, steps[i].thread)
        share = shapely.intersection(seam, shapely.linestrings(steps[i].points)).length
        if share < 0.5 * steps[i].inches:
            other.setdefault(where, i)
        elif where in other and share > 1.0:
            faults.append(
                f"step {i + 1}: the border's seam comes after the ditches of step {other[where] + 1}"
            )
    return faults


def _techniques(asked, policy, steps, fills) -> list[str]:
    """Ruler work before freehand, or one design after the other, where the policy asks for it; in a
    sweep through the quilt or in each pass. An inner layer may come after its outer one."""
    if policy.technique == "mixed":
        return []
    lowest: dict[str, int] = {}
    for one, run in asked.values():
        if not run.in_ditch:
            for zone in _under(one):
                lowest[zone] = min(one.layer, lowest.get(zone, one.layer))
    turns: dict[tuple, list[tuple[str, int]]] = defaultdict(list)
    for i in fills:
        if steps[i].run not in asked:
            continue
        one, run = asked[steps[i].run]
        if any(one.layer > lowest[zone] for zone in _under(one)):
            continue
        first = next((how for _, how, kind in run.pieces() if kind == "stitch"), "")
        name = one.design
        if policy.technique == "ruler":
            name = "ruler" if first in ("ditch", "straight", "curved") else "freehand"
        place = steps[i].station if policy.stabilise == "zone" else ""
        where = (steps[i].thread, 0 if policy.stabilise == "quilt" else steps[i].reach, place)
        if not turns[where] or turns[where][-1][0] != name:
            turns[where].append((name, i))
    faults = []
    for found in turns.values():
        seen: set[str] = set()
        for name, i in found:
            late = policy.technique == "ruler" and name == "ruler" and "freehand" in seen
            if name in seen or late:
                faults.append(f"step {i + 1}: {name} is taken up again after something else")
            seen.add(name)
    return faults


def place_faults(chart, zones, outlined, policy, steps) -> list[str]:
    """Travel lies where it says, nothing leaves the top, nothing touches a forbidden zone."""
    faults: list[str] = []
    moving = [(i, s) for i, s in enumerate(steps, 1) if s.kind in ("stitch", "travel")]
    if not moving:
        return faults
    lines = np.array([shapely.linestrings(s.points) for _, s in moving])
    top = chart.outline.buffer(NEAR)
    shapely.prepare(top)
    for k in np.flatnonzero(~shapely.covers(top, lines)).tolist():
        faults.append(f"step {moving[k][0]}: leaves the top")
    edges = [patch.polygon.boundary for patch in chart.patches]
    # Where a zone was cut there is no seam; its edge hides travel only if it is stitched itself.
    edges += [zone.polygon.boundary for zone in zones if zone.id in outlined]
    faults += _on(moving, lines, "ditch", shapely.get_parts(edges), "a seam")
    border = chart.outline.boundary
    faults += _on(moving, lines, "edge", np.array([border]), "the raw edge")
    if policy.edge_finish != "binding":
        inner = chart.outline.buffer(-NEAR).buffer(-NEAR)
        for k, (number, step) in enumerate(moving):
            if step.how == "edge" and not inner.covers(lines[k]):
                faults.append(f"step {number}: runs along the raw edge, which the finish forbids")
    faults += _banned(chart, zones, policy, moving, lines)
    return faults


MOST_IN_APPLIQUE = 0.75
"""Inches of stitching a square inch where the client allows a few holding lines."""


def _banned(chart, zones, policy, moving, lines) -> list[str]:
    """Nothing inside a forbidden zone; in appliqué no more than the client allows."""
    faults = []
    sewn_on = {patch.id for patch in chart.patches if patch.role == "applique"}
    for zone in zones:
        limited = policy.applique != "full" and any(patch in sewn_on for patch in zone.patches)
        if not zone.forbidden and not limited:
            continue
        core = zone.polygon.buffer(-NEAR)
        touched = np.flatnonzero(shapely.intersects(core, lines))
        if not zone.forbidden and policy.applique == "light":
            # Leg by leg, since a line stitched twice over counts twice.
            legs = [shapely.linestrings(np.stack([s.points[:-1], s.points[1:]], axis=1))
                    for s in (moving[k][1] for k in touched)]  # fmt: skip
            inside = sum(shapely.length(shapely.intersection(core, leg)).sum() for leg in legs)
            if inside > MOST_IN_APPLIQUE * zone.polygon.area * 1.02:
                faults.append(f"{zone.id} holds {inside:.1f} inches, which is more than light")
            continue
        for k in touched:
            faults.append(f"step {moving[k][0]}: stitches in {zone.id}, which is forbidden")
    return faults


def _on(moving, lines, how: str, ground, name: str) -> list[str]:
    """Steps that say they travel *how* but stray from *ground*."""
    chosen = [k for k, (_, s) in enumerate(moving) if s.kind == "travel" and s.how == how]
    if not chosen:
        return []
    dense = shapely.segmentize(lines[chosen], 0.5)
    spots, owner = shapely.get_coordinates(dense, return_index=True)
    near = STRtree(ground).query(shapely.points(spots), predicate="dwithin", distance=NEAR)[0]
    astray = np.ones(len(spots), bool)
    astray[near] = False
    return [
        f"step {moving[chosen[k]][0]}: says it travels along {name}, but does not"
        for k in np.unique(owner[astray])
    ]
