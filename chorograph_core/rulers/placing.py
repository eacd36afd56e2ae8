"""Where the ruler lies while a line is stitched: beside it, one foot radius away."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from chorograph_core.measure import format_inches
from chorograph_core.rulers.fitting import Reach, edges_for, nearest_edge, s_edge_for
from chorograph_core.rulers.model import Edge, Ruler, straight_ruler
from chorograph_core.rulers.shapes import SHORT, Stretch, stretches_of, waves_in

__all__ = ["SHORT", "RulerPlacement", "count_placements", "placements_along"]


@dataclass(frozen=True)
class RulerPlacement:
    """One laying of a ruler.

    *ruler* is its key, *edge* the edge stitched along, *pose* where that edge lies on the quilt (n, 2),
    *stitched* the line from and to which one stitches beside it (n, 2): both two points for a straight
    edge. It is laid by two *references*: a position and a direction, never only one. *avoid* says what the
    hand must mind; *turned*: the quilt is turned half round first. *by_hand*: no owned edge fits, the line
    is drawn first and followed; *ruler* is then what comes nearest, or empty.
    """

    ruler: str
    edge: str
    pose: np.ndarray
    stitched: np.ndarray
    references: tuple[str, str]
    avoid: str = ""
    by_hand: bool = False
    turned: bool = False


def placements_along(
    line: np.ndarray, rulers: Ruler | Sequence[Ruler], foot_radius: float, position: str,
    direction: str = "",
) -> list[RulerPlacement]:  # fmt: skip
    """Lay *rulers* along each stretch of *line* (n, 2), as much at once as the edge is usable.

    Straight stretches by the straight ruler that takes fewest layings, arcs by the edge whose stitched
    radius fits. *position* is the reference that sets the distance; *direction* the other one for the
    first laying of a stretch. What follows goes on where the last one stopped.
    """
    owned = (rulers,) if isinstance(rulers, Ruler) else tuple(rulers)
    straight = straight_ruler(owned)
    curved = [e for ruler in owned for e in ruler.edges(foot_radius) if e.kind != "straight"]
    made: list[RulerPlacement] = []
    for wave in waves_in(stretches_of(line)):
        edge = s_edge_along(wave, curved)
        if edge is not None:
            made += _waved(line, wave, edge, owned, foot_radius, position, direction)
            continue
        for stretch in wave:
            if stretch.kind == "straight":
                made += _straight(line, stretch, straight, foot_radius, position, direction)
            else:
                made += _round(
                    line, stretch, owned, curved, straight, foot_radius, position, direction
                )
    return made


def s_edge_along(wave: Sequence[Stretch], edges: Sequence[Edge]) -> Edge | None:
    """The one of *edges* that stitches a *wave* as an S; a single arc, as one that was cut off a wave, only
    where no edge for arcs has its bend as nearly."""
    # By its longest arc: one that is cut at an end tells its radius less well.
    best = max(wave, key=lambda stretch: stretch.inches)
    if best.kind != "arc":
        return None
    found = s_edge_for(edges, best.radius, best.chord)
    if found is None or len(wave) > 1:
        return found
    arcs = edges_for(edges, best.radius, best.chord)
    nearly = [abs((edge.bend or math.inf) - best.radius) for edge in (found, *arcs)]
    return found if nearly[0] <= min(nearly) else None


def _waved(
    line, wave: list[Stretch], edge: Edge, owned, foot: float, position: str, direction: str
):
    """A wave by an S-edge, turned over where it does not go on."""
    points = line[wave[0].first : wave[-1].last + 1]
    inches = sum(stretch.inches for stretch in wave)
    count = max(1, math.ceil(inches / edge.along() - 1e-9))
    ruler = next(each for each in owned if each.key == edge.ruler)
    for number, part in enumerate(_parts(points, count)):
        towards = "the end mark where the last wave ended" if number or not direction else direction
        yield RulerPlacement(edge.ruler, edge.name, _beside(part, foot), part, (position, towards),
                             _tips(ruler))  # fmt: skip


def settled_sides(
    placements: Sequence[RulerPlacement], foot_radius: float, kind: str = "frame"
) -> list[RulerPlacement]:
    """The placements of a layout, each with its ruler on the side on which it can be read and held.

    A straight ruler lies towards the last line beside its own, since its etched line goes on that. On a
    sit-down machine (*kind*) no ruler lies behind the foot: a straight one is laid on the other side, by
    dots; for an arc, whose hollow side is where it is, the quilt is turned.
    """
    made: list[RulerPlacement] = []
    for laid in placements:
        if laid.by_hand or laid.edge != "straight edge":
            behind = kind == "sit-down" and not laid.by_hand and lies_behind(laid)
            made.append(replace(laid, turned=True) if behind else laid)
            continue
        last = next((p for p in reversed(made[-12:]) if _beside_it(p, laid)), None)
        if last is not None:
            towards = last.stitched.mean(axis=0) - laid.stitched.mean(axis=0)
            if float((laid.pose.mean(axis=0) - laid.stitched.mean(axis=0)) @ towards) < 0:
                laid = _on_the_other_side(laid)
        if kind == "sit-down" and lies_behind(laid):
            dots = "two dots on the line, the edge a foot's radius short of both"
            laid = replace(_on_the_other_side(laid), references=(dots, laid.references[1]))
        made.append(laid)
    return made


BEHIND = math.radians(25)
"""How far to either side of straight back the arm of a sit-down machine stands."""


def lies_behind(laid: RulerPlacement) -> bool:
    """Whether the ruler lies where the arm of a sit-down machine stands; up the sheet is back."""
    away = laid.pose.mean(axis=0) - laid.stitched.mean(axis=0)
    turn = math.atan2(float(away[0]), float(-away[1]))
    return abs(math.pi - abs(turn) if laid.turned else turn) < BEHIND


def _beside_it(one: RulerPlacement, two: RulerPlacement) -> bool:
    """Whether two straight layings are of lines side by side."""
    if one.edge != "straight edge":
        return False
    a, b = one.stitched[-1] - one.stitched[0], two.stitched[-1] - two.stitched[0]
    across = abs(float(a[0] * b[1] - a[1] * b[0]))
    if across > 0.03 * float(np.hypot(*a) * np.hypot(*b)):
        return False
    normal = np.array([-b[1], b[0]]) / max(float(np.hypot(*b)), 1e-12)
    return abs(float((one.stitched.mean(axis=0) - two.stitched.mean(axis=0)) @ normal)) > 0.02


def _on_the_other_side(laid: RulerPlacement) -> RulerPlacement:
    return replace(laid, pose=2 * laid.stitched - laid.pose)


def _straight(line, stretch: Stretch, ruler: Ruler, foot: float, position: str, direction: str):
    a, b = line[stretch.first], line[stretch.last]
    count = math.ceil(stretch.inches / ruler.usable - 1e-9)
    normal = np.array([b[1] - a[1], a[0] - b[0]]) / max(float(np.hypot(*(b - a))), 1e-12) * foot
    stops = [a + (b - a) * k / count for k in range(count + 1)]
    for number, (one, two) in enumerate(itertools.pairwise(stops)):
        towards = direction or "the foot against the seam at both ends"
        if number:
            towards = "the end mark where the last laying stopped"
        yield RulerPlacement(
            ruler.key, "straight edge", np.array([one + normal, two + normal]),
            np.array([one, two]), (position, towards), _tips(ruler),
        )  # fmt: skip


def _tips(ruler: Ruler) -> str:
    if not ruler.margin:
        return ""
    return f"the last {format_inches(ruler.margin)} at either end: the ruler tips there"


def _round(
    line, stretch: Stretch, owned, curved: list[Edge], straight: Ruler, foot: float,
    position: str, direction: str,
) -> list[RulerPlacement]:  # fmt: skip
    """An arc by the edge that stitches it, in equal parts; what no edge stitches, by hand along a mark."""
    points = line[stretch.first : stretch.last + 1]
    best = None
    if stretch.kind == "arc":
        chord = stretch.chord
        best = next(iter(edges_for(curved, stretch.radius, chord)), None)
        near = best or nearest_edge(curved, stretch.radius)
        along = best.along() if best else min(straight.usable, stretch.radius * math.pi / 2)
    else:
        near, along = None, straight.usable
    count = max(1, math.ceil(stretch.inches / along - 1e-9))
    by_key = {ruler.key: ruler for ruler in owned}
    made = []
    for number, part in enumerate(_parts(points, count)):
        towards = direction or "both ends of the edge on the dots"
        if number:
            towards = "the end mark where the last laying stopped"
        avoid = (
            _tips(by_key[best.ruler]) if best else "the line is drawn first and followed by hand"
        )
        side = 1.0
        if best is not None:
            # Beside an outer edge the ruler lies on the hollow side of the line, beside an inner one not.
            hollow = math.copysign(1.0, stretch.sweep)
            side = hollow if best.kind in ("convex", "outside") else -hollow
        made.append(RulerPlacement(
            near.ruler if near else "", near.name if near else "by hand", _beside(part, side * foot),
            part, (position, towards), avoid, best is None,
        ))  # fmt: skip
    return made


def _parts(points: np.ndarray, count: int) -> list[np.ndarray]:
    """A polyline in *count* parts of equal length."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    stops = at[-1] * np.arange(count + 1) / count
    made = []
    for one, two in itertools.pairwise(stops.tolist()):
        inner = at[(at > one + 1e-9) & (at < two - 1e-9)]
        where = np.array([one, *inner, two])
        made.append(np.column_stack([np.interp(where, at, points[:, k]) for k in (0, 1)]))
    return made


def _beside(points: np.ndarray, by: float) -> np.ndarray:
    """The line *by* inches to the left of a smooth one."""
    legs = np.diff(points, axis=0)
    legs = legs / np.maximum(np.hypot(*legs.T), 1e-12)[:, None]
    inner = legs[:-1] + legs[1:]
    along = np.vstack([legs[:1], inner / np.maximum(np.hypot(*inner.T), 1e-12)[:, None], legs[-1:]])
    return points + by * np.column_stack([-along[:, 1], along[:, 0]])


def count_placements(line: np.ndarray, reach: Reach | float) -> int:
    """Number of layings for *line*, without working out where each lies, whichever way it is gone; *reach* as
    a number is that of a straight ruler, with no other on the shelf."""
    reach = Reach(reach) if isinstance(reach, (int, float)) else reach
    if len(line) == 2:
        return _straight_layings(line, math.dist(*line.tolist()), reach)
    return _counted(line.tobytes(), reach) if line.dtype == float else _count(line, reach)


@lru_cache(maxsize=16384)
def _counted(points: bytes, reach: Reach) -> int:
    """Kept: the same lines are ruled in every plan of a quilt."""
    return _count(np.frombuffer(points).reshape(-1, 2), reach)


def _count(line: np.ndarray, reach: Reach) -> int:
    stretches = stretches_of(line)
    count = _layings(stretches, reach, line)
    if all(stretch.kind == "straight" for stretch in stretches):
        return count
    # Where a curve changes its bend slowly, it falls into other pieces from its other end.
    return min(count, _layings(stretches_of(line[::-1]), reach, line[::-1]))


def edge_named(line: np.ndarray, reach: Reach) -> str:
    """What the longest stretch of *line* is stitched along: an edge by its name, or by hand."""
    if len(line) == 2:
        return "straight edge"
    return _named(line.tobytes(), reach) if line.dtype == float else _edge_named(line, reach)


@lru_cache(maxsize=16384)
def _named(points: bytes, reach: Reach) -> str:
    return _edge_named(np.frombuffer(points).reshape(-1, 2), reach)


def _edge_named(line: np.ndarray, reach: Reach) -> str:
    wave = max(
        waves_in(stretches_of(line)), key=lambda group: sum(s.inches for s in group), default=[]
    )
    if not wave or wave[0].kind == "straight":
        return "straight edge"
    best = max(wave, key=lambda stretch: stretch.inches)
    if best.kind == "curve":
        return "by hand"
    if edge := s_edge_along(wave, reach.edges):
        return edge.name
    return next((edge.name for edge in edges_for(reach.edges, best.radius, best.chord)), "by hand")


ALONG = math.radians(0.5)
"""How far from the frame's own directions a line may lie that is stitched with the channel locked."""


def _locked(stretch: Stretch, line: np.ndarray) -> bool:
    """Whether a straight stretch lies along the frame or across it."""
    across, down = np.abs(line[stretch.last] - line[stretch.first])
    return bool(min(across, down) <= ALONG * max(across, down))


def _straight_layings(line: np.ndarray, inches: float, reach: Reach) -> int:
    """Layings for a *line* (2, 2): of most ruled lines there is nothing else to be found out."""
    if inches < SHORT:
        return 0
    ((x, y), (x_to, y_to)) = line.tolist()
    across, down = sorted((abs(x_to - x), abs(y_to - y)))
    return 1 if reach.lock and across <= ALONG * down else max(1, reach.layings(inches))


def _layings(stretches: list[Stretch], reach: Reach, line: np.ndarray) -> int:
    total = 0
    for wave in waves_in(stretches):
        if edge := s_edge_along(wave, reach.edges):
            inches = sum(stretch.inches for stretch in wave)
            total += max(1, math.ceil(inches / edge.along() - 1e-9))
            continue
        for stretch in wave:
            if stretch.kind == "arc":
                total += reach.around(stretch.radius, stretch.inches)
            elif reach.lock and stretch.kind == "straight" and _locked(stretch, line):
                total += 1
            else:
                total += max(1, reach.layings(stretch.inches))
    return total
