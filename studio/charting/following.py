"""A job whose chart has changed: zones and legend follow where they can, and what cannot is said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from chorograph_core.chart import Chart
from chorograph_core.chart.applique import relaid
from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import Layout
from chorograph_core.zones import Zone, follow


def charted(core: CoreJob, survey: Layout) -> CoreJob:
    """The job with the chart that *survey* makes, the appliqué sewn on again; zones and legend follow
    it where they can."""
    chart = relaid(core.chart, survey.chart())
    if core.survey is not None:
        # A colour that was changed on the sheet stays changed; without a survey keys mean other things.
        said = {fabric.key: fabric for fabric in core.chart.fabrics}
        fabrics = tuple(said.get(fabric.key, fabric) for fabric in chart.fabrics)
        chart = replace(chart, fabrics=fabrics)
    followed = follow(core.chart, core.zones, chart)
    return replace(rezoned(core, chart, followed.zones), survey=survey)


def rezoned(core: CoreJob, chart: Chart, zones: Sequence[Zone]) -> CoreJob:
    """The job with another chart and zones: entries of the legend keep what is still there, and
    pieces (``z:b1.1.p0~1``) get the design of the zone that they are pieces of."""
    before = {zone.id for zone in core.zones}
    owner = core.entry_of()
    heirs: dict[str, list[str]] = {}
    for zone in zones:
        stem = zone.id.rpartition("~")[0]
        if zone.id not in before and owner.get(stem):
            heirs.setdefault(owner[stem], []).append(zone.id)
    there = {zone.id for zone in zones}
    legend = tuple(
        replace(entry, zones=(*(z for z in entry.zones if z in there), *heirs.get(entry.id, ())))
        for entry in core.legend
    )
    return replace(core, chart=chart, zones=tuple(zones)).with_legend(legend)


class AskFirst(Exception):
    """A change would lose designs: *lost* says which. It is done once the person means it."""

    def __init__(self, lost: Lost) -> None:
        super().__init__("Some zones cannot follow.")
        self.lost = lost


@dataclass(frozen=True)
class Lost:
    """What a new chart would lose: zones that cannot follow, and designs of how many of them, by the
    name of their entry."""

    zones: int
    designs: dict[str, int]

    @property
    def designed(self) -> int:
        """How many of the zones have a design."""
        return sum(self.designs.values())


def lost_by(before: CoreJob, after: CoreJob) -> Lost:
    """What goes with the chart that was: asked about before it is done."""
    there = {zone.id for zone in after.zones}
    gone = [zone.id for zone in before.zones if zone.id not in there]
    names = {zone: entry.name for entry in before.legend for zone in entry.zones}
    designs: dict[str, int] = {}
    for zone in gone:
        if zone in names:
            designs[names[zone]] = designs.get(names[zone], 0) + 1
    return Lost(len(gone), designs)


def meant(before: CoreJob, after: CoreJob, sure: bool) -> CoreJob:
    """*after*, if nothing designed is lost by it or the person is *sure*; else raises `AskFirst`."""
    lost = lost_by(before, after)
    if lost.designed and not sure:
        raise AskFirst(lost)
    return after


def charting(before: CoreJob, after: CoreJob) -> str:
    """What a new chart did to the zones, in words."""
    lost = lost_by(before, after)
    said = "Charted from the form"
    if lost.zones:
        said += f"; {lost.zones} zones could not follow"
    if lost.designed:
        said += f", {lost.designed} of them with a design"
    return said


def kept_places(before: Layout | None, after: Layout) -> Layout:
    """The new layout with what was exchanged in single places of the old one, if it has the same
    rows and columns."""
    same = before is not None and before.kind == after.kind and all(
        getattr(before, name, None) == getattr(after, name, None) for name in ("rows", "columns")
    )  # fmt: skip
    if not same:
        return after
    kept: dict[str, Any] = {"exchanged": before.exchanged}
    blocks = tuple(getattr(before, "blocks", ()))
    if len(blocks) > 2 and tuple(getattr(after, "blocks", ())) == blocks[:2]:
        # The form shows two blocks; a sampler has more, and they were not touched.
        kept["blocks"] = blocks
    return replace(after, **kept)
