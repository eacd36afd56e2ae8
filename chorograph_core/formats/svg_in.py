"""SVG drawings: every shape as lines, with units, view box, nested transforms and uses."""

from __future__ import annotations

import io
import math
import re
from xml.etree.ElementTree import Element, ParseError, tostring

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring
from svgelements import SVG, Arc, Close, CubicBezier, Line, Move, Path, QuadraticBezier, Shape

from chorograph_core.chart.noding import Drawing
from chorograph_core.formats.drawings import MOST_POINTS, MOST_SHAPES, DrawingError, Taken

_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
INCH = 96.0
"""User units an inch, as CSS has it."""
DEEPEST = 60
_SKIPPED = {
    "text": "texts", "image": "pictures", "script": "scripts", "foreignObject": "foreign parts",
    "style": "", "metadata": "", "title": "", "desc": "", "filter": "", "animate": "animations",
    "set": "animations", "animateTransform": "animations", "video": "films", "audio": "sounds",
    "iframe": "foreign parts", "mask": "masks", "marker": "markers", "pattern": "patterns",
}  # fmt: skip
_XLINK = "{http://www.w3.org/1999/xlink}href"


def read_svg(data: bytes) -> Drawing:
    """The lines of an SVG file in inches. Raises `DrawingError`."""
    try:
        root = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise DrawingError("The file declares entities, which a drawing does not need; it was not "
                           "opened.") from None  # fmt: skip
    except ParseError as error:
        line = error.position[0]
        raise DrawingError("The file breaks off or is damaged.", f"line {line}") from None
    except (ValueError, RecursionError, LookupError):
        raise DrawingError("The file cannot be read as SVG.") from None
    if _name(root) != "svg":
        raise DrawingError(f"The file holds “{_name(root)}”, not an SVG drawing.")
    taken = Taken()
    _clean(root, taken)
    _check_uses(root)
    try:
        svg = SVG.parse(io.BytesIO(tostring(root)), reify=True, ppi=INCH, width=2000, height=2000)
        for element in svg.elements():
            if isinstance(element, Shape):
                _take(element, taken)
    except DrawingError:
        raise
    except (ValueError, TypeError, ZeroDivisionError, OverflowError, RecursionError,
            AttributeError, IndexError, KeyError) as error:  # fmt: skip
        raise DrawingError(f"A shape in it cannot be drawn ({type(error).__name__}).") from None
    return taken.drawing()


def _name(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _clean(root: Element, taken: Taken) -> None:
    """Take out what is not drawn, counting it; references to other files too."""
    stack, numbers = [(root, 0)], 0
    while stack:
        parent, depth = stack.pop()
        if depth > DEEPEST:
            raise DrawingError("It is nested too deeply.")
        for child in list(parent):
            name = _name(child)
            if name in _SKIPPED or not name:
                parent.remove(child)
                if _SKIPPED.get(name):
                    taken.skip(_SKIPPED[name])
                continue
            target = child.get("href") or child.get(_XLINK) or ""
            if target and not target.startswith("#"):
                parent.remove(child)
                taken.skip("references to other files")
                continue
            numbers += sum(len(_NUMBER.findall(child.get(name) or "")) for name in ("d", "points"))
            if numbers > 2 * MOST_POINTS:
                # Every point takes two numbers at most. Said before they are all understood.
                raise DrawingError(f"There are over {MOST_POINTS:,} points; a top needs far fewer.")
            stack.append((child, depth + 1))


def _check_uses(root: Element) -> None:
    """Refuse uses that lead back to themselves, and those that would unfold without end."""
    named = {each.get("id"): each for each in root.iter() if each.get("id")}
    sizes: dict[int, int] = {}
    open_: set[int] = set()

    def size(element: Element, depth: int) -> int:
        key = id(element)
        if key in sizes:
            return sizes[key]
        if key in open_:
            raise DrawingError("A “use” in it leads back to itself.")
        if depth > 4 * DEEPEST:
            raise DrawingError("It is nested too deeply.")
        open_.add(key)
        total = 1 + sum(size(child, depth + 1) for child in element)
        if _name(element) == "use":
            target = (element.get("href") or element.get(_XLINK) or "").removeprefix("#")
            if target in named:
                total += size(named[target], depth + 1)
        open_.discard(key)
        sizes[key] = total
        if total > MOST_SHAPES:
            raise DrawingError(f"Its “use”s unfold to over {MOST_SHAPES:,} shapes.")
        return total

    size(root, 0)


def _take(shape: Shape, taken: Taken) -> None:
    if shape.values.get("visibility") == "hidden" or shape.values.get("display") == "none":
        taken.skip("hidden shapes")
        return
    fill = ""
    if shape.fill is not None and shape.fill.value is not None and shape.fill.alpha:
        fill = shape.fill.hexrgb
    # abs() applies whatever transform could not be put into the shape itself.
    for sub in abs(Path(shape)).as_subpaths():
        points = _points(Path(sub))
        if points is not None:
            taken.add(points / INCH, fill)


def _points(path: Path) -> np.ndarray | None:
    """One subpath as a polyline, curves in chords."""
    points: list[tuple[float, float]] = []
    for segment in path:
        if isinstance(segment, Move):
            points = [(segment.end.x, segment.end.y)]
        elif isinstance(segment, (Line, Close)):
            if segment.end is not None:
                points.append((segment.end.x, segment.end.y))
        elif isinstance(segment, (CubicBezier, QuadraticBezier, Arc)):
            around = segment.length(error=1e-2, min_depth=2)
            if not math.isfinite(around):
                raise DrawingError("A curve in it has no length.")
            steps = int(np.clip(around / (INCH / 10), 8, 160))
            at = np.linspace(0, 1, steps + 1)[1:]
            points += [(p.x, p.y) for p in map(segment.point, at)]
    return np.array(points) if len(points) > 1 else None
