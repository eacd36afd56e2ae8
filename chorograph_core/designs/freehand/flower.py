"""Flower: a centre, counted petals round it, leaves between them."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.figure_motifs import FigureMotif
from chorograph_core.designs.engine.plume_stroke import Thread, thread_for
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.measure import format_inches

LEAST = 0.35
"""Inches: a flower of less radius is a blob."""
SHORTER = 0.72
"""Where there are leaves outside, how far the petals reach towards their tips."""
KEPT = 0.93
"""Share of its part of the round that a petal takes at its widest."""
PAIRED = math.radians(24)
"""Angle by which one of a pair of leaves leans out."""
STANDING = (0.72, 0.5, 0.3, 0.15)
"""Where on a petal's head a leaf may stand: how far aside, against half its part of the round."""
WIDTHS = (0.3, 0.24, 0.18, 0.13, 0.09, 0.06)
"""Half widths of a leaf against its length."""
LEANING = (0.0, 0.15, -0.15, 0.3, -0.3, 0.45, -0.45)
"""How far a leaf may lean besides, radians."""
LONG = (1.0, 0.6, 0.3)
"""Shares of the way to the circle round all that a leaf may be long."""
POSES = sorted(
    itertools.product(*(range(len(each)) for each in (STANDING, WIDTHS, LEANING, LONG))),
    key=lambda each: (1.5 * each[0] + each[1] + 0.3 * each[2] + 9 * each[3], each),
)
"""How a leaf may stand, the handsomest first."""


@dataclass(frozen=True)
class FlowerSettings(Settings):
    """How large, how many of what."""

    radius: float = length_setting(
        "Radius", 0.0, 0.0, 40.0, 0.125, help="0: as large as there is room for."
    )
    petals: int = count_setting("Petals", 8, 3, 48)
    rows: int = count_setting("Rows of petals", 1, 1, 3)
    centre: float = share_setting("Centre", 0.24, 0.08, 0.6, 0.02,
                          help="Its radius against that of the petals.")  # fmt: skip
    shape: str = choice_setting("Petals are", (("round", "round"), ("pointed", "pointed")))
    line: str = choice_setting("A line in each petal", (("no", "no"), ("yes", "yes")))
    leaves: int = count_setting(
        "Leaves outside", 0, 0, 48, help="Evenly round; halves match when even."
    )
    paired: str = choice_setting("Leaves stand", (("no", "one by one"), ("yes", "in pairs")))
    turned: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 2.5)
    margin: float = margin_setting()


class Flower(FigureMotif[FlowerSettings]):
    """Petals that are counted, so that both halves match."""

    key = "flower"
    name = "Flower"
    stroke = "in down the first petal, round the centre, petal by petal round, up the first petal and out"
    settings_type = FlowerSettings

    def fits(self, space, settings=None):
        """It wants a zone about as wide as long."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius < LEAST:
            return Fit(0.1, ("no room for a flower: echo instead",))
        share = math.pi * radius**2 / space.polygon.area
        pair = "" if s.petals % 2 == 0 else ", an odd number: halves do not match"
        return Fit(0.2 + 0.55 * min(1.0, share / 0.72),
                   (f"{s.petals} petals, radius {format_inches(radius, 16)}{pair}",))  # fmt: skip

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One closed run from the tip of the first petal."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius < LEAST:
            return Linework()
        middle = np.array(space.middle[0])
        begin = space.frame.axis - math.pi / 2 + math.radians(s.turned)
        if s.leaves:
            # Leaves stand where else the first petal would: on an axis, one half the other's mirror image.
            begin += math.pi / s.petals
        outer = radius * (SHORTER if s.leaves else 1.0)
        core = outer * s.centre
        rings = [core, *(core + (outer - core) * (row + 1) / s.rows for row in range(s.rows))]
        half = math.pi / s.petals
        # Petals of a row stand behind the gaps of the row inside it: their feet are its tips.
        rows = [_Row(middle, s, rings[k], rings[k + 1], begin + half * ((s.rows - 1 - k) % 2))
                for k in range(s.rows)]  # fmt: skip
        # Feet and veins lie on points of the circle.
        corners = 2 * math.ceil(24 / s.petals) * s.petals
        ring = rows[0].foot(0) + np.linspace(0, 2 * math.pi, corners + 1)
        circle = middle + core * np.column_stack([np.cos(ring), np.sin(ring)])
        circle[-1] = circle[0]
        thread = thread_for(radius / 2)
        leaves = _leaves(rows[-1], radius, s)
        _round(thread, rows, s.rows - 1, 0, circle, leaves)
        run = thread.run(closed=True)
        marks = (Mark("dot", middle[None], "middle"), Mark("line", circle, "centre"))
        left_out = s.leaves - len(leaves)
        notes = (
            (f"{left_out} of {s.leaves} leaves have no room between the petals",)
            if left_out
            else ()
        )
        return Linework((run,) if run else (), marks, notes)

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.5 * max(_radius(space, s), LEAST)


def _radius(space, s: FlowerSettings) -> float:
    free = space.middle[1] - s.margin
    return min(s.radius, free) if s.radius else free


@dataclass(frozen=True)
class _Row:
    """A row of petals: their feet lie *near* inches from the *middle*, their tips *far*; the first looks
    along *begin*. Each keeps within its share of the round, so that none crosses another."""

    middle: np.ndarray
    s: FlowerSettings
    near: float
    far: float
    begin: float

    @property
    def half(self) -> float:
        """Half the share of a petal, radians."""
        return math.pi / self.s.petals

    def foot(self, k: int) -> float:
        """The angle at which petal *k* ends and the next begins."""
        return self.begin + (2 * k + 1) * self.half

    def spot(self, far: float, angle: float) -> np.ndarray:
        return self.middle + far * np.array([math.cos(angle), math.sin(angle)])

    def side(self, k: int, sign: int) -> np.ndarray:
        """A side of petal *k* from its foot to its tip, +1 the one towards the next petal."""
        deep = self.far - self.near
        wide = math.sin(self.half) * (self.near + 0.7 * deep)
        if self.s.shape == "round":
            # As high as half as wide: a round head.
            shoulder = min(max(1 - wide / deep, 0.15), 0.9)
            turn = np.linspace(0, math.pi / 2, 15)
            head = np.column_stack([shoulder + (1 - shoulder) * np.sin(turn), np.cos(turn)])
        else:
            shoulder = 0.4
            at = np.linspace(0, 1, 15)
            head = np.column_stack([shoulder + (1 - shoulder) * at, 1 - at**1.7])
        at = np.linspace(0, 1, 9)[:-1]
        eased = at**2 * (3 - 2 * at)
        # A short petal, behind others, has no stem to draw in.
        kept = 1 - (1 - KEPT) * min(1.0, shoulder / 0.4)
        head[:, 1] *= kept
        stem = np.column_stack([shoulder * at, 1 - (1 - kept) * eased])
        along, share = np.vstack([stem, head]).T
        angle = self.begin + 2 * k * self.half + sign * share * self.half
        far = self.near + deep * along
        return self.middle + far[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])

    def petal(self, k: int) -> Polygon:
        """What petal *k* covers."""
        return Polygon(np.vstack([self.side(k, -1), self.side(k, 1)[::-1]]))


def _round(thread: Thread, rows: list[_Row], row: int, first: int, circle: np.ndarray,
           leaves: dict[tuple[int, int], np.ndarray]) -> None:  # fmt: skip
    """From the tip of petal *first* of a row down its far side, through all that lies inside, petal by petal
    round, and up its near side to its tip again."""
    here, count = rows[row], rows[row].s.petals
    _side(thread, here, first, 1, leaves)
    if row == 0:
        thread.add(_turned(circle, here.middle, first * 2 * here.half))
        thread.unit("centre")
        _vein(thread, here, first)
    else:
        # Its foot is the tip of the petal inside that stands in this gap.
        inside = rows[row - 1]
        tip = round((here.foot(first) - inside.begin) / (2 * inside.half))
        _round(thread, rows, row - 1, tip, circle, {})
    for k in range(first + 1, first + count + 1):
        _side(thread, here, k, -1, leaves)
        if k < first + count:
            _side(thread, here, k, 1, leaves)
            if row == 0:
                _vein(thread, here, k)
        thread.unit(f"petal {row * count + k % count + 1}")


def _side(
    thread: Thread, row: _Row, k: int, sign: int, leaves: dict[tuple[int, int], np.ndarray]
) -> None:
    """Along a side of a petal, up the near one or down the far one, with the leaves that stand on it."""
    line = row.side(k, sign)[::-sign]
    leaf = leaves.get((k % row.s.petals, sign))
    if leaf is not None:
        stop = int(np.argmin(np.hypot(*(line - leaf[0]).T)))
        thread.add(line[: stop + 1])
        thread.add(leaf)
        thread.unit(f"leaf {1 + sum(unit.name.startswith('leaf') for unit in thread.units)}")
        line = line[stop:]
    thread.add(line)


def _turned(line: np.ndarray, middle: np.ndarray, by: float) -> np.ndarray:
    turn = np.array([[math.cos(by), -math.sin(by)], [math.sin(by), math.cos(by)]])
    return middle + (line - middle) @ turn.T


def _vein(thread: Thread, row: _Row, k: int) -> None:
    """A line in a petal, from its foot: back along the centre to below it, out and home."""
    if row.s.line != "yes":
        return
    angles = row.foot(k) - row.half * np.linspace(0, 1, 8)
    arc = np.array([row.spot(row.near, angle) for angle in angles])
    end = row.spot(row.near + 0.6 * (row.far - row.near), angles[-1])
    thread.add(arc, "retrace")
    thread.add(np.vstack([arc[-1], end]))
    thread.add(np.vstack([end, arc[-1]]), "retrace")
    thread.add(arc[::-1], "retrace")


def _leaves(row: _Row, radius: float, s: FlowerSettings) -> dict[tuple[int, int], np.ndarray]:
    """Leaves by the petal and the side of it (-1 the near one) on which they stand, each out and back to its
    foot."""
    if not s.leaves:
        return {}
    count = min(s.leaves, 2 * s.petals)
    together = 2 if s.paired == "yes" or count > s.petals else 1
    places = math.ceil(count / together)
    # All gaps are alike: what stands in the one before the first petal is turned into the others.
    angle = row.foot(-1)
    # Beyond the tips of its two petals begins the part of the next gap.
    past = [LineString([row.spot(far, row.begin - 2 * k * row.half) for far in (row.far, 2 * radius)])
            for k in (0, 1)]  # fmt: skip
    petals = [row.petal(-1), row.petal(0), *past]
    between = LineString([row.middle, row.spot(2 * radius, angle)]).buffer(0.01 * radius)
    alone = _leaf(row, 0.0, radius, petals)
    pair = _leaf(row, PAIRED, radius, [*petals, between]) if together == 2 else None
    found: dict[tuple[int, int], np.ndarray] = {}
    for place in range(places):
        k = round(place * s.petals / places)
        single = together == 1 or place * together + 1 == count
        leaf = alone if single else pair
        if leaf is None:
            continue
        turn = 2 * k * row.half
        found[k % s.petals, -1] = _turned(leaf, row.middle, turn)
        if not single:
            # Each petal beside the gap has one; they are each other's mirror image.
            other = _mirrored(leaf, row.middle, angle)
            found[(k - 1) % s.petals, 1] = _turned(other, row.middle, turn)
    return found


def _mirrored(line: np.ndarray, middle: np.ndarray, angle: float) -> np.ndarray:
    """A line as it is in a mirror along *angle*, gone the same way round."""
    flip = np.array([[math.cos(2 * angle), math.sin(2 * angle)],
                     [math.sin(2 * angle), -math.cos(2 * angle)]])  # fmt: skip
    return (middle + (line - middle) @ flip.T)[::-1]


def _shoulder(row: _Row, share: float) -> np.ndarray:
    """The place on the near side of the first petal's head that is aside by a *share* of half its part."""
    side = row.side(0, -1)
    out = side - row.middle
    apart = (np.arctan2(out[:, 1], out[:, 0]) - row.begin) / row.half
    apart = np.abs((apart + row.s.petals) % (2 * row.s.petals) - row.s.petals)
    head = int(np.argmax(np.hypot(*out.T) > 0.5 * (row.near + row.far)))
    return side[head + int(np.argmin(np.abs(apart[head:] - share)))]


def _leaf(row: _Row, aside: float, radius: float, others: list[BaseGeometry]) -> np.ndarray | None:
    """A leaf on the near side of the first petal, turned *aside* from where the way out between it and the
    last meets the circle round all, in the handsomest pose in which it keeps off *others*; None if there is
    none."""
    goal, free = row.spot(radius, row.foot(-1)), shapely.union_all(others)
    for stands, wide, leans, short in POSES:
        base = _shoulder(row, STANDING[stands])
        heading = math.atan2(*(goal - base)[::-1]) + aside + LEANING[leans]
        along = np.array([math.cos(heading), math.sin(heading)])
        # As long as the circle round all lets it be.
        inward, far = float((base - row.middle) @ along), float(np.hypot(*(base - row.middle)))
        long = math.sqrt(max(radius**2 - far**2, 0.0) + inward**2) - inward
        long = min(long, float(np.hypot(*(goal - base)))) * LONG[short]
        tip, across = base + long * along, np.array([-along[1], along[0]]) * WIDTHS[wide] * long
        sides = [
            bezier(base, base + along * 0.3 * long + way * across * 1.5,
                   tip - along * 0.35 * long + way * across * 0.9, tip, 12)
            for way in (-1, 1)
        ]  # fmt: skip
        made = np.vstack([sides[0], sides[1][::-1][1:]])
        near = Point(base).buffer(0.015 * long)
        if (
            not Polygon(made).difference(near).intersects(free)
            and np.hypot(*(made - row.middle).T).max() < radius + 1e-6
        ):
            return made
    return None
