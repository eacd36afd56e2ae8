"""Holding: loose lines lie where they are wanted, and are out before a place is stitched."""

from __future__ import annotations

import shapely

LOFTY = 0.2
"""Inches of batting under the foot from which on each pass is held by a serpentine."""
FARTHEST = 4.0
"""Inches from any place of a quilt that is basted all over to the next line of basting."""
INSIDE = 0.05
"""Inches from its edge at which basting lies inside a zone, and not on the seam to the next."""
LEFT = 1.0
"""Inches of basting that may be forgotten, since lines are measured where they are cut."""


def holding_faults(chart, zones, figures, policy, machine, steps, done) -> list[str]:
    """The layers are held as the policy and the batting ask for; every inch of it is taken out, at each
    place before anything is stitched there."""
    if machine is None:
        return []
    lines = [(i, s) for i, s in enumerate(steps, 1)
             if s.kind == "secure" and s.run.startswith("hold:")]  # fmt: skip
    basted = machine.kind == "frame" and policy.days == "basted"
    lofty = machine.kind == "frame" and machine.loft >= LOFTY
    if not basted and not lofty:
        faults = [f"step {lines[0][0]}: holds the layers, which nobody asked for"] if lines else []
        return faults + [f"step {i}: takes out basting where there is none"
                         for i, s in enumerate(steps, 1) if s.kind == "unpick"]  # fmt: skip
    faults = []
    for number, step in lines:
        if not chart.outline.covers(shapely.linestrings(step.points)):
            faults.append(f"step {number}: bastes beyond the top")
    moved = [i for i, s in enumerate(steps, 1) if s.kind in ("stitch", "travel")]
    if done or not moved:
        return faults
    if basted:
        faults += _all_over(chart, lines, moved[0])
    else:
        for reach in {steps[i - 1].reach for i in moved}:
            first = next(i for i in moved if steps[i - 1].reach == reach)
            if not any(i < first for i, s in lines if s.reach == reach):
                faults.append(f"step {first}: pass {reach} is stitched before it is held")
    return faults + _taken_out(zones, figures, lines, steps)


def _all_over(chart, lines, first: int) -> list[str]:
    """Every place lies near a line, and all were stitched before the work began."""
    faults = [f"step {i}: bastes after the work was begun" for i, _ in lines if i > first]
    held = shapely.union_all(
        [chart.outline.boundary, *(shapely.linestrings(s.points) for _, s in lines)]
    )
    bare = chart.outline.difference(held.buffer(FARTHEST))
    if bare.area > 0.5:
        faults.append(f"{bare.area:.0f} square inches are nowhere near basting")
    return faults


def _taken_out(zones, figures, lines, steps) -> list[str]:
    """As many inches come out as were put in, and none is left where a path is followed."""
    faults = []
    laid = shapely.union_all([shapely.linestrings(s.points) for _, s in lines])
    out = sum(s.inches for s in steps if s.kind == "unpick")
    if abs(laid.length - out) > LEFT + 0.01 * laid.length:
        faults.append(f"{laid.length:.0f} inches hold the layers, {out:.0f} are taken out")
    free: set[str] = set()
    stitched: dict[str, int] = {}
    shapes = {zone.id: zone.polygon for zone in zones}
    bare: set[str] = set()
    for number, step in enumerate(steps, 1):
        if step.kind == "move":
            # What a place holds of the other machine's part is taken out there.
            free.clear()
            stitched.clear()
        if step.kind == "unpick":
            if step.station in stitched:
                faults.append(
                    f"step {number}: basting comes out after step {stitched[step.station]}"
                )
            free.add(step.station)
        if step.kind == "stitch" and step.station and step.run:
            stitched.setdefault(step.station, number)
        if step.kind == "unpick" and step.station in figures:
            # Where a figure lies, all of it is taken out.
            bare |= set(figures[step.station].zones)
        if step.kind == "stitch" and step.station and step.zone in shapes and step.zone not in bare:
            inside = shapely.intersection(laid, shapes[step.zone].buffer(-INSIDE)).length
            if inside > LEFT and step.station not in free:
                faults.append(f"{step.zone} is stitched over {inside:.0f} inches of basting")
                free.add(step.station)
    return faults
