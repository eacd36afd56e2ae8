"""The stroke of plumes: a line that grows piece by piece, in the order in which a hand makes it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.curves import bezier, tidy
from chorograph_core.designs.engine.plumes import Side
from chorograph_core.designs.engine.spines import Spine
from chorograph_core.designs.linework import Run, Span, Unit, size_of_hand

STACKED = 0.45
"""How much of a head is gone over again where the next plume lies on it."""
REACHES = 1.5
"""Widths of its own head that a plume reaches over the last one."""


@dataclass
class Thread:
    """A line that grows piece by piece, with spans and the names of its units."""

    hand: str
    points: list[np.ndarray] = field(default_factory=list)
    spans: list[Span] = field(default_factory=list)
    units: list[Unit] = field(default_factory=list)
    last: int = -1
    """Index of the point where it has come to."""

    def add(self, piece: np.ndarray, kind: str = "stitch", technique: str = "") -> None:
        """Go on along *piece*."""
        piece = tidy(np.asarray(piece, float), 1e-6)
        if self.points and len(piece) and np.hypot(*(piece[0] - self.points[-1][-1])) < 2e-3:
            piece = piece[1:]
        if not len(piece):
            return
        self.points.append(piece)
        self.last = stop = self.last + len(piece)
        technique = technique or ("retrace" if kind == "retrace" else self.hand)
        if stop == 0:
            return
        if self.spans and self.spans[-1].kind == kind and self.spans[-1].technique == technique:
            self.spans[-1] = Span(stop, technique, kind)
        else:
            self.spans.append(Span(stop, technique, kind))

    def unit(self, name: str) -> None:
        """Here a unit ends."""
        if self.last > 0 and (not self.units or self.last > self.units[-1].stop):
            self.units.append(Unit(name, self.last))

    def run(self, closed: bool = False) -> Run | None:
        """What was gone along."""
        if not self.points:
            return None
        line = np.concatenate(self.points)
        if len(line) < 3:
            return None
        units = list(self.units)
        if units and units[-1].stop < len(line) - 1:
            units[-1] = Unit(units[-1].name, len(line) - 1)
        return Run(line, self.hand, tuple(self.spans), units=tuple(units), closed=closed)


def thread_for(pitch: float) -> Thread:
    """An empty thread for units of *pitch* inches."""
    return Thread(size_of_hand(pitch))


def stitch_side(
    thread: Thread,
    spine: Spine,
    side: Side,
    name: str,
    stroke: str = "bumped",
    along: str = "retrace",
    room: Polygon | None = None,
    done: int = 0,
) -> None:
    """Plume after plume from the base to the tip, beginning and ending on the spine, those beyond what
    stands in the way after those before it; *done* plumes are stitched already.

    *bumped*: out and round the head, back over the head, the next one in. *traced*: up the side of the last
    plume, over the head, and in. *stacked*: one out, the next from its tip over it and back, within *room*.
    *along* is what a way along the spine counts as: part of a spine that is
    stitched too, or a ``"link"`` along a seam.
    """
    if not side.heads:
        return
    _stitch_group(thread, spine, side, name, stroke, along, room, done)
    if side.beyond is not None:
        how = "ditch" if along == "link" else ""
        thread.add(spine.between(side.feet[-1], side.beyond.feet[0]), along, how)
        done += len(side.heads)
        stitch_side(thread, spine, side.beyond, name, stroke, along, room, done)


def _stitch_group(
    thread: Thread, spine: Spine, side: Side, name: str, stroke: str, along: str,
    room: Polygon | None, done: int,
) -> None:  # fmt: skip
    """Those of a *side* that stand one beside the other."""
    ribs, heads, feet = side.ribs, side.heads, side.feet
    how = "ditch" if along == "link" else ""
    thread.add(_until(ribs[0], heads[0][-1]))
    thread.add(heads[0][::-1])
    thread.add(ribs[1][::-1])
    thread.unit(f"{name} {done + 1}")
    k = 1
    while k < len(heads):
        if stroke == "traced":
            thread.add(_until(ribs[k], heads[k][-1]), "retrace")
            thread.add(heads[k][::-1])
            thread.add(ribs[k + 1][::-1])
            thread.unit(f"{name} {done + k + 1}")
            k += 1
            continue
        thread.add(spine.between(feet[k], feet[k + 1]), along, how)
        thread.add(ribs[k + 1])
        thread.add(heads[k])
        thread.unit(f"{name} {done + k + 1}")
        if k + 1 == len(heads):
            thread.add(heads[k][::-1], "retrace")
            thread.add(ribs[k + 1][::-1], "retrace")
            return
        over = _over_the_last(heads[k], heads[k + 1], room) if stroke == "stacked" else None
        if over is None:
            thread.add(heads[k][::-1], "retrace")
            # From the end of this rib down to where the next head meets it, and out over that.
            rest = _after(ribs[k + 1], heads[k + 1][-1])
            thread.add(rest[::-1], "retrace")
            thread.add(heads[k + 1][::-1])
        else:
            thread.add(over[0], "retrace")
            thread.add(over[1])
        thread.add(ribs[k + 2][::-1])
        thread.unit(f"{name} {done + k + 2}")
        k += 2


def _over_the_last(
    head: np.ndarray, following: np.ndarray, room: Polygon | None
) -> tuple[np.ndarray, np.ndarray] | None:
    """Of a plume that comes back, stacked on one that went out: the part of that one's *head*, from its end,
    that is gone over again, and the head from there to the end of the rib of the *following* one. None where
    that would leave the *room*, or lie across what is there."""
    tip = len(head) - 1 - max(2, round(STACKED * len(head)))
    spot, top = head[tip], following[0]
    leaving, out = _unit(head[tip - 1] - head[tip + 1]), _unit(following[2] - following[0])
    far = float(np.hypot(*(top - spot)))
    if far > REACHES * float(np.hypot(*(following[0] - following[-1]))):
        # The one that comes back ends far below the tip of the last: its head stands on the side of that.
        return None
    rest = shapely.linestrings(head[: max(2, tip - 2)])
    for high in (0.85, 0.7, 0.55, 0.4):
        line = bezier(spot, spot + leaving * 0.35 * far, top + out * high * far, top, 18)
        over = shapely.linestrings(line)
        if (room is None or room.covers(over)) and not over.crosses(rest):
            return head[tip:][::-1], line
    return None


def _until(rib: np.ndarray, spot: np.ndarray) -> np.ndarray:
    """A rib as far as *spot*, one of its points."""
    return rib[: int(np.hypot(*(rib - spot).T).argmin()) + 1]


def _after(rib: np.ndarray, spot: np.ndarray) -> np.ndarray:
    """A rib from *spot* on."""
    return rib[int(np.hypot(*(rib - spot).T).argmin()) :]


def _unit(vector: np.ndarray) -> np.ndarray:
    return vector / max(float(np.hypot(*vector)), 1e-9)
