"""From drawn lines to patches: ends that almost meet are joined, closed areas become patches."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree
from shapely import STRtree
from shapely.geometry import Polygon

from chorograph_core.chart.model import Chart, ChartError, Fabric, Patch

GRID = 1e-4
"""Inches. Crossings are kept to this grid while lines are noded."""
MOST_SEGMENTS = 60_000
MOST_PATCHES = 10_000
MOST_CROSSINGS = 250_000
"""Meetings of lines; a grid of 5,000 patches has about 60,000, each end that touches counted."""
SAMPLED = 300
PLAIN = ("#e7dcc3", "#c3d3ca", "#7f9cae", "#b77f5c")


@dataclass(frozen=True)
class Drawing:
    """Lines taken from a file, in inches, x right and y down.

    *lines* are polylines (n, 2); *fills* closed shapes with the colour they are filled with, those
    drawn last on top. *left_out* counts what was not taken, by its name.
    """

    lines: tuple[np.ndarray, ...]
    fills: tuple[tuple[Polygon, str], ...] = ()
    left_out: dict[str, int] = field(default_factory=dict)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom."""
        points = np.concatenate(self.lines) if self.lines else np.zeros((1, 2))
        (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)

    def closed(self) -> list[tuple[Polygon, str]]:
        """The closed shapes in the order they are drawn, with their fill colour, empty for none."""
        filled = {shape.wkb: colour for shape, colour in self.fills}
        made = []
        for line in self.lines:
            if len(line) < 4 or np.hypot(*(line[0] - line[-1])) > GRID:
                continue
            shape = Polygon(line)
            if shape.is_valid and shape.area > GRID:
                made.append((shape, filled.get(shape.wkb, "")))
        return made

    def scaled(self, factor: float) -> Drawing:
        """The drawing *factor* times as large, its top left corner at the origin."""
        x0, y0, _, _ = self.bounds
        corner = np.array([x0, y0])
        lines = tuple((line - corner) * factor for line in self.lines)
        fills = tuple(
            (shapely.transform(shape, lambda p: (p - corner) * factor), colour)
            for shape, colour in self.fills
        )
        return Drawing(lines, fills, self.left_out)


@dataclass(frozen=True)
class Noded:
    """A chart made of a drawing, and what had to be done: ends *joined* that did not quite meet,
    *loose* lines that close nothing, *slivers* given to their neighbours, *islands* left out."""

    chart: Chart
    joined: int
    loose: int
    slivers: int
    islands: int


def chart_of(
    drawing: Drawing,
    tolerance: float = 0.0625,
    progress: Callable[[float, str], None] | None = None,
    sliver: float | None = None,
) -> Noded:
    """The chart that the lines of *drawing* enclose, ends nearer than *tolerance* inches joined.

    What is nowhere wider than *sliver* inches (default half the tolerance) is no patch and goes to the
    neighbour that borders it most. *progress* hears the share done and what comes next. Raises
    `ChartError` when there is too much or nothing to enclose.
    """
    tell = progress or (lambda share, what: None)
    segments = _segments(drawing.lines)
    if len(segments) > MOST_SEGMENTS:
        raise ChartError(
            f"The drawing has {len(segments):,} pieces of line; {MOST_SEGMENTS:,} is the most.",
            "file",
        )
    if not len(segments):
        raise ChartError("There is no line in the drawing.", "file")
    _few_crossings(segments)
    tell(0.2, "cutting lines where they cross")
    noded = _node(segments)
    tell(0.4, "joining ends that almost meet")
    noded, moved = _gathered(noded, tolerance)
    noded, reached = _reaching(_node(noded), tolerance)
    tell(0.65, "finding what is enclosed")
    faces = [
        face
        for face in shapely.get_parts(shapely.polygonize(shapely.linestrings(noded)))
        if face.area > 1e-6
    ]
    if not faces:
        raise ChartError(
            "The lines enclose nothing. A larger tolerance joins ends that lie further apart.",
            "tolerance",
        )
    if len(faces) > MOST_PATCHES:
        raise ChartError(
            f"{len(faces):,} patches are too many; {MOST_PATCHES:,} is the most.", "file"
        )
    tell(0.8, "looking for slivers and islands")
    faces, slivers = _without_slivers(faces, max(tolerance / 2 if sliver is None else sliver, 0.01))
    faces, outline, islands = _mainland(faces)
    middles = shapely.points(noded.mean(axis=1))
    edges = STRtree(shapely.boundary(faces))
    used = np.unique(edges.query(middles, predicate="dwithin", distance=GRID * 2)[0])
    loose = len(noded) - len(used)
    chart = _chart(faces, outline, drawing.fills)
    return Noded(chart, moved + reached, loose, slivers, islands)


def _few_crossings(segments: np.ndarray) -> None:
    """Refuse lines that cross far more often than seams do, before they are cut at every crossing.

    Estimated from a sample of them: cutting itself takes time and memory with every crossing.
    """
    lines = shapely.linestrings(segments)
    step = max(1, len(segments) // SAMPLED)
    sample = lines[::step]
    tree = STRtree(lines)
    hits = sum(
        len(tree.query(chunk, predicate="intersects")[0])
        for chunk in np.array_split(sample, max(1, len(sample) // 50))
    )
    crossings = hits / len(sample) * len(segments) / 2
    if crossings > MOST_CROSSINGS:
        raise ChartError(
            f"Its lines meet or cross about {crossings:,.0f} times; {MOST_CROSSINGS:,} is the most. "
            f"Leave in the drawing only the seams.",
            "file",
        )


def _segments(lines: Sequence[np.ndarray]) -> np.ndarray:
    """All pieces of line (n, 2, 2), those of no length left out."""
    parts = [np.stack([line[:-1], line[1:]], axis=1) for line in lines if len(line) > 1]
    if not parts:
        return np.empty((0, 2, 2))
    segments = np.concatenate(parts)
    return segments[np.hypot(*(segments[:, 1] - segments[:, 0]).T) > GRID]


def _node(segments: np.ndarray) -> np.ndarray:
    """The same lines cut wherever they cross or touch, doubles left out."""
    whole = shapely.union_all(shapely.linestrings(segments), grid_size=GRID)
    coords, owner = shapely.get_coordinates(shapely.get_parts(whole), return_index=True)
    same = owner[1:] == owner[:-1]
    return np.stack([coords[:-1][same], coords[1:][same]], axis=1)


def _gathered(segments: np.ndarray, tolerance: float) -> tuple[np.ndarray, int]:
    """Ends nearer than *tolerance* moved to one spot; how many were moved noticeably."""
    spots, where = np.unique(np.round(segments.reshape(-1, 2), 6), axis=0, return_inverse=True)
    where = where.reshape(-1)
    pairs = cKDTree(spots).query_pairs(tolerance, output_type="ndarray")
    if not len(pairs):
        return segments, 0
    # The two ends of one long piece are never gathered, only what different pieces bring together.
    count = len(spots)
    table = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    _, group = connected_components(table, directed=False)
    sums = np.column_stack([np.bincount(group, spots[:, k]) for k in (0, 1)])
    middle = sums / np.bincount(group)[:, None]
    moved = middle[group]
    far = np.hypot(*(moved - spots).T) > GRID * 5
    placed = moved[where].reshape(-1, 2, 2)
    kept = np.hypot(*(placed[:, 1] - placed[:, 0]).T) > GRID
    return placed[kept], int(far.sum())


def _reaching(segments: np.ndarray, tolerance: float) -> tuple[np.ndarray, int]:
    """Loose ends drawn on to the line they almost reach; how many there were."""
    flat = np.round(segments.reshape(-1, 2), 6)
    spots, where, counts = np.unique(flat, axis=0, return_inverse=True, return_counts=True)
    loose = np.flatnonzero(counts == 1)
    if not len(loose):
        return segments, 0
    lines = shapely.linestrings(segments)
    tree = STRtree(lines)
    ends = shapely.points(spots[loose])
    order = np.argsort(where.reshape(-1), kind="stable")
    first = np.searchsorted(where.reshape(-1)[order], loose)
    own = dict(zip(loose.tolist(), (order[first] // 2).tolist(), strict=True))
    hit, line = tree.query(ends, predicate="dwithin", distance=tolerance)
    best: dict[int, tuple[float, int]] = {}
    for h, number in zip(hit.tolist(), line.tolist(), strict=True):
        if number == own[int(loose[h])]:
            continue
        away = float(shapely.distance(ends[h], lines[number]))
        if away < best.get(h, (np.inf, 0))[0]:
            best[h] = (away, number)
    bridges = []
    for h, (away, number) in best.items():
        if away > GRID:
            at = shapely.line_locate_point(lines[number], ends[h])
            goal = shapely.get_coordinates(shapely.line_interpolate_point(lines[number], at))[0]
            bridges.append([spots[loose[h]], goal])
    if not bridges:
        return segments, 0
    return _node(np.concatenate([segments, np.array(bridges)])), len(bridges)


def _without_slivers(faces: list[Polygon], width: float) -> tuple[list[Polygon], int]:
    """Faces nowhere wider than *width* given to the neighbour that borders them most."""
    thin = np.array([face.buffer(-width / 2).is_empty for face in faces])
    if not thin.any() or thin.all():
        return faces, 0
    kept = [face for face, bad in zip(faces, thin, strict=True) if not bad]
    tree = STRtree(kept)
    for k in np.flatnonzero(thin):
        sliver = faces[k]
        near = tree.query(sliver, predicate="intersects")
        if not len(near):
            continue
        shared = [kept[n].intersection(sliver.boundary).length for n in near]
        best = int(near[int(np.argmax(shared))])
        joined = shapely.union(kept[best], sliver, grid_size=GRID / 10)
        if isinstance(joined, Polygon):
            kept[best] = joined
    return kept, int(thin.sum())


def _mainland(faces: list[Polygon]) -> tuple[list[Polygon], Polygon, int]:
    """The faces that hang together as the largest piece, its outline, how many lay elsewhere."""
    whole = shapely.union_all(faces, grid_size=GRID / 10)
    parts = sorted(
        (p for p in shapely.get_parts(whole) if isinstance(p, Polygon)), key=lambda p: -p.area
    )
    outline = Polygon(parts[0].exterior)
    ground = outline.buffer(GRID)
    shapely.prepare(ground)
    inside = shapely.covers(ground, faces)
    kept = [face for face, good in zip(faces, inside, strict=True) if good]
    # A hole in the top is a patch nobody drew.
    kept += [Polygon(ring) for ring in parts[0].interiors if Polygon(ring).area > 0.01]
    return kept, outline, int((~inside).sum())


def _chart(faces: list[Polygon], outline: Polygon, fills) -> Chart:
    """Patches in reading order; their fabrics from the colours they were filled with."""
    x0, y0, _, _ = outline.bounds
    shift = np.array([x0, y0])
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    row = max(float(np.median(np.sqrt(shapely.area(faces)))), 0.5)
    order = np.lexsort((spots[:, 0], np.floor((spots[:, 1] - y0) / row)))
    colours = _colours(spots, fills)
    keys: dict[str, str] = {}
    patches = []
    for number, k in enumerate(order, 1):
        colour = colours[k]
        key = keys.setdefault(colour, f"f{len(keys) + 1}")
        shape = shapely.transform(faces[k], lambda p: np.round(p - shift, 6))
        patches.append(Patch(f"p{number}", shape, "block", key, None, f"drawn:{key}"))
    lightest = max(keys, key=lambda c: sum(int(c[k : k + 2], 16) for k in (1, 3, 5)), default="")
    fabrics = tuple(
        Fabric(key, f"colour {n}", colour, 0.1, colour == lightest)
        for n, (colour, key) in enumerate(keys.items(), 1)
    )
    return Chart(
        shapely.transform(outline, lambda p: np.round(p - shift, 6)), tuple(patches), fabrics
    )


def _colours(spots: np.ndarray, fills) -> list[str]:
    colours = [PLAIN[0]] * len(spots)
    if not fills:
        return colours
    tree = STRtree([shape for shape, _ in fills])
    hit, shape = tree.query(shapely.points(spots), predicate="within")
    top = np.full(len(spots), -1)
    np.maximum.at(top, hit, shape)
    return [fills[t][1] if t >= 0 else PLAIN[0] for t in top]
