"""A stand-in for a camera: a photograph of a charted top, as a phone would take it.

The top lies a little slack on a floor, seen from above and aside: true perspective, a fold of shadow
across it, a warm lamp at one side, the weave of the cloth and the noise of the picture.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from chorograph_core.chart import Chart

CORNERS = ((0.09, 0.07), (0.93, 0.04), (0.985, 0.955), (0.025, 0.925))
"""Where the corners of the top lie in the picture, shares of its width and height, from the top left."""
FLOOR = (66, 79, 91)
FINE = 2
"""The top is drawn this many times larger than it is seen, and the edges evened."""


def photograph(
    chart: Chart, seed: int = 0, across: int = 900, corners: Sequence = CORNERS
) -> bytes:
    """A JPEG *across* pixels wide; the same for the same *seed*."""
    rng = np.random.default_rng(seed)
    wide, high = across, round(across * chart.height / chart.width)
    flat = _flat(chart, wide * FINE, rng)
    goal = np.float32([(x * wide, y * high) for x, y in corners])
    h, w = flat.shape[:2]
    lens = cv2.getPerspectiveTransform(np.float32([(0, 0), (w, 0), (w, h), (0, h)]), goal)
    seen = cv2.warpPerspective(flat, lens, (wide, high), flags=cv2.INTER_AREA, borderValue=FLOOR)
    lit = seen.astype(np.float32) * _light(wide, high)[..., None] * np.float32((0.93, 1.0, 1.03))
    lit += rng.normal(0, 3.5, lit.shape)
    return cv2.imencode(
        ".jpg", np.clip(lit, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 87]
    )[1].tobytes()


def _flat(chart: Chart, across: int, rng: np.random.Generator) -> np.ndarray:
    """The top itself: every patch in its colour with a little of its weave, seams as soft lines."""
    scale = across / chart.width
    pixels = np.full((round(chart.height * scale), across, 3), 200, np.uint8)
    # Large ones first: what is let into a field lies in its hole.
    for patch in sorted(chart.patches, key=lambda p: -p.polygon.envelope.area):
        colour = chart.fabric(patch.fabric).colour
        bgr = tuple(int(colour[k : k + 2], 16) for k in (5, 3, 1))
        ring = np.round(np.asarray(patch.polygon.exterior.coords) * scale).astype(np.int32)
        cv2.fillPoly(pixels, [ring], bgr, cv2.LINE_AA)
    for patch in chart.patches:
        ring = np.round(np.asarray(patch.polygon.exterior.coords) * scale).astype(np.int32)
        cv2.polylines(pixels, [ring], True, (88, 96, 104), max(1, round(scale / 14)), cv2.LINE_AA)
    weave = rng.integers(-14, 15, pixels.shape[:2], np.int16).astype(np.float32)
    weave = cv2.GaussianBlur(weave, (0, 0), 1.2)
    return cv2.add(pixels, cv2.merge([weave] * 3), dtype=cv2.CV_8U)


def _light(wide: int, high: int) -> np.ndarray:
    """How bright each spot is: a lamp at the upper left, a fold across, dark corners."""
    y, x = np.mgrid[0:high, 0:wide].astype(np.float32) / wide
    light = 0.84 + 0.2 * np.exp(-((x - 0.3) ** 2 + (y - 0.25) ** 2) * 2)
    light -= 0.07 * np.exp(-(((x * 0.8 + y * 0.6) - 0.75) ** 2) * 260)
    return light + 0.04 * np.exp(-(((x * 0.8 + y * 0.6) - 0.79) ** 2) * 300)
