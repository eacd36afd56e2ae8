"""The corners of a top in its photograph, guessed: a first place for the marks, to be looked at."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

SEEN = 640
"""Pixels of the longer side of the picture in which corners are looked for."""
RIM = 0.03
"""Share of the picture's longer side that is taken for ground all round."""
LEAST_APART = 7.0
"""Least distance in L*a*b* (lightness counted half) between the top and the ground around it."""
VARIES = 1.8
"""The top differs from the ground by so many times the upper quartile of the ground's own difference."""
SMALLEST, FULLEST = 0.15, 0.985
"""Shares of the picture that a top can take up: less is something else, more shows no ground."""
FILLED = 0.94
"""Share of the four corners' area that must really be top."""
SEEN_SIDE = 0.7
"""Share of a side that must be seen as edge between top and ground."""
SIDE = 0.02
"""Share of the longer side within which the outline belongs to a side of the top."""


def found_corners(pixels: np.ndarray) -> list[tuple[float, float]] | None:
    """Corners of the top as shares of width and height, from the top left clockwise; None if unsure.

    *pixels* (rows, columns, 3), BGR. The ground is what lies along the rim of the picture; the top
    is the largest piece that differs from it. Its convex hull is brought to four corners, then each
    side is laid through the outline along it, and neighbouring sides are made to meet.

    Example:
        >>> picture = np.full((300, 400, 3), 60, np.uint8)
        >>> picture[50:250, 100:300] = 220
        >>> [(round(x, 2), round(y, 2)) for x, y in found_corners(picture)]
        [(0.25, 0.17), (0.75, 0.17), (0.75, 0.83), (0.25, 0.83)]
    """
    height, width = pixels.shape[:2]
    shrink = min(1.0, SEEN / max(height, width))
    size = (max(1, round(width * shrink)), max(1, round(height * shrink)))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    outline = _outline(small)
    if outline is None:
        return None
    quad = _four(cv2.convexHull(outline), size)
    if quad is None:
        return None
    quad = _laid(quad, outline.reshape(-1, 2).astype(float), SIDE * max(size))
    if quad is None or not _sound(quad, outline, size):
        return None
    shares = np.clip((quad + 0.5) / np.array(size), 0.0, 1.0)
    return [(float(x), float(y)) for x, y in shares]


def _outline(small: np.ndarray) -> np.ndarray | None:
    """Contour of the largest piece that differs from the rim, or None."""
    even = cv2.cvtColor(cv2.medianBlur(small, 5), cv2.COLOR_BGR2LAB).astype(np.float32)
    high, wide = even.shape[:2]
    rim = max(2, round(RIM * max(high, wide)))
    if min(high, wide) < 8 * rim:
        return None
    sides = (even[:rim], even[-rim:], even[:, :rim], even[:, -rim:])
    ground = np.median(np.concatenate([side.reshape(-1, 3) for side in sides]), axis=0)
    apart = np.sqrt((((even - ground) * (0.5, 1, 1)) ** 2).sum(axis=2)).astype(np.float32)
    # A level that parts light from dark patches is of no use: what the ground itself varies by is.
    own = np.concatenate([side.ravel() for side in
                          (apart[:rim], apart[-rim:], apart[:, :rim], apart[:, -rim:])])  # fmt: skip
    mask = (apart >= max(LEAST_APART, VARIES * np.percentile(own, 75))).astype(np.uint8)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (7, 7))
    mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, disc)
    contours, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return max(contours, key=cv2.contourArea, default=None)


def _four(hull: np.ndarray, size: tuple[int, int]) -> np.ndarray | None:
    """The hull brought to four corners, coarser and coarser; in order, from the top left clockwise."""
    for share in np.arange(0.01, 0.12, 0.005):
        ring = cv2.approxPolyDP(hull, share * max(size) * 2, True).reshape(-1, 2).astype(float)
        if len(ring) == 4:
            about = ring - ring.mean(axis=0)
            # With y down, growing angles run clockwise as seen.
            ring = ring[np.argsort(np.arctan2(about[:, 1], about[:, 0]))]
            return np.roll(ring, -int(np.argmin(ring.sum(axis=1))), axis=0)
        if len(ring) < 4:
            return None
    return None


def _laid(quad: np.ndarray, points: np.ndarray, near: float) -> np.ndarray | None:
    """*quad* with each side laid through those *points* that lie within *near* of its middle part."""
    lines = []
    for a, b in zip(quad, np.roll(quad, -1, axis=0), strict=True):
        length = np.hypot(*(b - a))
        if length < 4 * near:
            return None
        way = (b - a) / length
        along, off = (points - a) @ way, (points - a) @ np.array([-way[1], way[0]])
        mine = (np.abs(off) < near) & (along > 0.1 * length) & (along < 0.9 * length)
        if len(np.unique(np.floor(along[mine]))) < SEEN_SIDE * 0.8 * length:
            return None
        vx, vy, x, y = cv2.fitLine(
            points[mine].astype(np.float32), cv2.DIST_HUBER, 0, 0.01, 0.01
        ).ravel()
        # As a x + b y = c.
        lines.append((-vy, vx, -vy * x + vx * y))
    corners = []
    for before, here in zip([lines[-1], *lines[:-1]], lines, strict=True):
        sides = np.array([before[:2], here[:2]], float)
        if abs(np.linalg.det(sides)) < 0.3:
            return None
        corners.append(np.linalg.solve(sides, (before[2], here[2])))
    return np.array(corners)


def _sound(quad: np.ndarray, outline: np.ndarray, size: Sequence[int]) -> bool:
    """Whether *quad* is a top: large enough, not the whole picture, inside it, and filled."""
    ring = quad.astype(np.float32)
    area, whole = abs(cv2.contourArea(ring)), size[0] * size[1]
    inside = (quad > -0.02 * np.array(size)).all() and (quad < 1.02 * np.array(size)).all()
    return bool(
        inside and SMALLEST * whole < area < FULLEST * whole and cv2.isContourConvex(ring)
        and cv2.contourArea(outline) > FILLED * area
    )  # fmt: skip
