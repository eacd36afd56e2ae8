"""What the pages show of a job's linework: figures for the legend, arrays for the canvas."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs import Linework, designs
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.curves import thin
from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import Entry, LayerLinework, main_layer
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.reckon import evenness, reckon, stitched_once
from studio.derived import Derived

DRAWINGS = DrawingCache()
"""Linework drawn lately, shared by all requests of this process."""
KINDS = {"stitch": 0, "link": 1, "retrace": 2, "travel": 3}
SAMPLE = 46
"""Side of a sample drawing in the legend, in pixels."""


@dataclass(frozen=True)
class LegendLine:
    """One entry as the legend shows it."""

    entry: Entry
    name: str
    detail: str
    threads: tuple
    minutes: float
    density: float
    gap: float
    sample: str
    sample_frame: str
    colour: str
    faults: tuple[str, ...] = ()


_DRAWN: Derived[tuple[LayerLinework, ...]] = Derived("linework", shared=True)
_LEGENDS: Derived[list[LegendLine]] = Derived("legends", shared=True)


def linework_of(digest: str, core: CoreJob) -> tuple[LayerLinework, ...]:
    """All linework of a job, kept by the digest of its document."""
    return _DRAWN((digest,), lambda: tuple(job_linework(core, DRAWINGS)))


def legend_of(digest: str, core: CoreJob, units: str) -> list[LegendLine]:
    """The legend of the document with this *digest*, with figures: worked out once."""
    return _LEGENDS((digest, units), lambda: legend_lines(core, linework_of(digest, core), units))


def legend_lines(
    core: CoreJob, drawn: tuple[LayerLinework, ...], units: str = "in"
) -> list[LegendLine]:
    """The legend with figures, in its own order."""
    threads = {thread.key: thread for thread in core.threads}
    even = evenness(core.zones, drawn) if drawn else {}
    by_entry: dict[str, list[LayerLinework]] = {}
    for one in stitched_once(wholes(drawn)):
        by_entry.setdefault(one.entry, []).append(one)
    pieces: dict[str, list[LayerLinework]] = {}
    for one in drawn:
        pieces.setdefault(one.entry, []).append(one)
    zones = {zone.id: zone for zone in core.zones}
    lines = []
    for entry in core.legend:
        own = by_entry.get(entry.id, [])
        whole, _ = reckon(own, core.loaded_machine)
        main = entry.layers[main_layer(entry)]
        area = sum(zones[z].polygon.area for z in entry.zones if z in zones)
        inches = sum(even[z].inches for z in entry.zones if z in even)
        sample, frame = _sample(pieces.get(entry.id, []), main_layer(entry))
        used = [threads[layer.thread] for layer in entry.layers if layer.thread in threads]
        lines.append(
            LegendLine(
                entry,
                entry.name or name_of(main.design),
                _detail(entry, units),
                tuple(dict.fromkeys(used)),
                whole.minutes,
                inches / area if area else 0.0,
                max((even[z].gap for z in entry.zones if z in even), default=0.0),
                sample,
                frame,
                threads[main.thread].colour if main.thread in threads else "#1e2b3c",
                faults_of(entry, drawn),
            )
        )
    return lines


def faults_of(entry: Entry, drawn: Iterable[LayerLinework]) -> tuple[str, ...]:
    """What could not be drawn of an entry, each once, with the number of zones where it is so."""
    where = Counter(one.fault for one in drawn if one.entry == entry.id and one.fault)
    return tuple(
        fault if len(entry.zones) == 1 or count == len(entry.zones)
        else f"{fault} So it is in {count} of {len(entry.zones)} zones."
        for fault, count in where.items()
    )  # fmt: skip


def name_of(key: str) -> str:
    """The name of a design; its key where no design is called so here."""
    drawing = designs().get(key)
    return key if drawing is None else drawing.name


def _detail(entry: Entry, units: str) -> str:
    """The main layer's design and its telling settings, in few words."""
    main = entry.layers[main_layer(entry)]
    drawing = designs().get(main.design)
    if drawing is None:
        return f"“{main.design}” is not known here"
    kept, _ = drawing.settled(main.settings, main.version)
    settings = drawing.clean(kept)
    told = [
        parameter.show(getattr(settings, parameter.key), units)
        for parameter in drawing.parameters
        if parameter.kind in ("length", "angle")
        and parameter.key != "margin"
        and getattr(settings, parameter.key)
    ][:2]
    return " · ".join([drawing.name.lower() if entry.name else "", *told]).strip(" ·")


def _sample(own: list[LayerLinework], layer: int) -> tuple[str, str]:
    """Path data for the main layer in one of the entry's zones, and the view box that holds it."""
    for one in own:
        if one.layer == layer and one.linework.runs:
            points = np.concatenate([run.points for run in one.linework.runs])
            low, high = points.min(axis=0), points.max(axis=0)
            # A long border shows as much of itself as a square of its own width holds.
            side = min(max(high - low), max(min(high - low) * 1.6, 1.0))
            path = path_of(one.linework, 0.02)
            pad = side * 0.06
            frame = (
                f"{low[0] - pad:.2f} {low[1] - pad:.2f} {side + 2 * pad:.2f} {side + 2 * pad:.2f}"
            )
            return path, frame
    return "", "0 0 1 1"


def path_of(made: Linework, error: float) -> str:
    """Path data of all runs, within *error* inches."""
    return " ".join(
        "M" + " ".join(f"{x:.2f},{y:.2f}" for x, y in thin(run.points, error)) for run in made.runs
    )


def packed_linework(drawn, colours: dict[str, str]) -> bytes:
    """Linework for the canvas: a JSON header, then all points as 32-bit floats.

    Layout: 4 bytes header length (little endian), the header padded to a multiple of 4, the floats.
    The header lists groups {entry, thread, colour, kind, lines: [points in each line]}.
    """
    groups: dict[tuple[str, str, int], list[np.ndarray]] = {}
    for one in wholes(drawn):
        for run in one.linework.runs:
            for points, _, kind in run.pieces():
                if len(points) > 1:
                    key = (one.entry, one.thread, 3 if run.in_ditch else KINDS[kind])
                    groups.setdefault(key, []).append(points)
    header, blocks = [], []
    for (entry, thread, kind), lines in groups.items():
        header.append(
            {
                "entry": entry, "thread": thread, "colour": colours.get(thread, "#1e2b3c"),
                "kind": kind, "lines": [len(line) for line in lines],
            }
        )  # fmt: skip
        blocks += lines
    return pack(header, blocks)


def pack(header, blocks: list[np.ndarray]) -> bytes:
    """A JSON header and arrays of points, as `packed_linework` describes."""
    text = json.dumps(header, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    floats = np.concatenate(blocks).astype("<f4").tobytes() if blocks else b""
    return len(text).to_bytes(4, "little") + text + floats
