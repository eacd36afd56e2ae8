"""Why a route goes as it goes: every travel, cut, roll and path with what it takes and what else there
was."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.route import Step

KINDS = {
    "ditch": "along the ditch",
    "edge": "along the raw edge",
    "open": "across open fabric",
    "retrace": "back over its own line",
    "link": "along the edge of its zone",
}
"""How one travels, in words."""
BECAUSE = {
    "ditch": "it is hidden in the seam",
    "edge": "the binding covers it",
    "open": "so short a step is cheaper than a cut",
    "retrace": "the stroke goes so",
    "link": "the lines of this design are joined so",
}
MOVES = ("stitch", "travel")


@dataclass(frozen=True)
class Why:
    """What is done at a place of the route (*what*), *seconds* it takes, the reason in sentences, and what
    else there was with its price (*instead*), empty where there was nothing else."""

    what: str
    seconds: float
    reason: str
    instead: str = ""


def step_at(steps: Sequence[Step], seconds: float) -> int:
    """The number of the step that is done so many *seconds* into a route; what takes no time belongs to what
    follows it."""
    at = 0.0
    for number, step in enumerate(steps):
        at += step.seconds
        if at > seconds + 1e-6:
            return number
    return len(steps) - 1


def why(
    job: Job, steps: Sequence[Step], number: int, units: str = "in", away: Collection[int] = (),
) -> Why:  # fmt: skip
    """Why step *number* of a route is as it is; passes numbered *away* are those of another machine."""
    step = steps[number]
    job = replace(job, machine=job.machine_in(step.reach in away))
    told = {
        "travel": _travel, "start": _cut, "tie_off": _cut, "roll": _roll, "path": _path,
        "stitch": _stitch, "thread": _thread, "ruler": _ruler,
    }.get(step.kind)  # fmt: skip
    if step.kind == "mark":
        # How long the lines are is told in inches; the sheet shows them.
        return Why("Marking", step.seconds, f"{step.reason.partition(': ')[0].capitalize()}.")
    if told is None:
        return Why(_PLAIN.get(step.kind, step.kind), step.seconds, f"{step.reason.capitalize()}.")
    return told(job, steps, number, units)


_PLAIN = {
    "mark": "Marking", "bobbin": "A full bobbin", "secure": "Basting", "unpick": "Basting taken out",
    "tuck": "A tuck", "unmark": "Marks out", "move": "Over to the other machine",
}  # fmt: skip


def _travel(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    """All of the way from one line to the next, against a cut."""
    step = steps[number]
    first, last = number, number
    while first and steps[first - 1].kind == "travel" and steps[first - 1].run == step.run:
        first -= 1
    while (
        last + 1 < len(steps)
        and steps[last + 1].kind == "travel"
        and steps[last + 1].run == step.run
    ):
        last += 1
    way = steps[first : last + 1]
    seconds, inches = sum(each.seconds for each in way), sum(each.inches for each in way)
    counted = 60 * sum(each.price for each in way)
    kinds = list(dict.fromkeys(each.how for each in way))
    what = f"Travel of {format_length(inches, units)} {' and '.join(KINDS[k] for k in kinds)}"
    reason = "; ".join(dict.fromkeys(BECAUSE[kind] for kind in kinds)).capitalize() + "."
    if step.how in ("link", "retrace") and step.run:
        return Why(
            what, seconds, reason, "Another design, or other settings, would have other ways."
        )
    if counted > 1.15 * seconds:
        reason += f" Since it shows, it is counted as {counted:.0f} s."
    return Why(what, seconds, reason,
               f"A cut and a new start would take {job.loaded_machine.cut_seconds:.0f} s.")  # fmt: skip


def _cut(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    """A cut and the start after it are one thing."""
    off = number
    while off > 0 and steps[off].kind != "tie_off" and number - off < 12:
        off -= 1
    on = next(
        (k for k in range(number, min(number + 12, len(steps))) if steps[k].kind == "start"), number
    )
    seconds = steps[on].seconds if steps[on].kind == "start" else 0.0
    if steps[off].kind != "tie_off":
        return Why(
            "The first start", seconds, "Locked in a seam, or where earlier stitching hides it."
        )
    told = steps[off].reason.partition(": ")[2] or "the work goes on elsewhere"
    reason = f"{told[0].upper()}{told[1:]}."
    price = steps[off].instead
    if price == 0:
        return Why("A cut and a new start", seconds, reason)
    if math.isinf(price):
        return Why("A cut and a new start", seconds, reason,
                   "No way leads there that stays within reach.")  # fmt: skip
    return Why("A cut and a new start", seconds, reason,
               f"The best way there would lose {60 * price:.0f} s, what shows counted more.")  # fmt: skip


def _roll(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    """What is done where the quilt lay, and what there still waits."""
    step = steps[number]
    before = next((s for s in reversed(steps[:number]) if s.kind in MOVES), None)
    if step.how == "under":
        return Why("The quilt rolled under the needle", step.seconds,
                   "This line is longer than the reach, and rolling loses less than cutting it.")  # fmt: skip
    names = {thread.key: thread.name for thread in job.threads}
    what = "The quilt turned" if job.machine.kind != "frame" else f"Rolled to pass {step.reach}"
    if before is None:
        return Why(what, step.seconds, "Here the work begins.")
    waiting = _waiting(steps[number:], before.reach)
    thread = names.get(before.thread, before.thread)
    reason = f"What pass {before.reach} holds in {thread} is done for now."
    if waiting:
        told = [f"{count} line{'s' if count != 1 else ''} in {names.get(key, key)}"
                for key, count in waiting.items()]  # fmt: skip
        reason += f" There {'wait' if sum(waiting.values()) != 1 else 'waits'} {', '.join(told)}."
        change = job.machine.rates.thread_change
        others = [key for key in waiting if key != before.thread]
        if others:
            return Why(what, step.seconds, reason,
                       f"To do them before rolling the thread would be changed, {change:.0f} s, in "
                       "each pass: see under ways of working, all of a pass first.")  # fmt: skip
    return Why(what, step.seconds, reason)


def _waiting(steps: Sequence[Step], reach: int) -> Mapping[str, int]:
    """How many runs are still to be stitched in a pass, by thread."""
    found: dict[str, set[str]] = {}
    for step in steps:
        if step.kind == "stitch" and step.reach == reach:
            found.setdefault(step.thread, set()).add(step.run)
    return {thread: len(runs) for thread, runs in found.items()}


def _path(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    """Reading once, and seeing how it lies in the next places."""
    step = steps[number]
    rates = job.machine.rates
    places = sum(s.kind == "path" and s.path == step.path for s in steps)
    if step.path == "seams":
        return Why("Looking up the long seams", step.seconds,
                   "Long seams run from edge to edge, before the insides of blocks.")  # fmt: skip
    reason = f"Path {step.path} is read once, {rates.read_path:.0f} s"
    if places > 1:
        more = places - 1
        again = f"{more} more place{'s' if more != 1 else ''}"
        reason += f", and seen again in {again}, {rates.place_path:.0f} s each"
    finds = step.seconds > max(rates.read_path, rates.place_path) + 0.5 or (
        step.seconds < rates.read_path and step.seconds > rates.place_path + 0.5
    )
    reason += (
        "." if not finds else f"; {rates.find_place:.0f} s to find this place, which lies apart."
    )
    if places < 2:
        return Why(f"Looking up path {step.path}", step.seconds, reason)
    return Why(f"Looking up path {step.path}", step.seconds, reason,
               f"Each place in a way of its own would take {rates.read_path - rates.place_path:.0f} s "
               "more to read: only a way that saves more than that would be worth it.")  # fmt: skip


def _stitch(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    """Where one comes from, and what comes first by the way the studio works."""
    step = steps[number]
    if step.seams:
        return Why(f"In the ditch, {format_length(step.inches, units)}", step.seconds,
                   "The seam holds before anything fills beside it; a hand goes straight on.")  # fmt: skip
    zones = {zone.id: zone.label or zone.id for zone in job.zones}
    before = next((s for s in reversed(steps[:number]) if s.kind in MOVES and len(s.points)), None)
    reason = {
        "mixed": "Block by block: what is near in this thread comes next",
        "ruler": "Ruler work comes before freehand",
        "design": "One design after the other",
    }[job.policy.technique]
    if before is not None and before.run != step.run and len(step.points):
        x, y = before.points[-1] - step.points[0]
        off = math.hypot(float(x), float(y))
        reason += ": it begins where the last one ended" if off < 0.05 else ""
    return Why(f"{zones.get(step.zone, 'A figure')}, {format_length(step.inches, units)}", step.seconds,
               f"{reason}.")  # fmt: skip


def _thread(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    step = steps[number]
    names = {thread.key: thread.name for thread in job.threads}
    return Why(f"{names.get(step.thread, step.thread)} into the needle", step.seconds,
               f"{step.reason.capitalize()}.")  # fmt: skip


def _ruler(job: Job, steps: Sequence[Step], number: int, units: str) -> Why:
    step = steps[number]
    each = step.seconds / max(step.count, 1)
    reason = f"{step.count} laying{'s' if step.count != 1 else ''}, {each:.0f} s each"
    if step.how == "by hand":
        return Why("Laying the ruler", step.seconds,
                   f"{reason}: no edge on the shelf stitches these curves; they are drawn and followed.",
                   "A ruler of their radius would take fewer: the Sums say which.")  # fmt: skip
    reason += f", along the {step.how}." if step.how else "."
    return Why("Laying the ruler", step.seconds, reason,
               "With the channel locked, or by eye, there would be fewer: see ways of working.")  # fmt: skip
