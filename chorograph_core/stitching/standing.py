"""Where the work stands when some legs of a route are done, in whatever order."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from chorograph_core.job import Job
from chorograph_core.route import State, Step
from chorograph_core.route.progress import MOVES, named
from chorograph_core.steering.standing import left_on_bobbin
from chorograph_core.stitching.legs import Leg

NEAR = 0.05
"""Inches by which the needle may stand beyond a pass."""


def stands_with(
    job: Job,
    steps: Sequence[Step],
    legs: Sequence[Leg],
    done: Collection[int],
    passes: Mapping[int, tuple[float, float]],
    before: State,
) -> State:
    """The state when the legs numbered in *done* are done and no other, from the state *before*; *passes* are
    the inches down the quilt from which to which each reaches. Thread, needle and pass are those of the last
    of them; where the needle is no longer under the machine, the thread was cut."""
    finished = set(done)
    gone: list[Step] = []
    left: list[Step] = []
    for leg in legs:
        (gone if leg.number in finished else left).extend(steps[leg.first : leg.stop])
    state = named(gone, left, before)
    thread, needle, lies, bottom = before.thread, before.needle, before.lies, math.inf
    for step in gone:
        if step.kind == "thread":
            thread = step.thread
        if step.kind != "mark" and step.reach in passes:
            lies, bottom = passes[step.reach]
        if step.kind in ("start", *MOVES):
            x, y = step.points[-1]
            needle = (float(x), float(y))
        elif step.kind in ("tie_off", "secure"):
            needle = None
    if needle is not None and lies is not None and not lies - NEAR <= needle[1] <= bottom + NEAR:
        needle = None
    seconds = sum(step.seconds for step in gone)
    bobbin = left_on_bobbin(job, gone, seconds, before)
    return replace(state, thread=thread, needle=needle, lies=lies, bobbin=bobbin)


def finished_names(
    steps: Sequence[Step], legs: Sequence[Leg], done: Collection[int], late: Collection[int]
) -> frozenset[str]:
    """Runs and seams that are finished by the legs *late*, of a route that is followed no more, when the legs
    in *done* were done as well: what is still open in another leg is left out."""
    open_runs: set[str] = set()
    open_seams: set[str] = set()
    runs: set[str] = set()
    seams: set[str] = set()
    for leg in legs:
        mine = [step for step in steps[leg.first : leg.stop] if step.kind == "stitch"]
        if leg.number in late:
            runs |= {step.run for step in mine if not step.seams and step.run}
            seams |= {seam for step in mine for seam in step.seams}
        elif leg.number not in done:
            open_runs |= {step.run for step in mine if not step.seams}
            open_seams |= {seam for step in mine for seam in step.seams}
    return frozenset((runs - open_runs) | (seams - open_seams))
