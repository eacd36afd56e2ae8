"""A small picture of a top for lists: one path for each fabric."""

from __future__ import annotations

import shapely

from chorograph_core.chart import Chart
from chorograph_core.formats.drawing import outline_path


def thumbnail(chart: Chart) -> list[list[str]]:
    """[colour, path data] pairs; together they show the top, at a tenth of an inch."""
    found = []
    for fabric in dict.fromkeys(patch.fabric for patch in chart.patches):
        shapes = [patch.polygon for patch in chart.patches if patch.fabric == fabric]
        whole = shapely.simplify(shapely.union_all(shapes, grid_size=1e-4), 0.08)
        paths = [outline_path(part, 1) for part in shapely.get_parts(whole) if part.area > 0.01]
        found.append([chart.fabric(fabric).colour, " ".join(paths)])
    return found
