"""Trace a top from its photograph: square it, find touched patches, make the chart."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
from django.core.files.base import ContentFile
from django.db import transaction
from shapely import maximum_inscribed_circle, union_all
from shapely.geometry import Polygon, box

from chorograph_core.chart import ChartError
from chorograph_core.chart.noding import Drawing, Noded, chart_of
from chorograph_core.job import Job as CoreJob
from chorograph_core.photo import outlines
from chorograph_core.photo.corners import found_corners
from chorograph_core.photo.tracing import Squared, read_picture, snapped, squared, touched
from chorograph_core.zones import zones_from_patches
from studio.charting.models import Tracing
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.photos.keeping import kept, name_of, storage
from studio.photos.models import Photo

MOST_SHAPES = 1_500
SNAP = 0.25
"""Inches within which a found corner takes over a neighbour's."""
FINE = 0.06
"""Inches by which a corner may lie beside the line without it and is left out."""
ON_GRID = 0.15
"""Inches within which one takes over a line of the grid that the others make evident."""
NARROW = 0.5
"""Inches; what is left between outlines and nowhere wider is no ground but the blur of a seam."""
MOST_PAST = 60
ON_IT = 0.8
"""Share of a ground that a shape lying on it covers at most."""


def _name(tracing: Tracing) -> str:
    return f"{tracing.job.studio_id}/{tracing.job_id}/{tracing.pk}-flat.jpg"


def guessed_corners(photo: Photo) -> str:
    """Where the corners of the top seem to be, ``x,y x,y x,y x,y`` as shares; empty if unsure."""
    try:
        found = found_corners(read_picture(kept(name_of(photo))))
    except (ChartError, FileNotFoundError):
        return ""
    return " ".join(f"{x:.5f},{y:.5f}" for x, y in found or ())


def begin(job: Job, photo: Photo, corners, author) -> Tracing:
    """Square *photo* by its corners (shares of its width and height) to the size of the top.

    Raises `ChartError` with a sentence for corners that cannot be.
    """
    size = core_job(job).size
    pixels = read_picture(kept(name_of(photo)))
    height, width = pixels.shape[:2]
    flat = squared(pixels, [(x * width, y * height) for x, y in corners], size)
    with transaction.atomic():
        tracing = Tracing.objects.create(
            job=job, photo=photo, corners=[list(c) for c in corners], width=size[0], height=size[1],
            author=author,
        )  # fmt: skip
        record(job, "photo", f"Squared a photograph to trace from: {photo}", author)
        storage().save(_name(tracing), ContentFile(flat.jpeg()))
    return tracing


def flat_name(tracing: Tracing) -> str:
    """Under which name the squared picture is kept."""
    return _name(tracing)


@lru_cache(maxsize=4)
def _flat(name: str, width: float) -> Squared:
    pixels = read_picture(kept(name))
    return Squared(pixels, pixels.shape[1] / width)


def touch(tracing: Tracing, x: float, y: float, likeness: float) -> None:
    """Find the patch at a touched spot and keep its outline. Raises `ChartError`."""
    if len(tracing.shapes) >= MOST_SHAPES:
        raise ChartError(f"{MOST_SHAPES:,} patches are the most that can be traced.", "touch")
    known = shapes_of(tracing)
    spot = box(x - 1e-6, y - 1e-6, x + 1e-6, y + 1e-6)
    shape = touched(_flat(flat_name(tracing), tracing.width), x, y, likeness)
    grounds = [known_one for known_one in known if known_one.intersects(spot)]
    if any(not _lies_on(shape, ground) for ground in grounds):
        raise ChartError("This patch was found already; take it out first.", "touch")
    # What a shape lies on is no neighbour of it: it is not snapped to that or cut away by it.
    known = [each for each in known if each not in grounds]
    frame = box(0, 0, tracing.width, tracing.height)
    grids = [outlines.evident_grid([*outlines.lines_of(tracing.shapes, k), 0.0, side])
             for k, side in enumerate((tracing.width, tracing.height))]  # fmt: skip
    shape = outlines.on_grid(shape, *grids, ON_GRID)
    shape = snapped(shape, [frame, *known], SNAP).intersection(frame)
    for other in known:
        shape = shape.difference(other)
    shape = max(getattr(shape, "geoms", [shape]), key=lambda part: part.area).simplify(FINE)
    if not isinstance(shape, Polygon) or shape.area < 0.05:
        raise ChartError("Nothing is left there that was not found already.", "touch")
    _exchange(tracing, [], [np.round(np.asarray(shape.exterior.coords)[:-1], 4).tolist()])


def _lies_on(shape: Polygon, ground: Polygon) -> bool:
    """Whether *shape* is one that lies on *ground*, found before it, rather than the ground again."""
    return shape.area < ON_IT * ground.area and ground.buffer(SNAP).covers(shape)


def drop(tracing: Tracing, number: int | None) -> None:
    """Take one outline out: the one with this *number* (from 0), or the last."""
    if not tracing.shapes:
        raise ChartError("Nothing was found yet.", "touch")
    number = len(tracing.shapes) - 1 if number is None else number
    if not 0 <= number < len(tracing.shapes):
        raise ChartError("That one is gone already.", "touch")
    _exchange(tracing, [number], [])


def drag(tracing: Tracing, number: int, corner: int, x: float, y: float, fresh: bool) -> None:
    """Move a corner of an outline, with its neighbours' at the same spot; a *fresh* one is set on
    the side that begins at *corner*. What would lie on neighbours is cut off. Raises `ChartError`."""
    x, y = min(max(x, 0.0), tracing.width), min(max(y, 0.0), tracing.height)
    x, y = _near_corner(tracing, number, x, y)
    change = outlines.cornered if fresh else outlines.moved
    made = change(tracing.shapes, number, corner, x, y)
    others = [Polygon(ring) for k, ring in enumerate(tracing.shapes) if k not in made]
    last = Polygon(made.pop(number))
    for other in others:
        if not other.covers(last) and not last.covers(other):
            last = last.difference(other)
    last = max(getattr(last, "geoms", [last]), key=lambda part: part.area)
    if not isinstance(last, Polygon) or last.area < outlines.LEAST:
        raise ChartError("Nothing would be left of the outline.", "touch")
    ring = np.round(np.asarray(last.exterior.coords)[:-1], 4).tolist()
    _exchange(tracing, [*made, number], [*made.values(), ring])


def _near_corner(tracing: Tracing, number: int, x: float, y: float) -> tuple[float, float]:
    """The corner of another outline or of the top that lies near, or the spot itself."""
    spots = [point for k, ring in enumerate(tracing.shapes) if k != number for point in ring]
    spots += [[u, v] for u in (0.0, tracing.width) for v in (0.0, tracing.height)]
    near = min(spots, key=lambda p: (p[0] - x) ** 2 + (p[1] - y) ** 2)
    close = (near[0] - x) ** 2 + (near[1] - y) ** 2 < (SNAP / 2) ** 2
    return (near[0], near[1]) if close else (x, y)


def part(tracing: Tracing, number: int, line) -> None:
    """Split an outline by a straight line. Raises `ChartError`."""
    _exchange(tracing, [number], outlines.parted(tracing.shapes, number, line))


def join(tracing: Tracing, numbers: list[int]) -> None:
    """Make one outline of two that lie side by side. Raises `ChartError`."""
    _exchange(tracing, numbers, [outlines.united(tracing.shapes, numbers, SNAP)])


def undo(tracing: Tracing) -> None:
    """Take the last change back."""
    if not tracing.past:
        raise ChartError("There is nothing left to undo.", "touch")
    last = tracing.past.pop()
    kept = tracing.shapes[: len(tracing.shapes) - last["added"]]
    for number, ring in last["gone"]:
        kept.insert(number, ring)
    tracing.shapes = kept
    tracing.save(update_fields=["shapes", "past"])


def _exchange(tracing: Tracing, numbers, rings) -> None:
    """Take outlines out and put others in their place, remembering how to take it back."""
    gone = [[number, tracing.shapes[number]] for number in sorted(numbers)]
    out = set(numbers)
    tracing.shapes = [r for k, r in enumerate(tracing.shapes) if k not in out] + list(rings)
    tracing.past = [*tracing.past, {"gone": gone, "added": len(rings)}][-MOST_PAST:]
    tracing.save(update_fields=["shapes", "past"])


def shapes_of(tracing: Tracing) -> list[Polygon]:
    """The outlines found so far."""
    return [Polygon(ring) for ring in tracing.shapes]


def traced(tracing: Tracing, tolerance: float = SNAP) -> Noded:
    """The chart that the outlines and the edge of the top enclose. Raises `ChartError`."""
    frame = np.asarray(box(0, 0, tracing.width, tracing.height).exterior.coords)
    shapes = shapes_of(tracing)
    rings = [
        np.asarray([*ring, ring[0]], float)
        for ring in (
            # What lies free on the ground need not meet a neighbour point for point.
            outlines.rounded(ring) if _free(shape, shapes, tracing) else ring
            for ring, shape in zip(tracing.shapes, shapes, strict=True)
        )
    ]
    flat = _flat(flat_name(tracing), tracing.width)
    fills = tuple((shape, _colour(flat, _bare(shape, shapes))) for shape in shapes)
    return chart_of(Drawing((frame, *rings), fills), tolerance, sliver=NARROW)


def _free(shape: Polygon, shapes: list[Polygon], tracing: Tracing) -> bool:
    """Whether an outline touches no other one and not the edge of the top."""
    inner = box(SNAP, SNAP, tracing.width - SNAP, tracing.height - SNAP)
    return inner.covers(shape) and all(
        other is shape or other.distance(shape) > SNAP for other in shapes
    )


def _bare(shape: Polygon, shapes: list[Polygon]) -> Polygon:
    """What shows of a ground beside the shapes that lie on it."""
    on_it = [each for each in shapes if each is not shape and each.area < shape.area
             and each.intersects(shape)]  # fmt: skip
    rest = shape.difference(union_all(on_it)) if on_it else shape
    rest = max(getattr(rest, "geoms", [rest]), key=lambda part: part.area)
    return rest if isinstance(rest, Polygon) and not rest.is_empty else shape


def covered(tracing: Tracing) -> float:
    """Share of the top that was found: what lies on something else counts once."""
    whole = union_all(shapes_of(tracing)).intersection(box(0, 0, tracing.width, tracing.height))
    return min(1.0, whole.area / (tracing.width * tracing.height))


def _colour(flat: Squared, shape: Polygon) -> str:
    """The colour of a patch in the picture, in steps so that one fabric stays one fabric."""
    middle = maximum_inscribed_circle(shape, tolerance=0.02)
    x, y = middle.coords[0]
    reach = max(1, min(6, round(0.6 * middle.length * flat.scale)))
    row, column = round(y * flat.scale), round(x * flat.scale)
    around = flat.pixels[max(0, row - reach) : row + reach + 1,
                         max(0, column - reach) : column + reach + 1].reshape(-1, 3)  # fmt: skip
    blue, green, red = (min(255, int(round(c / 32) * 32)) for c in np.median(around, axis=0))
    return f"#{red:02x}{green:02x}{blue:02x}"


def with_chart(core: CoreJob, noded: Noded) -> CoreJob:
    """The job charted by what was traced."""
    chart = noded.chart
    return replace(
        core, survey=None, chart=chart, zones=tuple(zones_from_patches(chart)), legend=()
    )
