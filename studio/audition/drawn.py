"""What an audition shows: each candidate in its place on the sheet, among what lies round it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely
from shapely.geometry import box

from chorograph_core.choosing import Balance, Level, Proposed, Setting
from chorograph_core.designs.legend import Entry, LayerLinework
from chorograph_core.formats.drawing import outline_path
from chorograph_core.job import Job as CoreJob
from chorograph_core.job import job_linework
from chorograph_core.measure import format_density
from chorograph_core.zones.places import places_of
from studio.workbench.linework import DRAWINGS, path_of

ROUND, NEAR, FAR = 0.3, 1.5, 26.0
"""How much of the sheet is shown round a zone: a share of it, inches at least, and inches in all at most."""
HEARD = "heard"
INK = "#1e2b3c"
"""Colour of a thread that is no longer known."""


@dataclass(frozen=True)
class Shown:
    """A candidate on the page: its own lines by thread colour, and its figures."""

    proposed: Proposed
    paths: tuple[tuple[str, str], ...]
    fault: str
    price: str = ""

    @property
    def heard(self):
        return self.proposed.heard


@dataclass(frozen=True)
class Ground:
    """What lies under all candidates: view box, patches with their colours, lines stitched round
    them, and the outline of the zone that is talked of."""

    frame: str
    patches: tuple[tuple[str, str], ...]
    lines: tuple[tuple[str, str], ...]
    zone: str


def window(place: Setting) -> shapely.Polygon:
    """The piece of the sheet that is shown."""
    x0, y0, x1, y1 = place.pattern.polygon.bounds
    pad = max(NEAR, ROUND * min(x1 - x0, y1 - y0))
    if max(x1 - x0, y1 - y0) + 2 * pad > FAR:
        spot = place.pattern.polygon.representative_point()
        half = FAR / 2
        x = min(max(spot.x, x0 - pad + half), max(x1 + pad - half, x0 - pad + half))
        y = min(max(spot.y, y0 - pad + half), max(y1 + pad - half, y0 - pad + half))
        return box(x - half, y - half, x + half, y + half)
    side = max(x1 - x0, y1 - y0) / 2 + pad
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    return box(x - side, y - side, x + side, y + side)


def ground(core: CoreJob, place: Setting, drawn: Sequence[LayerLinework]) -> Ground:
    """The sheet round a place, with the linework of all zones that are not talked of."""
    view = window(place)
    x0, y0, x1, y1 = view.bounds
    patches = tuple(
        (outline_path(patch.polygon, 2), core.chart.fabric(patch.fabric).colour)
        for patch in core.chart.patches
        if patch.polygon.intersects(view)
    )
    near = {zone.id for zone in core.zones if zone.polygon.intersects(view)} - set(place.zones)
    colours = {thread.key: thread.colour for thread in core.threads}
    lines = tuple(
        (path_of(one.linework, 0.008), colours.get(one.thread, INK))
        for one in drawn
        if one.zone in near and one.linework.runs
    )
    frame = f"{x0:.2f} {y0:.2f} {x1 - x0:.2f} {y1 - y0:.2f}"
    return Ground(frame, patches, lines, outline_path(place.pattern.polygon, 3))


def shown(
    core: CoreJob, place: Setting, candidates: Sequence[Proposed], prices: Sequence[str]
) -> list[Shown]:
    """Each candidate drawn as the sheet would draw it, in every zone of the place that is seen."""
    view = window(place)
    seen = tuple(
        zone
        for zone in place.zones
        if zone == place.pattern.id or core.zone(zone).polygon.intersects(view)
    )
    colours = {thread.key: thread.colour for thread in core.threads}
    made = []
    for one, price in zip(candidates, prices, strict=True):
        others = tuple(
            replace(entry, zones=tuple(z for z in entry.zones if z not in seen))
            for entry in core.legend
        )
        entry = Entry(HEARD, "", seen, one.heard.layers)
        asked = core.with_legend((*others, entry))
        drawn = job_linework(asked, DRAWINGS, {HEARD})
        paths = tuple(
            (path_of(each.linework, 0.005), colours.get(each.thread, INK))
            for each in drawn
            if each.linework.runs
        )
        fault = next((each.fault for each in drawn if each.fault), "")
        made.append(Shown(one, paths, fault, price))
    return made


def heading(core: CoreJob, place: Setting) -> str:
    """The zones by what they are."""
    members = [core.zone(zone) for zone in place.zones]
    kinds = {(each.name, each.names) for each in places_of(core.chart, members)}
    if len(kinds) != 1:
        return f"{len(members)} zones"
    name, names = kinds.pop()
    return f"{len(members)} {names}" if len(members) > 1 else f"one {name}"


def sentence(taken: str, heard_too: Sequence[str], count: int, level: Level, note: str) -> str:
    """What the job book keeps of an audition."""
    others = f"; heard too: {', '.join(heard_too)}" if heard_too else ""
    note = f" {note}" if note else ""
    zones = f"{count} zone{'s' if count != 1 else ''}"
    return f"Audition, {zones}, {level.name} work: {taken} taken{others}.{note}"


def quilt_with(core: CoreJob, legend: Sequence[Entry]) -> bytes:
    """The whole quilt as it would look with another *legend*, as an SVG for a page."""
    asked = core.with_legend(tuple(legend))
    colours = {thread.key: thread.colour for thread in core.threads}
    x0, y0, x1, y1 = core.chart.outline.bounds
    seam = 0.0008 * max(x1 - x0, y1 - y0)
    cloth = "".join(
        f'<path fill="{core.chart.fabric(patch.fabric).colour}" d="{outline_path(patch.polygon, 2)}"/>'
        for patch in core.chart.patches
    )
    lines = "".join(
        f'<path stroke="{colours.get(one.thread, INK)}" d="{path_of(one.linework, 0.02)}"/>'
        for one in job_linework(asked, DRAWINGS)
        if one.linework.runs
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{x0:.2f} {y0:.2f} {x1 - x0:.2f} {y1 - y0:.2f}">'
        f'<g stroke="#8a8271" stroke-width="{seam:.3f}">{cloth}</g>'
        f'<g fill="none" stroke-width="{2 * seam:.3f}" stroke-linejoin="round">{lines}</g></svg>'
    ).encode()


THINNEST, DENSEST = (0xF8, 0xF0, 0xDA), (0x1F, 0x4E, 0x68)
"""Colours of the map: bare cloth, and as dense as it gets."""


def shaded(core: CoreJob, found: Balance, units: str) -> list[tuple[str, str, str]]:
    """Each zone as path data, its shade and its density in words."""
    most = _most(found)
    return [
        (outline_path(zone.polygon, 2), _shade(found.zones[zone.id] / most),
         f"{zone.label or zone.id}: {format_density(found.zones[zone.id], units)}")
        for zone in core.zones
    ]  # fmt: skip


def steps(found: Balance, units: str) -> list[tuple[str, str]]:
    """The scale of the map: shades and the density each stands for."""
    most = _most(found)
    return [(_shade(k / 4), format_density(most * k / 4, units)) for k in range(5)]


def _most(found: Balance) -> float:
    """What is drawn darkest: twice the mean, so that one dense spot does not bleach all others."""
    return max(2 * found.mean, 1.0)


def _shade(share: float) -> str:
    share = min(max(share, 0.0), 1.0)
    mixed = (round(a + (b - a) * share) for a, b in zip(THINNEST, DENSEST, strict=True))
    return "#" + "".join(f"{each:02x}" for each in mixed)
