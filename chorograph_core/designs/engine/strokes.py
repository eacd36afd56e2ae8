"""The stroke of a hand: even, without kinks, from end to end of a line."""

from __future__ import annotations

import numpy as np
import shapely
from scipy.ndimage import gaussian_filter1d, maximum_filter1d
from shapely.geometry import Polygon

from chorograph_core.designs.curves import resample, thin, tidy
from chorograph_core.designs.engine.tight import THINNING, without_kinks

REACH, LEAST = 0.06, 0.012
"""Inches by which a stroke may swing over the line that it keeps to, at most and in any case."""


def flowing(points: np.ndarray, soft: float, closed: bool = False) -> np.ndarray:
    """The line (n, 2) with turns tighter than about *soft* inches eased; its ends stay where they are.

    A closed line has its first point last, before and after. Lengths are kept: what easing takes from a
    bend is given back once (Taubin, 1995), so that loops do not shrink.
    """
    points = tidy(points, 1e-7)
    if len(points) < 4:
        return points
    step = max(soft / 2.5, 0.008)
    even = resample(points, step, closed=closed)
    mode = "wrap" if closed else "nearest"
    if not closed:
        # Turned about its ends, a line is eased without being drawn away from them.
        pad = min(len(even) - 1, 12)
        even = np.vstack(
            [2 * even[0] - even[pad:0:-1], even, 2 * even[-1] - even[-2 : -pad - 2 : -1]]
        )
    sigma = soft / step * 0.8
    eased = gaussian_filter1d(even, sigma, axis=0, mode=mode)
    eased = eased + gaussian_filter1d(even - eased, sigma, axis=0, mode=mode)
    if not closed:
        eased = eased[pad:-pad]
        eased[0], eased[-1] = points[0], points[-1]
    return np.vstack([eased, eased[:1]]) if closed else eased


def bent_inwards(way: np.ndarray, part: Polygon, inside: float, soft: float) -> np.ndarray:
    """A *way* (n, 2) that would leave *part* along its edge, so many inches *inside*, and eased; its ends
    stay where they are. Where *part* is too narrow for that, as it was."""
    room = part.buffer(-inside)
    if len(way) < 2 or room.is_empty or part.covers(shapely.linestrings(way)):
        return way
    spots = shapely.points(way)
    inner = shapely.get_point(shapely.shortest_line(room, spots), 0)
    held = shapely.get_coordinates(np.where(shapely.covers(room, spots), spots, inner))
    return flowing(np.vstack([way[:1], held[1:-1], way[-1:]]), soft)


def slack(margin: float) -> float:
    """How far a stroke may swing over the line *margin* inches inside the seam."""
    return max(LEAST, min(REACH, 0.7 * margin))


def finished(
    points: np.ndarray, soft: float, part: Polygon, closed: bool = False, over: float = LEAST,
    least_turn: float = 0.0,
) -> np.ndarray | None:  # fmt: skip
    """*points* as a hand would stitch them within *part*, thinned; less eased where easing leaves
    it by more than *over* inches, and nowhere turned in less than *least_turn* inches. None where they
    leave it as they are."""
    line = _eased(points, soft, part, closed, over)
    return (
        without_kinks(line, least_turn, part, over, closed)
        if line is not None and least_turn
        else line
    )


def _eased(
    points: np.ndarray, soft: float, part: Polygon, closed: bool, over: float
) -> np.ndarray | None:
    room = part.buffer(over)
    shapely.prepare(room)
    for share in (1.0, 0.5, 0.25):
        eased = flowing(points, soft * share, closed)
        line = thin(eased, THINNING)
        if room.covers(shapely.linestrings(line)):
            return line
        line = thin(_only_where(points, eased, room, closed), THINNING)
        if room.covers(shapely.linestrings(line)):
            return line
    line = thin(points, 0.003)
    return line if room.covers(shapely.linestrings(line)) else None


def _only_where(points: np.ndarray, eased: np.ndarray, room, closed: bool) -> np.ndarray:
    """*eased* as far as it stays in *room*; about the places where it leaves, the line as it was."""
    body = eased[:-1] if closed else eased
    plain = _even(tidy(points, 1e-7), len(body), closed)
    out = ~shapely.contains_xy(room, body[:, 0], body[:, 1])
    wide = 10
    mode = "wrap" if closed else "nearest"
    near = maximum_filter1d(out.astype(float), 2 * wide + 1, mode=mode)
    share = gaussian_filter1d(near, wide / 3, mode=mode)[:, None]
    made = body * (1 - share) + plain * share
    return np.vstack([made, made[:1]]) if closed else made


def _even(points: np.ndarray, count: int, closed: bool) -> np.ndarray:
    """*count* points at even distances along a line; of a closed one the last is left out."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    stops = np.linspace(0, at[-1], count + 1)[:-1] if closed else np.linspace(0, at[-1], count)
    return np.column_stack([np.interp(stops, at, points[:, k]) for k in (0, 1)])
