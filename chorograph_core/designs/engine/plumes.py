"""Plumes along a spine, grown out to whatever edge there is, and the stroke that stitches them.

From every place of the spine one looks out at an angle, behind the base and round the tip too; what one
sees is the envelope. Plumes stand evenly along it, so they fan out round a bend and shorten inside one.
Between two plumes runs a *rib*, which leaves the spine along it; a head is the round from rib to rib. A
head that would leave the zone, or ribs that would cross, make the plume smaller, never push points about
(growth to first contact: Wong, Zongker, Salesin, Computer-Generated Floral Ornament, 1998).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.guides import seen
from chorograph_core.designs.engine.spines import Spine

UPWARD, BESIDE = math.radians(54), math.radians(14)
"""How far back the first plume of a side looks at least, and how far from the edge: so that its own width has
room."""
FAN = math.radians(4)
COURSE = 2.6
"""Over how much of a spine, in shares of the room beside it, the way it goes on the whole is taken."""
TALLEST = 4.0
"""Height of a plume against its width at most; taller ones grow wider."""
STEEP = 3.0
"""How quickly heights may change along the spine."""
BELOW = 0.72
"""The share of its height at which the width of a plume is measured."""
GRAZED = 0.3
"""What an inch of an edge that is grazed still counts."""
SHARES = tuple(float(share) for share in np.arange(1.0, 0.2, -0.03))
"""How much of a plume is tried, the whole of it first, until its head has room."""
BASE, THORN = 0.5, 0.18
"""How far from its foot the base of a spine reaches, in widths of a plume, where plumes stand close beside
each other; and the same as above for those."""
SPIRE = 2.2
"""How far a plume at the base rises above where it comes back upon the one before it, in shares of how far
beside it: a higher one would be a needle."""
LOW = 0.8
"""Share of that one's rib below which it does not come back, however short it is itself."""
INNER = 0.9
"""How far plumes on the inside of a bend reach towards where those beside them would meet: they look ahead at
an angle, and from a radius times its sine on what they see goes backwards."""
LATER = (0.0, 0.35, 0.7, 0.9)
"""How much later a plume leaves a spine that swings into its way, in shares of how far back its foot is."""
UPRIGHT = math.radians(16)
"""How much more upright plumes stand inside a ring."""
NEAR = 5
"""Plumes before one whose ribs it might cross inside a bend."""
SLIMMEST, SHOULDER = 0.085, 0.72
"""Width of a plume at its shoulder against its length under which it would be a thorn: the next one takes its
room."""
LEAST = 0.55
"""Height against width from which there is a plume at all."""


@dataclass(frozen=True)
class Growth:
    """How plumes grow: their width (inches), the angle at which they leave the spine (radians), their
    greatest height (inches, 0: to the edge), whether there are some behind the base and round the tip, and
    their number on a side (0: as many as fit); how far back the first may look, radians."""

    pitch: float
    lean: float = math.radians(52)
    height: float = 0.0
    base: bool = True
    tip: bool = True
    count: int = 0
    behind: float = math.radians(150)


@dataclass(frozen=True)
class Side:
    """The plumes on one side of a spine, from the base: ribs (one more than heads), each from the spine
    outwards (n, 2); heads, each from its fore rib back to the rib before; places of feet along the spine;
    and those *beyond* what stands in their way, which begin anew."""

    ribs: list[np.ndarray]
    heads: list[np.ndarray]
    feet: list[float]
    beyond: Side | None = None

    @property
    def tip(self) -> float:
        """The place of the last foot along the spine."""
        return self.beyond.tip if self.beyond else self.feet[-1]

    @property
    def count(self) -> int:
        """How many plumes there are."""
        return len(self.heads) + (self.beyond.count if self.beyond else 0)


def grown_side(spine: Spine, room: Polygon, side: int, growth: Growth) -> Side:
    """Plumes on one *side* of *spine* (+1 to the right as one looks along it on paper, -1 to the
    left) in *room*."""
    swung = _swung(spine, room)
    places, angles = _looks(spine, growth, _behind(spine, room, side, growth, swung))
    foot = spine.at(places)
    near = swung / 2
    angles = angles + _upright(spine, places, side, near)
    # Plumes lean from where the spine goes on the whole: from each swing of it they would lie nearly along
    # the edge on one side and stand steep on the other.
    way = spine.course(places, swung)
    look = _turned(way, side * angles)
    far = seen(foot, look, room)
    if growth.height > 0:
        far = np.minimum(far, growth.height)
    far = _short_of_the_bend(
        spine, places, side, far, min(0.8, INNER * math.sin(growth.lean)), near
    )
    far = _gradual(far, foot, look, 2 * growth.pitch)
    envelope = foot + look * far[:, None]
    good = _forward(envelope, foot, side)
    places, angles, look, far, envelope, foot = (
        each[good] for each in (places, angles, look, far, envelope, foot)
    )
    if len(places) < 4:
        return Side([], [], [])
    wide = np.maximum(growth.pitch, far / TALLEST)
    # Widths are measured square to where a plume looks, below its head: along an edge that it grazes it
    # is not wide, and inside a bend its head is narrower than itself.
    middle = (look[1:] + look[:-1]) / 2
    low = np.diff(foot + look * (BELOW * far)[:, None], axis=0)
    square = np.abs(low[:, 0] * middle[:, 1] - low[:, 1] * middle[:, 0])
    step = np.maximum(square, GRAZED * np.hypot(*np.diff(envelope, axis=0).T))
    gone = np.concatenate([[0.0], np.cumsum(step / ((wide[1:] + wide[:-1]) / 2))])
    count = growth.count or max(1, round(gone[-1]))
    stops = np.interp(np.linspace(0, gone[-1], count + 1), gone, np.arange(len(gone)))

    def mid(values: np.ndarray) -> np.ndarray:
        low = np.floor(stops).astype(int).clip(0, len(values) - 2)
        share = (stops - low)[(...,) + (None,) * (values.ndim - 1)]
        return values[low] * (1 - share) + values[low + 1] * share

    ends, looks, reach, stand = mid(envelope), mid(look), mid(far), mid(places)
    looks /= np.maximum(np.hypot(*looks.T), 1e-9)[:, None]
    return _plumes(spine, room, ends, looks, reach, stand, 0.0 if growth.count else LEAST)


def _swung(spine: Spine, room: Polygon) -> float:
    """Inches over which a spine's swings are no course of their own: by the room on both its sides."""
    middle = shapely.points(spine.at(np.linspace(0.1, 0.9, 17) * spine.length))
    return COURSE * float(np.median(shapely.distance(room.boundary, middle)))


def _behind(spine: Spine, room: Polygon, side: int, growth: Growth, swung: float) -> float:
    """How far back the first plume of a side looks, from where the spine goes at its foot."""
    low, high = UPWARD, growth.behind
    angles = np.arange(high + BESIDE, low, -FAN)
    way = np.repeat(spine.course(np.zeros(1), swung), len(angles), axis=0)
    foot = np.repeat(spine.at(np.zeros(1)), len(angles), axis=0)
    far = seen(foot, _turned(way, side * angles), room)
    clear = np.flatnonzero(far >= 0.6 * growth.pitch)
    return float(np.clip(angles[clear[0]] - BESIDE, low, high)) if len(clear) else low


def _looks(spine: Spine, growth: Growth, behind: float) -> tuple[np.ndarray, np.ndarray]:
    """Places along the spine and the angles at which one looks out from each: fans at both ends."""
    count = max(12, math.ceil(spine.length / min(0.12, growth.pitch / 6)))
    if spine.closed:
        return np.linspace(0, spine.length, count + 1), np.full(count + 1, growth.lean)
    places = np.linspace(0, spine.length, count + 1)
    angles = np.full(count + 1, growth.lean)
    if growth.base:
        fan = np.arange(behind, growth.lean, -FAN)
        places = np.concatenate([np.zeros(len(fan)), places])
        angles = np.concatenate([fan, angles])
    if growth.tip:
        fan = np.arange(growth.lean - FAN, FAN, -FAN)
        places = np.concatenate([places, np.full(len(fan), spine.length)])
        angles = np.concatenate([angles, fan])
    return places, angles


def _turned(way: np.ndarray, angle: np.ndarray) -> np.ndarray:
    cos, sin = np.cos(angle), np.sin(angle)
    return np.column_stack([way[:, 0] * cos - way[:, 1] * sin, way[:, 0] * sin + way[:, 1] * cos])


def _short_of_the_bend(
    spine: Spine, places: np.ndarray, side: int, far: np.ndarray, share: float, near: float
) -> np.ndarray:
    """On the inside of a bend plumes end before the middle of it: at a *share* of its radius."""
    bend = spine.bend(places, near) * side
    return np.where(bend > 0, np.minimum(far, share / np.maximum(bend, 1e-9)), far)


def _upright(spine: Spine, places: np.ndarray, side: int, near: float) -> np.ndarray:
    """By how much plumes stand more upright inside a bend, radians: their heads crowd there."""
    inside = np.maximum(spine.bend(places, near) * side, 0) * spine.length / (2 * math.pi)
    return UPRIGHT * np.minimum(inside, 1.0)


def _gradual(far: np.ndarray, foot: np.ndarray, look: np.ndarray, low: float) -> np.ndarray:
    """Heights without leaps: a plume is not much longer than those beside it."""
    move = np.diff(foot, axis=0)
    middle = (look[1:] + look[:-1]) / 2
    beside = np.abs(move[:, 0] * middle[:, 1] - move[:, 1] * middle[:, 0])
    turn = np.hypot(*np.diff(look, axis=0).T)
    far = far.copy()
    for order in (range(1, len(far)), range(len(far) - 2, -1, -1)):
        for k in order:
            other = k - 1 if order.step > 0 else k + 1
            gap = min(k, other)
            far[k] = min(
                far[k], far[other] + STEEP * (beside[gap] + turn[gap] * max(far[other], low))
            )
    return far


def _forward(envelope: np.ndarray, foot: np.ndarray, side: int) -> np.ndarray:
    """Which looks go on round: a mask without those that would turn back on what was seen before."""
    kept = np.ones(len(envelope), bool)
    last = 0
    for k in range(1, len(envelope)):
        chord, arm = envelope[k] - envelope[last], envelope[last] - foot[last]
        # Looking out, one goes on towards the tip: against the side on which one stands.
        if (arm[0] * chord[1] - arm[1] * chord[0]) * side > 1e-6:
            kept[k] = False
        else:
            last = k
    return kept


def _plumes(spine, room, ends, looks, reach, stand, least: float) -> Side:
    """Ribs and heads from the ends of ribs on the envelope; *least*: height of a plume against its width."""
    wide = np.hypot(*np.diff(ends, axis=0).T)
    near = np.minimum(np.append(wide, wide[-1]), np.append(wide[:1], wide)) / 2
    feet = stand - np.minimum(0.36 * reach, 1.6 * float(np.median(wide)))
    if not spine.closed:
        feet = np.clip(feet, 0.0, spine.length)
        feet = _spread(feet, spine.length, 0.1 * float(np.median(wide)))
    shoulders = ends - looks * np.minimum(near * 0.55, 0.5 * reach)[:, None]
    cover = room.buffer(0.008)
    shapely.prepare(cover)
    ribs = [
        _rib_clear(spine, feet, stand, k, shoulders[k], looks[k]) for k in range(len(shoulders))
    ]
    inside = [bool(cover.covers(shapely.linestrings(rib))) for rib in ribs]
    if not any(inside):
        return Side([], [], [])
    foot = BASE * float(np.median(wide))
    ahead = inside.index(True)
    groups: list[Side] = [Side([ribs[ahead]], [], [float(feet[ahead])])]
    stem = spine.points
    for k in range(ahead + 1, len(ribs)):
        made = None
        kept_ribs, heads = groups[-1].ribs, groups[-1].heads
        based = not spine.closed and stand[ahead] <= foot
        tall = reach[k] >= least * wide[k - 1]
        if tall and inside[k]:
            made = _head(
                ribs[k],
                kept_ribs[-1],
                looks[k],
                looks[ahead],
                cover,
                not heads and not spine.closed,
                based,
            )
        slimmest = THORN if based else SLIMMEST
        if made is not None and least > 0 and _is_slim(*made, kept_ribs[-1], slimmest):
            made = None
        if made is not None and not _in_the_way(*made, kept_ribs[-NEAR:], heads[-NEAR:], stem):
            heads.append(made[0])
            kept_ribs.append(made[1])
            groups[-1].feet.append(float(feet[k]))
            ahead = k
        elif inside[k] and (
            not heads or (tall and _stands_between(ribs[k], kept_ribs, cover, stem))
        ):
            # The first plume is the first one that has room; and so it is beyond what stands in the way.
            if not heads:
                groups.pop()
            groups.append(Side([ribs[k]], [], [float(feet[k])]))
            ahead = k
    # A plume by itself beyond something is a mistake.
    grown: Side | None = None
    for number, each in reversed(list(enumerate(groups))):
        if len(each.heads) > (1 if number else 0):
            grown = replace(each, beyond=grown)
    return grown or Side([], [], [])


def _stands_between(rib: np.ndarray, before: list[np.ndarray], cover: Polygon, stem) -> bool:
    """Whether something stands between a *rib*, which is clear of those *before*, and the last of them."""
    across = shapely.linestrings([rib[-1], before[-1][-1]])
    return not cover.covers(across) and not any(
        _meet(rib, other) for other in (*before[-NEAR:], stem)
    )


def _is_slim(head: np.ndarray, rib: np.ndarray, before: np.ndarray, slimmest: float) -> bool:
    """Whether what lies between a *rib*, the way down from its *head* and the rib *before* is hardly a
    plume."""
    shoulder = shapely.points(rib[round(SHOULDER * (len(rib) - 1))])
    back = shapely.linestrings(np.vstack([head[len(head) // 2 :], before[::-1]]))
    wide = float(shapely.distance(back, shoulder))
    return wide < slimmest * float(np.hypot(*np.diff(rib, axis=0).T).sum())


def _in_the_way(head: np.ndarray, rib: np.ndarray, ribs, heads, stem: np.ndarray) -> bool:
    """Whether a plume crosses one of those before it, or the stem."""
    if any(_meet(rib, other) for other in (*ribs, stem)):
        return True
    over = shapely.linestrings(head)
    return any(
        bool(over.crosses(shapely.linestrings(other))) for other in (*ribs[:-1], *heads[:-1])
    )


def _meet(rib: np.ndarray, before: np.ndarray) -> bool:
    """Whether a rib crosses one before it, or the stem, away from the spine."""
    outer = rib[min(len(rib) // 3, len(rib) - 2) :]
    return bool(shapely.linestrings(outer).crosses(shapely.linestrings(before)))


def _spread(feet: np.ndarray, length: float, least: float) -> np.ndarray:
    """Feet in order, a little apart from each other at both ends of the spine."""
    least = min(least, length / max(len(feet), 1) * 0.6)
    feet = feet.copy()
    for k in range(1, len(feet)):
        feet[k] = max(feet[k], feet[k - 1] + least)
    feet[-1] = min(feet[-1], length)
    for k in range(len(feet) - 2, -1, -1):
        feet[k] = min(feet[k], feet[k + 1] - least)
    return np.clip(feet, 0.0, length)


def _rib_clear(
    spine: Spine,
    feet: np.ndarray,
    stand: np.ndarray,
    k: int,
    shoulder: np.ndarray,
    look: np.ndarray,
) -> np.ndarray:
    """The rib of a plume; where the spine swings into its way it leaves that later, and *feet* say so."""
    first = feet[k]
    for share in LATER:
        foot = max(first + share * (stand[k] - first), feet[k - 1] if k else first)
        rib = _rib(spine, foot, shoulder, look)
        if not _meet(rib, spine.points):
            feet[k] = foot
            return rib
    return _rib(spine, first, shoulder, look)


def _rib(spine: Spine, foot: float, shoulder: np.ndarray, look: np.ndarray) -> np.ndarray:
    """From the spine, along it at first, out to the shoulder."""
    begin, way = spine.at(foot), spine.way(foot)
    far = float(np.hypot(*(shoulder - begin)))
    return bezier(begin, begin + way * 0.42 * far, shoulder - look * 0.5 * far, shoulder, 44)


def _head(
    rib, before, look, look_before, cover, first, based
) -> tuple[np.ndarray, np.ndarray] | None:
    """The round from the end of *rib* back to the rib *before*, and the rib as it then is: both
    shortened together until the head has room. The *first* plume goes on smoothly into its own side, others
    come back upon the one before; what is *based* beside the foot of the spine is no needle."""
    for share in SHARES:
        cut = rib[: max(4, round(len(rib) * share))]
        low = max(share + 0.12, LOW) if based else share + 0.12
        end = max(2, round((len(before) - 1) * 0.86 * min(1.0, low)))
        stop = before[end]
        top = cut[-1]
        across = top - stop
        wide = float(np.hypot(*across))
        if wide < 0.05:
            return None
        out = _unit(cut[-1] - cut[-4])
        beside = abs(float(out[0] * across[1] - out[1] * across[0]))
        if based and not first and float(across @ out) > SPIRE * beside:
            continue
        high = 0.72 * wide
        back = _unit(0.55 * look_before + 0.75 * _unit(stop - top) * -0.2 + 0.25 * look)
        if first:
            back = _unit(stop - before[max(0, end - 4)])
        head = bezier(top, top + out * high, stop + back * high * 1.15, stop, 18)
        if cover.covers(shapely.linestrings(head)):
            return head, cut
    return None


def _unit(vector: np.ndarray) -> np.ndarray:
    return vector / max(float(np.hypot(*vector)), 1e-12)
