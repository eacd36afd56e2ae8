"""A motif as a page shows it: a stroke that can be followed, with the places where its units end."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from shapely.geometry import Point, Polygon, box

from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.curves import thin
from chorograph_core.designs.drawing import drawn_safely, fit_of
from chorograph_core.formats.drawing import outline_path
from studio.shelf.models import OwnMotif

STRIP, COMPACT = box(0, 0, 8, 2), box(0, 0, 6, 4.5)
SMALL_STRIP, SMALL = box(0, 0, 4.5, 1.2), box(0, 0, 3, 2.25)
HOLED, ROOMY = COMPACT.difference(Point(3, 2.25).buffer(0.9)), box(0, 0, 10, 7.5)
SEED = 3
"""Of several drawings of each motif the one that shows its stroke best."""
SUITS = 0.3
FINE = 0.004
PARTS = 8
PAD = 0.12


@dataclass(frozen=True)
class Followed:
    """A drawing: its view box, the zone, the path of each run in order, the units with how far along the
    line each ends (a share of all), its inches, whether it lies along a strip, and the points (n, 2) of its
    first run."""

    frame: str
    zone: Polygon
    outline: str
    path: str
    units: tuple[tuple[str, float, float, float], ...]
    inches: float
    strip: bool
    line: np.ndarray


def along_a_strip(design: Design) -> bool:
    """Whether it suits a strip better than a zone about as wide as long."""
    one, two = Space(STRIP), Space(COMPACT)
    return (fit_of(design, one, design.proposed(one)).score
            > fit_of(design, two, design.proposed(two)).score)  # fmt: skip


def followed(
    design: Design, given: Mapping[str, Any] | None = None, small: bool = False
) -> Followed:
    """A motif in a strip or in a compact zone, whatever suits it."""
    strip = along_a_strip(design)
    if strip:
        zones = [SMALL_STRIP, STRIP] if small else [STRIP]
    else:
        zones = [SMALL, COMPACT, HOLED, ROOMY] if small else [COMPACT, HOLED, ROOMY]
    for zone in zones:
        space = Space(zone)
        settings = design.clean({**vars(design.proposed(space)), **(given or {})})
        made, _ = drawn_safely(design, space, settings, SEED)
        if made.runs and fit_of(design, space, settings).score >= SUITS:
            break
    lines = [thin(run.points, FINE) for run in made.runs]
    inches = sum(run.inches for run in made.runs)
    units, gone = [], 0.0
    for run in made.runs:
        at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run.points, axis=0).T))])
        units += [(unit.name, (gone + float(at[unit.stop])) / max(inches, 1e-9),
                   float(run.points[unit.stop][0]), float(run.points[unit.stop][1]))
                  for unit in run.units]  # fmt: skip
        gone += float(at[-1])
    if not units and made.runs:
        units = _parts(made.runs[0].points)
    x0, y0, x1, y1 = zone.bounds
    frame = f"{x0 - PAD:.2f} {y0 - PAD:.2f} {x1 - x0 + 2 * PAD:.2f} {y1 - y0 + 2 * PAD:.2f}"
    path = " ".join("M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in line) for line in lines)
    first = lines[0] if lines else np.zeros((0, 2))
    return Followed(frame, zone, outline_path(zone, 3), path, tuple(units), inches, strip, first)


def _parts(points: np.ndarray) -> list[tuple[str, float, float, float]]:
    """What wanders without an end to a unit is followed in even parts."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    stops = [int(np.searchsorted(at, at[-1] * k / PARTS)) for k in range(1, PARTS)] + [
        len(points) - 1
    ]
    return [(f"part {k}", k / PARTS, float(points[stop][0]), float(points[stop][1]))
            for k, stop in enumerate(stops, 1)]  # fmt: skip


def motif_named(key: str, studio) -> tuple[Design, dict[str, Any], str] | None:
    """The design, its settings and the name of a motif: one of those that ship, or ``own-`` and a number."""
    if key.startswith("own-"):
        found = (
            OwnMotif.objects.filter(studio=studio, pk=key[4:]).first()
            if key[4:].isdigit()
            else None
        )
        if found is None:
            return None
        return designs()[found.designs[0]], {"stroke": found.stroke}, found.name
    design = designs().get(key)
    if design is None or design.family != "freehand" or design.own:
        return None
    return design, {}, design.name


def all_motifs() -> list[Design]:
    """Those that ship, by name."""
    return [each for each in designs().values() if each.family == "freehand" and not each.own]
