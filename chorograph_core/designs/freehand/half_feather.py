"""Half feather: plumes on one side of a seam that serves as the spine."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit, Linework, Run, Span, size_of_hand
from chorograph_core.designs.curves import bezier, tidy
from chorograph_core.designs.keeping import broken_where_it_leaves, pushed_back
from chorograph_core.designs.settings import (
    Settings,
    choice_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.designs.strip import Strip, strip_of


@dataclass(frozen=True)
class HalfFeatherSettings(Settings):
    """The plumes, and the seam they grow from."""

    pitch: float = length_setting("Plume width", 1.25, 0.375, 5.0, 0.125)
    lean: float = share_setting("Lean", 0.45, 0.0, 1.0, 0.05,
                        help="How far heads lie ahead of their foot, against the height.")  # fmt: skip
    spine: str = choice_setting(
        "Spine on", (("first", "the longer seam"), ("second", "the seam across"))
    )
    towards: str = choice_setting("Growing", (("forward", "one way"), ("back", "the other way")))
    margin: float = margin_setting()


class HalfFeather(Design[HalfFeatherSettings]):
    """Plumes lean towards the tip, start tangent to the spine, and have round heads."""

    key = "half_feather"
    name = "Half feather"
    family = "freehand"
    stroke = "plume out and round the head; back half the head; the next plume in to the spine"
    pointed = True
    crosses = True
    retraces = True
    settings_type = HalfFeatherSettings

    def fits(self, space, settings=None):
        """A plume must be taller than wide, and there must be a few of them."""
        s = self.clean(settings)
        parts = space.inset(s.margin)
        if not parts:
            return Fit(0.0, ("no room for a plume",))
        lane = strip_of(space, parts[0])
        plumes = lane.length / s.pitch
        tall = lane.mean_width / s.pitch
        reasons = [f"{plumes:.0f} plumes, {lane.mean_width:.1f}″ tall on average"]
        if tall < 0.9:
            return Fit(0.25, (*reasons, "plumes would be wider than tall"))
        if plumes < 3:
            return Fit(0.3, (*reasons, "fewer than three plumes read as a mistake"))
        return Fit(min(0.95, 0.5 + 0.02 * plumes), tuple(reasons))

    def spacing(self, space, settings=None):
        """As set."""
        return self.clean(settings).pitch

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One run from the first plume's foot to the tip; where the seam that is the spine leaves the
        zone (a comb, a star), one for each stretch of it."""
        s = self.clean(settings)
        runs = []
        for part in space.inset(s.margin):
            if part.area < s.pitch**2 * 0.5:
                continue
            run = _feather(_lane(strip_of(space, part), s), part, s)
            if run is not None:
                runs += broken_where_it_leaves(run, part)
        return Linework(tuple(runs))


def _lane(lane: Strip, s) -> Strip:
    """The strip with the spine as its left rail, growing the wanted way."""
    left = float(np.hypot(*np.diff(lane.left, axis=0).T).sum())
    right = float(np.hypot(*np.diff(lane.right, axis=0).T).sum())
    if (left < right - 1e-6) == (s.spine == "first"):
        lane = lane.flipped()
    if s.towards == "back":
        lane = lane.reversed().flipped()
    return lane


def _feather(lane: Strip, part, s) -> Run | None:
    plumes = _plumes(lane, part, s.pitch, s.lean)
    return _stroke(plumes, lane, size_of_hand(s.pitch)) if len(plumes) > 1 else None


def _plumes(lane: Strip, part, pitch: float, lean: float) -> list[np.ndarray]:
    """Each plume from its foot on the spine, out along its fore side and round its head.

    A head ends where it meets the fore side of the plume before it.
    """
    n = max(2, round(lane.length / pitch))
    step = lane.length / n
    found: list[np.ndarray] = []
    for k in range(n + 2):
        line = _plume(lane, k, n, step, lean)
        line = None if line is None else pushed_back(line, part)
        if line is None or len(line) < 8:
            continue
        if found:
            line = _until_met(line, found[-1])
        found.append(line)
    return found


def _plume(lane: Strip, k: int, n: int, step: float, lean: float) -> np.ndarray | None:
    # Feet begin behind the end so that leaning heads fill the corner there too.
    foot_s = (k - 0.85) * step
    height = lane.width(min(max(foot_s + step, 0), lane.length))
    head_s = foot_s + step * 0.5 + lean * min(height, 2.6 * step)
    radius = min(0.56 * step, 0.36 * height)
    if foot_s < 0:
        foot_s = 0.0
    if radius < 0.07 or foot_s > lane.length - 0.35 * step:
        return None
    limit = lane.length - radius * 0.9
    if head_s > limit:
        # The last plumes stand up as the space ends.
        head_s = limit
        if foot_s > head_s - 0.1 * step and k < n:
            foot_s = max(0.0, head_s - 0.1 * step)
        elif foot_s > head_s:
            return None
    height = lane.width(head_s)
    radius = min(radius, 0.36 * height)
    v = 1 - 2 * radius / max(height, 1e-6)
    centre = lane.at(head_s, v)
    foot = lane.at(foot_s, -1)
    along = _unit(lane.at(min(foot_s + 0.2, lane.length), -1) - lane.at(max(foot_s - 0.2, 0), -1))
    up = _unit(lane.at(head_s, 1) - lane.at(head_s, -1))
    ahead = np.array([up[1], -up[0]])
    if np.dot(ahead, along) < 0:
        ahead = -ahead
    shoulder = centre + ahead * radius
    reach = float(np.hypot(*(shoulder - foot)))
    fore = bezier(foot, foot + along * reach * 0.42, shoulder - up * reach * 0.42, shoulder, 18)
    # Round the head and on down its near side, until it meets the plume before.
    t = np.linspace(0, math.radians(215), 30)[1:]
    head = centre + radius * (np.outer(np.cos(t), ahead) + np.outer(np.sin(t), up))
    tail_from = head[-1]
    heading = _unit(head[-1] - head[-2])
    back = lane.at(max(foot_s - 0.9 * step, 0), -1)
    drop = float(np.hypot(*(back - tail_from)))
    tail = bezier(tail_from, tail_from + heading * drop * 0.4, back + along * drop * 0.3, back, 14)
    return np.vstack([fore, head, tail[1:]])


def _until_met(line: np.ndarray, before: np.ndarray) -> np.ndarray:
    """Cut *line* where it first touches *before*, coming round its own head."""
    own = shapely.linestrings(line)
    hit = own.intersection(shapely.linestrings(before))
    if hit.is_empty:
        return line
    spots = shapely.points(shapely.get_coordinates(hit))
    at = np.sort(shapely.line_locate_point(own, spots))
    head_from = float(np.hypot(*np.diff(line[:20], axis=0).T).sum())
    at = at[at > head_from]
    if not len(at):
        return line
    stop = float(at[0])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    keep = line[along < stop - 1e-9]
    end = shapely.get_coordinates(shapely.line_interpolate_point(own, stop))
    return np.vstack([keep, end])


def _stroke(plumes: list[np.ndarray], lane: Strip, technique: str) -> Run | None:
    """Put plumes in stitching order: out, back round half the head, the next one in, on the spine."""
    rail = shapely.linestrings(lane.left)
    points: list[np.ndarray] = []
    spans: list[Span] = []
    count = 0

    def add(piece: np.ndarray, kind: str, how: str) -> None:
        nonlocal count
        piece = tidy(piece)
        if points:
            if np.hypot(*(piece[0] - points[-1][-1])) < 1e-3:
                piece = piece[1:]
        if not len(piece):
            return
        points.append(piece)
        count += len(piece)
        spans.append(Span(count - 1, how, kind))

    add(plumes[0], "stitch", technique)
    k = 1
    while k < len(plumes):
        out = plumes[k]
        if shapely.distance(rail, shapely.points(points[-1][-1])) > 0.1:
            # The last plume ended out at a head: go back down it to the spine.
            add(plumes[k - 1][::-1], "retrace", "retrace")
        add(_along_spine(points[-1][-1], out[0], lane), "link", "ditch")
        add(out, "stitch", technique)
        following = plumes[k + 1] if k + 1 < len(plumes) else None
        back = _between(out, following[-1]) if following is not None else None
        if back is None or following is None:
            k += 1
            continue
        add(back, "retrace", "retrace")
        add(following[::-1], "stitch", technique)
        k += 2
    return Run(np.concatenate(points), technique, tuple(spans))


def _between(plume: np.ndarray, meeting: np.ndarray) -> np.ndarray | None:
    """From the end of *plume* back along it to the point *meeting*, if that lies on it."""
    line = shapely.linestrings(plume)
    spot = shapely.points(meeting)
    if shapely.distance(line, spot) > 0.02:
        return None
    stop = float(shapely.line_locate_point(line, spot))
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(plume, axis=0).T))])
    kept = plume[along > stop + 1e-9]
    return np.vstack([kept[::-1], meeting])


def _along_spine(start: np.ndarray, stop: np.ndarray, lane: Strip) -> np.ndarray:
    """Along the spine rail from *start* to *stop*."""
    rail = shapely.linestrings(lane.left)
    a, b = (float(shapely.line_locate_point(rail, shapely.points(p))) for p in (start, stop))
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(lane.left, axis=0).T))])
    inner = lane.left[(at > min(a, b) + 1e-6) & (at < max(a, b) - 1e-6)]
    return np.vstack([start, inner if a <= b else inner[::-1], stop])


def _unit(vector: np.ndarray) -> np.ndarray:
    return vector / max(float(np.hypot(*vector)), 1e-12)
