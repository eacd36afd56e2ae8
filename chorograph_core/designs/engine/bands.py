"""Bands between rows: pebbles or candy along a curve, and rows that wind round a shape instead."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from chorograph_core.designs.curves import resample
from chorograph_core.designs.engine.guides import seen
from chorograph_core.designs.keeping import stretches
from chorograph_core.designs.linework import length

PLUMP, SLANT = 0.27, 0.62
"""From bulb to bulb of candy against the width of its band; how far a bulb reaches past its place."""
REACH = 0.47
"""How far what lies in a band reaches beyond the ends of its middle line, in widths."""
CLOSE = 0.25
"""Gaps between the rows on either side of a band and what fills it."""
AROUND = 120
"""Angles at which one looks out from a shape."""


def band_along(centre: np.ndarray, wide: float, kind: str, part: Polygon) -> list[np.ndarray]:
    """Lines (m, 2) that fill a band *wide* inches about the line *centre* (n, 2) where it lies within *part*:
    ``"pebbles"`` or ``"candy"``, a whole number of them."""
    room = part.buffer(-wide / 2)
    made = []
    for line in stretches(centre, room) if not room.is_empty else []:
        inches = length(line)
        if inches < 1.5 * wide:
            continue
        # Its middle line ends half a width short of the edge; what lies on it does not.
        ends = [line[0] - line[min(3, len(line) - 1)], line[-1] - line[-min(4, len(line))]]
        beyond = [way / max(float(np.hypot(*way)), 1e-9) * REACH * wide for way in ends]
        line = np.vstack([line[0] + beyond[0], line, line[-1] + beyond[1]])
        inches = length(line)
        fine = resample(line, 0.03)
        made.append(
            _pebbles(fine, inches, wide) if kind == "pebbles" else _candy(fine, inches, wide)
        )
    return made


def _frames(line: np.ndarray, inches: float, at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Points and headings (n, 2) at inches along an even line."""
    along = np.linspace(0, inches, len(line))
    points = np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])
    way = np.gradient(line, axis=0)
    way = np.column_stack([np.interp(at, along, way[:, k]) for k in (0, 1)])
    return points, way / np.maximum(np.hypot(*way.T), 1e-12)[:, None]


def _pebbles(line: np.ndarray, inches: float, wide: float) -> np.ndarray:
    """Once round each and half round again, to where it touches the next."""
    count = max(1, round(inches / wide))
    middles, ways = _frames(line, inches, (np.arange(count) + 0.5) * inches / count)
    radius = min(wide, inches / count) / 2
    pieces = []
    for k, (middle, way) in enumerate(zip(middles, ways, strict=True)):
        sense = 1 if k % 2 else -1
        begin = math.atan2(way[1], way[0]) + math.pi
        turn = begin + sense * np.linspace(0, 3 * math.pi, 46)
        pieces.append(middle + radius * np.column_stack([np.cos(turn), np.sin(turn)]))
    return np.vstack(pieces)


def _candy(line: np.ndarray, inches: float, wide: float) -> np.ndarray:
    """Round over the top, slant back, round under."""
    count = max(2, round(inches / (PLUMP * wide)) - 2)
    pitch = inches / (count + 2)
    t = np.linspace(0, count, count * 26 + 1)
    points, way = _frames(line, inches, (1 + t + SLANT * 1.0 * np.sin(2 * np.pi * t)) * pitch)
    aside = np.column_stack([-way[:, 1], way[:, 0]])
    return points - aside * (np.cos(np.pi * t) * wide / 2)[:, None]


def places_with_bands(
    wide: float, apart: float, rows: int, band: float
) -> tuple[float, list[tuple[float, bool]]]:
    """Where rows lie across *wide* inches, and whether each is a band: *rows* of them *apart* inches from
    each other, a band, rows again, so that it comes out even; and the share by which all are drawn in or
    out."""
    one = rows * apart + band + 2 * CLOSE * apart
    bands = max(1, round((wide - rows * apart) / one))
    whole = bands * one + rows * apart
    share = wide / whole
    found, at = [], 0.0
    for k in range(bands + 1):
        found += [((at + apart * (j + 0.5)) * share, False) for j in range(rows)]
        at += rows * apart
        if k < bands:
            found.append(((at + CLOSE * apart + band / 2) * share, True))
            at += band + 2 * CLOSE * apart
    return share, found


def round_a_shape(
    part: Polygon, apart: float, period: float, high: float, phase: float
) -> list[np.ndarray]:
    """Waves that wind outwards round the largest shape in *part*, or round its middle, in one line, cut where
    they leave it: each turn *apart* inches from the last, with no step from ring to ring."""
    holes = sorted((Polygon(ring) for ring in part.interiors), key=lambda hole: -hole.area)
    core = holes[0] if holes else None
    if core is None:
        circle = shapely.maximum_inscribed_circle(part, tolerance=0.02)
        core = Point(circle.coords[0]).buffer(0.4 * apart)
    middle = shapely.get_coordinates(core.centroid)[0]
    reach = max(math.dist(middle, spot) for spot in shapely.get_coordinates(part))
    inner = math.sqrt(core.area / math.pi)
    turns = math.ceil((reach - 0.5 * inner) / apart) + 2
    angles = np.linspace(0, 2 * math.pi, AROUND, endpoint=False)
    looks = np.column_stack([np.cos(angles), np.sin(angles)])
    foot = np.repeat(middle[None], AROUND, axis=0)
    radii = np.array(
        [seen(foot, looks, core.buffer(d * apart, quad_segs=12)) for d in range(turns + 1)]
    )
    theta = np.arange(0, turns * 2 * math.pi, math.radians(1.5))
    out = theta / (2 * math.pi)
    low = np.minimum(np.floor(out).astype(int), turns - 1)
    place = theta / (2 * math.pi) % 1 * AROUND

    def ring(k: np.ndarray) -> np.ndarray:
        left = np.floor(place).astype(int) % AROUND
        share = place - np.floor(place)
        return radii[k, left] * (1 - share) + radii[k, (left + 1) % AROUND] * share

    plain = ring(low) * (1 - (out - low)) + ring(low + 1) * (out - low)
    count = max(3, round(math.pi * (inner + reach) / period))
    # Where a turn is short, waves are lower: they keep their shape.
    swing = high / 2 * np.clip(2 * math.pi * plain / count / period, 0, 1)
    # From the line of the shape itself it starts level.
    far = plain + swing * np.clip(out / 1.2, 0, 1) * np.sin(count * theta + phase) + 0.3 * apart
    line = middle + far[:, None] * np.column_stack([np.cos(theta), np.sin(theta)])
    return [piece for piece in stretches(line, part.buffer(1e-6)) if length(piece) > 1.5 * apart]
