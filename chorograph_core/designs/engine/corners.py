"""Corners that a strip turns: where they are, and what stands in them."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.engine.lanes import bends_of
from chorograph_core.designs.rails import Strip
from chorograph_core.designs.space import polygons

CLOSED = 0.01
"""Inches between the two ends of a ring."""
SQUARE = (math.radians(50), math.radians(130))
"""Between these angles two sides meet in a corner."""
EVEN_SIDE = 0.3
"""How much the width of a side may vary (standard deviation over mean)."""
SWIRL = 0.26
"""From line to line of the swirl in a corner, against the width of the corner."""
WIDEST = 1.2
"""Inches from line to line of a swirl, at most."""
HALF = 0.44
"""Its radius, against that width, at most."""
SMALLEST = 0.2
"""Inches: a swirl of less radius is a blob of thread."""
MIDDLE = (0.22, 0.36)
"""Radius of the half rounds in the middle of a swirl, against its own: if there is no wish, and at most."""
ROUNDER = 1.1
"""Times the tightest turn that a hand makes there."""


def swirl_in_corner(
    room: Polygon, come: np.ndarray, go: np.ndarray, least_turn: float = 0.0
) -> np.ndarray | None:
    """A swirl in *room*, in to its middle and out between its lines, come to from where one comes and left
    towards where one goes along its own line, no turn of it tighter than *least_turn* inches where there is
    room for that; None without room."""
    middle = shapely.get_coordinates(room.centroid)[0]
    wide = math.sqrt(room.area)
    radius = min(float(shapely.distance(room.centroid, room.boundary)), HALF * wide)
    if not room.contains(room.centroid) or radius < SMALLEST:
        return None
    turns = 2 * math.pi * max(radius / min(SWIRL * wide, WIDEST) / 2, 0.7)
    half = min(max(MIDDLE[0] * radius, ROUNDER * least_turn), MIDDLE[1] * radius)
    found = [_swirl(middle, radius, half, turns, sense, come, go) for sense in (1, -1)]
    return min(found, key=lambda line: math.dist(come, line[0]) + math.dist(line[-1], go))


def _swirl(
    middle: np.ndarray, radius: float, half: float, turns: float, sense: int, come: np.ndarray, go: np.ndarray
) -> np.ndarray:  # fmt: skip
    """Inwards round *middle* by *turns* radians, left (1) or right (-1) as numbers go, through the middle in
    two half rounds of *half* inches, and outwards the other way round between the lines."""
    begin, far = _touched(come, middle, radius, sense), radius
    back = turns
    for _ in range(4):
        # It comes out where one leaves it straight for what is next: a little less far if need be.
        end = _touched(go, middle, far, sense)
        back = turns - (sense * (end - begin - math.pi)) % (2 * math.pi)
        if back < 0.5 * turns:
            back += 2 * math.pi
        far = float(_reach(np.array([min(back, turns)]), turns, radius, half)[0])
    into = np.linspace(turns, 0, max(24, math.ceil(turns / 0.12)))
    out = np.linspace(0, back, max(24, math.ceil(back / 0.12)))[1:]
    angles = np.concatenate([begin + sense * (turns - into),
                             begin + sense * turns + math.pi - sense * out])  # fmt: skip
    reach = np.concatenate(
        [_reach(into, turns, radius, half), _reach(out, max(back, turns), far, half)]
    )
    return middle + reach[:, None] * np.column_stack([np.cos(angles), np.sin(angles)])


def _reach(turned: np.ndarray, whole: float, radius: float, half: float) -> np.ndarray:
    """How far from its middle a swirl is that has *turned* by so many radians: as on a half round through the
    middle for a quarter of a turn, then wider and wider up to *radius* where it has turned by the *whole*."""
    first = 2 * half * np.sin(np.minimum(turned, math.pi / 2))
    share = np.clip((turned - math.pi / 2) / max(whole - math.pi / 2, 1e-9), 0, 1)
    return first + (radius - 2 * half) * share**2 * (3 - 2 * share)


def _touched(spot: np.ndarray, middle: np.ndarray, radius: float, sense: int) -> float:
    """The angle at which a line from *spot* touches a circle that is then gone round in a *sense*."""
    away = spot - middle
    far = max(float(np.hypot(*away)), 1e-9)
    return math.atan2(away[1], away[0]) + sense * math.acos(min(1.0, radius / far))


def sides_and_corners(strip: Strip) -> tuple[list[Strip], list[Polygon]]:
    """A strip parted where it turns corners: its sides, and the room of each corner between two."""
    bends = bends_of(strip)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], bends.astype(int), [0]])))
    spans = [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    # Stations of one corner that are a little apart belong together.
    merged: list[tuple[int, int]] = []
    for a, b in spans:
        if merged and strip.along[a] - strip.along[merged[-1][1]] < 0.5 * strip.mean_width:
            merged[-1] = (merged[-1][0], b)
        else:
            merged.append((a, b))
    inner = [(a, b) for a, b in merged if a >= 2 and b <= len(strip.along) - 3]
    sides, rooms, begun = [], [], 0
    for a, b in inner:
        sides.append(_cut(strip, begun, a))
        ring = np.vstack([strip.left[a : b + 1], strip.right[a : b + 1][::-1]])
        rooms.append(
            max(polygons(Polygon(ring).buffer(0)), key=lambda p: p.area, default=Polygon())
        )
        begun = b
    sides.append(_cut(strip, begun, len(strip.along) - 1))
    if any(len(side.along) < 3 for side in sides) or any(room.is_empty for room in rooms):
        return [strip], []
    if not _turns_corners(strip, sides, inner):
        return [strip], []
    return sides, rooms


def _turns_corners(strip: Strip, sides: list[Strip], spans: list[tuple[int, int]]) -> bool:
    """Whether what looks like bends are corners: between sides of even width that lie about square to each
    other. A rhombus or a triangle has none."""
    round_it = np.hypot(*(strip.left[0] - strip.left[-1])) < CLOSED
    for side in sides[1:-1] if round_it else sides:
        if float(np.std(side.widths)) > EVEN_SIDE * side.mean_width:
            return False
    centre = (strip.left + strip.right) / 2
    for a, b in spans:
        near = max(2, min(6, a, len(centre) - 1 - b))
        into, onto = centre[a] - centre[a - near], centre[b + near] - centre[b]
        turn = abs(np.arctan2(into[0] * onto[1] - into[1] * onto[0], into @ onto))
        if not SQUARE[0] < turn < SQUARE[1]:
            return False
    return True


def one_after(first: Strip, then: Strip) -> Strip:
    return Strip(np.vstack([first.left, then.left[1:]]), np.vstack([first.right, then.right[1:]]),
                 np.concatenate([first.along, first.along[-1] + then.along[1:]]),
                 (first.bows[0], then.bows[1]))  # fmt: skip


def _cut(strip: Strip, first: int, last: int) -> Strip:
    return strip.part(first, last + 1)
