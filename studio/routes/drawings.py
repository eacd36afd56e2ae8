"""What is drawn on the run sheet and on the route stage: path cards and maps of passes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from shapely import STRtree
from shapely.geometry import Polygon

from chorograph_core.chart import Chart
from chorograph_core.designs.curves import thin
from chorograph_core.formats import RunSheet, places_in_words
from chorograph_core.formats.drawing import outline_path
from chorograph_core.formats.path_cards import Mark, PathCard
from chorograph_core.formats.route_files import svg_path
from chorograph_core.formats.run_parts import Part
from chorograph_core.job import Job
from studio.routes.labels import apart, beside

FINE = 2500
"""A line is drawn as finely as so many parts of a drawing’s side: a thousandth of an inch on a card."""
PAD = 0.06
"""Share of a card's side that is left free round its drawing."""
DENSE, SEEN = 0.9, 0.4
"""Share of the places of a drawing that are no denser than those its lines are fine enough for, and share of
these that they cover."""


def cards_of(core: Job, sheet: RunSheet) -> list[dict]:
    """Each path with its drawing, ready for a template."""
    threads = {thread.key: thread for thread in core.threads}
    zones = {zone.id: zone for zone in core.zones}
    return [
        {"card": card, "thread": threads.get(card.thread), "map": card_map(core.chart, zones, card)}
        for card in sheet.cards
    ]


def card_map(chart: Chart, zones: dict, card: PathCard) -> dict:
    """One station: its zones in their colours, the path over them, numbers where things begin."""
    x0, y0, x1, y1 = card.box
    side = max(x1 - x0, y1 - y0)
    pad = side * PAD + 0.3
    wide, tall = x1 - x0 + 2 * pad, y1 - y0 + 2 * pad
    patches = _by_fill(
        (zones[name].polygon, _colour(chart, zones[name]), 3)
        for name in card.zones
        if name in zones
    )
    return _framed(x0 - pad, y0 - pad, wide, tall, max(wide, tall)) | {
        "patches": patches,
        "thread": f"{_thread(card.lines, max(wide, tall)):.3f}",
        "paths": _by_kind(card.lines, 3, max(wide, tall) / FINE),
        **_marked(apart(card.marks, max(wide, tall) / 17), max(wide, tall)),
    }


def _thread(lines: Sequence[tuple[str, np.ndarray]], side: float) -> float:
    """How wide lines are drawn in a picture *side* inches large: where they lie close together so finely that
    each is still seen for itself."""
    legs = [np.diff(points, axis=0) for _, points in lines]
    spots = [points[:-1] + leg / 2 for (_, points), leg in zip(lines, legs, strict=True)]
    widest, finest, cell = side / 230, side / 900, side / 30
    if not legs or not sum(map(len, legs)):
        return widest
    inches = np.minimum(np.hypot(*np.concatenate(legs).T), cell)
    _, at = np.unique(np.floor(np.concatenate(spots) / cell), axis=0, return_inverse=True)
    close = np.quantile(np.bincount(at.ravel(), inches), DENSE) / cell**2
    return float(min(widest, max(finest, SEEN / max(close, 1e-9))))


def _by_fill(shapes: Iterable[tuple[Polygon, str, int]]) -> list[tuple[str, str]]:
    """Path data by colour: what lies side by side as one path, since what prints them looks at each path for
    itself. What has a hole, or lies on others, comes after, alone."""
    rows = list(shapes)
    tree = STRtree([shape for shape, _, _ in rows])
    one, two = tree.query([shape for shape, _, _ in rows], predicate="overlaps")
    inner, outer = tree.query([shape for shape, _, _ in rows], predicate="within")
    over = {int(max(a, b)) for a, b in zip(one, two, strict=True)}
    over |= {int(max(a, b)) for a, b in zip(inner, outer, strict=True) if a != b}
    beside: dict[str, list[str]] = {}
    alone = []
    for number, (shape, colour, digits) in enumerate(rows):
        d = outline_path(shape, digits)
        if shape.interiors or number in over:
            alone.append((d, colour))
        else:
            beside.setdefault(colour, []).append(d)
    return [(" ".join(parts), colour) for colour, parts in beside.items()] + alone


def _by_kind(
    lines: Iterable[tuple[str, np.ndarray]], digits: int, tolerance: float
) -> list[tuple[str, str]]:
    """Path data of lines by their kind, in the order in which kinds come first; no finer than *tolerance*."""
    found: dict[str, list[str]] = {}
    for kind, points in lines:
        if len(points) > 1:
            found.setdefault(kind, []).append(
                svg_path(thin(np.asarray(points, float), tolerance), digits)
            )
    return [(kind, " ".join(parts)) for kind, parts in found.items()]


def _colour(chart: Chart, zone) -> str:
    fabric = chart.patch(zone.patches[0]).fabric if zone.patches else "a"
    return chart.fabric(fabric).colour


def parts_of(core: Job, sheet: RunSheet) -> list[dict]:
    """Each part with the map of its pass, ready for a template."""
    colours = {thread.name: thread.colour for thread in core.threads}
    zones = {zone.id: zone.polygon for zone in core.zones}
    # Nothing comes after the last, if there is one.
    after = [*(each.kind for each in sheet.parts[1:]), ""]
    return [
        {
            "part": part,
            "carried": following == "move",
            "colour": colours.get(part.thread, "#1e2b3c"),
            "map": part_map(core.chart, part) | {"pins": _pinned(part, zones, colours)},
            "rows": _told(part),
        }
        for part, following in zip(sheet.parts, after, strict=False)
    ]


NEAR_THE_EDGE = 0.95
"""From which share of a map on a number stands to the left of its mark."""
LONGEST_PIN = 1.5
"""Inches of a pin on the map."""


def pins_of(part: Part, zones: dict, colours: dict[str, str]) -> list[tuple]:
    """Where what waits for another thread is pinned flat: (x, y, half its length, colour)."""
    pins = []
    for parked in part.parked:
        for name in parked.zones:
            if name not in zones:
                continue
            spot = zones[name].representative_point()
            x0, y0, x1, y1 = zones[name].bounds
            half = min(LONGEST_PIN, 0.6 * (x1 - x0), 0.6 * (y1 - y0)) / 2
            y = min(max(spot.y, part.top), part.bottom)
            pins.append((round(spot.x, 2), round(y, 2), round(half, 2),
                         colours.get(parked.thread, "#1e2b3c")))  # fmt: skip
    return pins


def _pinned(part: Part, zones: dict, colours: dict[str, str]) -> list[tuple[str, str, str]]:
    """The pins of each colour: (colour, path data of their shafts, of their heads)."""
    by_colour: dict[str, list[tuple]] = {}
    for x, y, half, colour in pins_of(part, zones, colours):
        by_colour.setdefault(colour, []).append((x, y, half))
    return [
        (
            colour,
            " ".join(f"M{x - half:.2f},{y:.2f}h{2 * half:.2f}" for x, y, half in pins),
            _dots((x - half, y) for x, y, half in pins),
        )
        for colour, pins in by_colour.items()
    ]


def _told(part: Part) -> list[dict]:
    """The rows of a part; paths that follow each other without anything between are one row."""
    told: list[dict] = []
    for row in part.rows:
        if row.kind != "path":
            told.append({"kind": row.kind, "text": row.text, "detail": row.detail, "chain": []})
            continue
        if not told or not told[-1]["chain"]:
            told.append({"kind": "path", "text": "", "detail": "", "chain": []})
        told[-1]["chain"].append((row.path, places_in_words(row)))
    return told


def part_map(chart: Chart, part: Part) -> dict:
    """The band of the quilt that is reached, with the long seams and where each station is entered."""
    left, _, right, _ = chart.outline.bounds
    pad = (right - left) * 0.012
    # Room for the marks of what begins at the very edge of the pass, and for their numbers above them.
    top, bottom = part.top - 2.9 * pad, part.bottom + 1.8 * pad
    wide = right - left + 2 * pad
    patches = _by_fill(
        (patch.polygon, chart.fabric(patch.fabric).colour, 2)
        for patch in chart.patches
        if patch.polygon.bounds[1] < bottom and patch.polygon.bounds[3] > top
    )
    return _framed(left - pad, top, wide, bottom - top, wide * 0.8) | {
        "patches": patches,
        "paths": _by_kind(part.lines, 2, wide / FINE),
        **_marked(part.marks, wide * 0.5),
        "numbers": beside(
            part.marks,
            wide / 40,
            wide / 150,
            left + wide * NEAR_THE_EDGE,
            (left - pad, top, left - pad + wide, bottom),
            [_disc(x, y, wide / 52) for _, _, x, y in part.stops],
        ),
        # Numbers twice: first as wide strokes in the colour of the paper, so that no line runs through them.
        "inks": (("#fbf7ec", True), ("#1e2b3c", False)),
        "halo": f"{wide / 130:.3f}",
        "stop": f"{wide / 52:.3f}",
        "stopped": f"{wide / 26:.3f}",
        "letter": f"{wide / 40:.3f}",
        "below": f"{wide / 110:.3f}",
        "seam": f"{wide / 300:.3f}",
        "stops": [
            (number, letter, round(x, 2), round(y, 2)) for number, letter, x, y in part.stops
        ],
        "places": _dots((x, y) for _, _, x, y in part.stops),
        "exits": _dots(part.exits),
        "rolls": (round(part.top, 2), round(part.bottom, 2), round(left, 2), round(right, 2)),
    }


def _dots(spots: Iterable[tuple[float, float]]) -> str:
    """Path data of dots, all of one drawing as one path: lines of no length with round ends."""
    return " ".join(f"M{x:.2f},{y:.2f}h0" for x, y in spots)


def _framed(x: float, y: float, wide: float, tall: float, side: float) -> dict:
    """The frame of a drawing, and widths of its lines that look the same however large it is."""
    return {
        "box": f"{x:.2f} {y:.2f} {wide:.2f} {tall:.2f}",
        "ratio": tall / wide,
        "hair": f"{side / 600:.3f}",
        "thread": f"{side / 230:.3f}",
        "dash": f"{side / 70:.3f} {side / 100:.3f}",
        "dot": f"{side / 34:.3f}",
        "rim": f"{side / 17 + side / 600:.3f}",
        "core": f"{side / 17 - side / 600:.3f}",
        "ring": f"{side / 60 + side / 600:.3f}",
        "hole": f"{side / 60 - side / 600:.3f}",
        "blot": f"{side / 60:.3f}",
        "figure": f"{side / 26:.3f}",
        "drop": f"{side / 76:.3f}",
        "spot": f"{side / 120:.3f}",
    }


def _disc(x: float, y: float, radius: float) -> tuple[float, float, float, float]:
    return x - radius, y - radius, x + radius, y + radius


def _marked(marks: Sequence[Mark], side: float) -> dict:
    """Numbers where things begin; for all of them heads, in the direction in which one sets off, and dots."""
    return {
        "marks": [
            {"number": each.number, "x": round(each.x, 3), "y": round(each.y, 3)} for each in marks
        ],
        "heads": " ".join(_head(each, side) for each in marks),
        "dots": _dots((each.x, each.y) for each in marks),
    }


def _head(mark: Mark, side: float) -> str:
    long, wide = side / 22, side / 52
    x, y, dx, dy = mark.x, mark.y, mark.dx, mark.dy
    tip = (x + dx * long, y + dy * long)
    back = (tip[0] - dx * long * 0.5, tip[1] - dy * long * 0.5)
    return (
        f"M{tip[0]:.3f},{tip[1]:.3f} L{back[0] - dy * wide:.3f},{back[1] + dx * wide:.3f} "
        f"L{back[0] + dy * wide:.3f},{back[1] - dx * wide:.3f} Z"
    )
