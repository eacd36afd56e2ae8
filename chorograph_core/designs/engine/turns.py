"""Turning round at the end of a row: in a bend as wide as the rows lie apart, not along the edge."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry import Polygon

from chorograph_core.designs.curves import bezier
from chorograph_core.designs.linework import Run, Span, length

DEEP = (0.62, 0.48, 0.34)
"""How far from the edge a turn begins, in ways from row to row: the first with which it stays inside."""
WIDEST = 2.6
"""Ways from row to row beyond which one follows the edge to the next row."""
MOST = 0.4
"""Share of a row that its two turns may take each."""
ROUND = 0.3
"""Least radius of a turn, in ways from row to row, with which one need not look for a rounder one."""
SHARES = ((1.0, 1.0), (1.0, 0.6), (0.6, 1.0), (0.75, 0.75), (1.3, 0.8), (0.8, 1.3), (0.5, 0.5), (1.5, 1.0),
          (1.0, 1.5))  # fmt: skip
"""Of its reach at either end, what a turn may have to be rounder where rows meet the edge on a slant."""
REACH = 1 / 0.75
"""Reach of a turn that comes as near to the edge as it began away from it."""
FLAT = 0.35
"""Sine of the angle under which a row may meet the edge and be turned round."""


def turned_round(run: Run, part: Polygon, apart: float, over: float) -> Run:
    """The rows of *run*, *apart* inches from each other and linked along the edge of *part*, with a bend from
    each into the next that stays within *over* inches of it; where none does, the link stays."""
    if not any(span.kind == "link" for span in run.spans):
        return run
    kinds = [span.kind for span in run.spans]
    pieces = [points for points, _, _ in run.pieces()]
    room = part.buffer(over)
    shapely.prepare(room)
    for k in range(1, len(pieces) - 1):
        if (kinds[k - 1], kinds[k], kinds[k + 1]) != ("stitch", "link", "stitch"):
            continue
        if length(pieces[k]) > WIDEST * apart:
            continue
        made = _turn(pieces[k - 1], pieces[k], pieces[k + 1], apart, room)
        if made is not None:
            pieces[k - 1], pieces[k], pieces[k + 1] = made
    stops = np.cumsum([len(piece) - (1 if n else 0) for n, piece in enumerate(pieces)]) - 1
    points = np.vstack([pieces[0], *(piece[1:] for piece in pieces[1:])])
    spans = tuple(
        Span(int(stop), span.technique, span.kind)
        for span, stop in zip(run.spans, stops, strict=True)
    )
    return replace(run, points=points, spans=spans)


def _turn(
    before: np.ndarray, link: np.ndarray, after: np.ndarray, apart: float, room
) -> tuple[np.ndarray, np.ndarray, np.ndarray] | None:
    """Two rows cut back, and the bend between them."""
    edge = shapely.linestrings(link)
    best, roundest = None, 0.0
    for deep in DEEP:
        one = _cut_back(before[::-1], edge, deep * apart)
        two = _cut_back(after, edge, deep * apart)
        if one is None or two is None:
            break
        (first, out, near), (last, into, far) = one, two
        a, b = first[0], last[0]
        most = 1.5 * max(float(np.hypot(*(b - a))), apart / 2)
        reach = [min(REACH * deep * apart / max(FLAT, sine), most) for sine in (near, far)]
        bends = [
            bezier(a, a + out * x * reach[0], b + into * y * reach[1], b, 20) for x, y in SHARES
        ]
        radii = [_least_radius(bend) for bend in bends]
        for k in sorted(range(len(bends)), key=radii.__getitem__, reverse=True):
            if radii[k] <= roundest:
                break
            if room.covers(shapely.linestrings(bends[k])):
                best, roundest = (first[::-1], bends[k], last), radii[k]
                break
        if roundest >= ROUND * apart:
            break
    return best


def _least_radius(points: np.ndarray) -> float:
    """Inches of the tightest bend of a curve (n, 2), by the circle through three points that follow."""
    a, b, c = points[:-2], points[1:-1], points[2:]
    one, two, across = (np.hypot(*(q - p).T) for p, q in ((a, b), (b, c), (a, c)))
    twice = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    return float((one * two * across / np.maximum(2 * twice, 1e-12)).min())


def _cut_back(
    row: np.ndarray, edge: shapely.Geometry, deep: float
) -> tuple[np.ndarray, np.ndarray, float] | None:
    """A row from where it is *deep* inches from the *edge* at which it begins, where it leads there, and the
    sine of the angle under which it meets that edge; None where it nowhere is, or only in its middle."""
    away = shapely.distance(edge, shapely.points(row))
    inside = np.flatnonzero(away >= deep)
    if not len(inside) or inside[0] == 0:
        return None
    at = int(inside[0])
    low, high = away[at - 1], away[at]
    share = (deep - low) / max(high - low, 1e-9)
    spot = row[at - 1] + min(max(share, 0.0), 1.0) * (row[at] - row[at - 1])
    gone = length(np.vstack([row[:at], spot]))
    if gone > MOST * length(row):
        return None
    rest = np.vstack([spot, row[at:]])
    ahead = rest[min(len(rest) - 1, 2)]
    out = spot - ahead
    out /= max(float(np.hypot(*out)), 1e-9)
    return rest, out, min(1.0, deep / max(gone, 1e-9))
