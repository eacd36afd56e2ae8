"""Drawings written by other programs: what they have in common."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.chart.noding import Drawing

LARGEST = 8_000_000
"""Bytes of a drawing that is read."""
MOST_POINTS = 300_000
MOST_SHAPES = 40_000


class DrawingError(ValueError):
    """The drawing cannot be read. The message says why, *where* the place, if it is known."""

    def __init__(self, message: str, where: str = "") -> None:
        super().__init__(f"{where}: {message}" if where else message)
        self.where = where


class Taken:
    """Collects lines and fills while a file is read, and refuses what is too much."""

    def __init__(self) -> None:
        self.lines: list[np.ndarray] = []
        self.fills: list[tuple[Polygon, str]] = []
        self.left_out: dict[str, int] = {}
        self._points = 0

    def add(self, points: Sequence | np.ndarray, fill: str = "") -> None:
        """Take one polyline; a closed one may have a *fill* ``#rrggbb``."""
        line = np.asarray(points, float)
        if line.ndim != 2 or len(line) < 2:
            return
        if not np.isfinite(line).all() or np.abs(line).max() > 1e7:
            raise DrawingError("A point lies nowhere: its coordinates are no numbers of a drawing.")
        self._points += len(line)
        if self._points > MOST_POINTS:
            raise DrawingError(f"There are over {MOST_POINTS:,} points; a top needs far fewer.")
        if len(self.lines) >= MOST_SHAPES:
            raise DrawingError(f"There are over {MOST_SHAPES:,} lines; a top needs far fewer.")
        self.lines.append(line)
        if fill and len(line) > 3 and np.allclose(line[0], line[-1], atol=1e-6):
            shape = Polygon(line)
            if shape.is_valid and shape.area > 0:
                self.fills.append((shape, fill))

    def skip(self, what: str) -> None:
        """Count something that is not taken."""
        self.left_out[what] = self.left_out.get(what, 0) + 1

    def drawing(self) -> Drawing:
        """What was taken. Raises `DrawingError` when that is nothing."""
        if not self.lines:
            note = ", ".join(f"{n} {what}" for what, n in self.left_out.items())
            raise DrawingError(f"There is no line in it{f', only {note}' if note else ''}.")
        return Drawing(tuple(self.lines), tuple(self.fills), dict(self.left_out))


def read_drawing(data: bytes, name: str) -> Drawing:
    """An SVG or DXF drawing, by its contents. Raises `DrawingError`. In inches, y down."""
    from chorograph_core.formats.dxf_in import read_dxf
    from chorograph_core.formats.svg_in import read_svg

    if len(data) > LARGEST:
        raise DrawingError(
            f"The file has {len(data) / 1e6:.0f} MB; a drawing has {LARGEST / 1e6:.0f} at most."
        )
    if not data.strip(b"\0 \t\r\n"):
        raise DrawingError("The file is empty.")
    if data[:2] in (b"PK", b"\x1f\x8b"):
        raise DrawingError("This is packed. Unpack it first, then take the drawing in.")
    head = data[:4000].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    if head.startswith(b"<"):
        return read_svg(data)
    if head.startswith(b"autocad binary") or name.lower().endswith(".dxf") or b"section" in head:
        return read_dxf(data)
    raise DrawingError("This is neither an SVG nor a DXF drawing.")
