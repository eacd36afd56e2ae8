"""Piano keys: short lines across a border, with a mitre or a turn at its corners."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.chart import sides_of_outline
from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.chaining import chained
from chorograph_core.designs.engine.families import cut_to, family, linked, positions_of
from chorograph_core.designs.engine.fitting import fitting_setting, rhythm_setting
from chorograph_core.designs.engine.tracing import Line, traced
from chorograph_core.designs.linework import Linework, Mark, Run
from chorograph_core.designs.linking import LONGEST_LINK
from chorograph_core.designs.settings import Settings, choice_setting, length_setting
from chorograph_core.designs.space import Space, polygons, turning_points


@dataclass(frozen=True)
class KeySettings(Settings):
    """How wide the keys are, and what they do at a corner."""

    spacing: float = length_setting("Width of a key", 1.0, 0.25, 12.0)
    rhythm: str = rhythm_setting()
    corner: str = choice_setting("At a corner", (
        ("mitred", "they meet on a mitre"), ("turned", "they turn round it")))  # fmt: skip
    fitting: str = fitting_setting()


class PianoKeys(Design[KeySettings]):
    """Lines square to the way a border runs, fitted between its ends."""

    key = "piano_keys"
    name = "Piano keys"
    family = "ruler"
    stroke = "across, a key's width along the seam, and back across"
    settings_type = KeySettings

    def fits(self, space, settings=None):
        """It wants to be long and narrow."""
        s = self.clean(settings)
        lines, gaps = _lines(space, s)
        wide = 2 * space.widest[1]
        long = space.polygon.area / max(wide, 1e-9)
        reason = f"{len(lines)} lines across"
        if len(lines) < 3:
            return Fit(0.2, (reason, "too short for keys"))
        if len(_cuts(space.polygon)) > 3:
            return Fit(0.2, (reason, "too many corners for keys"))
        if long < 2.5 * wide:
            return Fit(0.4, (reason, "the zone is hardly longer than wide"))
        return Fit(0.78, (reason, positions_of(gaps, space)))

    def spacing(self, space, settings=None):
        """As it comes out, a key at its widest."""
        return max(_lines(space, self.clean(settings))[1])

    def draw(self, space, settings=None, seed=0, doorways=None):
        """Keys leg by leg, linked along the seam."""
        s = self.clean(settings)
        lines, gaps = _lines(space, s)
        near = doorways[0] if doorways else None
        position, cuts = positions_of(gaps, space), _cuts(space.polygon)
        if cuts and s.corner == "mitred":
            # Keys of two legs meet on the mitre; it is stitched from one to the next.
            parted = [piece for cut, _ in cuts for piece in _parted_at(cut, lines)]
            keys = [Line(line, position=position) for line in [*lines, *parted]]
            runs, near = traced(keys, space.polygon), None
        elif cuts:
            # Keys that turn round a corner end short of it: one steps across to the next.
            keys_ = [Run(line, "straight", position=position) for line in lines]
            runs, near = chained(keys_, space.polygon, LONGEST_LINK), None
        else:
            runs = linked(lines, space.polygon, position, start_near=near)
        marks = tuple(Mark("line", cut, "mitre") for cut, _ in cuts)
        return Linework(tuple(runs), marks if s.corner == "mitred" else (), (),
                        near is not None and len(runs) == 1)  # fmt: skip


def _lines(space: Space, s: KeySettings):
    return space.fact(("piano keys", s), lambda: _all_lines(space, s))


def _all_lines(space: Space, s: KeySettings):
    cuts = _cuts(space.polygon)
    parts = _parted(space.polygon, [cut for cut, _ in cuts])
    if s.corner == "turned" and cuts:
        return _turned(space, s, cuts)
    lines: list[np.ndarray] = []
    gaps: tuple[float, ...] = (s.spacing,)
    for part in parts:
        made = family(part, _across(part, space), s.spacing, s.fitting, s.rhythm)
        lines += made.lines
        gaps = made.places.gaps
    return lines, gaps


def _parted_at(cut: np.ndarray, lines: list[np.ndarray]) -> list[np.ndarray]:
    """A mitre in pieces between the keys that end on it."""
    along = (cut[-1] - cut[0]) / max(float(np.hypot(*(cut[-1] - cut[0]))), 1e-9)
    ends = np.array([line[k] for line in lines for k in (0, -1)]).reshape(-1, 2) - cut[0]
    off = np.abs(ends[:, 0] * along[1] - ends[:, 1] * along[0])
    at = np.unique(np.round((ends @ along)[off < 1e-5], 5))
    long = float(np.hypot(*(cut[-1] - cut[0])))
    stops = [0.0, *at[(at > 0.01) & (at < long - 0.01)].tolist(), long]
    return [
        np.array([cut[0] + along * a, cut[0] + along * b]) for a, b in itertools.pairwise(stops)
    ]


def _across(part: Polygon, space: Space) -> float:
    """Square to the longest side that the part has in common with the zone, or to the way the zone lies, in
    radians."""
    if part is space.polygon:
        return space.frame.axis + math.pi / 2
    ring = sides_of_outline(part)
    sides = np.diff(ring, axis=0)
    middles = shapely.points((ring[1:] + ring[:-1]) / 2)
    own = shapely.distance(middles, space.polygon.boundary) < 0.02
    lengths = np.where(own, np.round(np.hypot(*sides.T), 4), 0.0)
    side = sides[int(np.argmax(lengths))]
    return math.atan2(side[1], side[0]) % math.pi + math.pi / 2


def _cuts(polygon: Polygon) -> list[tuple[np.ndarray, np.ndarray]]:
    """Mitres: from each inner corner across to the nearest outer one, with the inner corner."""
    exterior = polygon.exterior if polygon.exterior.is_ccw else polygon.exterior.reverse()
    ring = shapely.get_coordinates(exterior.simplify(0.02))[:-1]
    found = []
    for k in turning_points(ring).tolist():
        into, onto = ring[k] - ring[k - 1], ring[(k + 1) % len(ring)] - ring[k]
        if into[0] * onto[1] - into[1] * onto[0] >= 0:
            continue
        out = into / np.hypot(*into) - onto / np.hypot(*onto)
        away = out / max(float(np.hypot(*out)), 1e-9)
        line = np.array([ring[k], ring[k] + away * 1e4])
        cut = [part for part in cut_to([line], polygon.buffer(1e-9)) if
               np.hypot(*(part[0] - ring[k])) < 1e-3]  # fmt: skip
        if cut:
            found.append((cut[0], ring[k]))
    return found


def _parted(polygon: Polygon, cuts: list[np.ndarray]) -> list[Polygon]:
    if not cuts:
        return [polygon]
    thin = shapely.union_all([shapely.linestrings(cut).buffer(1e-7, cap_style="square")
                              for cut in cuts])  # fmt: skip
    return polygons(polygon.difference(thin))


def _turned(space: Space, s: KeySettings, cuts):
    """Legs ruled square to themselves; round each inner corner a fan, as wide as a key at its outer end."""
    rest: Polygon = space.polygon
    lines = []
    reach = float(np.hypot(*np.ptp(shapely.get_coordinates(rest), axis=0))) + 1
    for cut, corner in cuts:
        deep = float(np.hypot(*(cut[-1] - cut[0])))
        heading = math.atan2(*(cut[-1] - cut[0])[::-1])
        ring = shapely.get_coordinates(space.polygon.exterior.simplify(0.02))[:-1]
        k = int(np.argmin(np.hypot(*(ring - corner).T)))
        legs = [ring[k - 1] - corner, ring[(k + 1) % len(ring)] - corner]
        half = max(
            min(abs((math.atan2(*leg[::-1]) - heading + math.pi) % (2 * math.pi) - math.pi), math.pi)
            - math.pi / 2 for leg in legs
        )  # fmt: skip
        half = max(half, 0.05)
        count = max(1, round(2 * half * deep / s.spacing))
        for j in range(count + 1):
            angle = heading - half + 2 * half * j / count
            tip = corner + reach * np.array([math.cos(angle), math.sin(angle)])
            near = [line for line in cut_to([np.array([corner, tip])], space.polygon)
                    if np.hypot(*(line[0] - corner)) < 1e-3]  # fmt: skip
            # The point itself holds two lines only: thread would pile up there.
            first = 0.0 if j in (0, count) else 0.25 * deep
            lines += [_shortened(line, first) for line in near]
        fan = Polygon([corner, *(corner + 2 * reach * np.array([math.cos(a), math.sin(a)])
                                 for a in np.linspace(heading - half, heading + half, 9))])  # fmt: skip
        rest = rest.difference(fan)
    gaps: tuple[float, ...] = (s.spacing,)
    for part in polygons(rest):
        made = family(part, _across(part, space), s.spacing, s.fitting, s.rhythm)
        lines += made.lines
        gaps = made.places.gaps
    return lines, gaps


def _shortened(line: np.ndarray, first: float) -> np.ndarray:
    if not first:
        return line
    along = (line[-1] - line[0]) / np.hypot(*(line[-1] - line[0]))
    return np.vstack([line[0] + along * first, line[1:]])
