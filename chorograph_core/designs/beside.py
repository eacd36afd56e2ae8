"""Going back over one's own line: exactly on it, or beside it like a ribbon, as the studio's habit is.

Designs draw what they retrace on the line. For a hand that goes back beside it those stretches are moved
aside by a little more than a thread, and stitched at the pace of the stroke they follow: nobody has to hit a
line. They begin and end where they did, so that the stroke stays whole.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.curves import resample
from chorograph_core.designs.legend import Figure, LayerLinework
from chorograph_core.designs.linework import RULED, Linework, Run, Span

ASIDE = 1 / 16
"""Inches between the line and the way back: a ribbon, not a second line."""
SHORTEST = 8 * ASIDE
"""Inches of way back below which it stays on the line: a tip, half a pearl."""
EASE = 0.45
"""Inches over which it leaves the line and comes back to it, or a third of the way."""
STEP = 0.03


def beside(linework: Linework, room: BaseGeometry, mirrored: bool = False) -> Linework:
    """*linework* with its ways back moved aside, those that would leave *room* left where they are.
    *mirrored*: it is a mirror image of what was drawn, and so are its ribbons."""
    shapely.prepare(room)
    side = -1.0 if mirrored else 1.0
    return replace(linework, runs=tuple(_ribboned(run, room, side) for run in linework.runs))


def _ribboned(run: Run, room: BaseGeometry, side: float) -> Run:
    if run.technique in RULED or not any(_on_itself(span) for span in run.spans):
        # A ruler left in place goes back exactly.
        return run
    old = np.asarray(run.points, float)
    made, spans = [old[:1]], list[Span]()
    # Where each point of the run is afterwards, since a way back that was moved has more of them.
    now = np.zeros(len(old), int)
    start = count = 0
    pace = run.technique
    for span in run.spans:
        piece = old[start : span.stop + 1]
        moved = None
        if _on_itself(span):
            moved = _aside(piece, side, room)
        elif span.kind == "stitch":
            pace = span.technique
        new = piece if moved is None else moved
        steps = len(new) - 1
        shares = np.linspace(0, steps, len(piece)) if moved is None else steps * _shares(piece)
        now[start : span.stop + 1] = count + np.round(shares).astype(int)
        made.append(new[1:])
        count += steps
        # Beside the line it lies on nothing: it is stitching like the rest of the stroke.
        meant = span if moved is None else replace(span, kind="stitch", technique=pace)
        spans.append(replace(meant, stop=count))
        start = span.stop
    units = tuple(replace(unit, stop=int(now[unit.stop])) for unit in run.units)
    return replace(run, points=np.concatenate(made), spans=tuple(spans), units=units)


def _on_itself(span: Span) -> bool:
    return span.kind == "retrace" and span.technique == "retrace"


def _shares(points: np.ndarray) -> np.ndarray:
    """How far along a polyline each of its points lies, as shares of all."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return along / max(along[-1], 1e-9)


def _aside(points: np.ndarray, side: float, room: BaseGeometry) -> np.ndarray | None:
    """A way back moved to the left of how it runs (to the right: *side* -1), else to the other side; None
    where it is too short, or would cross itself or leave *room* on both."""
    whole = float(np.hypot(*np.diff(points, axis=0).T).sum())
    if whole < SHORTEST:
        return None
    even = resample(points, STEP)
    even[0], even[-1] = points[0], points[-1]
    way = np.gradient(even, axis=0)
    length = np.hypot(*way.T)
    if len(even) < 6 or not (length > 1e-9).all():
        return None
    left = np.column_stack([way[:, 1], -way[:, 0]]) / length[:, None]
    along = _shares(even) * whole
    ease = np.clip(np.minimum(along, whole - along) / min(EASE, whole / 3), 0, 1)
    off = (ASIDE * ease * ease * (3 - 2 * ease))[:, None]
    for way_off in (side, -side):
        moved = even + way_off * left * off
        line = shapely.linestrings(moved)
        if line.is_simple and room.covers(line):
            return moved
    return None


def all_beside(drawn: list[LayerLinework], rooms: dict[str, BaseGeometry]) -> list[LayerLinework]:
    """The linework of many zones so, each within its own of *rooms*; figures over many zones as one."""
    figures: dict[str, Figure] = {}
    made = []
    for one in drawn:
        figure = one.figure
        if figure is not None:
            name = f"{figure.key}/{one.layer}"
            if name not in figures:
                moved = beside(figure.linework, figure.space.polygon)
                figures[name] = replace(figure, linework=moved)
            figure = figures[name]
        turned = one.placement is not None and one.placement.mirrored
        moved = beside(one.linework, rooms[one.zone], turned)
        made.append(replace(one, linework=moved, figure=figure))
    return made
