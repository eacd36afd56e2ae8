"""Rays from a point: a fan, a sunburst, radial lines of a wedge."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Point

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.families import cut_to, linked
from chorograph_core.designs.engine.fans import (
    EVEN,
    ORIGINS,
    fan_of,
    meeting_of,
    suited_origin,
    unevenness,
)
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import Settings, choice_setting, length_setting
from chorograph_core.designs.space import polygons


@dataclass(frozen=True)
class RaySettings(Settings):
    """Where the rays come from, and how wide they lie."""

    origin: str = choice_setting("They come from", ORIGINS)
    spacing: float = length_setting("Apart at the outer end", 1.0, 0.25, 12.0)
    margin: float = length_setting("Tips from the seam", 0.0, 0.0, 3.0,
                            help="Keeps the tips out of a binding.")  # fmt: skip
    clear: float = length_setting("Left free round the point", 0.5, 0.0, 12.0,
                           help="Where all rays meet, thread would pile up.")  # fmt: skip
    double: float = length_setting("Second line beside each", 0.0, 0.0, 2.0, help="0: none.")


CLOSEST = 0.125
"""Inches between rays at their inner ends at least: closer, thread piles up."""


class Rays(Design[RaySettings]):
    """Lines from one point to the far edge, evenly spread."""

    key = "rays"
    name = "Rays"
    family = "ruler"
    stroke = "out on one ray, along the edge, back on the next"
    faces = True
    settings_type = RaySettings

    def fits(self, space, settings=None):
        """Wedges, fans and half circles show rays best."""
        s = self.clean(settings)
        lines, angle = _lines(space, s)
        if len(lines) < 3:
            return Fit(0.2, ("room for fewer than three rays",))
        reason = f"{len(lines)} rays, {math.degrees(angle):.3g}° apart"
        even = (
            meeting_of(space) is not None
            if s.origin == "meeting"
            else (s.origin != "corner" and unevenness(space, s.origin) < EVEN)
        )
        if fan_of(space, s.origin)[3] > 5 * space.widest[1]:
            return Fit(0.3, (reason, "the rays come together in a zone so long"))
        return Fit(0.74 if even else 0.5, (reason,))

    def proposed(self, space):
        """From where they are most even."""
        return self.clean({"origin": suited_origin(space)})

    def spacing(self, space, settings=None):
        """At the outer end, as it comes out."""
        s = self.clean(settings)
        return _angle(space, s) * fan_of(space, s.origin)[3]

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Rays joined along the edge."""
        s = self.clean(settings)
        room = _room(space, s)
        if room is None:
            return Linework()
        lines, angle = _lines(space, s)
        runs = linked(lines, room, "the centre mark on the point, the edge on the next dot")
        point, *_ = fan_of(space, s.origin)
        dots = np.array([max((line[0], line[-1]), key=lambda p: np.hypot(*(p - point)))
                         for line in lines]).reshape(-1, 2)  # fmt: skip
        marks = (Mark("dot", dots, "tips of the rays"),) if len(dots) else ()
        notes = (f"{len(lines)} rays {math.degrees(angle):.3g}° apart",)
        return Linework(tuple(runs), marks, notes)


def _room(space, s):
    """The zone without what stays free."""

    def find():
        point, *_ = fan_of(space, s.origin)
        parts = space.inset(s.margin)
        free = max(s.clear, CLOSEST / _angle(space, s)) if s.clear > 0 else 0.0
        if free > 0:
            disc = Point(point).buffer(free, quad_segs=48)
            parts = [part for each in parts for part in polygons(each.difference(disc))]
        return parts[0] if parts else None

    return space.fact(("room for rays", s), find)  # fmt: skip


def _angle(space, s) -> float:
    """Between neighbouring rays, radians: a whole number of them spans the fan."""
    _, _, sweep, far = fan_of(space, s.origin)
    return sweep / max(1, round(sweep * far / s.spacing))


def _lines(space, s):
    return space.fact(("rays", s), lambda: _spread(space, s))


def _spread(space, s: RaySettings):
    point, begin, sweep, far = fan_of(space, s.origin)
    room = _room(space, s)
    whole = sweep > 2 * math.pi - 1e-6
    count = round(sweep / _angle(space, s))
    if room is None or count > 720:
        return [], sweep / count
    angle = sweep / count
    headings = begin + angle * (np.arange(count) if whole else np.arange(1, count))
    lines = []
    for heading in headings.tolist():
        along = np.array([math.cos(heading), math.sin(heading)])
        across = np.array([-along[1], along[0]]) * s.double / 2
        for shift in (across, -across) if s.double > 1e-6 else (across * 0,):
            lines.append(np.array([point + shift, point + shift + along * 2 * far]))
    return cut_to(lines, room), angle
