"""Where the work stands after some of a route was followed, something was ripped out, or done otherwise."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

import numpy as np

from chorograph_core.chart import Chart
from chorograph_core.chart.seams import noded_edges
from chorograph_core.designs.linework import Run, Span, length
from chorograph_core.route.model import TOLERANCE, Begun, State, Step

NAMED = ("secure", "tuck", "unmark", "unpick", "move")
"""Steps that are finished by their own name."""
MOVES = ("stitch", "travel")


def ended(steps: Sequence[Step], before: State, bobbin: float, aside: Mapping[str, float]) -> State:
    """Where the work stands once all *steps* are followed, from the state *before*, with *bobbin* inches
    left, and others *aside* by their thread."""
    done = set(before.done)
    for step in steps:
        done.update(step.seams)
        done.update(f"mark:{name}" for name in step.marks)
        if step.kind in NAMED or (step.kind == "stitch" and not step.seams and step.run):
            done.add(step.run)
    thread = next((s.thread for s in reversed(steps) if s.kind == "thread"), before.thread)
    return State(
        frozenset(done), thread, bobbin, lies=before.lies, aside=tuple(sorted(aside.items()))
    )


def followed(
    steps: Sequence[Step], seconds: float, before: State, chart: Chart, tops: dict[int, float]
) -> State:
    """Where the work stands when *steps* were followed for so many *seconds* from the state *before*.

    A line that is left in its middle is known as far as it is stitched; in the ditch one goes on to where
    seams meet. What one was only travelling to, or rolling, is not done. *tops* tells how far down the
    quilt each pass begins.
    """
    past, now, rest = _parted(steps, seconds, chart)
    gone, left = _to_its_end(past if now is None else [*past, now], list(rest), chart)
    return replace(after_steps(gone, left, before, tops), bobbin=None)


def after_steps(
    gone: Sequence[Step], left: Sequence[Step], before: State, tops: Mapping[int, float]
) -> State:
    """Where the work stands when the steps *gone* were followed and those *left* not, both in order, from the
    state *before*. *tops* tells how far down the quilt each pass begins."""
    thread, needle, lies = before.thread, before.needle, before.lies
    for step in gone:
        if step.kind == "move":
            thread = ""
        elif step.thread:
            # Whoever stitched has threaded, whether she said so or not.
            thread = step.thread
        lies = tops.get(step.reach, lies) if step.kind != "mark" else lies
        if step.kind in ("start", *MOVES):
            x, y = step.points[-1]
            needle = (float(x), float(y))
        elif step.kind in ("tie_off", "secure", "move"):
            needle = None
    return replace(_named(gone, left, before), thread=thread, needle=needle, lies=lies)


def with_done(state: State, names: Collection[str]) -> State:
    """The same with what *names* tells done as well; nothing of it is begun any more."""
    begun = tuple(each for each in state.begun if each.run not in names)
    return replace(state, done=state.done | frozenset(names), begun=begun)


def ripped_out(state: State, names: Collection[str]) -> State:
    """The same with what *names* tells taken out again: it is to be stitched anew."""
    begun = tuple(each for each in state.begun if each.run not in names)
    return replace(state, done=state.done - frozenset(names), begun=begun)


def cut_off(state: State) -> State:
    """The same with the thread tied off and cut."""
    return replace(state, needle=None)


def with_bobbin(state: State, inches: float) -> State:
    """The same with a bobbin that holds so many *inches*."""
    return replace(state, bobbin=inches)


def _parted(
    steps: Sequence[Step], seconds: float, chart: Chart
) -> tuple[list[Step], Step | None, list[Step]]:
    """The steps that are over, the part that is of the one under the needle, and what is left."""
    ends = np.cumsum([step.seconds for step in steps])
    number = int(np.searchsorted(ends, seconds + 1e-6, side="right"))
    if number >= len(steps):
        return list(steps), None, []
    step, past = steps[number], list(steps[:number])
    at = float(ends[number]) - step.seconds
    if step.kind not in MOVES or len(step.points) < 2 or step.seconds <= 0:
        return past, None, list(steps[number:])
    share = (seconds - at) / step.seconds
    stop = _stop(step, share, chart)
    if stop <= 0:
        return past, None, list(steps[number:])
    one = replace(step, points=step.points[: stop + 1], seconds=step.seconds * share,
                  inches=length(step.points[: stop + 1]))  # fmt: skip
    two = replace(step, points=step.points[stop:], inches=step.inches - one.inches,
                  seconds=step.seconds - one.seconds)  # fmt: skip
    return past, one, [two, *steps[number + 1 :]]


AHEAD = 6
"""Steps among which a seam goes on that a machine stitches in parts, each the way it likes."""


def _to_its_end(gone: list[Step], left: list[Step], chart: Chart) -> tuple[list[Step], list[Step]]:
    """What is over and what is left, where the last seam is finished first: a long line may be stitched in
    parts, turned round one by one, that do not end where seams meet."""
    while True:
        last = next((s for s in reversed(gone[-AHEAD:]) if s.kind in MOVES and len(s.points)), None)
        if last is None or not last.seams:
            break
        meets = junctions(chart)
        ends = [spot for spot in last.points[[0, -1]] if tuple(np.round(spot, 2)) not in meets]
        on = next((k for k, step in enumerate(left[:AHEAD]) if step.seams), None)
        if on is None or not any(
            np.abs(spot - end).max() < TOLERANCE
            for spot in ends
            for end in left[on].points[[0, -1]]
        ):
            break
        gone, left = [*gone, *left[: on + 1]], left[on + 1 :]
    return gone, left


def _stop(step: Step, share: float, chart: Chart) -> int:
    """The point of a step at which one leaves off when *share* of it is done; 0 for its beginning."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(step.points, axis=0).T))])
    stop = int(np.searchsorted(along, share * along[-1], side="right")) - 1
    if step.kind == "travel" and not step.run:
        return 0
    if step.seams:
        meets = junctions(chart)
        while stop > 0 and tuple(np.round(step.points[stop], 2)) not in meets:
            stop -= 1
    return min(stop, len(step.points) - 2)


def junctions(chart: Chart) -> set[tuple[float, float]]:
    """Where seams meet or end, to a hundredth of an inch: between two of them a ditch is one thing, however
    often it bends."""
    ends = np.round(noded_edges(chart).reshape(-1, 2), 2)
    spots, counts = np.unique(ends, axis=0, return_counts=True)
    return {(float(x), float(y)) for (x, y), count in zip(spots, counts, strict=True) if count != 2}


def _named(gone: Sequence[Step], left: Sequence[Step], before: State) -> State:
    """What is done and begun, by the names of things, when steps are *gone* and others *left*, both in
    order."""
    # A way from line to line that nothing is stitched behind any more is left out.
    later_runs = {s.run for s in left if s.kind == "stitch" and s.run and not s.seams}
    later_seams = {seam for s in left for seam in s.seams}
    named_later = {s.run for s in left if s.kind in NAMED}
    done = set(before.done)
    sewn = [*before.sewn]
    lines: dict[str, list[np.ndarray]] = defaultdict(list)
    for step in gone:
        done.update(f"mark:{name}" for name in step.marks)
        if step.kind in NAMED:
            done |= {step.run} - named_later
        elif step.seams:
            done |= set(step.seams) - later_seams
            if not later_seams.isdisjoint(step.seams):
                sewn.append(step.points)
        elif step.kind == "stitch" and step.run:
            lines[step.run].append(step.points)
    was = {each.run: each.stitched for each in before.begun}
    begun = [each for each in before.begun if each.run not in lines and each.run in later_runs]
    for run, parts in lines.items():
        if run not in later_runs:
            done.add(run)
            continue
        begun.append(Begun(run, (*was.get(run, ()), *parts), _rest_of(run, left)))
    return State(frozenset(done), begun=tuple(begun), sewn=tuple(sewn))


def _rest_of(run: str, steps: Sequence[Step]) -> tuple[Run, ...]:
    """What of a run is left, as the route was going to stitch it: a run for each unbroken stretch."""
    made: list[list[Step]] = []
    position = ""
    positions: list[str] = []
    for step in steps:
        if step.run != run or step.seams:
            continue
        if step.kind == "ruler":
            position = step.reason
        if step.kind not in MOVES or len(step.points) < 2:
            continue
        follows = made and np.abs(made[-1][-1].points[-1] - step.points[0]).max() < TOLERANCE
        if follows:
            made[-1].append(step)
        else:
            made.append([step])
            positions.append(position)
    # A way along an edge at either end is no stitching that is left.
    made = [_trimmed(each) for each in made]
    return tuple(_joined(each, where) for each, where in zip(made, positions, strict=True) if each)


def _trimmed(steps: list[Step]) -> list[Step]:
    stitched = [k for k, step in enumerate(steps) if step.kind == "stitch"]
    return steps[stitched[0] : stitched[-1] + 1] if stitched else []


def _joined(steps: Sequence[Step], position: str) -> Run:
    points = [steps[0].points, *(step.points[1:] for step in steps[1:])]
    stops = list(itertools.accumulate(len(each) for each in points))
    kinds = [step.how if step.kind == "travel" else "stitch" for step in steps]
    technique = next(step.how for step in steps if step.kind == "stitch")
    spans = tuple(
        Span(stop - 1, step.how if step.kind == "stitch" else technique, kind, position)
        for stop, step, kind in zip(stops, steps, kinds, strict=True)
    )
    whole = np.concatenate(points)
    if len(spans) == 1:
        return Run(whole, technique, position=position)
    return Run(whole, technique, spans)
