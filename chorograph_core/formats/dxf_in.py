"""DXF drawings: lines, polylines, circles, arcs, ellipses, splines, and blocks of them."""

from __future__ import annotations

import io

import ezdxf
import numpy as np
from ezdxf import path as paths
from ezdxf import recover, units
from ezdxf.disassemble import recursive_decompose
from ezdxf.enums import InsertUnits

from chorograph_core.chart.noding import Drawing
from chorograph_core.formats.drawings import MOST_SHAPES, DrawingError, Taken

CHORD = 0.01
"""Inches that a chord may stray from its curve."""
_DRAWN = {"LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE", "HELIX", "SOLID",
          "TRACE", "3DFACE"}  # fmt: skip
_NAMES = {"TEXT": "texts", "MTEXT": "texts", "ATTRIB": "texts", "ATTDEF": "texts", "IMAGE": "pictures",
          "POINT": "points", "HATCH": "hatchings", "VIEWPORT": ""}  # fmt: skip


def read_dxf(data: bytes) -> Drawing:
    """The lines of a DXF file in inches, turned so that y points down. Raises `DrawingError`."""
    # What can be recovered of half a file would be half a top.
    if data.startswith(b"AutoCAD Binary") is False and data.rstrip()[-3:].upper() != b"EOF":
        raise DrawingError("The file breaks off before its end. Export or send it once more.")
    try:
        document, _ = recover.read(io.BytesIO(data))
    except (ezdxf.DXFError, OSError, ValueError, KeyError, IndexError, TypeError, AttributeError,
            UnicodeError, EOFError, OverflowError, RecursionError):  # fmt: skip
        raise DrawingError("The file breaks off, is damaged, or is no DXF drawing.") from None
    factor = _inches(document)
    taken = Taken()
    count = 0
    try:
        for entity in recursive_decompose(document.modelspace()):
            count += 1
            if count > MOST_SHAPES:
                raise DrawingError(f"There are over {MOST_SHAPES:,} lines; a top needs far fewer.")
            kind = entity.dxftype()
            if kind not in _DRAWN:
                name = _NAMES.get(kind, kind.lower())
                if name:
                    taken.skip(name)
                continue
            _take(entity, factor, taken)
    except DrawingError:
        raise
    except (ezdxf.DXFError, ValueError, TypeError, ZeroDivisionError, RecursionError, AttributeError,
            KeyError, IndexError, OverflowError):  # fmt: skip
        raise DrawingError("Something in it cannot be drawn.") from None
    return taken.drawing()


def _inches(document) -> float:
    """Inches in one drawing unit; a drawing that names no unit is taken to be in inches."""
    unit = document.units
    if unit in (0, None):
        return 1.0
    try:
        return float(units.conversion_factor(InsertUnits(unit), InsertUnits.Inches))
    except (ValueError, KeyError, IndexError, TypeError, ZeroDivisionError):
        return 1.0


def _take(entity, factor: float, taken: Taken) -> None:
    way = paths.make_path(entity)
    points = np.array([(p.x, p.y) for p in way.flattening(CHORD / factor, segments=8)])
    if len(points) < 2:
        taken.skip("points")
        return
    taken.add(points * factor * (1.0, -1.0))
