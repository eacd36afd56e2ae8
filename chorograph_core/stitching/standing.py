"""Where the work stands when some legs of a route are done, in whatever order."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from chorograph_core.job import Job
from chorograph_core.route import State, Step
from chorograph_core.route.progress import after_steps, cut_off
from chorograph_core.steering.standing import full_bobbin, with_bobbins
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
    bobbin: int | None = None,
) -> State:
    """The state when the legs numbered in *done* are done and no other, from the state *before*; *passes* are
    the inches down the quilt from which to which each reaches. Thread, needle and pass are those of the last
    of them; where the needle is no longer under the machine, the thread was cut. *bobbin* is the leg at which
    a full one was put in that the route knows nothing of."""
    finished = set(done)
    # Whoever stitched on the other machine has carried the quilt over, whether she said so or not.
    over = {leg.number for leg in legs if leg.kind == "move"}
    finished |= {number for number in over if any(each > number for each in finished)}
    gone: list[Step] = []
    left: list[Step] = []
    for leg in legs:
        (gone if leg.number in finished else left).extend(steps[leg.first : leg.stop])
    tops = {number: top for number, (top, _) in passes.items()}
    state = after_steps(gone, left, before, tops)
    if state.needle is not None and not _reached(state, gone, passes):
        state = cut_off(state)
    return _with_left(job, state, steps, legs, finished, before, bobbin)


def _reached(state: State, gone: Sequence[Step], passes: Mapping[int, tuple[float, float]]) -> bool:
    """Whether the needle stands in the pass that lies under the machine."""
    reach = next((step.reach for step in reversed(gone) if step.kind != "mark"), 0)
    if state.needle is None or reach not in passes:
        return True
    top, bottom = passes[reach]
    return top - NEAR <= state.needle[1] <= bottom + NEAR


def _with_left(
    job: Job, state: State, steps, legs: Sequence[Leg], finished: set[int], before: State,
    bobbin: int | None,
) -> State:  # fmt: skip
    """The state with what is left on the bobbins, by what was stitched since a full one was put in."""

    def gone(since: Sequence[Leg]) -> list[Step]:
        return [
            step for leg in since if leg.number in finished for step in steps[leg.first : leg.stop]
        ]

    def after(stitched: list[Step], start: State) -> State:
        seconds = sum(step.seconds for step in stitched)
        return with_bobbins(job, state, stitched, seconds, start)

    if bobbin is None:
        return after(gone(legs), before)
    # What lies aside is known up to the change; in the machine there was a full one then.
    first = after(gone([leg for leg in legs if leg.number < bobbin]), before)
    thread = next(
        (leg.thread for leg in legs if leg.number >= bobbin and leg.thread), before.thread
    )
    fresh = replace(first, thread=thread, bobbin=full_bobbin(job, first),
                    aside=tuple(each for each in first.aside if each[0] != thread))  # fmt: skip
    return after(gone([leg for leg in legs if leg.number >= bobbin]), fresh)


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
