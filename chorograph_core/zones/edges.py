"""Edges of zones that are no seams: where a zone was cut, or drawn over the piecing; and what is stitched
there by name."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import product

import numpy as np

from chorograph_core.chart import Chart, Patch, noded_edges
from chorograph_core.chart.seams import seam_names
from chorograph_core.zones.model import Zone

CUT = ("free", "part")
"""Kinds of zones whose edges are not all seams."""
MISSING = 0.01
"""Square inches of its patches that a joined zone may want and still follow their seams."""
MARK = "free:"
"""What the name of an edge has before the name of a zone, where others have that of a patch."""


def cut_zones(chart: Chart, zones: Sequence[Zone]) -> list[Zone]:
    """Those *zones* whose edges are not all seams: pieces, what was drawn over the piecing, and what was
    joined of such."""
    areas = {patch.id: patch.polygon.area for patch in chart.patches}

    def whole(zone: Zone) -> bool:
        shape = zone.polygon if zone.whole is None else zone.whole
        return abs(shape.area - sum(areas.get(each, 0.0) for each in zone.patches)) < MISSING

    return [
        zone
        for zone in zones
        if zone.kind in CUT or (zone.kind != "patch" and zone.whole is None and not whole(zone))
    ]


def with_cuts(chart: Chart, zones: Sequence[Zone]) -> Chart:
    """The *chart* with *zones* whose edges are not all seams added as patches, so that those edges are noded
    and named too."""
    free = cut_zones(chart, zones)
    if not free:
        return chart
    extra = tuple(Patch(f"{MARK}{zone.id}", zone.polygon) for zone in free)
    return Chart(chart.outline, chart.patches + extra, chart.fabrics)


def named_edges(chart: Chart, zones: Sequence[Zone]) -> tuple[np.ndarray, list[str]]:
    """All edges of patches and *zones* as noded segments (n, 2, 2), inches, and what each is called."""
    whole = with_cuts(chart, zones)
    segments = noded_edges(whole)
    return segments, seam_names(whole, segments)


def done_edges(
    chart: Chart, segments: np.ndarray, names: Sequence[str], done: Collection[str]
) -> np.ndarray:
    """Which of the edges *segments* (n, 2, 2), by their *names*, were stitched, by what is *done*: an array
    (n,) of truth values."""
    found = np.array([name in done for name in names], bool)
    others = [k for k, name in enumerate(names) if MARK in name and not found[k]]
    if others and done:
        seams = seam_names(chart, segments[others])
        for k, seam in zip(others, seams, strict=True):
            found[k] = is_done(names[k], seam, done)
    return found


def is_done(name: str, seam: str, done: Collection[str]) -> bool:
    """Whether the edge called *name* was stitched, by the names of what is *done*: also before a zone beside
    it was cut. *seam* is what it was called when none was; empty where it was none.

    >>> is_done("free:z:a/1|free:z:b/2/1", "a|b", {"free:z:a/1|free:z:b/2"})
    True
    >>> is_done("free:z:a/1|free:z:a/2", "a|a", {"a|b"})
    False
    """
    if name in done:
        return True
    if MARK not in name:
        return False
    if seam and seam in done:
        return True
    plain = seam.split("|") if seam else []
    before = [[*_before(side), *plain] for side in name.split("|")]
    return any("|".join(sorted(pair)) in done for pair in product(*before))


def _before(side: str) -> list[str]:
    """The names that one side of an edge has had, since its zone was cut out of larger ones."""
    names = [side]
    while side.startswith(MARK):
        cut = max(side.rfind("/"), side.rfind("~"))
        if cut < 0:
            break
        side = side[:cut]
        names.append(side)
    return names
