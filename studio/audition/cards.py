"""Stroke cards: a motif true to size at three sizes, lying, standing, slanting, its units numbered
in the order in which a hand makes them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from shapely import affinity
from shapely.geometry import Polygon, box

from chorograph_core.designs import Design, Space
from chorograph_core.designs.drawing import drawn_safely, fit_of
from chorograph_core.formats.drawing import outline_path
from studio.workbench.linework import path_of

SUITS = 0.35
STRIPS = (
    ("lying, small", box(0, 0, 6.5, 1.0)), ("lying, middle", box(0, 0, 6.5, 1.5)),
    ("lying, large", box(0, 0, 6.5, 2.25)),
    ("standing", box(0, 0, 1.5, 4.5)),
    ("slanting", Polygon([(0, 1.6), (4.6, 0), (4.6, 1.4), (0, 3.0)])),
)  # fmt: skip
COMPACT = (
    ("small", box(0, 0, 2.5, 2.5)), ("middle", box(0, 0, 4.0, 4.0)), ("large", box(0, 0, 6.5, 5.0)),
    ("a triangle", Polygon([(0, 0), (4.5, 0), (0, 4.5)])),
    ("on its point", affinity.rotate(box(0, 0, 3, 3), 45)),
)  # fmt: skip
NUMBERED = 24
"""Units that are numbered: who has made so many knows the stroke."""
ROOM = 0.22
"""Inches that a number takes."""


@dataclass(frozen=True)
class Panel:
    """One drawing of a card: what it shows, its view box, its size in inches, the zone, the line,
    where it begins and ends, and the numbered places where units end."""

    name: str
    frame: str
    size: tuple[float, float]
    zone: str
    path: str
    ends: tuple[tuple[float, float], tuple[float, float]]
    numbers: tuple[tuple[float, float, int], ...]


def panels(design: Design) -> list[Panel]:
    """The drawings of a card: of a motif for strips in strips, of any other in zones as wide as long."""
    first = fit_of(design, Space(STRIPS[1][1]), design.proposed(Space(STRIPS[1][1]))).score
    second = fit_of(design, Space(COMPACT[1][1]), design.proposed(Space(COMPACT[1][1]))).score
    found = []
    for name, shape in STRIPS if first > second else COMPACT:
        space = Space(shape)
        settings = design.proposed(space)
        work, _ = drawn_safely(design, space, settings, 1)
        if not work.runs or fit_of(design, space, settings).score < SUITS:
            continue
        x0, y0, x1, y1 = shape.bounds
        frame = f"{x0 - 0.1:.2f} {y0 - 0.1:.2f} {x1 - x0 + 0.2:.2f} {y1 - y0 + 0.2:.2f}"
        run = work.runs[0]
        ends = tuple((float(x), float(y)) for x, y in run.points[[0, -1]])
        numbers = tuple(
            (float(run.points[unit.stop][0]), float(run.points[unit.stop][1]), k)
            for k, unit in enumerate(run.units[:NUMBERED], 1)
        )
        found.append(Panel(name, frame, (x1 - x0 + 0.2, y1 - y0 + 0.2), outline_path(shape, 3),
                           path_of(work, 0.003), (ends[0], ends[1]), _apart(numbers, ends)))  # fmt: skip
    return found


def _apart(
    numbers: tuple[tuple[float, float, int], ...], ends: tuple[tuple[float, float], ...]
) -> tuple[tuple[float, float, int], ...]:
    """Numbers that would lie on each other, or on the marks at the *ends*, are left out."""
    kept: list[tuple[float, float, int]] = []
    for x, y, k in numbers:
        taken = [*ends, *((a, b) for a, b, _ in kept)]
        if all(math.hypot(x - a, y - b) > ROOM for a, b in taken):
            kept.append((x, y, k))
    return tuple(kept)
