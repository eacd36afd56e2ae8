"""Continuity: down at a start, no jumps, up at a tie-off, the right thread in the needle."""

from __future__ import annotations

import numpy as np

from chorograph_core.route.replay.measuring import NEAR, inches_of


def needle_faults(steps, thread: str, needle=None) -> list[str]:
    """Continuity: down at a start, no jumps, up at a tie-off, the right thread in the needle, which is down
    at *needle* (x, y) as they begin."""
    faults, position, down = [], needle, needle is not None
    for number, step in enumerate(steps, 1):
        if step.kind == "thread":
            if down:
                faults.append(f"step {number}: the thread is changed without a cut")
            thread = step.thread
        elif step.kind == "start":
            if down:
                faults.append(f"step {number}: starts while already stitching")
            down, position = True, step.points[-1]
        elif step.kind in ("stitch", "travel"):
            if not down:
                faults.append(f"step {number}: moves without a start")
            elif np.hypot(*(step.points[0] - position)) > NEAR:
                gone = np.hypot(*(step.points[0] - position))
                faults.append(f"step {number}: the needle jumps {gone:.2f} inches without a cut")
            if step.thread != thread:
                faults.append(f"step {number}: is in {step.thread}, but {thread} is threaded")
            if abs(step.inches - inches_of(step.points)) > 0.01 + 0.001 * step.inches:
                faults.append(f"step {number}: says {step.inches:.2f} inches, but is not so long")
            position, down = step.points[-1], True
        elif step.kind == "secure":
            if down:
                faults.append(f"step {number}: bastes while stitching")
            if step.thread != thread:
                faults.append(f"step {number}: is in {step.thread}, but {thread} is threaded")
        elif step.kind == "tie_off":
            if not down:
                faults.append(f"step {number}: cuts where nothing was stitched")
            down = False
    if down:
        faults.append("the last thread is never tied off")
    return faults
