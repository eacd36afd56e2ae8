"""Strips as lanes for a motif: units of even proportion along them, smaller as the strip tapers.

A motif is written once in the lane's own measure: *u* counts units from the beginning, *v* goes from -1
on one side to 1 on the other. What the lane makes of it bends, tapers and turns as the strip does.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d, maximum_filter1d
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.engine.guides import strip_along
from chorograph_core.designs.rails import Strip, across
from chorograph_core.designs.settings import choice_setting
from chorograph_core.designs.space import Space
from chorograph_core.designs.strip import ring_of, strip_of
from chorograph_core.measure import format_inches

NARROWEST = 0.3
"""Inches. Where a strip is narrower than this a unit ends."""
END = 0.5
"""Against the mean width: units are of about one size, and a tip narrower than so much of a unit is left."""
TIP = 0.15
"""Inches of width up to which the line runs out into a tip."""
LEAST_UNIT = 0.2
TURNS = 0.45
"""What the inner side of a bend goes on, at most, against the outer side."""
ROUNDED = 0.4
"""How far the inside of a bend is rounded off, in widths."""
MANY = 6
"""Units among which one more is not seen."""
RING = 10.0
"""Length over width from which a ring is a strip all round."""
STRIP, SURELY = 2.0, 3.0
"""Length over width from which a zone is a strip; the same where also what is hardly longer than wide may be
one, if it is even."""
WAIST = 1.8
"""How many times as wide as its waist a strip may be on both sides of it: units would be squeezed there."""
UPRIGHT = math.radians(8)
"""A strip that slants less lies, or stands: piecing is rarely quite square."""
STRAIGHT = math.radians(9)
"""By how much the way of a strip may vary (standard deviation) for it to lie one way."""
OPENS = 1.2
"""Inches by which a strip widens or narrows an inch along, in some places: more, and it is none."""
SIZES = 3.0
"""How many times as wide as its narrowest place a strip may be, for units that are as large as it is wide."""
NARROW = "narrower than one unit: echo instead"
HAIR = 0.03
"""Inches by which lines of a strip may leave its zone."""
LEAPS = 1.5
"""How many times as far as else one goes on along a side where lines across leap."""
LEGS = 0.8
"""Of the way to an edge what is leg; the rest is where it turns round."""
MOST_SLANT = 0.34
"""How far legs slant with the ends of their strip, against the way across: the sine of some 20 degrees."""
FANNED = 2.5
"""Over so many times the way that they lean legs come to stand upright at an end."""
LEANS = 0.8
"""How much of the way from square to the strip to square to the frame a leg leans."""
NARROWER = 0.7
"""Where a strip is clearly narrower than at its widest, as a share of that."""
FINE = 1 / 40
"""Units between the points of a stroke."""


def along_setting():
    """Which way a motif runs."""
    return choice_setting("Along", (("long", "the long way"), ("short", "the short way")))


def start_setting():
    """On which side a motif begins."""
    return choice_setting("Begin on", (("first", "one side"), ("second", "the other side")))


def frame_setting():
    """Whether a motif is drawn for the way its strip lies on the frame."""
    return choice_setting(
        "Legs",
        (
            ("frame", "as the strip lies: on a slant one long, one short"),
            ("square", "square to the strip"),
        ),
    )


@dataclass(frozen=True)
class Lane:
    """A strip in whole units: *at* (n,) is the distance along it where each count in *units* (n,)
    is reached. *tipped* tells at which ends the line comes out of a tip, and goes on into one."""

    strip: Strip
    at: np.ndarray
    units: np.ndarray
    count: int
    tipped: tuple[bool, bool] = (False, False)
    slant: float = MOST_SLANT

    def points(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Points (n, 2) at *u* units along and *v* across."""
        s = np.interp(u, self.units, self.at)
        # Beyond either end one goes straight on.
        over = np.where(u < 0, u, np.where(u > self.count, u - self.count, 0.0))
        share = (np.asarray(v, float) + 1) / 2
        strip = self.strip
        slants = np.interp(s, strip.along, self._slants)
        upright = self._uprighted(s, slants)
        left, right = (
            np.column_stack([np.interp(s + by, strip.along, rail[:, k]) for k in (0, 1)])
            for rail, by in ((strip.left, upright), (strip.right, -upright))
        )
        made = left * (1 - share)[:, None] + right * share[:, None] + strip.bent(s, v)
        # What lies slantwise across is leant in its legs: its heads stay round.
        most = float(np.abs(self._slants).max())
        more = (leant(v) - np.asarray(v, float)) * (slants - upright) * self._fanned(s, most)
        made += self._ways(s) * more[:, None]
        if over.any():
            ends = self._ways(np.array([0.0, strip.length]))
            unit = strip.length / max(self.count, 1)
            made += np.where((u < 0)[:, None], ends[0], ends[1]) * (over * unit)[:, None]
        return made

    def from_bends(self, u: np.ndarray) -> np.ndarray:
        """Units from *u* (n,) to where the strip next turns a corner, before it or after it; far more than
        there are where it turns none."""
        bends = np.flatnonzero(bends_of(self.strip))
        if not len(bends):
            return np.full(len(u), 2.0 * self.count + 1)
        turned = np.interp(self.strip.along[[bends, bends + 1]], self.at, self.units)
        return np.maximum(
            np.maximum(turned[0] - u[:, None], u[:, None] - turned[1]).min(axis=1), 0.0
        )

    @cached_property
    def _slants(self) -> np.ndarray:
        """How far along its way each station reaches from the middle to the right rail (n,)."""
        middle = (self.strip.left + self.strip.right) / 2
        half = (self.strip.right - self.strip.left) / 2
        return (half * _headings(middle)).sum(axis=1)

    def _uprighted(self, s: np.ndarray, slants: np.ndarray) -> np.ndarray:
        """By how much each rail is gone further or less far, so that a strip cut very slantwise has its legs
        nearly square to it, but for its ends."""
        wide = np.interp(s, self.strip.along, self.strip.widths) / 2
        over = np.sign(slants) * np.maximum(np.abs(slants) - self.slant * wide, 0.0)
        return over * self._fanned(s, float(np.abs(over).max(initial=0.0)))

    def _fanned(self, s: np.ndarray, most: float) -> np.ndarray:
        """How far from 0 at either end to 1 legs stand otherwise than the end does, which they do by *most*
        inches in the middle."""
        near = np.minimum(s, self.strip.length - s)
        return np.clip(near / max(FANNED * most, 1e-9), 0.0, 1.0)

    def _ways(self, s: np.ndarray) -> np.ndarray:
        """Which way the strip leads at each distance along it, as unit vectors (n, 2)."""
        strip = self.strip
        ways = _headings((strip.left + strip.right) / 2)
        return np.column_stack([np.interp(s, strip.along, ways[:, k]) for k in (0, 1)])

    def leaning(self, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """How many units further on each point lies where what goes across the lane goes square to the
        frame, or along it, and not square to the lane: on a slant one leg is long, one short."""
        strip = self.strip
        shift = lean_of(strip) * strip.widths / 2
        s = np.interp(u, self.units, self.at)
        # At either end legs stand as the end does.
        fanned = self._fanned(s, float(np.abs(shift).max()))
        shift = np.interp(s, strip.along, shift) * fanned
        gone = s + leant(v) * shift
        per_unit = self.strip.length / max(self.count, 1)
        return (gone - s) / np.maximum(
            np.interp(s, self.at[:-1], np.diff(self.at) / np.maximum(np.diff(self.units), 1e-9)),
            0.2 * per_unit,
        )


def leant(v: np.ndarray) -> np.ndarray:
    """How far a leg leans at each *v* of its way across, from -1 to 1: the whole of it in its middle, so that
    what turns round at an edge is no longer and no sharper for it."""
    return np.sin(np.pi / 2 * np.clip(np.asarray(v) / LEGS, -1.0, 1.0))


def _headings(centre: np.ndarray) -> np.ndarray:
    """Which way each station of a middle line (n, 2) looks, as unit vectors."""
    way = gaussian_filter1d(np.gradient(centre, axis=0), 3, axis=0, mode="nearest")
    return way / np.maximum(np.hypot(*way.T), 1e-9)[:, None]


def lean_of(strip: Strip) -> np.ndarray:
    """How far along each station's legs lean (n,), against the way across, from the left to the right."""
    centre = (strip.left + strip.right) / 2
    way = gaussian_filter1d(np.gradient(centre, axis=0), 3, axis=0, mode="nearest")
    heading = np.unwrap(np.arctan2(way[:, 1], way[:, 0]))
    mean = float(np.mean(heading))
    if float(np.std(heading)) > STRAIGHT:
        # A strip that bends lies every way.
        return np.zeros(len(heading))
    lies = math.pi / 2 * round(mean / (math.pi / 2) - 0.02)
    off = np.full(len(heading), mean - lies)
    over = np.maximum(np.abs(off) - UPRIGHT, 0) / (math.pi / 4 - UPRIGHT) * (math.pi / 4)
    across = strip.right - strip.left
    hand = np.sign(way[:, 0] * across[:, 1] - way[:, 1] * across[:, 0])
    return LEANS * np.tan(np.sign(off) * over) * hand


def lane_in(
    strip: Strip, proportion: float, least: float = LEAST_UNIT, guided: bool = False, more: int = 0,
    rounds: int = 1, end: float = END, odd: bool = False, sharp: bool = False,
) -> Lane:  # fmt: skip
    """The strip in units whose length is *proportion* of its width there, a whole number of *rounds* of them,
    or an *odd* number.

    Ends narrower than `NARROWEST`, or than *end* of the whole, are left out. A *guided* strip bends no more
    than units can; what turns corners *sharp* goes right round their inside. *more* units are drawn where
    there are many: nobody sees one more among them.
    """
    tipped = (False, False)
    if not guided:
        before, after = tips_of(strip, end)
        tipped = len(before) > 0, len(after) > 0
        strip = _trimmed(strip, end)
        strip = strip if sharp else _round_bends(strip)
    pitch = np.maximum(strip.widths * proportion, least)
    density = 1 / pitch
    # Units are counted along the outer side: round a bend it is longer than the middle.
    rails = [np.hypot(*np.diff(rail, axis=0).T) for rail in (strip.left, strip.right)]
    steps = np.maximum(np.diff(strip.along), np.where(bends_of(strip), np.maximum(*rails), 0.0))
    gone = np.concatenate([[0.0], np.cumsum(steps * (density[1:] + density[:-1]) / 2)])
    count = rounds * max(1, round(gone[-1] / rounds))
    if odd:
        rounds, count = 2, nearest_odd(float(gone[-1]))
    count += rounds * more if count >= MANY else 0
    return Lane(strip, strip.along, gone * count / max(gone[-1], 1e-9), count, tipped)


def nearest_odd(units: float) -> int:
    """The odd number nearest to so many *units*; of two the larger.

    >>> [nearest_odd(units) for units in (0.4, 1.8, 2.0, 4.0, 6.4)]
    [1, 1, 3, 5, 7]
    """
    return 2 * math.floor(max(units, 0.0) / 2) + 1


def bends_of(strip: Strip) -> np.ndarray:
    """Between which stations (n - 1,) one side goes on much less than the other."""
    left, right = (np.hypot(*np.diff(rail, axis=0).T) for rail in (strip.left, strip.right))
    slow = np.minimum(left, right) / np.maximum(np.maximum(left, right), 1e-9)
    # At its ends a strip that runs out into a point bends nowhere.
    wide = strip.widths[1:] > 0.7 * strip.mean_width
    return (slow < TURNS) & wide


def _round_bends(strip: Strip) -> Strip:
    """The strip with the inside of its bends rounded off: there is no room for a unit on a corner."""
    bends = bends_of(strip)
    if not bends.any():
        return strip
    step = strip.length / max(len(bends), 1)
    spread = max(2, min(len(bends) // 30, round(0.35 * strip.mean_width / step)))
    share = gaussian_filter1d(
        maximum_filter1d(bends.astype(float), spread), spread / 2, mode="nearest"
    )
    share = ROUNDED * np.append(share, share[-1])[:, None]
    left, right = (np.hypot(*np.diff(rail, axis=0).T) for rail in (strip.left, strip.right))
    inner = np.where(bends, right < left, False)
    both = gaussian_filter1d(
        np.where(bends, np.where(inner, 1.0, -1.0), 0.0), spread, mode="nearest"
    )
    on_right = (np.append(both, both[-1]) > 0)[:, None]
    middle = strip.right - strip.left
    left = strip.left + np.where(on_right, 0.0, 1.0) * share * middle
    right = strip.right - np.where(on_right, 1.0, 0.0) * share * middle
    return Strip(left, right, strip.along, strip.bows)


def tips_of(strip: Strip, end: float = END) -> tuple[np.ndarray, np.ndarray]:
    """The middle of what is left out at either end, (n, 2) from the tip on and (m, 2) on to the tip; empty
    where an end is blunt, or its tip too short for a line."""
    first, last = _wide(strip, end)
    middle, widths = strip.at_all(0.0), strip.widths
    found = []
    for some in (slice(0, first + 1), slice(last - 1, None)):
        at = np.linspace(strip.along[some][0], strip.along[some][-1], 12)
        wide = np.interp(at, strip.along, widths) >= TIP
        line = np.column_stack([np.interp(at, strip.along, middle[:, k]) for k in (0, 1)])[wide]
        long = len(line) > 3 and at[-1] - at[0] > TIP
        # Where it meets the units it is their line.
        found.append((line[:-2] if some.start == 0 else line[2:]) if long else middle[:0])
    return found[0], found[1]


def _wide(strip: Strip, end: float) -> tuple[int, int]:
    """Between which stations there is room for units."""
    wide = np.flatnonzero(strip.widths >= max(NARROWEST, end * strip.mean_width))
    if len(wide) < 4:
        return 0, len(strip.along)
    return int(wide[0]), int(wide[-1]) + 1


def _trimmed(strip: Strip, end: float = END) -> Strip:
    first, last = _wide(strip, end)
    if last - first == len(strip.along):
        return strip
    return strip.part(first, last)


def strip_in(space: Space, part: Polygon, along: str = "long", begin: str = "first") -> Strip:
    """The strip of a part, along its guide where it has one, else the long or the short way; its first
    side first or last."""
    guided = strip_along(space, part)
    if guided is not None:
        return guided.flipped() if begin == "second" else guided
    if part.interiors:
        strip = ring_of(space, part)
        return strip.flipped() if begin == "second" else strip
    strip = strip_of(space, part)
    if along == "short":
        strip = across(strip)
    return strip.flipped() if begin == "second" else strip


def how_strip(
    space: Space, margin: float, along: str, proportion: float, what: str, sizes: float = SIZES,
    long: float = STRIP, opens: float = OPENS,
) -> Fit:  # fmt: skip
    """How well a motif for strips suits a zone, in words; its units may be *sizes* times as large in one
    place as in another, it wants a strip *long* times as long as wide that *opens* no more inches an inch."""
    parts = space.inset(margin)
    if not parts:
        return Fit(0.0, (NARROW,))
    part, strip = parts[0], strip_in(space, parts[0], along)
    wide = strip.mean_width
    if wide < NARROWEST:
        return Fit(0.1, (NARROW,))
    if strays(strip, part):
        return Fit(0.12, ("this is no strip: its sides do not run along with each other",))
    if waist(strip) > WAIST:
        return Fit(0.15, (f"{what} would be squeezed where it is narrow between wider places",))
    count = max(1, round(strip.length / max(wide * proportion, LEAST_UNIT)))
    reason = f"{count} {what}, {format_inches(wide, 16)} wide"
    ratio = strip.length / max(wide, 1e-6)
    uneven = min(1.0, float(np.std(strip.widths)) / wide)
    if space.guide is None and part.interiors and ratio >= RING:
        return Fit(0.8 * (1 - uneven), (reason, "all round"))
    if against := _hardly(space, part, strip, sizes, long, opens):
        return Fit(0.3, (reason, against))
    return Fit(min(0.92, 0.45 + 0.06 * ratio) * (1 - 0.75 * uneven), (reason,))


def _hardly(
    space: Space, part: Polygon, strip: Strip, sizes: float, long: float, opens: float
) -> str:
    """What speaks against units of even size in a strip; empty where nothing does."""
    ratio = strip.length / max(strip.mean_width, 1e-6)
    bent = space.polygon.area < 0.55 * space.polygon.convex_hull.area
    no_strip = ratio < long or (long < STRIP and ratio < SURELY and _uneven(strip, part))
    # A guide leads a strip through a zone of any shape.
    if no_strip or (space.guide is None and (part.interiors or bent)):
        return "hardly longer than wide"
    # In what tapers as a triangle does units are of too many sizes to be even.
    units = _trimmed(strip)
    widths = units.widths
    if np.percentile(np.abs(np.gradient(widths, units.along)), 90) > opens:
        return "hardly a strip: it opens too fast"
    between = float(widths.max() / max(widths.min(), 1e-9))
    return f"of many sizes, {between:.0f} to 1" if between > sizes else ""


def _uneven(strip: Strip, part: Polygon) -> bool:
    """Whether what is hardly longer than wide is no even strip: its sides turn in other places, where lines
    across leap, or lines along it leave it."""
    for rail in (strip.left, strip.right):
        steps = np.hypot(*np.diff(rail, axis=0).T)
        if steps.max() > LEAPS * steps.mean():
            return True
    along = shapely.linestrings(np.stack([strip.at_all(v) for v in (-0.9, 0.0, 0.9)]))
    return not bool(part.buffer(HAIR).covers(along).all())


def waist(strip: Strip) -> float:
    """How many times as wide as its narrowest place a strip is on both sides of that, at least."""
    wide = _round_bends(_trimmed(strip)).widths
    before = np.maximum.accumulate(wide)
    after = np.maximum.accumulate(wide[::-1])[::-1]
    return float((np.minimum(before, after) / np.maximum(wide, 1e-9)).max())


def bulge(strip: Strip) -> float:
    """The share of its length along which a strip is clearly narrower than at its widest, on that side of it
    where there is less of that: 0 for a wedge, which opens one way."""
    widest = int(strip.widths.argmax())
    steps = np.diff(strip.along, append=strip.along[-1])
    narrow = steps * (strip.widths < NARROWER * strip.widths[widest])
    return float(min(narrow[:widest].sum(), narrow[widest:].sum()) / max(strip.along[-1], 1e-9))


def strays(strip: Strip, part: Polygon) -> bool:
    """Whether lines across a strip leave the zone: then its two sides are not those of one strip."""
    legs = shapely.linestrings(strip.legs()[::4])
    wrong = shapely.length(shapely.difference(legs, part.buffer(HAIR))).sum()
    return bool(wrong > 0.03 * shapely.length(legs).sum())


def steps_to(count: float, fine: float = FINE) -> np.ndarray:
    """Even steps from 0 to *count* units."""
    return np.linspace(0, count, max(8, math.ceil(count / fine)) + 1)


def strip_width(space: Space, margin: float, along: str) -> float:
    """The mean width of a zone's largest part as a strip; 0 where nothing is left of it."""
    parts = space.inset(margin)
    return strip_in(space, parts[0], along).mean_width if parts else 0.0
