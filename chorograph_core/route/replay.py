"""Replay a route as a needle would, and list every fault.

Shares nothing with the planner and trusts nothing of it: it is given linework that was drawn anew from
the document, the chart, the policy and the steps. Checked: every run is stitched exactly once, as it was
drawn or, where a design may be drawn again between other doorways, by rules of its own (the zone filled
as the first drawing filled it, begun and ended at doorways); every ditch exactly once; the needle never
jumps without a cut; ditches come before fillings and outer layers before inner ones, where the policy
asks for it; hidden travel really lies in a seam, edge travel on the edge; no step leaves the top or
touches a forbidden zone; every stitch is in its own thread; rulers are laid as often as the lines need,
and inches, seconds and thread add up.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import STRtree

from chorograph_core.chart.seams import seam_names
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.registry import designs

NEAR = 0.03
"""Inches within which two places are the same when a route is replayed."""
AT_DOOR = 0.05
"""Inches within which a line that was drawn again must begin and end at a doorway."""
INCHES, GAP = 0.15, 1.1
"""How much the inches of a line that was drawn again may differ, and how many times wider its largest
gap may be, than those of the first drawing."""


def replay(
    chart, zones, asked: Sequence[LayerLinework], policy, steps, machine=None,
    done: frozenset[str] = frozenset(), threaded: str = "", passes=(),
) -> list[str]:  # fmt: skip
    """Return the faults of *steps*, each a sentence; an empty list when the route is clean.

    *asked* is the linework of the document; *steps* are objects with kind, points (n, 2), inches,
    thread, zone, run, how, reach, station and path. What *done* names was stitched before and may not
    come again; *threaded* is in the needle as they begin. With *machine* the sums are checked too, and
    that the *passes* (number, top, bottom) are no deeper than it reaches.
    """
    faults: list[str] = []
    runs = {}
    for one in asked:
        for number, run in enumerate(one.linework.runs):
            if one.key(number) not in done:
                runs[one.key(number)] = (one, run)
    faults += _needle(steps, threaded)
    shapes = {zone.id: zone.polygon for zone in zones}
    faults += _reach(chart, passes, machine, steps)
    faults += _paths(steps)
    faults += _runs(runs, shapes, policy, steps, passes)
    faults += _ditches(chart, asked, steps, done)
    faults += _sequence(runs, policy, steps)
    outlined = {one.zone for one in asked if any(run.in_ditch for run in one.linework.runs)}
    faults += _places(chart, zones, outlined, policy, steps)
    if machine is not None:
        faults += _sums(runs, machine, steps)
    return faults


def _inches(points) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum()) if len(points) > 1 else 0.0


def _needle(steps, thread: str) -> list[str]:
    """Continuity: down at a start, no jumps, up at a tie-off, the right thread in the needle."""
    faults, position, down = [], None, False
    for number, step in enumerate(steps, 1):
        if step.kind == "thread":
            if down:
                faults.append(f"step {number}: the thread is changed without a cut")
            thread = step.thread
        elif step.kind == "start":
            if down:
                faults.append(f"step {number}: starts while already stitching")
            down, position = True, step.points[-1]
        elif step.kind in ("stitch", "travel"):
            if not down:
                faults.append(f"step {number}: moves without a start")
            elif np.hypot(*(step.points[0] - position)) > NEAR:
                gone = np.hypot(*(step.points[0] - position))
                faults.append(f"step {number}: the needle jumps {gone:.2f} inches without a cut")
            if step.thread != thread:
                faults.append(f"step {number}: is in {step.thread}, but {thread} is threaded")
            if abs(step.inches - _inches(step.points)) > 0.01 + 0.001 * step.inches:
                faults.append(f"step {number}: says {step.inches:.2f} inches, but is not so long")
            position, down = step.points[-1], True
        elif step.kind == "tie_off":
            if not down:
                faults.append(f"step {number}: cuts where nothing was stitched")
            down = False
    if down:
        faults.append("the last thread is never tied off")
    return faults


DEEPER = 0.01
"""Inches that a pass may be deeper than the machine reaches: figures are rounded."""


def _reach(chart, passes, machine, steps) -> list[str]:
    """Nothing is stitched out of reach; the quilt is rolled where the steps say, and the needle is
    where it still can be reached, or the thread is cut."""
    faults: list[str] = []
    windows = {each.number: each for each in passes}
    if not windows:
        return faults
    rolls = machine is not None and machine.kind == "frame"
    if rolls:
        first = chart.outline.bounds[1]
        for each in windows.values():
            depth = _depth(machine, each.top - first)
            if len(windows) > 1 and each.bottom - each.top > depth + DEEPER:
                faults.append(
                    f"pass {each.number} is {each.bottom - each.top:.2f} deep, {depth:.2f} is reached"
                )
    lies = next((step.reach for step in steps), 1)
    position, down = np.zeros(2), False
    for number, step in enumerate(steps, 1):
        if step.kind == "roll":
            if step.count != abs(step.reach - lies):
                faults.append(
                    f"step {number}: rolls {step.count} times from pass {lies} to {step.reach}"
                )
            if (
                machine is not None
                and abs(step.seconds - step.count * machine.rates.advance) > 0.01
            ):
                faults.append(f"step {number}: says {step.seconds:.0f} seconds for the rolling")
            lies = step.reach
            window = windows.get(lies)
            if down and window and not window.top - NEAR <= position[1] <= window.bottom + NEAR:
                faults.append(f"step {number}: rolls the needle out of reach without a cut")
            continue
        if step.reach != lies:
            faults.append(f"step {number}: is in pass {step.reach}, the quilt lies at pass {lies}")
            lies = step.reach
        down = step.kind in ("start", "stitch", "travel") or (down and step.kind != "tie_off")
        if not len(step.points):
            continue
        position = step.points[-1]
        window = windows.get(lies)
        low, high = step.points[:, 1].min(), step.points[:, 1].max()
        if window is None or low < window.top - NEAR or high > window.bottom + NEAR:
            faults.append(f"step {number}: lies out of reach in pass {lies}")
    return faults


def _depth(machine, rolled: float) -> float:
    """What of the throat is left beside the roll: the rolled quilt, cloth and batting, is a ring round
    the bar whose area is its length times its thickness."""
    thick = machine.loft + 0.03
    across = 2 * np.sqrt((machine.take_up / 2) ** 2 + max(rolled, 0.0) * thick / np.pi)
    left = machine.throat - across - machine.clearance - 2.0 * machine.ruler_base
    return float(left / 2 if machine.seated else left)


SISTERS = 0.15
"""Inches by which stitching in one station may lie elsewhere than in another on the same path."""


def _paths(steps) -> list[str]:
    """Stations on one path are stitched alike: one after the other the same lines, turned or mirrored,
    forwards or backwards. A path that is a single run only says which strips have one design."""
    visits: dict[str, list[tuple[str, list, int]]] = defaultdict(list)
    for number, step in enumerate(steps, 1):
        if step.kind == "path" and step.station:
            visits[step.path].append((step.station, [], number))
        elif step.kind in ("stitch", "travel") and step.station and visits.get(step.path):
            visits[step.path][-1][1].append(step)
    faults = []
    for path, found in visits.items():
        lines = [
            (station, _drawn_through(parts), number)
            for station, parts, number in found
            if any(step.seams for step in parts) or len({step.run for step in parts} - {""}) > 1
        ]
        for station, line, number in lines[1:]:
            if not _sisters(lines[0][1], line):
                faults.append(f"step {number}: {station} is not stitched by path {path}")
    return faults


def _drawn_through(parts) -> np.ndarray:
    """The line of a visit: through ditches with all travel, since backwards the other of two times is
    the first; of every run where it begins, its middle, its end, since a ring may be gone either way
    round and the way to the next may begin at another door."""
    made: list[np.ndarray] = []
    runs: list[tuple[str, list]] = []
    seams = any(step.seams for step in parts)
    for step in parts:
        if seams:
            runs.append(("", [step.points]))
        elif step.kind == "travel" and not step.run:
            continue
        elif runs and runs[-1][0] == step.run:
            runs[-1][1].append(step.points)
        else:
            runs.append((step.run, [step.points]))
    for name, points in runs:
        line = np.concatenate(points)
        if name:
            line = np.array([line[0], (line.min(axis=0) + line.max(axis=0)) / 2, line[-1]])
        made.append(line)
    return np.concatenate(made)


def _sisters(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether one line is the other turned by quarters or mirrored, gone either way."""
    a, b = _even(one), _even(other)
    a, b = a - (a.min(axis=0) + a.max(axis=0)) / 2, b - (b.min(axis=0) + b.max(axis=0)) / 2
    for x, y in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
        for turned in (a * (x, y), a[:, ::-1] * (x, y)):
            for way in (b, b[::-1]):
                if np.abs(turned - way).max() < SISTERS:
                    return True
    return False


def _even(line: np.ndarray) -> np.ndarray:
    """Points (400, 2) along a line; what is jumped over between its parts counts as line."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0, along[-1], 400)
    return np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])


def _runs(asked, shapes, policy, steps, passes) -> list[str]:
    """Every run once, in one go where the policy asks for it and a pass holds it, as it was drawn."""
    faults = []
    found: dict[str, list] = defaultdict(list)
    last_run, closed_runs = "", set()
    for number, step in enumerate(steps, 1):
        if step.kind not in ("stitch", "travel"):
            continue
        if step.run.startswith("ditch:"):
            last_run = ""
            continue
        if step.run and step.run != last_run:
            again = step.run in closed_runs and policy.whole_runs
            if again and step.run in asked and _held(asked[step.run][1], passes):
                faults.append(f"step {number}: {step.run} is stitched a second time")
            closed_runs.add(step.run)
        if step.run:
            found[step.run].append(step)
        last_run = step.run
    for key, (one, run) in asked.items():
        if run.in_ditch or len(run.points) < 2:
            continue
        parts = found.pop(key, None)
        if not parts:
            faults.append(f"{key} is never stitched")
            continue
        if {step.thread for step in parts} != {one.thread}:
            faults.append(f"{key} is stitched in the wrong thread")
        if not _held(run, passes):
            if not _same_in_parts([step.points for step in parts], run):
                faults.append(f"{key} is not stitched as it was drawn")
            continue
        line = np.concatenate([step.points for step in parts])
        if _same_line(line, run):
            continue
        fault = _drawn_again(one, run, parts, shapes.get(one.zone))
        if fault:
            faults.append(f"{key} {fault}")
    faults += [f"{key} is stitched but was never asked for" for key in found]
    return faults


def _held(run, passes) -> bool:
    """Whether a pass holds all of a run: one that none holds is stitched in parts."""
    low, high = run.points[:, 1].min(), run.points[:, 1].max()
    return not passes or any(
        each.top - NEAR <= low and high <= each.bottom + NEAR for each in passes
    )


def _same_in_parts(parts, run) -> bool:
    """All of the drawn line, nothing of it twice, and nothing else, in whatever order."""
    drawn = shapely.linestrings(run.points)
    made = shapely.multilinestrings([shapely.linestrings(p) for p in parts if len(p) > 1])
    if abs(made.length - drawn.length) > NEAR + 1e-4 * drawn.length:
        return False
    return bool(shapely.hausdorff_distance(shapely.segmentize(made, 0.25),
                                           shapely.segmentize(drawn, 0.25)) < 0.2)  # fmt: skip


def _drawn_again(one: LayerLinework, run, parts, shape) -> str:
    """What is wrong with a line that is not the drawn one; empty if it may stand in its place."""
    doors = np.empty((0, 2))
    if one.pattern is not None and one.placement is not None and len(one.linework.runs) == 1:
        doors = one.placement.apply(designs()[one.design].doors(one.pattern, one.settings))
    if len(doors) < 2 or shape is None:
        return "is not stitched as it was drawn"
    line = np.concatenate([step.points for step in parts])
    for end, word in ((line[0], "begins"), (line[-1], "ends")):
        if np.hypot(*(doors - end).T).min() > AT_DOOR:
            return f"{word} where the design has no doorway"
    lines = [step.points for step in parts if step.kind == "stitch"]
    if not shapely.covers(shape.buffer(NEAR), shapely.linestrings(line)):
        return "was drawn again and leaves its zone"
    first = [points for points, _, kind in run.pieces() if kind == "stitch"]
    was, now = (sum(_inches(each) for each in them) for them in (first, lines))
    if abs(now - was) > INCHES * was:
        return f"was drawn again with {now:.1f} inches in place of {was:.1f}"
    wide, before = _widest_gap(shape, lines), _widest_gap(shape, first)
    if wide > before * GAP:
        return f"was drawn again and leaves a gap of {wide:.2f} where {before:.2f} was widest"
    return ""


def _widest_gap(shape, lines) -> float:
    """Diameter of the largest circle in *shape* that touches neither its edge nor a stitch.

    The distances are taken on a lattice; a place between its points lies at most half a diagonal
    further off, which is the same for both drawings.
    """
    x0, y0, x1, y1 = shape.bounds
    step = max(1 / 32, float(np.sqrt((x1 - x0) * (y1 - y0) / 40_000)))
    xs, ys = np.meshgrid(np.arange(x0 + step / 2, x1, step), np.arange(y0 + step / 2, y1, step))
    inside = shapely.contains_xy(shape, xs.ravel(), ys.ravel())
    spots = np.column_stack([xs.ravel()[inside], ys.ravel()[inside]])
    if not len(spots):
        return 0.0
    dense = shapely.segmentize([shapely.linestrings(line) for line in lines if len(line) > 1], 0.1)
    reach = cKDTree(shapely.get_coordinates(dense)).query(spots)[0]
    return float(
        2 * np.minimum(reach, shapely.distance(shape.boundary, shapely.points(spots))).max()
    )


def _same_line(line, run) -> bool:
    """The same points in the same order, backwards where allowed, from anywhere on a ring."""
    drawn = np.asarray(run.points)
    if abs(_inches(line) - _inches(drawn)) > NEAR:
        return False
    if shapely.hausdorff_distance(shapely.linestrings(line), shapely.linestrings(drawn)) > NEAR:
        return False
    ends = line[[0, -1]]
    if run.closed:
        return bool(np.hypot(*(ends[0] - ends[1])) < NEAR)
    forward = np.abs(ends - drawn[[0, -1]]).max() < NEAR
    return bool(forward or (run.reversible and np.abs(ends - drawn[[-1, 0]]).max() < NEAR))


def _ditches(chart, drawn, steps, done) -> list[str]:
    """All that was asked to be stitched in the ditch is, and nothing of it twice."""
    lines = [
        shapely.linestrings(run.points)
        for one in drawn
        for run in one.linework.runs
        if run.in_ditch
    ]
    made = [s for s in steps if s.kind == "stitch" and s.run.startswith("ditch:")]
    again = {seam for step in made for seam in getattr(step, "seams", ())} & done
    if again:
        return [f"{seam} is stitched in the ditch a second time" for seam in sorted(again)]
    if not lines:
        return ["a ditch is stitched that nobody asked for"] if made else []
    wanted = shapely.union_all(lines, grid_size=1e-4)
    if done:
        wanted = _not_done(chart, wanted, done)
    stitched = shapely.linestrings(next(s.points for s in made)) if len(made) == 1 else (
        shapely.union_all([shapely.linestrings(s.points) for s in made], grid_size=1e-4)
        if made else shapely.from_wkt("LINESTRING EMPTY"))  # fmt: skip
    faults = []
    left = _uncovered(wanted, stitched)
    if left > 0.1:
        faults.append(f"{left:.1f} inches of ditch are never stitched")
    extra = _uncovered(stitched, wanted)
    if extra > 0.1:
        faults.append(f"{extra:.1f} inches are stitched as ditches that nobody asked for")
    twice = sum(s.inches for s in made) - stitched.length
    if twice > 0.1 + 1e-4 * stitched.length:
        faults.append(f"{twice:.1f} inches of ditch are stitched twice over")
    return faults


def _not_done(chart, wanted, done):
    """What of the *wanted* ditches lies in no seam that was done before."""
    coords, owner = shapely.get_coordinates(shapely.get_parts(wanted), return_index=True)
    within = owner[1:] == owner[:-1]
    legs = np.stack([coords[:-1][within], coords[1:][within]], axis=1)
    left = [
        leg for leg, name in zip(legs, seam_names(chart, legs), strict=True) if name not in done
    ]
    if not left:
        return shapely.from_wkt("LINESTRING EMPTY")
    return shapely.union_all(shapely.linestrings(left), grid_size=1e-4)


def _uncovered(wanted, made) -> float:
    """Inches of *wanted* further than `NEAR` from *made*, sampled every quarter inch."""
    if wanted.is_empty:
        return 0.0
    parts = shapely.get_parts(wanted)
    parts = parts[shapely.length(parts) > 1e-9]
    spots: list[np.ndarray] = []
    weights: list[np.ndarray] = []
    for part, inches in zip(parts, shapely.length(parts), strict=True):
        count = max(1, int(np.ceil(inches / 0.25)))
        at = (np.arange(count) + 0.5) * inches / count
        spots.append(shapely.line_interpolate_point(part, at))
        weights.append(np.full(count, inches / count))
    where = np.concatenate(spots)
    near = STRtree(shapely.get_parts(made)).query(where, predicate="dwithin", distance=NEAR)[0]
    bare = np.ones(len(where), bool)
    bare[near] = False
    return float(np.concatenate(weights)[bare].sum())


def _sequence(asked, policy, steps) -> list[str]:
    """Stabilise before filling; outer layers of a zone before its inner ones."""
    faults = []
    fills = [
        i for i, s in enumerate(steps) if s.kind == "stitch" and not s.run.startswith("ditch:")
    ]
    ditches = [i for i, s in enumerate(steps) if s.kind == "stitch" and s.run.startswith("ditch:")]
    if policy.stabilise == "quilt" and fills and ditches and fills[0] < ditches[-1]:
        faults.append(f"step {fills[0] + 1}: fills before all ditches are stitched")
    if policy.stabilise == "pass":
        for reach in {steps[i].reach for i in ditches}:
            filled = [i for i in fills if steps[i].reach == reach]
            if filled and filled[0] < max(i for i in ditches if steps[i].reach == reach):
                faults.append(f"step {filled[0] + 1}: fills before the ditches of pass {reach}")
    deepest: dict[tuple[str, str], int] = {}
    for i in fills:
        if steps[i].run not in asked:
            continue
        one, _ = asked[steps[i].run]
        key = (one.zone, one.thread)
        if one.layer < deepest.get(key, -1):
            faults.append(f"step {i + 1}: {one.zone} is framed after it was filled")
        deepest[key] = max(one.layer, deepest.get(key, -1))
    return faults


def _places(chart, zones, outlined, policy, steps) -> list[str]:
    """Travel lies where it says, nothing leaves the top, nothing touches a forbidden zone."""
    faults: list[str] = []
    moving = [(i, s) for i, s in enumerate(steps, 1) if s.kind in ("stitch", "travel")]
    if not moving:
        return faults
    lines = np.array([shapely.linestrings(s.points) for _, s in moving])
    top = chart.outline.buffer(NEAR)
    shapely.prepare(top)
    for k in np.flatnonzero(~shapely.covers(top, lines)).tolist():
        faults.append(f"step {moving[k][0]}: leaves the top")
    edges = [patch.polygon.boundary for patch in chart.patches]
    # Where a zone was cut there is no seam; its edge hides travel only if it is stitched itself.
    edges += [zone.polygon.boundary for zone in zones if zone.id in outlined]
    faults += _on(moving, lines, "ditch", shapely.get_parts(edges), "a seam")
    border = chart.outline.boundary
    faults += _on(moving, lines, "edge", np.array([border]), "the raw edge")
    if policy.edge_finish != "binding":
        inner = chart.outline.buffer(-NEAR).buffer(-NEAR)
        for k, (number, step) in enumerate(moving):
            if step.how == "edge" and not inner.covers(lines[k]):
                faults.append(f"step {number}: runs along the raw edge, which the finish forbids")
    faults += _banned(chart, zones, policy, moving, lines)
    return faults


MOST_IN_APPLIQUE = 0.75
"""Inches of stitching a square inch where the client allows a few holding lines."""


def _banned(chart, zones, policy, moving, lines) -> list[str]:
    """Nothing inside a forbidden zone; in appliqué no more than the client allows."""
    faults = []
    sewn_on = {patch.id for patch in chart.patches if patch.role == "applique"}
    for zone in zones:
        limited = policy.applique != "full" and any(patch in sewn_on for patch in zone.patches)
        if not zone.forbidden and not limited:
            continue
        core = zone.polygon.buffer(-NEAR)
        touched = np.flatnonzero(shapely.intersects(core, lines))
        if not zone.forbidden and policy.applique == "light":
            # Leg by leg, since a line stitched twice over counts twice.
            legs = [shapely.linestrings(np.stack([s.points[:-1], s.points[1:]], axis=1))
                    for s in (moving[k][1] for k in touched)]  # fmt: skip
            inside = sum(shapely.length(shapely.intersection(core, leg)).sum() for leg in legs)
            if inside > MOST_IN_APPLIQUE * zone.polygon.area * 1.02:
                faults.append(f"{zone.id} holds {inside:.1f} inches, which is more than light")
            continue
        for k in touched:
            faults.append(f"step {moving[k][0]}: stitches in {zone.id}, which is forbidden")
    return faults


def _on(moving, lines, how: str, ground, name: str) -> list[str]:
    """Steps that say they travel *how* but stray from *ground*."""
    chosen = [k for k, (_, s) in enumerate(moving) if s.kind == "travel" and s.how == how]
    if not chosen:
        return []
    dense = shapely.segmentize(lines[chosen], 0.5)
    spots, owner = shapely.get_coordinates(dense, return_index=True)
    near = STRtree(ground).query(shapely.points(spots), predicate="dwithin", distance=NEAR)[0]
    astray = np.ones(len(spots), bool)
    astray[near] = False
    return [
        f"step {moving[chosen[k]][0]}: says it travels along {name}, but does not"
        for k in np.unique(owner[astray])
    ]


def _sums(asked, machine, steps) -> list[str]:
    """Layings of the ruler, seconds and inches, reckoned again from the lines."""
    faults = []
    laid: dict[str, int] = defaultdict(int)
    pieces: dict[str, int] = defaultdict(int)
    read: set[str] = set()
    rates = machine.rates
    for number, step in enumerate(steps, 1):
        if step.kind == "path":
            fresh = step.path not in read or step.path == "seams"
            least = rates.read_path if fresh else rates.place_path
            read.add(step.path)
            if min(abs(step.seconds - least), abs(step.seconds - least - rates.find_place)) > 0.01:
                faults.append(f"step {number}: says {step.seconds:.0f} seconds for looking up")
        if step.kind == "ruler":
            laid[step.run] += step.count
            pieces[step.run] += 1
        elif step.kind == "stitch":
            seconds = machine.rates.seconds(_inches(step.points), step.how)
            if step.run.startswith("ditch:"):
                seconds += step.count * machine.rates.ruler_move
                if step.count < _straight_inches(step.points) / machine.rates.ruler_reach - 1e-6:
                    faults.append(f"step {number}: the ruler is laid too seldom for its ditches")
            if abs(seconds - step.seconds) > 0.05 + 0.01 * seconds:
                faults.append(f"step {number}: says {step.seconds:.1f} seconds, not {seconds:.1f}")
    for key, (one, run) in asked.items():
        if (
            run.in_ditch
            or len(run.points) < 2
            or (one.pattern is not None and len(_doors(one)) > 1)
        ):
            continue
        needed = run.count_placements(machine.rates.ruler_reach)
        # A ring begun elsewhere has one stretch that is parted, or one that is no longer; a run that
        # no pass holds has one more for each of its parts.
        parted = max(0, pieces[key] - 1)
        if not -int(run.closed) <= laid[key] - needed <= int(run.closed) + parted:
            faults.append(f"{key} is ruled with {laid[key]} layings where {needed} are needed")
    return faults


def _doors(one: LayerLinework) -> np.ndarray:
    return (
        designs()[one.design].doors(one.pattern, one.settings) if one.pattern else np.empty((0, 2))
    )


def _straight_inches(points) -> float:
    """Inches of the legs that are long enough for a ruler."""
    legs = np.hypot(*np.diff(points, axis=0).T)
    return float(legs[legs >= 0.25].sum())
