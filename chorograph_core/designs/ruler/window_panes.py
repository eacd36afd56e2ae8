"""Window panes: a zone divided by lines, single or double, into panes of one size."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.axes import axes_at, base_angle
from chorograph_core.designs.engine.families import cut_to, linked, measured_from, position_of
from chorograph_core.designs.linework import Linework, Mark
from chorograph_core.designs.settings import Settings, count_setting, length_setting
from chorograph_core.measure import format_inches


@dataclass(frozen=True)
class PaneSettings(Settings):
    """How many panes, and the bars between them."""

    across: int = count_setting("Panes along", 2, 1, 40)
    down: int = count_setting("Panes across", 2, 1, 40)
    bar: float = length_setting("Width of a bar", 0.25, 0.0, 3.0, help="0 makes a single line.")
    relative: str = measured_from()


class WindowPanes(Design[PaneSettings]):
    """Dividers, to be left as they are or to be filled pane by pane."""

    key = "window_panes"
    name = "Window panes"
    family = "ruler"
    role = "motif"
    stroke = "along each bar and back on its other side"
    crosses = True
    undirected = True
    settings_type = PaneSettings

    def fits(self, space, settings=None):
        """Panes must be wider than their bars."""
        s = self.clean(settings)
        sides = _sizes(space, s)
        words = " by ".join(format_inches(side - s.bar, 16) for side in sides)
        if min(sides) < 2 * s.bar + 0.25:
            return Fit(0.1, (f"panes of {words} are hardly wider than their bars",))
        return Fit(0.5, (f"panes of {words}",))

    def draw(self, space, settings=None, seed=0, doorways=None):
        """The bars along first, then those across."""
        s = self.clean(settings)
        lines = _lines(space, s)
        position = position_of(s.bar, space) if s.bar else "the ruler between two dots"
        runs = linked(lines, space.polygon, position)
        dots = np.array([line[k] for line in lines for k in (0, -1)]).reshape(-1, 2)
        marks = (Mark("dot", dots, "ends of the bars"),) if len(dots) else ()
        return Linework(tuple(runs), marks)


def _box(space, s):
    angle = base_angle(space, s.relative)
    along, across, u, v = axes_at(space.polygon, angle)
    return along, across, (u.min(), u.max()), (v.min(), v.max())


def _sizes(space, s) -> tuple[float, float]:
    _, _, u, v = _box(space, s)
    return float(u[1] - u[0]) / s.across, float(v[1] - v[0]) / s.down


def _lines(space, s) -> list[np.ndarray]:
    along, across, u, v = _box(space, s)
    shifts = (-s.bar / 2, s.bar / 2) if s.bar > 1e-6 else (0.0,)
    rows = []
    for k in range(1, s.down):
        at = v[0] + (v[1] - v[0]) * k / s.down
        rows += [np.array([(u[0] - 1) * along + (at + d) * across, (u[1] + 1) * along + (at + d) * across])
                 for d in shifts]  # fmt: skip
    for k in range(1, s.across):
        at = u[0] + (u[1] - u[0]) * k / s.across
        rows += [np.array([(at + d) * along + (v[0] - 1) * across, (at + d) * along + (v[1] + 1) * across])
                 for d in shifts]  # fmt: skip
    return cut_to(rows, space.polygon)
