"""Ribbon candy: round over the top, slant back, round under; the bulbs touch."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit, Linework, Run, size_of_hand
from chorograph_core.designs.curves import Turn, tangent_chain, thin
from chorograph_core.designs.keeping import pushed_back
from chorograph_core.designs.settings import Settings, choice_setting, margin_setting, share_setting
from chorograph_core.designs.strip import Strip, strip_of

SMALLEST = 0.05
"""Inches. A hand makes no rounder turn than this."""
STEEPEST = 0.52
"""Bulbs wider than this share of the strip cannot be joined by a slant."""


@dataclass(frozen=True)
class CandySettings(Settings):
    """How plump the bulbs are, and which way they run."""

    plump: float = share_setting("Bulb width", 0.4, 0.18, 0.52, 0.02,
                         help="Width of a bulb against the width of the strip.")  # fmt: skip
    margin: float = margin_setting()
    turn: str = choice_setting("Along", (("long", "the long way"), ("short", "the short way")))


class RibbonCandy(Design[CandySettings]):
    """Circles along both edges of a strip, joined by slanting strokes."""

    key = "ribbon_candy"
    name = "Ribbon candy"
    family = "freehand"
    stroke = "over the top, slant back, under; ends at the far end"
    settings_type = CandySettings

    def fits(self, space, settings=None):
        """It wants a strip at least three times as long as wide."""
        s = self.clean(settings)
        parts = space.inset(s.margin)
        if not parts:
            return Fit(0.0, ("too narrow for a bulb",))
        lane = _lane(strip_of(space, parts[0]), s.turn)
        ratio = lane.length / max(lane.mean_width, 1e-6)
        bulb = lane.mean_width * s.plump
        reasons = [f"{ratio:.1f} times as long as wide, bulbs {bulb:.2f}″"]
        if bulb < 0.18:
            return Fit(0.1, (*reasons, "bulbs this small close up"))
        if ratio < 1.5 and s.turn == "short":
            return Fit(0.2, (*reasons, "there is no short way worth a ribbon"))
        return Fit(min(0.95, 0.25 + 0.2 * ratio), tuple(reasons))

    def spacing(self, space, settings=None):
        """A bulb's width."""
        s = self.clean(settings)
        parts = space.inset(s.margin)
        return _lane(strip_of(space, parts[0]), s.turn).mean_width * s.plump if parts else 0.0

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run along each part of the zone, from the end nearer to the first doorway."""
        s = self.clean(settings)
        runs = []
        for part in space.inset(s.margin):
            if part.area < 0.05:
                continue
            lane = _lane(strip_of(space, part), s.turn)
            if doorways and doorways[0] is not None:
                near = np.asarray(doorways[0])
                if np.hypot(*(lane.at(lane.length, 0) - near)) < np.hypot(*(lane.at(0, 0) - near)):
                    lane = lane.reversed()
            drawn = candy(lane, s.plump, part)
            line = pushed_back(drawn, part) if len(drawn) > 1 else None
            if line is not None and len(line) > 1:
                runs.append(Run(thin(line), size_of_hand(lane.mean_width)))
        return Linework(tuple(runs), kept_doorways=bool(doorways) and len(runs) == 1)


def _lane(lane: Strip, turn: str) -> Strip:
    if turn == "long":
        return lane
    # The short way: what were the ends become the rails.
    n = len(lane.left)
    share = np.linspace(0, 1, n)[:, None]
    start = lane.left[0] * (1 - share) + lane.right[0] * share
    stop = lane.left[-1] * (1 - share) + lane.right[-1] * share
    centre = (start + stop) / 2
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(centre, axis=0).T))])
    return Strip(start, stop, along + np.linspace(0, 1e-9, n))


def candy(lane: Strip, plump: float, part) -> np.ndarray:
    """The line: points (n, 2). Bulbs alternate between the rails, half a pitch apart."""
    hand = _hand(lane)
    turns = [Turn(tuple(lane.at(0.0, 0.0)), 0.0, 1)]
    for s, pitch in _stations(lane, plump):
        side = -1 if len(turns) % 2 else 1
        centre, radius = _bulb(lane, s, pitch, side, part.boundary)
        if radius >= SMALLEST:
            # Walking forward, the left rail is passed turning one way, the right the other.
            turns.append(Turn(tuple(centre), radius, -side * hand))
    turns.append(Turn(tuple(lane.at(lane.length, 0.0)), 0.0, 1))
    return tangent_chain(turns)


def _bulb(lane: Strip, s: float, pitch: float, side: int, edge) -> tuple[np.ndarray, float]:
    """Centre and radius of the bulb at *s* that touches the rail on *side* and stays inside."""
    width = lane.width(s)
    radius = min(pitch * 0.49, width * STEEPEST / 2)
    for _ in range(3):
        centre = lane.at(s, side * max(0.0, 1 - 2 * radius / max(width, 1e-6)))
        room = float(shapely.distance(edge, shapely.points(centre)))
        if room >= radius - 0.01:
            break
        radius = room
    return centre, radius


def _hand(lane: Strip) -> int:
    """+1 when the left rail lies at the side the y axis points away from, walking forward."""
    middle = len(lane.along) // 2
    ahead = lane.at(lane.along[middle], 0) - lane.at(lane.along[middle - 1], 0)
    aside = lane.left[middle] - lane.right[middle]
    return 1 if ahead[0] * aside[1] - ahead[1] * aside[0] < 0 else -1


def _stations(lane: Strip, plump: float) -> list[tuple[float, float]]:
    """Positions of the bulbs and their pitch: even where the strip is even, finer where it tapers.

    The number of bulbs comes from the integral of 1 / pitch; they are then spread to fill exactly.
    """
    pitch = np.maximum(lane.widths * plump, 0.12)
    density = 2.0 / pitch
    cumulated = np.concatenate(
        [[0.0], np.cumsum(np.diff(lane.along) * (density[1:] + density[:-1]) / 2)]
    )
    # Half a step is kept free at either end, where a bulb's own radius needs it.
    count = max(2, round(cumulated[-1] - 1))
    at = (
        np.linspace(1.0, cumulated[-1] - 1.0, count) if cumulated[-1] > 2.5 else [cumulated[-1] / 2]
    )
    s = np.interp(at, cumulated, lane.along)
    local = np.interp(s, lane.along, pitch)
    if len(s) > 2:
        step = np.diff(s)
        nearest = np.minimum(np.concatenate([[step[0]], step]), np.concatenate([step, [step[-1]]]))
        local = np.minimum(local, 2 * nearest)
    return list(zip(s.tolist(), local.tolist(), strict=True))
