"""Feathers: a spine, plumes up one side, back down the spine, plumes up the other."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
import shapely.ops
from scipy.ndimage import gaussian_filter1d
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Fit
from chorograph_core.designs.curves import resample
from chorograph_core.designs.engine.guides import closes, guide_within
from chorograph_core.designs.engine.lanes import strays
from chorograph_core.designs.engine.pearls import string_pearls
from chorograph_core.designs.engine.plume_stroke import Thread, stitch_side, thread_for
from chorograph_core.designs.engine.plumes import Growth, Side, grown_side
from chorograph_core.designs.engine.spines import STEEPEST, Spine, even_spine
from chorograph_core.designs.linework import Run
from chorograph_core.designs.settings import choice_setting
from chorograph_core.designs.space import Space
from chorograph_core.designs.strip import ring_of, strip_of
from chorograph_core.measure import format_inches

LONG = 2.3
"""Length over width from which a spine follows a zone."""
EVEN = 0.28
"""How much the width of such a zone may vary."""
ROUND_AT_LEAST = 6
"""Length of a strip that closes over its width, for a spine all round."""
ROUND = 0.3
"""Over how much of its width a spine rounds a corner of its strip."""
BENT = 0.88
"""Share of what a string round it would hold under which a zone has arms, as the corners beside a star."""
SMALLEST, ROOMY = 0.4, 1.2
"""How well plumes of no height would do, and the inches of height from which they do as well as any."""
INSIDE = 0.01
"""Inches by which a line along the middle of a strip may lie beyond its edge."""
SIDES = ("right", "left")


def stroke_setting(first: str = "bumped"):
    """How a plume is joined to the next; *first* is the way proposed."""
    ways = (
        ("bumped", "bumped: back over half the head"),
        ("traced", "traced: back along the last plume"),
        ("stacked", "stacked: one out, the next back, only the tip retraced"),
    )
    return choice_setting("Plumes", tuple(sorted(ways, key=lambda way: way[0] != first)))


def line_through(space: Space, part: Polygon, sway: float, swings: int = 1) -> np.ndarray | None:
    """A line (n, 2) through *part*: its guide where it has one; along its middle where it is a strip, else
    between the two points farthest from each other. *sway* is how far it swings to either side, in shares
    of the room there."""
    drawn = guide_within(space, part)
    if drawn is not None:
        return resample(drawn, 0.1)
    if runs_on(space, part):
        strip = strip_of(space, part)
        count = max(16, math.ceil(strip.length / 0.2))
        along = np.linspace(0, strip.length, count + 1)
        sway = min(sway, _gentle(strip.length, swings) / (strip.mean_width / 2))
        room = part.buffer(INSIDE)
        for share, round_ in (
            (1.0, ROUND),
            (0.5, ROUND),
            (0.0, ROUND),
            (0.0, ROUND / 3),
            (0.0, 0.0),
        ):
            swing = share * sway * np.sin(2 * np.pi * swings * along / strip.length)
            line = np.array([strip.at(s, v) for s, v in zip(along, swing, strict=True)])
            made = _rounded(line, round_ * strip.mean_width, part) if round_ else line
            if room.covers(shapely.linestrings(made)):
                return made
        # Where it ends beyond an edge that is not square to it.
        pieces = shapely.get_parts(shapely.intersection(shapely.linestrings(line), part))
        longest = max(pieces, key=shapely.length, default=None)
        if longest is None or longest.length < 0.5 * strip.length:
            return None
        return shapely.get_coordinates(longest)
    ends = _best_ends(part)
    if ends is None:
        return None
    one, two = ends
    way = two - one
    long = float(np.hypot(*way))
    aside = np.array([-way[1], way[0]]) / max(long, 1e-9)
    t = np.linspace(0, 1, max(24, math.ceil(long / 0.15)))
    straight = one + way * t[:, None]
    # In a long zone with mitred ends the room across counts, not the length.
    across = 2 * float(np.median(shapely.distance(part.boundary, shapely.points(straight))))
    far = min(sway * min(0.16 * long, across / 2), _gentle(long, swings))
    # Its ends lie on the edge itself.
    room = part.buffer(1e-3)
    for share in (1.0, 0.75, 0.5, 0.25):
        swing = share * far * np.sin(2 * np.pi * swings * t)
        line = straight + aside * swing[:, None]
        if room.covers(shapely.linestrings(line)):
            return line
    return straight


def round_line(space: Space, part: Polygon, sway: float, swings: int) -> np.ndarray | None:
    """A closed line (n, 2): a guide that closes; or all round a *part* that goes round a hole, along its
    middle with so many swings, taking its corners in a bend, from the middle of its longest side. None for
    any other."""
    if space.guide is not None:
        drawn = guide_within(space, part)
        return drawn if closes(drawn) else None
    if not goes_round(space, part):
        return None
    ring = ring_of(space, part)
    wide = ring.mean_width
    along = np.linspace(0, ring.length, max(48, math.ceil(ring.length / 0.2)) + 1)
    far = min(sway, _gentle(ring.length, swings) / (wide / 2))
    swing = far * np.sin(2 * np.pi * swings * along / ring.length)
    line = np.array([ring.at(s, v) for s, v in zip(along[:-1], swing[:-1], strict=True)])
    step = float(np.hypot(*np.diff(line, axis=0).T).mean())
    soft = gaussian_filter1d(line, ROUND * wide / max(step, 1e-9), axis=0, mode="wrap")
    return np.vstack([soft, soft[:1]])


def goes_round(space: Space, part: Polygon) -> bool:
    """Whether *part* is a strip that closes, as a border all round: about as wide all the way."""
    if not part.interiors:
        return False
    hole = max((Polygon(ring) for ring in part.interiors), key=lambda each: each.area)
    if hole.area < 0.9 * sum(Polygon(ring).area for ring in part.interiors):
        return False
    ring = ring_of(space, part)
    uneven = float(np.std(ring.widths) / max(np.mean(ring.widths), 1e-9))
    return ring.length > ROUND_AT_LEAST * ring.mean_width and uneven < EVEN


def _rounded(line: np.ndarray, inches: float, part: Polygon) -> np.ndarray:
    """A *line* (n, 2) of even points that takes corners in a bend, over about so many *inches*."""
    step = float(np.hypot(*np.diff(line, axis=0).T).mean())
    sigma = inches / max(step, 1e-9)
    if sigma < 1:
        return line
    # Reflected about its ends, so that they stay where they are.
    far = min(len(line) - 1, math.ceil(4 * sigma))
    head, tail = 2 * line[0] - line[far:0:-1], 2 * line[-1] - line[-2 : -far - 2 : -1]
    soft = gaussian_filter1d(np.vstack([head, line, tail]), sigma, axis=0)[far:-far]
    # Its ends lie on the edge itself.
    return soft if part.buffer(1e-3).covers(shapely.linestrings(soft)) else line


def runs_on(space: Space, part: Polygon) -> bool:
    """Whether a zone is a strip along which a spine goes, round whatever corners."""
    strip = strip_of(space, part)
    even = float(np.std(strip.widths) / max(np.mean(strip.widths), 1e-9)) < EVEN
    return strip.length > LONG * strip.mean_width and even and not strays(strip, part)


def _gentle(long: float, swings: int) -> float:
    """How far a spine so *long* may swing to either side, inches, in so many swings."""
    return STEEPEST * long / (2 * math.pi * max(swings, 1))


def _best_ends(part: Polygon) -> tuple[np.ndarray, np.ndarray] | None:
    """Two points of the edge between which a long line has much room on both sides."""
    ring = shapely.get_coordinates(part.simplify(0.05).exterior)[:-1]
    if len(ring) > 40:
        ring = ring[:: math.ceil(len(ring) / 40)]
    spots = np.vstack([ring, (ring + np.roll(ring, -1, axis=0)) / 2])
    pairs = np.array([(i, j) for i in range(len(spots)) for j in range(i + 1, len(spots))])
    legs = shapely.linestrings(spots[pairs])
    inside = shapely.covers(part.buffer(1e-6), legs)
    pairs, legs = pairs[inside], legs[inside]
    if not len(pairs):
        return None
    inches = shapely.length(legs)
    share = np.linspace(0.1, 0.9, 9)[None, :, None]
    on = spots[pairs[:, 0]][:, None] * (1 - share) + spots[pairs[:, 1]][:, None] * share
    room = shapely.distance(part.boundary, shapely.points(on)).mean(axis=1)
    worth = inches**0.8 * room
    best = np.argsort(-np.round(worth, 3), kind="stable")[:24]
    # Both sides are to have room alike.
    halves = [_balance(part, legs[k]) for k in best]
    i, j = pairs[best[int(np.argmax(np.round(worth[best] * np.array(halves), 3)))]]
    one, two = spots[i], spots[j]
    # Growing from the lower left, whichever way the edge was drawn; from a corner rather than from a side.
    corner = [k < len(ring) for k in (i, j)]
    if corner[0] != corner[1]:
        return (one, two) if corner[0] else (two, one)
    return (one, two) if (round(one[1], 3), -one[0]) > (round(two[1], 3), -two[0]) else (two, one)


def _balance(part: Polygon, leg) -> float:
    """The smaller share of *part* on one side of *leg* against the larger."""
    areas = sorted((piece.area for piece in shapely.ops.split(part, leg).geoms), reverse=True)
    return min(1.0, sum(areas[1:]) / areas[0]) if len(areas) > 1 else 0.05


def shortened(line: np.ndarray, first: float, last: float) -> np.ndarray:
    """A line (n, 2) less so many inches at either end."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    first, last = min(first, 0.2 * at[-1]), min(last, 0.35 * at[-1])
    stops = np.linspace(first, at[-1] - last, max(12, len(line)))
    return np.column_stack([np.interp(stops, at, line[:, k]) for k in (0, 1)])


def beside(line: np.ndarray, inches: float) -> np.ndarray:
    """A line (n, 2) laid so far to its right on paper; negative to its left."""
    way = np.gradient(line, axis=0)
    way /= np.maximum(np.hypot(*way.T), 1e-12)[:, None]
    return line + np.column_stack([-way[:, 1], way[:, 0]]) * inches


def feather_with_room(
    spine: Spine,
    room: Polygon,
    growth: Growth | Sequence[Growth],
    stroke: str,
    channel: float,
    beyond: float = 0.0,
    pearls: tuple[int, np.ndarray] | None = None,
) -> tuple[Run | None, list[Side]]:
    """A `feather` of which nothing lies more than *beyond* inches outside its *room*: a *channel* for which
    there is none between the spines and the edge is narrower, or none."""
    held = room.buffer(beyond)
    for wide in (channel, channel / 2, 0.0):
        run, sides = feather(spine, room, growth, "plume", stroke, wide, pearls=pearls)
        if run is not None and held.covers(shapely.linestrings(run.points)):
            break
    return run, sides


def feather(
    spine: Spine,
    room: Polygon | Sequence[Polygon],
    growth: Growth | Sequence[Growth],
    name: str,
    stroke: str,
    channel: float = 0.0,
    pearls: tuple[int, np.ndarray] | None = None,
) -> tuple[Run | None, list[Side]]:
    """A feather on *spine*, one run; two spines *channel* inches apart where that is more than
    nothing. *room* and *growth* may be given for the right and the left side apart. *pearls*: how
    many at its foot, and the line (n, 2) away from it along which they lie."""
    both = (growth, growth) if isinstance(growth, Growth) else tuple(growth)
    rooms = (room, room) if isinstance(room, Polygon) else tuple(room)
    room = max(rooms, key=lambda each: each.area)
    thread = thread_for(both[0].pitch)
    spines = spines_of(spine, channel)
    sides = [
        grown_side(each, place, side, grow)
        for side, each, grow, place in zip((1, -1), spines, both, rooms, strict=True)
    ]
    if pearls is not None and pearls[0] and channel <= 0 and any(side.heads for side in sides):
        string_pearls(thread, pearls[1], both[0].pitch, pearls[0], room, sides)
    stitch_feather(thread, spines, sides, room, name, stroke, channel > 0)
    return thread.run(), sides


def spines_of(spine: Spine, channel: float = 0.0) -> list[Spine]:
    """What the plumes of the right and of the left side stand on."""
    if channel <= 0:
        return [spine, spine]
    return [even_spine(beside(spine.points, side * channel / 2), spine.closed) for side in (1, -1)]


def stitch_feather(
    thread: Thread,
    spines: Sequence[Spine],
    sides: Sequence[Side],
    room: Polygon,
    name: str,
    stroke: str,
    apart: bool = False,
) -> None:
    """Up one side, down the spine, up the other, from where *thread* has come to; *apart*: each side has a
    spine of its own. A spine ends where the last plume does."""
    if not any(side.heads for side in sides):
        return
    tops = [min(side.tip, spine.length) if side.heads else 0.0
            for side, spine in zip(sides, spines, strict=True)]  # fmt: skip
    for number, (each, grown) in enumerate(zip(spines, sides, strict=True)):
        if number and apart:
            # Across the foot of the channel to the other spine.
            thread.add(np.vstack([spines[0].at(0.0), each.at(0.0)]))
        stitch_side(thread, each, grown, f"{SIDES[number]} {name}", stroke, room=room)
        whole = tops[number] if apart else max(tops)
        if each.closed or (len(grown.heads) == 0 and apart):
            whole = each.length
        if number == 0 or apart:
            # The spine itself is stitched on the way home.
            thread.add(each.between(tops[number], whole))
            thread.add(each.between(whole, 0.0))
            if number == 0:
                thread.unit("spine" if name == "plume" else f"spine of {name}")


def how_feathered(space: Space, margin: float, pitch: float) -> Fit:
    """How well a feather suits a zone."""
    parts = space.inset(margin)
    wide = 2 * max(
        (float(shapely.maximum_inscribed_circle(p, tolerance=0.02).length) for p in parts),
        default=0.0,
    )
    if wide < 2.2 * pitch:
        return Fit(0.15, ("no room for plumes on both sides of a spine: half a feather, or echo",))
    filled = space.polygon.area / space.polygon.convex_hull.area
    one_way = bool(space.guide) or goes_round(space, parts[0])
    if not one_way and (space.polygon.interiors or (filled < 0.7 and not runs_on(space, parts[0]))):
        return Fit(0.2, ("the zone has no one way that a spine could go",))
    if not one_way and filled < BENT and not runs_on(space, parts[0]):
        return Fit(0.4, ("the arm that the spine does not go into stays open",))
    # Where plumes are tiny one stitches a knot of lines.
    suits = 0.8 * min(1.0, SMALLEST + (1 - SMALLEST) * wide / 2 / ROOMY)
    return Fit(suits, (f"plumes up to {format_inches(wide / 2, 8)} tall",))
