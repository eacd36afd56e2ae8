"""What a quilter drew or brought, read: a stroke of one's own, an attempt at a motif."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any

import numpy as np
import shapely
from django.http import QueryDict
from PIL import Image, ImageOps, UnidentifiedImageError

from chorograph_core.designs.attempts import (
    AttemptError,
    Evenness,
    drawn_attempt,
    pictured_attempt,
)
from chorograph_core.designs.own_strokes import MOST_DRAWN, Cleaned, cleaned_stroke
from chorograph_core.designs.settings import SettingError
from chorograph_core.formats.apart import lines_apart
from chorograph_core.formats.drawings import DrawingError
from chorograph_core.measure import format_length
from studio.asking import EditError, length_from
from studio.motifs.strokes import Followed

LARGEST_FILE = 8 * 1024 * 1024
LARGEST_SIDE = 12_000
SHOWN = (0.5, 120.0)
"""Inches that a picture may show."""
CLOSE = 0.02
"""Share of a drawing within which the end of one line and the beginning of the next are one place."""


def stroke_from(values: Mapping[str, Any], file: Any) -> Cleaned:
    """A stroke from the pad, or from the drawing in *file*, which then comes first. Raises `EditError`."""
    kind = "figure" if values.get("kind") == "figure" else "strip"
    field = "file" if file is not None else "points"
    try:
        points = _from_drawing(file) if file is not None else drawn_points(values.get("points", ""))
        return cleaned_stroke(points, kind)
    except SettingError as error:
        raise EditError(str(error), field) from None


def drawn_points(text: str) -> np.ndarray:
    """Points (n, 2) as the pad sends them, ``x,y x,y …``. Raises `EditError`."""
    pairs = str(text).split()
    if len(pairs) > MOST_DRAWN:
        raise EditError(f"That is over {MOST_DRAWN:,} points; draw it once, in one go.", "points")
    try:
        points = np.array([[float(x), float(y)] for x, y in (pair.split(",") for pair in pairs)])
    except ValueError:
        raise EditError("What was drawn could not be read; draw it again.", "points") from None
    if not len(points):
        raise EditError("Nothing is drawn yet: draw the motif in one stroke.", "points")
    if not np.isfinite(points).all() or np.abs(points).max() > 1e5:
        raise EditError("What was drawn could not be read; draw it again.", "points")
    return points


def _from_drawing(file: Any) -> np.ndarray:
    """The longest stroke of a drawing: lines that go on from one another are one."""
    if file.size > LARGEST_FILE:
        raise EditError(f"Choose a drawing of at most {LARGEST_FILE / 1e6:.0f} MB.", "file")
    try:
        lines = [np.array(line) for line in lines_apart(file.read(), file.name or "")]
    except (DrawingError, ValueError) as error:
        raise EditError(str(error), "file") from None
    if not lines:
        raise EditError("There is no line in the drawing.", "file")
    size = float(np.ptp(np.concatenate(lines), axis=0).max())
    strokes = [lines[0]]
    for line in lines[1:]:
        if np.hypot(*(line[0] - strokes[-1][-1])) <= CLOSE * size:
            strokes[-1] = np.vstack([strokes[-1], line])
        else:
            strokes.append(line)
    return max(strokes, key=lambda each: shapely.linestrings(each).length if len(each) > 1 else 0.0)


def attempt_from(values: QueryDict, file: Any, shown: Followed, unit: str) -> Evenness:
    """How even what was drawn on the sheet is, or what a picture shows. Raises `EditError`."""
    try:
        if file is None:
            points = drawn_points(values.get("points", ""))
            times = _times(values.get("times", ""), len(points))
            return drawn_attempt(points, shown.zone, shown.strip, times)
        low, high = (format_length(each, unit) for each in SHOWN)
        wide = length_from(values, "wide", unit, *SHOWN,
                           f"Say how wide what the picture shows is: from {low} to {high}.")  # fmt: skip
        return pictured_attempt(_grey(file), wide)
    except AttemptError as error:
        raise EditError(str(error), "file" if file is not None else "points") from None


def _times(text: str, count: int) -> np.ndarray | None:
    """Seconds at each of *count* points, as the pad sends them in milliseconds; None for what is no clock."""
    try:
        times = np.array([int(each) for each in str(text)[: 12 * MOST_DRAWN].split()], float) / 1000
    except (ValueError, OverflowError):
        return None
    known = len(times) == count and np.isfinite(times).all() and (np.abs(times) < 1e6).all()
    return times if known else None


def _grey(file: Any) -> np.ndarray:
    if file.size > LARGEST_FILE:
        raise EditError(f"Choose a picture of at most {LARGEST_FILE / 1e6:.0f} MB.", "file")
    try:
        with Image.open(io.BytesIO(file.read())) as picture:
            if max(picture.size) > LARGEST_SIDE:
                raise EditError("The picture has too many dots; make it smaller first.", "file")
            return np.asarray(ImageOps.exif_transpose(picture).convert("L"))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise EditError("This is no picture that can be read.", "file") from None
