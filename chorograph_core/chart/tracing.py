"""From a photograph of a top to outlines: squared by its four corners, a touched patch found."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from shapely.geometry import Point, Polygon

from chorograph_core.chart.model import ChartError

LONGEST = 1800
"""Pixels of the longer side of a squared picture: 1/16″ of a large quilt is still two pixels."""
SMALLEST = 0.05
"""Share of the picture that the four corners must enclose at least."""
ROUGH = 0.09
"""Inches an outline may lose when it is straightened."""
NECK = 0.12
"""Inches of a neck that joins two patches only by their touching corners."""
RIGHT = 5.0
"""Degrees by which a drawn side may miss an eighth of a turn and is put right."""


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
    mask = _part_at(alike, px, py, max(2, round(NECK * picture.scale / 2)))
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

    A side longer than ten times the error that misses an eighth of a turn by less than `RIGHT`
    degrees is turned about its middle; corners lie where the sides then meet.
    """
    ring = np.asarray(shape.exterior.simplify(error).coords)[:-1]
    if len(ring) < 3:
        return shape
    sides = []
    for k in range(len(ring)):
        a, b = ring[k], ring[(k + 1) % len(ring)]
        way = b - a
        angle = math.degrees(math.atan2(way[1], way[0]))
        nearest = round(angle / 45) * 45
        length = float(np.hypot(*way))
        right = length > 10 * error and abs(angle - nearest) < RIGHT
        turned = math.radians(nearest if right else angle)
        sides.append(((a + b) / 2, np.array([math.cos(turned), math.sin(turned)]), right))
    corners = []
    for k in range(len(ring)):
        before, here = sides[k - 1], sides[k]
        met = _meeting(before, here) if before[2] or here[2] else None
        near = met is not None and np.hypot(*(met - ring[k])) < 4 * error
        corners.append(met if near else ring[k])
    made = Polygon(corners)
    return made if made.is_valid and made.area > 0 else Polygon(ring)


def snapped(shape: Polygon, neighbours: list[Polygon], tolerance: float) -> Polygon:
    """*shape* with its corners on those of *neighbours*, or on their sides, where those are near."""
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
    return fitted if fitted.is_valid and fitted.area > 0 else shape


def _disc(size: int) -> np.ndarray:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))


def _meeting(one, other) -> np.ndarray | None:
    """Where two lines (point, direction, …) meet; None when they are nearly parallel."""
    (p, d, _), (q, e, _) = one, other
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 0.12:
        return None
    t = ((q - p)[0] * e[1] - (q - p)[1] * e[0]) / cross
    return p + t * d
