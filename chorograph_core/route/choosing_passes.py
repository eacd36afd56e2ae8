"""Where a quilt is rolled on, for all that is to be stitched on it."""

from __future__ import annotations

from collections.abc import Sequence

from chorograph_core.chart import Chart
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.reckon import Machine
from chorograph_core.route.model import Policy
from chorograph_core.route.passes import Pass, Piece, parting_of, passes_of
from chorograph_core.route.seam_levels import moved_onto, seam_levels
from chorograph_core.route.stations import stations_of
from chorograph_core.zones import Zone

PARTED_STATION, PARTED_RUN = 0.6, 0.3
"""Minutes that it costs, each time the quilt is rolled through, when a station is done in two goes and
when a run is: another path to look up, another way to it."""


def passes_for(
    chart: Chart, zones: Sequence[Zone], drawn: Sequence[LayerLinework], machine: Machine,
    policy: Policy, pieces: Sequence[Piece] | None = None,
) -> tuple[Pass, ...]:  # fmt: skip
    """Where the quilt is rolled on for all that is *drawn*, which has these `pieces_of`. Raises
    `chorograph_core.route.passes.OutOfReach`."""
    pieces = pieces_of(chart, zones, drawn) if pieces is None else pieces
    top, bottom = chart.outline.bounds[1], chart.outline.bounds[3]
    passes = passes_of(machine, top, bottom, pieces, _sweeps(drawn, policy))
    parting = parting_of(passes, pieces)
    if machine.kind != "frame" or len(passes) < 2 or not parting:
        return passes
    moved = moved_onto(passes, machine, seam_levels(chart))
    return moved if parting_of(moved, pieces) <= parting + 1e-9 else passes


def pieces_of(chart: Chart, zones: Sequence[Zone], drawn: Sequence[LayerLinework]) -> list[Piece]:
    """Stations with work, and their runs, down the quilt, with what parting them costs. Clusters are
    gathered within the passes that are found."""
    worked = {one.zone for one in drawn}
    pieces = [
        Piece(station.bounds[1], station.bounds[3], PARTED_STATION)
        for station in stations_of(chart, zones)
        if not station.cluster and not worked.isdisjoint(station.zones)
    ]
    for one in drawn:
        for run in one.linework.runs:
            if not run.in_ditch and len(run.points) > 1:
                pieces.append(Piece(*run.levels, PARTED_RUN))
    return pieces


def _sweeps(drawn: Sequence[LayerLinework], policy: Policy) -> int:
    """How often the quilt is rolled through."""
    if policy.stabilise != "quilt":
        return 1
    kinds = {
        (one.role == "ditch", one.thread, one.design if policy.technique == "design" else "")
        for one in drawn
    }
    return max(1, len(kinds))
