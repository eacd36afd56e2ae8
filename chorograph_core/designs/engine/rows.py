"""Rows across a zone by hand: one curve again and again, to and fro, turned round at the edge."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from shapely.geometry import Polygon

from chorograph_core.designs.contract import Linework, Run, Unit, size_of_hand
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import cut_to
from chorograph_core.designs.engine.strokes import finished, slack
from chorograph_core.designs.linking import link_along_edge
from chorograph_core.designs.settings import SettingError
from chorograph_core.designs.space import Space
from chorograph_core.measure import format_inches

MOST_ROWS = 1500
SHORTEST = 0.8
"""Shorter ends of rows are left out, in rows' distances."""

Curve = Callable[[np.ndarray, float, int], np.ndarray]
"""How far a row is off its place: from inches along (n,), its place across, and its number."""


def rows_in(
    part: Polygon, angle: float, apart: float, curve: Curve, reach: float, fine: float
) -> list[np.ndarray]:
    """Rows (n, 2) at *angle* radians, about *apart* inches from each other so that they come out even, cut to
    *part*. *curve* swings by *reach* inches at most; points lie *fine* inches apart.

    Raises `SettingError` where there would be thousands.
    """
    along, across, u, v = axes_at(part, angle)
    wide = float(np.ptp(v))
    if wide / apart > MOST_ROWS:
        words = f"Between rows: at {format_inches(apart, 16)} there would be thousands here."
        raise SettingError(words, "gap")
    count = max(1, round(wide / apart))
    step = wide / count
    beyond = math.ceil(reach / step)
    x = np.arange(u.min() - fine, u.max() + 2 * fine, fine)
    rows = []
    for j in range(-beyond, count + beyond):
        place = v.min() + step * (j + 0.5)
        y = place + curve(x - u.min(), place - v.min(), j)
        rows.append(x[:, None] * along + y[:, None] * across)
    return cut_to(rows, part, SHORTEST * step)


def to_and_fro(
    space: Space, margin: float, turned: float, relative: str, apart: float, curve: Curve, reach: float,
    name: str, soft: float, hand: float,
) -> Linework:  # fmt: skip
    """All rows of each part of a zone, as few lines as there can be, turned round at its edge; a
    row is a unit
    called *name*. *soft* is how far turns are eased; *hand* the inches by which a hand is told
    large or fine."""
    angle = base_angle(space, relative) + math.radians(turned)
    runs = []
    for part in space.inset(margin):
        lines = rows_in(part, angle, apart, curve, reach, min(0.1, apart / 3))
        for run in link_along_edge(lines, part, "medium", longest=14.0):
            made = finished(run.points, soft, part, over=slack(margin))
            if made is None:
                continue
            runs.append(Run(made, size_of_hand(hand), units=_units(run, made, name)))
    return Linework(tuple(runs))


def _units(run: Run, made: np.ndarray, name: str) -> tuple[Unit, ...]:
    ends = [run.points[span.stop] for span in run.spans if span.kind == "stitch"]
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(made, axis=0).T))])
    gone = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run.points, axis=0).T))])
    whole = gone[-1]
    found: list[Unit] = []
    for k, (end, span) in enumerate(
        zip(ends[:-1], [s for s in run.spans if s.kind == "stitch"][:-1], strict=True), 1
    ):
        # The eased line is a little shorter; the place is looked for about where it must be.
        guess = gone[span.stop] / whole * at[-1]
        near = np.abs(at - guess) < 0.06 * at[-1] + 0.3
        index = np.flatnonzero(near)
        if not len(index):
            continue
        stop = int(index[np.hypot(*(made[index] - end).T).argmin()])
        if 0 < stop < len(made) - 1 and (not found or stop > found[-1].stop):
            found.append(Unit(f"{name} {k}", stop))
    return (*found, Unit(f"{name} {len(ends)}", len(made) - 1)) if found else ()
