"""Shapes to lay on a top: drawn with a pen, stamped from a small library, or letters of a word.

Outlines are (n, 2) arrays or polygons; a stamp and a letter stand upright with their middle at the
origin, y down, and are scaled by their height.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import MultiPolygon, Polygon

from chorograph_core.chart.model import ChartError

CHORDS = 12
"""Straight pieces that stand for one smooth segment of the pen."""
MOST_NODES = 400
MOST_LETTERS = 24
SMALLEST = 0.02
"""Square inches under which a shape is none that could be sewn on."""

Node = tuple[float, float, bool]
"""Where the pen was set down, and whether the line goes smoothly through there."""


def pen_outline(nodes: Sequence[Node]) -> np.ndarray:
    """The closed line (n, 2) through *nodes*: straight between corners, else a cubic curve.

    At a smooth node the curve runs parallel to the line from the node before to the one after, so that
    a ring of smooth nodes is round; its handles are a third of the side they belong to, so that short
    sides beside long ones make no bulge.
    """
    if not 3 <= len(nodes) <= MOST_NODES:
        raise ChartError(f"A shape needs three to {MOST_NODES} points.", "shape")
    at = np.array([node[:2] for node in nodes], float)
    if not np.isfinite(at).all():
        raise ChartError("A point of the shape is no number.", "shape")
    smooth = [bool(node[2]) for node in nodes]
    heading = np.roll(at, -1, axis=0) - np.roll(at, 1, axis=0)
    heading /= np.maximum(np.hypot(*heading.T), 1e-12)[:, None]
    third = np.hypot(*(np.roll(at, -1, axis=0) - at).T) / 3
    made = []
    for k in range(len(at)):
        n = (k + 1) % len(at)
        if not smooth[k] and not smooth[n]:
            made.append(at[k : k + 1])
            continue
        one = at[k] + third[k] * heading[k] if smooth[k] else at[k]
        two = at[n] - third[k] * heading[n] if smooth[n] else at[n]
        t = (np.arange(CHORDS) / CHORDS)[:, None]
        u = 1 - t
        made.append(u**3 * at[k] + 3 * u * u * t * one + 3 * u * t * t * two + t**3 * at[n])
    return np.concatenate(made)


def pen_shape(nodes: Sequence[Node]) -> Polygon:
    """The shape that the pen drew. Raises `ChartError` when its line crosses itself."""
    shape = Polygon(pen_outline(nodes))
    if not shape.is_valid or shape.area < SMALLEST:
        raise ChartError("Draw one closed shape that does not cross itself.", "shape")
    return shape


@dataclass(frozen=True)
class Stamp:
    """A shape of the library, by the nodes of its outline in a box about one unit high."""

    key: str
    name: str
    nodes: tuple[Node, ...]

    def shape(self, height: float = 1.0) -> Polygon:
        """The shape *height* inches high, its middle at the origin."""
        raw = pen_shape(self.nodes)
        return _sized(raw, height)


def _round(count: int, radius: float) -> tuple[Node, ...]:
    turn = 2 * math.pi / count
    return tuple(
        (radius * math.cos(k * turn), radius * math.sin(k * turn), True) for k in range(count)
    )


def _petals(count: int, out: float, waist: float) -> tuple[Node, ...]:
    made: list[Node] = []
    for k in range(count):
        for share, radius, smooth in (
            (0, waist, False), (0.2, out * 0.86, True), (0.5, out, True), (0.8, out * 0.86, True),
        ):  # fmt: skip
            angle = 2 * math.pi * (k + share) / count - math.pi / 2
            made.append((radius * math.cos(angle), radius * math.sin(angle), smooth))
    return tuple(made)


STAMPS = {
    stamp.key: stamp
    for stamp in (
        Stamp("leaf", "Leaf", ((0, -0.5, False), (0.17, -0.2, True), (0.2, 0.05, True),
                               (0.13, 0.3, True), (0, 0.5, False), (-0.13, 0.3, True),
                               (-0.2, 0.05, True), (-0.17, -0.2, True))),
        Stamp("petal", "Petal", ((0, 0.5, False), (0.2, 0.15, True), (0.28, -0.2, True),
                                 (0.17, -0.44, True), (0, -0.5, True), (-0.17, -0.44, True),
                                 (-0.28, -0.2, True), (-0.2, 0.15, True))),
        Stamp("heart", "Heart", ((0, 0.5, False), (0.3, 0.2, True), (0.5, -0.1, True),
                                 (0.46, -0.36, True), (0.25, -0.47, True), (0.06, -0.38, True),
                                 (0, -0.26, False), (-0.06, -0.38, True), (-0.25, -0.47, True),
                                 (-0.46, -0.36, True), (-0.5, -0.1, True), (-0.3, 0.2, True))),
        Stamp("bird", "Bird", ((0.78, -0.22, False), (0.6, -0.3, False), (0.5, -0.44, True),
                               (0.34, -0.48, True), (0.2, -0.36, True), (0.1, -0.18, True),
                               (-0.16, -0.12, True), (-0.5, -0.1, True), (-0.86, -0.22, False),
                               (-0.82, 0.06, False), (-0.46, 0.16, True), (-0.2, 0.36, True),
                               (0.06, 0.44, True), (0.34, 0.34, True), (0.54, 0.1, True),
                               (0.6, -0.14, False))),
        Stamp("berry", "Berry", _round(12, 0.5)),
        Stamp("blossom", "Blossom", _petals(5, 0.5, 0.27)),
        Stamp("drop", "Drop", ((0, -0.5, False), (0.16, -0.1, True), (0.27, 0.2, True),
                               (0.19, 0.43, True), (0, 0.5, True), (-0.19, 0.43, True),
                               (-0.27, 0.2, True), (-0.16, -0.1, True))),
        Stamp("vase", "Vase", ((-0.24, -0.5, False), (0.24, -0.5, False), (0.15, -0.28, True),
                               (0.33, 0.02, True), (0.3, 0.28, True), (0.16, 0.5, False),
                               (-0.16, 0.5, False), (-0.3, 0.28, True), (-0.33, 0.02, True),
                               (-0.15, -0.28, True))),
        Stamp("moon", "Crescent", ((0.28, -0.5, False), (-0.02, -0.46, True), (-0.28, -0.25, True),
                                   (-0.36, 0, True), (-0.28, 0.25, True), (-0.02, 0.46, True),
                                   (0.28, 0.5, False), (0.08, 0.28, True), (0, 0, True),
                                   (0.08, -0.28, True))),
    )
}  # fmt: skip
"""The library: shapes anybody draws, none taken from anywhere."""


def letters(text: str, height: float) -> list[Polygon]:
    """The letters of *text* side by side, all of it *height* inches high from its highest to its lowest
    point, its middle at the origin.

    A word that hangs below the line is as high as one that does not: that is what must fit the patch.
    What is hardly a letter, such as a dash, keeps the size it has beside capitals of that height.
    One polygon for each closed part of a letter. Raises `ChartError` for letters there are none of.
    """
    text = " ".join(text.split())
    if not text or len(text) > MOST_LETTERS:
        raise ChartError(f"Write one to {MOST_LETTERS} letters.", "text")
    font = _font()
    names, glyphs, widths = font.getBestCmap(), font.getGlyphSet(), font["hmtx"]
    capital = getattr(font["OS/2"], "sCapHeight", 0) or font["head"].unitsPerEm * 0.7
    made: list[Polygon] = []
    across = 0.0
    for letter in text:
        name = names.get(ord(letter))
        if name is None:
            raise ChartError(f"There is no “{letter}” among the letters.", "text")
        made += [
            affinity.affine_transform(part, [1, 0, 0, -1, across, 0])
            for part in _glyph(glyphs, name)
        ]
        across += widths[name][0]
    if not made:
        raise ChartError("Write one letter at least.", "text")
    x0, y0, x1, y1 = shapely.union_all(made).bounds
    scale = height / (y1 - y0 if y1 - y0 > capital / 2 else capital)
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    return [
        affinity.affine_transform(
            part, [scale, 0, 0, scale, -scale * middle[0], -scale * middle[1]]
        )
        for part in made
    ]


@cache
def _font():
    from fontTools.ttLib import TTFont

    data = resources.files("chorograph_core.chart").joinpath("letters.woff2").read_bytes()
    return TTFont(io.BytesIO(data))


def _glyph(glyphs, name: str) -> list[Polygon]:
    """The closed parts of a letter in the font's units, y up. What is enclosed twice is open."""
    from fontTools.pens.recordingPen import DecomposingRecordingPen

    pen = DecomposingRecordingPen(glyphs)
    glyphs[name].draw(pen)
    rings: list[list[np.ndarray]] = []
    for what, points in pen.value:
        spots = [np.array(p, float) for p in points if p is not None]
        if what == "moveTo":
            rings.append([spots[0]])
        elif what == "lineTo":
            rings[-1].append(spots[0])
        elif what == "qCurveTo":
            rings[-1] += _quadratic(rings[-1][-1], spots)
        elif what == "curveTo":
            rings[-1] += _cubic(rings[-1][-1], *spots)
    whole: MultiPolygon | Polygon = Polygon()
    for ring in rings:
        shape = Polygon(ring)
        whole = whole.symmetric_difference(shape if shape.is_valid else shape.buffer(0))
    return [p for p in getattr(whole, "geoms", [whole]) if isinstance(p, Polygon) and p.area > 1]


def _quadratic(start: np.ndarray, spots: list[np.ndarray]) -> list[np.ndarray]:
    """Points after *start* on a chain of quadratic curves with implied points between."""
    made = []
    for k, control in enumerate(spots[:-1]):
        stop = spots[-1] if k == len(spots) - 2 else (control + spots[k + 1]) / 2
        for t in np.arange(1, 7) / 6:
            made.append((1 - t) ** 2 * start + 2 * t * (1 - t) * control + t * t * stop)
        start = stop
    return made


def _cubic(start, one, two, stop) -> list[np.ndarray]:
    return [
        (1 - t) ** 3 * start + 3 * (1 - t) ** 2 * t * one + 3 * (1 - t) * t * t * two + t**3 * stop
        for t in np.arange(1, 9) / 8
    ]


def _sized(shape: Polygon, height: float) -> Polygon:
    x0, y0, x1, y1 = shape.bounds
    middle = affinity.translate(shape, -(x0 + x1) / 2, -(y0 + y1) / 2)
    return affinity.scale(middle, height / (y1 - y0), height / (y1 - y0), origin=(0, 0))


def placed(
    shapes: Sequence[Polygon], x: float, y: float, turn: float = 0.0, mirror: bool = False
) -> list[Polygon]:
    """*shapes* mirrored left for right if wished, turned clockwise by *turn* degrees, laid at (x, y)."""
    across = -1.0 if mirror else 1.0
    sine, cosine = math.sin(math.radians(turn)), math.cos(math.radians(turn))
    moves = [cosine * across, -sine, sine * across, cosine, x, y]
    return [affinity.affine_transform(shape, moves) for shape in shapes]
