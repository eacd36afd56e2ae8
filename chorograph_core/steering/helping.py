"""What would help most: changes of design or thread, each tried by a real plan.

A change is thought of where minutes are: the spacing of what takes longest made wider by a half, as far as
the batting allows, and a thread whose colour another one comes near left out. Which of them saves most no
rule of thumb tells: the few that promise most are planned.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from chorograph_core.designs import designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer, Thread
from chorograph_core.designs.settings import Parameter
from chorograph_core.job import Job, job_linework
from chorograph_core.measure import format_length
from chorograph_core.reckon import reckon

WIDER = 1.5
"""How much wider a spacing is tried."""
SPACINGS = ("spacing", "gap", "size", "distance")
"""What settings that say how far lines lie apart are called."""
NEAR = 90.0
"""How far two colours may lie apart, of 441 from black to white, for one to stand for the other."""
TRIED = 6


@dataclass(frozen=True)
class Help:
    """A change: *kind* ``"wider"`` makes *field* of a *layer* of an *entry* so many inches (*to*),
    ``"thread"`` stitches all that is in *thread* in *other*, ``"moved"`` one *layer* of an
    *entry* alone."""

    kind: str
    entry: str = ""
    layer: int = 0
    field: str = ""
    to: float = 0.0
    thread: str = ""
    other: str = ""

    def values(self) -> dict[str, Any]:
        """As plain values; `read_help` reads them back."""
        return {key: value for key, value in vars(self).items() if value not in ("", 0, 0.0)}


def read_help(values: Mapping[str, Any]) -> Help:
    """The change that `Help.values` wrote. Raises ValueError for what is none."""
    try:
        made = Help(
            str(values["kind"]), str(values.get("entry", "")), int(values.get("layer", 0)),
            str(values.get("field", "")), float(values.get("to", 0.0)),
            str(values.get("thread", "")), str(values.get("other", "")),
        )  # fmt: skip
    except (KeyError, TypeError, ValueError) as error:
        raise ValueError("This is no change that was offered.") from error
    if made.kind not in ("wider", "thread", "moved"):
        raise ValueError("This is no change that was offered.")
    return made


def with_help(job: Job, change: Help) -> Job:
    """The job with a change made. Raises ValueError where the job has not, or no more, what it changes."""
    if change.kind == "thread":
        keys = {thread.key for thread in job.threads}
        used = {layer.thread for entry in job.legend for layer in entry.layers}
        if change.thread not in used or change.other not in keys:
            raise ValueError("This thread is no longer used; look again.")
        return replace(job, legend=tuple(
            replace(entry, layers=tuple(
                replace(layer, thread=change.other) if layer.thread == change.thread else layer
                for layer in entry.layers
            ))
            for entry in job.legend
        ))  # fmt: skip
    entry = next((each for each in job.legend if each.id == change.entry), None)
    if entry is None or not 0 <= change.layer < len(entry.layers):
        raise ValueError("This entry of the legend is gone; look again.")
    layer = entry.layers[change.layer]
    if change.kind == "moved":
        if layer.thread != change.thread or change.other not in {each.key for each in job.threads}:
            raise ValueError("This thread is no longer used there; look again.")
        return _with_layer(job, entry, change.layer, replace(layer, thread=change.other))
    parameter = _spacing_of(layer)
    if parameter is None or parameter.key != change.field:
        raise ValueError("This entry has another design by now; look again.")
    settings = {**dict(layer.settings), change.field: change.to}
    designs()[layer.design].clean(settings)
    return _with_layer(job, entry, change.layer, replace(layer, settings=settings))


def _with_layer(job: Job, entry: Entry, number: int, layer: Layer) -> Job:
    layers = (*entry.layers[:number], layer, *entry.layers[number + 1 :])
    return replace(job, legend=tuple(
        replace(each, layers=layers) if each is entry else each for each in job.legend
    ))  # fmt: skip


def spacing_now(layer: Layer) -> tuple[Parameter, float] | None:
    """The setting that says how far the lines of a layer lie apart, and what it is; None where its design has
    none."""
    parameter = _spacing_of(layer)
    if parameter is None:
        return None
    return parameter, float(getattr(designs()[layer.design].clean(layer.settings), parameter.key))


def in_words(job: Job, change: Help, units: str = "in") -> str:
    """What a change is, in words."""
    if change.kind == "thread":
        names = {thread.key: thread.name for thread in job.threads}
        old, new = names.get(change.thread, change.thread), names.get(change.other, change.other)
        return f"{new} in place of {old}: one thread less"
    entry = next((each for each in job.legend if each.id == change.entry), None)
    if entry is None:
        return "an entry that is gone"
    layer = entry.layers[change.layer]
    drawing = designs()[layer.design]
    count = len(entry.zones)
    if change.kind == "moved":
        names = {thread.key: thread.name for thread in job.threads}
        where = f"in {count} zone{'s' if count != 1 else ''}"
        return f"{entry.name or drawing.name} in {names.get(change.other, change.other)}, {where}"
    now = float(getattr(drawing.clean(layer.settings), change.field))
    to, was = format_length(change.to, units), format_length(now, units)
    where = f"in {count} zone{'s' if count != 1 else ''}"
    return f"{entry.name or drawing.name} at {to} in place of {was}, {where}"


def candidates(job: Job, cache: DrawingCache) -> list[Help]:
    """The changes that promise most, the most promising first."""
    machine = job.loaded_machine
    minutes: dict[tuple[str, int], float] = {}
    drawn = job_linework(job, cache)
    keys = {(one.entry, one.layer) for one in drawn}
    for key in keys:
        minutes[key], _ = _minutes(drawn, key, machine)
    most = job.intake.batting.gap if job.intake.batting is not None else 4.0
    found: list[tuple[float, Help]] = []
    for entry in job.legend:
        for k, layer in enumerate(entry.layers):
            change = _wider(entry, k, layer, most)
            if change is not None:
                found.append((minutes.get((entry.id, k), 0.0) * (1 - 1 / WIDER), change))
    found += [(each_saves, change) for each_saves, change in _fewer_threads(job)]
    found.sort(key=lambda each: (-each[0], each[1].entry, each[1].thread))
    return [change for saves, change in found if saves > 0.5][:TRIED]


def _minutes(drawn, key: tuple[str, int], machine) -> tuple[float, int]:
    mine = [one for one in drawn if (one.entry, one.layer) == key]
    whole, _ = reckon(mine, machine)
    return whole.minutes, whole.ruler_moves


def _spacing_of(layer: Layer) -> Parameter | None:
    """The setting that says how far the lines of a layer lie apart; None where its design has none."""
    drawing = designs().get(layer.design)
    if drawing is None or drawing.role in ("ditch", "motif", "figure"):
        return None
    there = {each.key: each for each in drawing.settings_type.parameters() if each.kind == "length"}
    return next((there[key] for key in SPACINGS if key in there), None)


def _wider(entry: Entry, number: int, layer: Layer, most: float) -> Help | None:
    parameter = _spacing_of(layer)
    if parameter is None:
        return None
    drawing = designs()[layer.design]
    now = float(getattr(drawing.clean(layer.settings), parameter.key))
    to = round(now * WIDER * 8) / 8
    to = min(to, parameter.high)
    # What the batting does not hold is no help.
    if to <= now or (parameter.key != "size" and to > most):
        return None
    return Help("wider", entry.id, number, parameter.key, to)


def _fewer_threads(job: Job) -> list[tuple[float, Help]]:
    used: dict[str, int] = {}
    for entry in job.legend:
        for layer in entry.layers:
            used[layer.thread] = used.get(layer.thread, 0) + len(entry.zones)
    threads = [thread for thread in job.threads if thread.key in used]
    made = []
    for one in threads:
        near = [(apart(one, two), two) for two in threads if two.key != one.key]
        near = [each for each in near if each[0] <= NEAR]
        if near:
            _, other = min(near, key=lambda each: each[0])
            if used[one.key] <= used[other.key]:
                saves = (job.machine.rates.thread_change + job.machine.rates.advance * 4) / 60
                made.append((saves, Help("thread", thread=one.key, other=other.key)))
    return made


def apart(one: Thread, two: Thread) -> float:
    """How far two colours lie apart, as points in a cube 255 wide."""
    a, b = (
        [int(each.colour[k : k + 2], 16) for k in (1, 3, 5)] for each in (one, two)
    )  # fmt: skip
    return float(sum((x - y) ** 2 for x, y in zip(a, b, strict=True)) ** 0.5)


def best(saved: Sequence[tuple[Help, float]], count: int = 3) -> list[tuple[Help, float]]:
    """Those that save most minutes, by the plans that were made of them."""
    return sorted((each for each in saved if each[1] >= 1), key=lambda each: -each[1])[:count]
