"""Where the work on a job stands: a route followed so far, what was stitched otherwise, and what a design
that was changed in the meantime makes of it."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from chorograph_core.designs.caching import DrawingCache, digest
from chorograph_core.designs.figures import wholes
from chorograph_core.designs.legend import Layer, spi_in
from chorograph_core.job import Job, job_linework
from chorograph_core.route import State, Step
from chorograph_core.route.handing_over import MOVED
from chorograph_core.route.model import TOLERANCE
from chorograph_core.route.progress import followed
from chorograph_core.route.securing import SPI as BASTING
from chorograph_core.route.spool import Spool
from chorograph_core.zones.edges import named_edges


def stands_after(
    job: Job, steps: Sequence[Step], tops: Mapping[int, float], seconds: float, before: State
) -> State:
    """Where the work stands when a route was followed for so many *seconds* from the state *before*; *tops*
    are the inches down the quilt at which its passes begin."""
    state = followed(steps, seconds, before, job.chart, dict(tops))
    return with_bobbins(job, state, steps, seconds, before)


def with_bobbins(
    job: Job, state: State, steps: Sequence[Step], seconds: float, before: State
) -> State:
    """The state with what is left on the bobbins when *steps* were followed for so many *seconds*: full when
    last changed, less what the lines since then took; each thread has its own."""
    spool = Spool(job.loaded_machine, before.thread, before.bobbin, dict(before.aside))
    entries = {entry.id: entry for entry in job.legend}
    away = job.loaded_handover
    if away is not None and MOVED in before.done:
        spool = Spool(away.machine, before.thread, before.bobbin, dict(before.aside))
    at = 0.0
    for step in steps:
        share = 1.0 if at + step.seconds <= seconds else (seconds - at) / max(step.seconds, 1e-9)
        if step.kind == "bobbin" and share >= 1:
            spool.refill()
        elif step.kind == "thread" and share >= 1:
            spool.put_in(step.thread)
        elif step.kind == "move" and share >= 1 and away is not None:
            # Its bobbins stay with the first machine.
            spool = Spool(away.machine)
        elif step.kind in ("stitch", "travel", "secure"):
            if step.kind == "stitch":
                spool.spi = spi_in(entries.get(step.entry), step.run, step.seams) or spool.spi
            basting = BASTING if step.kind == "secure" else None
            spool.use(step.thread, step.inches * max(share, 0.0), spi=basting)
        elif step.kind == "start" and share >= 1:
            spool.use(step.thread, 0.0, 1)
        at += step.seconds
        if at > seconds:
            break
    left = max(0.0, spool.on_bobbin)
    return replace(state, bobbin=left, aside=tuple(sorted(spool.aside.items())))


def full_bobbin(job: Job, state: State) -> float:
    """Inches on a full bobbin of the machine that the quilt lies under."""
    return job.machine_in(MOVED in state.done).bobbin_yards * 36


def layers_of(job: Job) -> dict[str, str]:
    """What each layer of each zone is now, as digests by zone/layer."""
    made: dict[str, str] = {}
    for entry in job.legend:
        marks = [
            digest(
                [la.design, dict(la.settings), la.seed, la.passes, la.over, la.guide, *_along(la)]
            )
            for la in entry.layers
        ]
        made |= {f"{zone}/{k}": mark for zone in entry.zones for k, mark in enumerate(marks)}
    return made


def _along(layer: Layer) -> tuple:
    """What else follows from a guide."""
    return (layer.guide_width, layer.more_guides) if layer.guide else ()


def touched(state: State, layers: Mapping[str, str]) -> dict[str, str]:
    """Of all *layers* those in which something is stitched."""
    names = {name.rpartition("/")[0] for name in (*state.done, *(b.run for b in state.begun))}
    return {name: mark for name, mark in layers.items() if name in names}


def as_it_is_now(
    job: Job, state: State, layers: Mapping[str, str], cache: DrawingCache
) -> tuple[State, tuple[str, ...]]:
    """The state in the words of the job as it is now, and the zones that keep what is stitched in them though
    another design was chosen since: nothing is planned over stitching. *layers* is what they were when it was
    told."""
    now = layers_of(job)
    other = {name for name, mark in layers.items() if name in now and now[name] != mark}
    if not other:
        return state, ()
    kept = {name for name in state.done if name.rpartition("/")[0] not in other}
    begun = tuple(each for each in state.begun if each.run.rpartition("/")[0] not in other)
    for one in wholes(job_linework(job, cache)):
        if f"{one.zone}/{one.layer}" in other:
            kept |= {one.key(k) for k, run in enumerate(one.linework.runs) if not run.in_ditch}
    zones = tuple(sorted({name.rpartition("/")[0] for name in other}))
    return replace(state, done=frozenset(kept), begun=begun), zones


def names_in(
    job: Job, zones: Collection[str], cache: DrawingCache, ditches: bool = True
) -> frozenset[str]:
    """Runs that lie in some *zones*, and the seams that are stitched round them."""
    found: set[str] = set()
    ditch: list[shapely.Geometry] = []
    for one in wholes(job_linework(job, cache)):
        under = one.figure.zones if one.figure is not None else (one.zone,)
        if set(zones).isdisjoint(under):
            continue
        for k, run in enumerate(one.linework.runs):
            if not run.in_ditch:
                found.add(one.key(k))
            elif ditches:
                ditch.append(shapely.linestrings(run.points))
    if ditch:
        # A line may run on over several seams, so it is the edges that lie on it whose names are asked for.
        edges, names = named_edges(job.chart, job.zones)
        lines = shapely.multilinestrings(ditch)
        shapely.prepare(lines)
        on = shapely.dwithin(lines, shapely.points(edges.mean(axis=1)), TOLERANCE)
        found |= {names[k] for k in np.flatnonzero(on).tolist()}
    return frozenset(found)
