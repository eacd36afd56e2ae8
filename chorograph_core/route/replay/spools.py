"""Thread and bobbins, reckoned again from the lines."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.route.replay.measuring import inches_of

NEAR = 0.01
"""Share of a bobbin, or of a thread's length, by which two reckonings may differ."""
BASTING = 7.0
ORDINARY = 11.0
MOVING = ("stitch", "travel", "secure")


def spool_faults(asked: Sequence[LayerLinework], machine, steps, since=None) -> list[str]:
    """Bobbins that would be empty, or are changed while they still reach. Below lies the same thread as on
    top, each on a bobbin of its own."""
    full = machine.bobbin_yards * 36
    left: dict[str, float] = defaultdict(lambda: full)
    if since is not None:
        left |= dict(since.aside)
        if since.bobbin is not None:
            # As long as no thread is known, what is in the machine is what it is.
            first = next((step.thread for step in steps if step.kind == "thread"), "")
            left[since.thread or first] = min(since.bobbin, full)
    faults: list[str] = []
    taken = list(_taken(asked, lambda _: machine, steps))
    for number, (step, takes, _) in enumerate(taken):
        if step.kind == "bobbin":
            need = _next_need(taken, number)
            if 0 < need < left[step.thread] - NEAR * full:
                faults.append(f"step {number + 1}: the bobbin is changed though it reaches further")
            left[step.thread] = full + min(left[step.thread], 0.0)
            continue
        left[step.thread] -= takes
        following = steps[number + 1] if number + 1 < len(steps) else None
        if left[step.thread] < -NEAR * full and step.kind == "stitch":
            if following is None or following.kind != "bobbin":
                faults.append(f"step {number + 1}: the bobbin is empty, and nobody changes it")
                left[step.thread] = full
    return faults


def used_faults(
    asked: Sequence[LayerLinework], machine_at: Callable[[int], Any], steps, used: Mapping[str, float] | None
) -> list[str]:  # fmt: skip
    """Threads of which another length is told than the lines take; *machine_at* tells on which machine a step
    is, by its place."""
    taken: dict[str, float] = defaultdict(float)
    for step, takes, _ in _taken(asked, machine_at, steps):
        taken[step.thread] += takes
    return [
        f"{thread}: {inches:.0f} inches are told, {taken[thread]:.0f} are taken"
        for thread, inches in (used or {}).items()
        if abs(inches - taken[thread]) > 1 + NEAR * inches
    ]


def _taken(asked: Sequence[LayerLinework], machine_at: Callable[[int], Any], steps):
    """Each step with the inches of thread that it takes, and how close was stitched last."""
    spi = {f"{one.zone}/{one.layer}": one.spi for one in asked}
    ditches: dict[str, float] = {}
    for one in asked:
        if any(run.in_ditch for run in one.linework.runs):
            # Whoever asks first for a ditch says how it is stitched.
            ditches.setdefault(one.entry, one.spi)
    last = ORDINARY
    for number, step in enumerate(steps):
        machine, takes = machine_at(number), 0.0
        if step.kind == "move":
            last = ORDINARY
        elif step.kind == "stitch":
            layer = step.run.rsplit("/", 1)[0]
            last = ditches.get(step.entry, last) if step.seams else spi.get(layer, last)
        if step.kind in MOVING:
            close = BASTING if step.kind == "secure" else last
            takes = inches_of(step.points) * (1 + close * machine.loft)
        elif step.kind == "start":
            takes = 2 * machine.tail
        yield step, takes, last


def _next_need(taken, number: int) -> float:
    """Inches of thread that the next stretch takes, on which the quilt may be rolled under the needle;
    nothing where one more bobbin follows at once. *taken* are steps with the inches that each takes."""
    first = next(
        (k for k in range(number + 1, len(taken)) if taken[k][0].kind in ("stitch", "bobbin")), None
    )
    if first is None or taken[first][0].kind == "bobbin":
        return 0.0
    need = 0.0
    for step, takes, _ in taken[first:]:
        if step.kind == "stitch" and step.run == taken[first][0].run:
            need += takes
        elif step.kind != "roll" or step.how != "under":
            break
    return need
