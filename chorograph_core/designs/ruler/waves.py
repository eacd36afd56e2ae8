"""Waves: an S-shaped edge laid end to end, row beside row."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.arcs import chained_arcs
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import (
    cut_to,
    fitted_places,
    linked,
    measured_from,
    positions_of,
)
from chorograph_core.designs.engine.fitting import fitting_setting, rhythm_setting
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    SettingError,
    Settings,
    angle_setting,
    choice_setting,
    length_setting,
)
from chorograph_core.measure import format_inches
from chorograph_core.zones.places import size_of

ENDS = (("even", "come out even"), ("ruler", "as long as set, the rest at both ends"))
LONG = 1.6
"""Length over breadth from which waves run along a zone."""


@dataclass(frozen=True)
class WaveSettings(Settings):
    """The wave, and how its rows lie."""

    spacing: float = length_setting("Between rows", 0.625, 0.1875, 12.0)
    period: float = length_setting("Length of a wave", 4.0, 0.5, 40.0)
    height: float = length_setting("Height of a wave", 1.0, 0.0625, 12.0,
                            help="From the lowest to the highest point of a row.")  # fmt: skip
    angle: float = angle_setting("Direction", 90.0, -180.0, 180.0, 7.5)
    relative: str = measured_from()
    phase: str = choice_setting("Rows", (
        ("nested", "nested, all alike"), ("mirrored", "each mirrored to the last")))  # fmt: skip
    channel: str = choice_setting("Straight lines between rows", (
        ("none", "none"), ("first", "two, before the first row"), ("all", "one in every gap")))  # fmt: skip
    rhythm: str = rhythm_setting()
    fitting: str = fitting_setting()
    ends: str = choice_setting("Waves along a row", ENDS)


class Waves(Design[WaveSettings]):
    """Rows of even waves across a zone, turned at its ends."""

    key = "waves"
    name = "Waves by ruler"
    family = "ruler"
    stroke = "along one wave, a step along the edge, back along the next"
    crosses = True
    settings_type = WaveSettings

    def fits(self, space, settings=None):
        """A wave has to find room for once up and down."""
        s = self.clean(settings)
        lines, at, period = _rows(space, s)
        if len(lines) < 2:
            return Fit(0.2, ("room for fewer than two rows",))
        long = max(float(np.hypot(*(line[-1] - line[0]))) for line in lines)
        reason = f"{at.sentence(len(lines))}, waves {format_inches(period, 16)} long"
        if long < 0.75 * s.period:
            return Fit(0.25, (reason, "too short for a whole wave"))
        return Fit(0.66, (reason,))

    def spacing(self, space, settings=None):
        """Between rows; rows mirrored to each other open by the height of a wave."""
        s = self.clean(settings)
        return _rows(space, s)[1].spacing + (s.height if s.phase == "mirrored" else 0.0)

    def proposed(self, space):
        """Two waves and more, along a zone that is longer than wide, its rows close enough for a few; those
        of an S-edge that is owned, as long as that makes them, where it has room for them."""
        s = self.clean()
        long, broad = size_of(space.polygon)
        strip = long > LONG * broad
        room = (long if strip else broad) / 2
        owned = [ruler for ruler in space.rulers if ruler.safe and ruler.period and ruler.height
                 and ruler.period <= room and ruler.height <= broad * 2 / 5]  # fmt: skip
        if owned:
            best = max(owned, key=lambda ruler: (ruler.period, ruler.key))
            spacing = max(0.1875, min(s.spacing, math.floor(broad / 4 * 16) / 16))
            return self.clean({"period": best.period, "height": best.height, "spacing": spacing,
                               "angle": 0.0 if strip else s.angle, "ends": "ruler"})  # fmt: skip
        period = max(0.5, min(s.period, math.floor((long if strip else broad) / 2 * 4) / 4))
        height = max(0.0625, min(s.height, period / 4, math.floor(broad / 3 * 16) / 16))
        spacing = max(0.1875, min(s.spacing, math.floor(broad / 4 * 16) / 16))
        return self.clean({"period": period, "height": height, "spacing": spacing,
                           "angle": 0.0 if strip else s.angle})  # fmt: skip

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Row after row."""
        s = self.clean(settings)
        lines, at, period = _rows(space, s)
        near = doorways[0] if doorways else None
        position = f"{positions_of(at.gaps, space)}, the end mark where the last wave ended"
        waves = linked(lines, space.polygon, position, "curved", near)
        straight = _channels(space, s, at)
        runs = [*waves, *linked(straight, space.polygon, "the axis locked")]
        marks = (Mark("line", lines[0][[0, -1]], "middle of the first wave"),) if lines else ()
        notes = (f"{at.sentence(len(lines))}, waves {format_inches(period, 16)} long",)
        return Linework(tuple(runs), marks, notes, near is not None and len(runs) == 1)

    def alongside(self, settings):
        """Measured from the top, whatever side is the longest of each."""
        return replace(settings, relative="top")


def _rows(space, s: WaveSettings):
    return space.fact(("waves", s), lambda: _all(space, s))


def _box(space, s):
    angle = base_angle(space, s.relative) + math.radians(s.angle)
    along, across, u, v = axes_at(space.polygon, angle)
    return along, across, (float(u.min()), float(u.max())), (float(v.min()), float(v.max()))


def _all(space, s: WaveSettings):
    """Rows cut to the zone, their places, and the real length of a wave: half waves come out even, or as many
    as there is room for are laid from the middle."""
    if s.height > s.period / 2 + 1e-6:
        words = f"Height of a wave: {format_inches(s.height, 16)} is more than half of its length."
        raise SettingError(words, "height")
    along, across, (u0, u1), (v0, v1) = _box(space, s)
    at = fitted_places(v1 - v0, s.spacing, s.fitting, s.rhythm)
    halves = max(1, round((u1 - u0) / (s.period / 2)))
    half = (u1 - u0) / halves
    if s.ends == "ruler":
        half = s.period / 2
        halves = math.floor((u1 - u0) / half + 1e-9)
        u0 += (u1 - u0 - halves * half) / 2
    # Rows beyond either edge still reach into the zone with their crests.
    gaps = np.concatenate([at.at, [at.at[-1] + at.spacing, at.at[0] - at.spacing]])
    lines = []
    for k, offset in enumerate(gaps.tolist()):
        nodes = np.array([(u0 + half * j) * along + (v0 + offset) * across
                          for j in range(-1, halves + 2)])  # fmt: skip
        sign = -1.0 if s.phase == "mirrored" and k % 2 else 1.0
        heights = [sign * s.height / 2 * (1 if j % 2 else -1) for j in range(-1, halves + 1)]
        lines += cut_to([chained_arcs(nodes, heights)], space.polygon, 0.35)
    return lines, at, 2 * half


def _channels(space, s: WaveSettings, at) -> list[np.ndarray]:
    if s.channel == "none":
        return []
    along, across, (u0, u1), (v0, _) = _box(space, s)
    places = [at.at[0] - at.spacing / 2, at.at[0] - at.spacing / 2 - 0.25]
    if s.channel == "all":
        places = [float(each) for each in (at.at[1:] + at.at[:-1]) / 2]
    rows = [np.array([(u0 - 1) * along + (v0 + each) * across, (u1 + 1) * along + (v0 + each) * across])
            for each in places]  # fmt: skip
    return cut_to(rows, space.polygon)
