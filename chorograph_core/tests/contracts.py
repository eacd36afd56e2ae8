"""What every design must keep, as checks that return what is wrong."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry import Point, Polygon, box

from chorograph_core.designs import Design, Linework, Space
from chorograph_core.designs.contract import SPILL
from chorograph_core.designs.linework import TECHNIQUES
from chorograph_core.tests.shapes import UGLY, irregular_top

SUITS = 0.35
"""From this score the drawer says that a design will do."""
COVERED = 0.4
"""Share of the zone that must lie within one and a half spacings of a line: less is a design that
draws something, but does not fill. How well it fills is judged by `bench motifs`."""


def _wave(width: float, height: float, waves: int) -> Polygon:
    x = np.linspace(0, width, 80)
    y = 0.6 * np.sin(x / width * waves * 2 * np.pi)
    return Polygon(np.vstack([np.c_[x, y], np.c_[x, y + height][::-1]]))


def _star(points: int, outer: float, inner: float) -> Polygon:
    at = np.linspace(0, 2 * np.pi, 2 * points + 1)[:-1]
    radius = np.array([outer, inner] * points)
    return Polygon(np.c_[radius * np.cos(at), radius * np.sin(at)])


def _comb(teeth: int) -> Polygon:
    whole = box(0, 0, 2 * teeth, 5)
    return whole.difference(
        shapely.union_all([box(2 * k + 1, 1.5, 2 * k + 1.9, 5) for k in range(teeth)])
    )


def _spiral() -> Polygon:
    at = np.linspace(0, 4 * np.pi, 120)
    line = np.c_[(1 + 0.5 * at) * np.cos(at), (1 + 0.5 * at) * np.sin(at)]
    return shapely.linestrings(line).buffer(0.9, cap_style="flat")


def ugly_shapes() -> dict[str, Polygon]:
    """Forty shapes and more, none of them kind."""
    made = {
        **UGLY,
        "turned square": affinity.rotate(box(0, 0, 5, 5), 31),
        "turned strip": affinity.rotate(box(0, 0, 18, 2), 63),
        "long border": box(0, 0, 36, 5),
        "hair": box(0, 0, 40, 0.2),
        "speck": Polygon([(0, 0), (0.2, 0), (0, 0.2)]),
        "comb": _comb(5),
        "spiral": _spiral(),
        "wave": _wave(30, 3, 3),
        "plus": box(2, 0, 4, 6).union(box(0, 2, 6, 4)),
        "tee": box(0, 0, 9, 2).union(box(3.5, 0, 5.5, 8)),
        "ell": box(0, 0, 2, 10).union(box(0, 8, 10, 10)),
        "frame": box(0, 0, 12, 12).difference(box(2, 2, 10, 10)),
        "thin frame": box(0, 0, 20, 20).difference(box(0.6, 0.6, 19.4, 19.4)),
        "two holes": box(0, 0, 12, 6).difference(
            Point(3, 3).buffer(1.5).union(box(8, 2, 10, 4))
        ),
        "hole at the edge": box(0, 0, 8, 8).difference(Point(7.2, 4).buffer(0.75)),
        "ring": Point(0, 0).buffer(6).difference(Point(0, 0).buffer(4.5)),
        "disc": Point(3, 3).buffer(3),
        "half disc": Point(0, 0).buffer(5).intersection(box(-6, 0, 6, 6)),
        "crescent": Point(0, 0).buffer(5).difference(Point(2.2, 0).buffer(4.4)),
        "leaf": Point(0, 0).buffer(5).intersection(Point(6, 0).buffer(5)),
        "kite": Polygon([(0, 0), (3, 2), (0, 9), (-3, 2)]),
        "dart": Polygon([(0, 0), (4, -6), (0, -3), (-4, -6)]),
        "needle": Polygon([(0, 0), (24, 0.9), (0, 1.0)]),
        "hexagon": _star(3, 5, 5),
        "octagon": _star(4, 4, 4),
        "spiky": _star(12, 6, 3.2),
        "saw": Polygon([(0, 0), *[(k, 1.5 + (k % 2) * 2) for k in range(13)], (12, 0)]),
        "stairs": Polygon([(0, 0), (8, 0), (8, 2), (6, 2), (6, 4), (4, 4), (4, 6), (2, 6), (2, 8),
                           (0, 8)]),
        "bottle": box(0, 0, 4, 8).union(box(1.6, 8, 2.4, 12)),
        "dumbbell": box(0, 0, 4, 4).union(box(4, 1.7, 8, 2.3)).union(box(8, 0, 12, 4)),
        "many corners": Point(0, 0).buffer(4, quad_segs=120),
        "far away": affinity.translate(UGLY["bent"], 9000.0, -4000.0),
        "wedge": Polygon([(0, 0), (14, 1), (14, 2), (0, 5)]),
    }  # fmt: skip
    for number, patch in enumerate(irregular_top().patches[:4]):
        made[f"cell {number}"] = patch.polygon
    return made


SHAPES = ugly_shapes()


def wrong_with(drawing: Design, space: Space, settings, linework: Linework) -> list[str]:
    """What no drawing may be: empty lines, lines that are no numbers, that leave the zone, or whose
    spans do not add up."""
    faults = []
    room = space.polygon.buffer(SPILL + 1e-6)
    shapely.prepare(room)
    for run in linework.runs:
        if run.points.ndim != 2 or run.points.shape[1] != 2 or len(run.points) < 2:
            faults.append("a run of fewer than two points")
            continue
        if not np.isfinite(run.points).all():
            faults.append("points that are no numbers")
            continue
        if run.inches <= 0:
            faults.append("a run without length")
        if not room.covers(shapely.linestrings(run.points)):
            spots = shapely.points(run.points)
            far = shapely.distance(spots, space.polygon).max()
            faults.append(f"leaves its zone by {far:.3f}")
        if run.technique not in TECHNIQUES:
            faults.append(f"a technique nobody knows: {run.technique}")
        stops = [span.stop for span in run.spans]
        if run.spans and (stops != sorted(set(stops)) or stops[-1] != len(run.points) - 1):
            faults.append("spans that do not cover their run")
        units = [unit.stop for unit in run.units]
        if units != sorted(set(units)) or (units and units[-1] > len(run.points) - 1):
            faults.append("units out of order")
        if run.closed and np.hypot(*(run.points[0] - run.points[-1])) > 1e-6:
            faults.append("a ring that does not close")
    return faults


def broken_promise(drawing: Design, space: Space, settings, linework: Linework) -> str:
    """Where `fits` says that it will do, something that covers must be drawn; where it does not,
    there must be a reason."""
    fit = drawing.fits(space, settings)
    if not 0 <= fit.score <= 1:
        return f"a score of {fit.score}"
    if fit.score < SUITS:
        return "" if any(reason.strip() for reason in fit.reasons) else "declines without a reason"
    if not linework.runs:
        return f"says {fit.score:.2f} and draws nothing"
    spacing = drawing.spacing(space, settings)
    if drawing.role == "ditch" or spacing <= 0 or getattr(settings, "count", 0):
        return ""
    covered = share_covered(space, settings, linework, spacing)
    return "" if covered >= COVERED else f"says {fit.score:.2f} and covers {covered:.0%}"


def share_covered(space: Space, settings, linework: Linework, spacing: float) -> float:
    """Share of the zone inside its margin that lies within one and a half spacings of a line, by a lattice
    of a thousand spots or so."""
    lines = shapely.multilinestrings([shapely.linestrings(run.points) for run in linework.runs])
    inner = shapely.union_all(space.inset(getattr(settings, "margin", 0.0)))
    if inner.is_empty:
        return 1.0
    x0, y0, x1, y1 = inner.bounds
    step = max(float(np.sqrt((x1 - x0) * (y1 - y0) / 1000)), 1e-3)
    x, y = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    spots = np.column_stack([x.ravel(), y.ravel()])
    spots = spots[shapely.contains_xy(inner, spots)]
    if not len(spots):
        spots = np.array(inner.representative_point().coords)
    shapely.prepare(lines)
    near = shapely.dwithin(lines, shapely.points(spots), 1.5 * spacing)
    return float(near.mean())
