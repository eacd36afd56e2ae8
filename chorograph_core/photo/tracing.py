"""From a photograph of a top to outlines: squared by its four corners, a touched patch found."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from shapely.geometry import Point, Polygon

from chorograph_core.chart.model import ChartError
from chorograph_core.photo.outlines import GENTLE, SHORT

LONGEST = 1800
"""Pixels of the longer side of a squared picture: 1/16″ of a large quilt is still two pixels."""
SMALLEST = 0.05
"""Share of the picture that the four corners must enclose at least."""
ROUGH = 0.1
"""Inches an outline may lose when it is straightened."""
NECK = 0.12
"""Inches of a neck that joins two patches only by their touching corners."""
SEAM = 0.04
"""Inches from the middle of a seam's shadow to where the colour of the patch begins."""
FRAYED = 0.08
"""Inches over which the frayed edge of a patch is evened out."""
RIGHT = 5.0
"""Degrees by which a drawn side may miss an eighth of a turn and is put right."""
TURNED = 0.16
"""Inches by which its ends may move thereby."""
FAINT = (11, 26)
"""Steps of lightness, as Canny's two thresholds count them, that make a seam of two like fabrics."""
LONG = 1.0
"""Inches from which on a side says where the corners at its ends are."""
CLIPPED = 0.65
"""Inches by which the picture may cut off or round a corner; no piecing is as small."""


@dataclass(frozen=True)
class Squared:
    """A picture squared to a top: pixels (rows, columns, 3) in BGR, and pixels an inch."""

    pixels: np.ndarray
    scale: float

    @cached_property
    def evened(self) -> np.ndarray:
        """The pixels in L*a*b*, noise and weave smoothed, edges kept; made for the first touch."""
        smooth = cv2.bilateralFilter(self.pixels, 7, 30, 7)
        return cv2.cvtColor(cv2.medianBlur(smooth, 5), cv2.COLOR_BGR2LAB)

    @cached_property
    def seams(self) -> np.ndarray:
        """1 where a long edge runs through the evened picture, however faint: what light and shade make
        of one cloth is soft, a seam is not. Short edges belong to a print."""
        edges = cv2.Canny(np.ascontiguousarray(self.evened[..., 0]), *FAINT)
        _, labels, found, _ = cv2.connectedComponentsWithStats(edges, connectivity=8)
        extent = np.maximum(found[:, cv2.CC_STAT_WIDTH], found[:, cv2.CC_STAT_HEIGHT])
        long_ones = (extent >= LONG * self.scale) & (np.arange(len(extent)) > 0)
        return long_ones[labels].astype(np.uint8)

    def jpeg(self, quality: int = 88) -> bytes:
        """The picture as JPEG."""
        done, data = cv2.imencode(".jpg", self.pixels, [cv2.IMWRITE_JPEG_QUALITY, quality])
        if not done:  # pragma: no cover
            raise ChartError("The picture could not be written.", "photo")
        return data.tobytes()


def read_picture(data: bytes) -> np.ndarray:
    """The pixels of a JPEG, BGR. Raises `ChartError`."""
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    if pixels is None:
        raise ChartError("The picture cannot be read.", "photo")
    return pixels


def squared(pixels: np.ndarray, corners, size: tuple[float, float]) -> Squared:
    """Lay the picture flat.

    *corners* are those of the top in the picture, pixels, from the top left clockwise; *size* the
    top's width and height in inches. Four points fix a perspective (a homography with eight
    unknowns). Raises `ChartError` for corners that are no convex quadrilateral.
    """
    quad = np.asarray(corners, np.float64)
    if quad.shape != (4, 2) or not np.isfinite(quad).all():
        raise ChartError("Mark the four corners of the top.", "corners")
    shape = Polygon(quad)
    height, width = pixels.shape[:2]
    if not shape.is_valid or shape.convex_hull.area > shape.area * 1.0001:
        raise ChartError("Mark the corners in turn: top left, top right, bottom right, bottom left.",
                         "corners")  # fmt: skip
    if shape.area < SMALLEST * width * height:
        raise ChartError("The four corners enclose next to nothing of the picture.", "corners")
    if not shape.exterior.is_ccw:
        # With y down, clockwise as seen is counter-clockwise to the formula.
        raise ChartError("Mark the corners clockwise, from the top left.", "corners")
    scale = LONGEST / max(size)
    w, h = round(size[0] * scale), round(size[1] * scale)
    goal = np.array([(0, 0), (w, 0), (w, h), (0, h)], np.float32)
    matrix = cv2.getPerspectiveTransform(quad.astype(np.float32), goal)
    flat = cv2.warpPerspective(pixels, matrix, (w, h), flags=cv2.INTER_LINEAR,
                               borderMode=cv2.BORDER_REPLICATE)  # fmt: skip
    return Squared(flat, scale)


def touched(picture: Squared, x: float, y: float, likeness: float = 14.0) -> Polygon:
    """The outline of the patch at (*x*, *y*) inches; *likeness* how far its colour may wander.

    The picture is evened out, the colour around the touched spot grown as far as it stays alike
    (CIE L*a*b*, lightness counted less, since light lies unevenly on cloth), holes and hairs are
    closed, and the outline is straightened. Raises `ChartError` where no patch is found.
    """
    h, w = picture.pixels.shape[:2]
    px, py = round(x * picture.scale), round(y * picture.scale)
    if not (0 <= px < w and 0 <= py < h):
        raise ChartError("Touch the picture inside the top.", "touch")
    even = picture.evened
    spot = even[max(0, py - 3) : py + 4, max(0, px - 3) : px + 4].reshape(-1, 3)
    colour = np.median(spot, axis=0)
    apart = even.astype(np.float32) - colour.astype(np.float32)
    distance = np.sqrt((apart[..., 0] * 0.45) ** 2 + apart[..., 1] ** 2 + apart[..., 2] ** 2)
    alike = (distance <= likeness).astype(np.uint8)
    alike = cv2.morphologyEx(alike, cv2.MORPH_CLOSE, _disc(5))
    mask = _part_at(alike & (1 - picture.seams), px, py, max(2, round(NECK * picture.scale / 2)))
    # What the seam itself was held apart by is the patch's own.
    mask = cv2.bitwise_and(cv2.dilate(mask, _disc(3)), alike)
    # The blur of a seam frays the edge. Evened out by a bell of width FRAYED, an edge is as dark as the
    # bell's tail beyond SEAM where the middle of the seam is.
    soft = cv2.GaussianBlur(mask * np.float32(1), (0, 0), FRAYED * picture.scale)
    mask = (soft >= math.erfc(SEAM / FRAYED / math.sqrt(2)) / 2).astype(np.uint8)
    contours, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    best = max(contours, key=cv2.contourArea, default=None)
    if best is None or cv2.contourArea(best) < (0.3 * picture.scale) ** 2:
        raise ChartError("No patch was found there; touch its middle, or allow it to vary more.",
                         "touch")  # fmt: skip
    # A pixel's middle is half a pixel in; its contour runs through the outermost middles.
    ring = (best.reshape(-1, 2).astype(float) + 0.5) / picture.scale
    shape = Polygon(ring).buffer(0.5 / picture.scale, join_style="mitre")
    shape = max(getattr(shape, "geoms", [shape]), key=lambda p: p.area)
    return straightened(Polygon(shape.exterior), ROUGH)


def _part_at(alike: np.ndarray, px: int, py: int, radius: int) -> np.ndarray:
    """The part of a mask round a pixel; parts that only touch at a point are held apart.

    The mask is worn down by *radius*, its piece nearest the pixel taken and grown back.
    """
    disc = _disc(2 * radius + 1)
    core = cv2.erode(alike, disc, borderType=cv2.BORDER_CONSTANT, borderValue=0)
    _, labels = cv2.connectedComponents(core, connectivity=4)
    y0, x0 = max(0, py - 4 * radius), max(0, px - 4 * radius)
    near = labels[y0 : py + 4 * radius + 1, x0 : px + 4 * radius + 1]
    rows, columns = np.nonzero(near)
    if not len(rows):
        return np.zeros_like(alike)
    k = int(np.argmin((rows + y0 - py) ** 2 + (columns + x0 - px) ** 2))
    piece = (labels == near[rows[k], columns[k]]).astype(np.uint8)
    return cv2.bitwise_and(cv2.dilate(piece, disc), alike)


def straightened(shape: Polygon, error: float) -> Polygon:
    """*shape* with as few corners as keep within *error* inches, its long sides put right.

    Each side is laid through the outline along it, and sides meet in the corners. A corner that the
    picture cut off or rounded is made whole, where two long sides meet in it. A long side
    that misses an eighth of a turn by so little that turning it moves its ends less than `TURNED`
    inches is turned about its middle.
    """
    dense = np.asarray(shape.exterior.segmentize(error / 2).coords)[:-1]
    places = _corners_of(shape, dense, error)
    ring = dense[places]
    if len(ring) < 3:
        return shape
    sides = [
        _side(ring[k], ring[(k + 1) % len(ring)], _between(dense, places, k, k + 1), error)
        for k in range(len(ring))
    ]
    sides = _unclipped(sides, error)
    corners = []
    for before, here in zip([sides[-1], *sides[:-1]], sides, strict=True):
        met = _meeting(before, here) if before.fitted or here.fitted else None
        ends = (before.end, here.start)
        clipped = not np.array_equal(*ends)
        if not clipped and _curving(before, here):
            # Lines laid through a curve would meet outside of it.
            corners.append(here.start)
            continue
        if met is not None and (clipped or np.hypot(*(met - here.start)) < 4 * error):
            corners.append(met)
        else:
            corners += ends if clipped else ends[1:]
    made = Polygon(corners)
    return made if made.is_valid and made.area > 0 else Polygon(ring)


def _between(dense: np.ndarray, places: Sequence[int], first: int, last: int) -> np.ndarray:
    """The points of *dense* from the *first* of *places* to the *last*, round the end if need be."""
    a, b = places[first % len(places)], places[last % len(places)]
    return dense[a : b + 1] if b > a else np.vstack([dense[a:], dense[: b + 1]])


def _corners_of(shape: Polygon, dense: np.ndarray, error: float) -> list[int]:
    """Which points of the outline *dense* are corners.

    The lines that Douglas and Peucker's rule leaves depend on where it began: a corner that the lines
    beside it do without is taken out again.
    """
    ring = np.asarray(shape.exterior.simplify(error).coords)[:-1]
    places = [int(np.argmin(np.hypot(*(dense - corner).T))) for corner in ring]
    k, kept = 0, 0
    while len(places) > 3 and kept < len(places):
        points = _between(dense, places, k - 1, k + 1)
        way = points[-1] - points[0]
        off = np.abs((points - points[0]) @ np.array([-way[1], way[0]])) / max(np.hypot(*way), 1e-9)
        if off.max() <= error:
            places.pop(k % len(places))
            kept = 0
        else:
            k, kept = k + 1, kept + 1
        k %= len(places)
    return places


@dataclass(frozen=True)
class _Side:
    """A side of an outline: where it begins and ends in the picture, a point of it and its direction,
    and whether it was long enough to be laid through the outline."""

    start: np.ndarray
    end: np.ndarray
    middle: np.ndarray
    way: np.ndarray
    fitted: bool

    @property
    def length(self) -> float:
        return float(np.hypot(*(self.end - self.start)))

    def off(self, spot: np.ndarray) -> float:
        """How far *spot* lies from the line of this side."""
        x, y = spot - self.middle
        return float(abs(self.way[0] * y - self.way[1] * x))


def _curving(before: _Side, here: _Side) -> bool:
    """Whether two sides seem to be pieces of one curve: short, and turned but gently."""
    turn = math.degrees(math.acos(np.clip(before.way @ here.way, -1, 1)))
    return turn < GENTLE and max(before.length, here.length) < SHORT


def _side(start: np.ndarray, end: np.ndarray, points: np.ndarray, error: float) -> _Side:
    """The side from *start* to *end*, through the *points* of the outline between them."""
    way, length = end - start, float(np.hypot(*(end - start)))
    if length < 5 * error:
        return _Side(start, end, (start + end) / 2, way / max(length, 1e-12), False)
    along = (points - start) @ way / length
    # Near its ends the picture has rounded the corners.
    inner = points[(along > 0.15 * length) & (along < 0.85 * length)]
    middle, direction = (start + end) / 2, way / length
    if len(inner) > 4:
        middle = inner.mean(axis=0)
        direction = np.linalg.svd(inner - middle, full_matrices=False)[2][0]
        direction = direction if direction @ way > 0 else -direction
    angle = math.atan2(direction[1], direction[0])
    nearest = round(angle / (math.pi / 4)) * math.pi / 4
    off = abs(angle - nearest)
    if off < math.radians(RIGHT) and length / 2 * math.sin(off) < TURNED:
        direction = np.array([math.cos(nearest), math.sin(nearest)])
    return _Side(start, end, middle, direction, True)


def _unclipped(sides: list[_Side], error: float) -> list[_Side]:
    """*sides* without the short ones that only cut off a corner in which two long ones meet.

    Their ends then lie on the lines of the long sides, and the corner is near them.
    """
    long = [k for k, side in enumerate(sides) if side.length > LONG]
    gone: set[int] = set()
    for first, last in zip(long, [*long[1:], *[k + len(sides) for k in long[:1]]], strict=True):
        chain = [k % len(sides) for k in range(first + 1, last)]
        before, after = sides[first], sides[last % len(sides)]
        met = _meeting(before, after) if chain else None
        if met is None:
            continue
        ends = [before.end, *(sides[k].end for k in chain)]
        on_lines = all(min(before.off(end), after.off(end)) < error + TURNED for end in ends)
        blunt = np.hypot(*(after.start - before.end))
        # A narrow tip reaches further beyond where it was cut off than a square corner.
        if (
            on_lines
            and blunt < CLIPPED
            and min(np.hypot(*(met - end)) for end in ends) < 2 * CLIPPED
        ):
            gone.update(chain)
    kept = [side for k, side in enumerate(sides) if k not in gone]
    return kept if len(kept) >= 3 else sides


def snapped(shape: Polygon, neighbours: list[Polygon], tolerance: float) -> Polygon:
    """*shape* with its corners on those of *neighbours*, or on their sides, where those are near.

    Corners of neighbours that lie near a side of *shape* become corners of it, so that no gap is left
    between the two.
    """
    spots = [np.array(p) for each in neighbours for p in each.exterior.coords[:-1]]
    made = []
    for point in np.asarray(shape.exterior.coords)[:-1]:
        near = min(spots, key=lambda s: np.hypot(*(s - point)), default=None)
        if near is not None and np.hypot(*(near - point)) <= tolerance:
            made.append(near)
            continue
        spot = Point(point)
        sides = [e.exterior for e in neighbours if e.exterior.distance(spot) <= tolerance]
        if sides:
            near_side = min(sides, key=lambda line: line.distance(spot))
            made.append(np.array(near_side.interpolate(near_side.project(spot)).coords[0]))
        else:
            made.append(point)
    fitted = Polygon(made)
    if not fitted.is_valid or fitted.area <= 0:
        return shape
    met = Polygon(_meeting_corners(made, spots, tolerance))
    return met if met.is_valid and met.area > 0 else fitted


def _meeting_corners(ring: list[np.ndarray], spots: list[np.ndarray], tolerance: float) -> list:
    """*ring* with those of *spots* put in that lie within *tolerance* of a side, beside its ends."""
    made = []
    for a, b in zip(ring, [*ring[1:], ring[0]], strict=True):
        made.append(a)
        length = float(np.hypot(*(b - a)))
        if length < 2 * tolerance or not spots:
            continue
        way = (b - a) / length
        off = np.asarray(spots) - a
        along, aside = off @ way, np.abs(off @ np.array([-way[1], way[0]]))
        near = (aside <= tolerance) & (along > tolerance) & (along < length - tolerance)
        made += [spots[k] for k in np.flatnonzero(near)[np.argsort(along[near], kind="stable")]]
    return made


def _disc(size: int) -> np.ndarray:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))


def _meeting(one: _Side, other: _Side) -> np.ndarray | None:
    """Where the lines of two sides meet; None when they are nearly parallel."""
    d, e = one.way, other.way
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 0.12:
        return None
    gap = other.middle - one.middle
    return one.middle + (gap[0] * e[1] - gap[1] * e[0]) / cross * d
