"""Lines that follow the zone's edge inwards at a fixed distance, each after the last."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Design, Fit
from chorograph_core.designs.engine.families import position_of
from chorograph_core.designs.engine.rings import Ring, holes_of, rings_of
from chorograph_core.designs.engine.spirals import Level, spiral
from chorograph_core.designs.linework import Linework, Run, Span, Unit
from chorograph_core.designs.settings import (
    SettingError,
    Settings,
    choice_setting,
    count_setting,
    length_setting,
)
from chorograph_core.measure import format_inches

MOST_RINGS = 400


@dataclass(frozen=True)
class EchoSettings(Settings):
    """Where the lines lie, and how many there are."""

    first: float = length_setting("First line from the seam", 0.25, 0.0625, 6.0,
                          help="1/4″ is the foot against the seam.")  # fmt: skip
    spacing: float = length_setting("Between lines", 0.5, 0.125, 6.0)
    count: int = count_setting("How many lines", 1, 0, 60, help="0 goes on to the centre.")
    joined: str = choice_setting("Several lines", (
        ("spiral", "one spiral"), ("rings", "each a ring of its own")),
        help="A spiral turns in at a corner; rings are begun anew.")  # fmt: skip


class InsetEcho(Design[EchoSettings]):
    """One line inside (a breathing line), several, or as many as there is room for."""

    key = "inset_echo"
    name = "Inset echo"
    family = "ruler"
    stroke = (
        "round, in to the next line at a corner, or sliding where there is none, and so on inwards"
    )
    role = "frame"
    undirected = True
    settings_type = EchoSettings

    def fits(self, space, settings=None):
        """It needs room for its first line."""
        s = self.clean(settings)
        if not space.inset(s.first):
            deep = format_inches(s.first)
            return Fit(0.0, (f"no room for a line {deep} inside the seam",))
        reasons = []
        pieces = len(space.inset(s.first))
        if pieces > 1:
            reasons.append(f"the zone is narrow: the line falls into {pieces} parts")
        return Fit(0.7 if pieces == 1 else 0.4, tuple(reasons) or ("follows any shape",))

    def spacing(self, space, settings=None):
        """As set."""
        return self.clean(settings).spacing

    def draw(self, space, settings=None, seed=0, doorways=None):
        """A run for each part of the zone; lines round holes are runs of their own."""
        s = self.clean(settings)
        if s.count == 0 and space.widest[1] / s.spacing > MOST_RINGS:
            raise SettingError("Between lines: there would be hundreds of lines here.", "spacing")
        runs: list[Run] = []
        seam, later = _align(s.first - space.foot_radius), position_of(s.spacing, space)
        trees = rings_of(space.polygon, s.first, s.spacing, s.count)
        for tree in trees:
            if s.joined == "spiral" and tree.inner:
                runs.append(_spiral(spiral(tree, s.spacing), seam, later, tree))
            else:
                runs += _rings(tree, seam, later)
            runs += [_closed(line, later) for line in holes_of(tree)]
        notes: tuple[str, ...] = ()
        if s.count == 0 and trees:
            gaps = {round(b.depth - a.depth, 3) for tree in trees for a, b in _steps(tree)}
            shown = sorted({format_inches(gap, 16) for gap in gaps})
            notes = (f"lines {' to '.join(dict.fromkeys([*shown[:1], *shown[-1:]]))} apart, "
                     "so that the middle comes out",) if shown else ()  # fmt: skip
        return Linework(tuple(runs), (), notes)

    def remaining(self, space, settings=None):
        """What lies inside the innermost line."""
        s = self.clean(settings)
        if s.count == 0:
            return []
        return space.inset(s.first + (s.count - 1) * s.spacing)


def _steps(ring: Ring):
    for each in ring.inner:
        yield ring, each
        yield from _steps(each)


def _rings(ring: Ring, seam: str, later: str, name: int = 1) -> list[Run]:
    """Each line closed, a run of its own, the outer first."""
    level = Level(ring.polygon)
    line = level.way(level.start(), level.length)
    line[-1] = line[0]
    made = [_closed(line, seam if name == 1 else later)]
    return made + [run for each in ring.inner for run in _rings(each, seam, later, name + 1)]


def _closed(line: np.ndarray, position: str) -> Run:
    return Run(line, _technique(line), closed=True, position=position)


def _spiral(line: np.ndarray, seam: str, later: str, tree: Ring) -> Run:
    """The spiral as a run; each round of it is a unit, laid by the one before."""
    gone = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    ends, ring, want = [], tree, 0.0
    while True:
        want += ring.polygon.exterior.length
        if want >= gone[-1] - 0.5 or not ring.inner:
            break
        ends.append(int(np.searchsorted(gone, want)))
        ring = max(ring.inner, key=lambda each: each.height)
    ends = [*sorted(set(ends) - {0, len(line) - 1}), len(line) - 1]
    technique = _technique(line)
    spans = tuple(
        Span(end, technique, position=seam if k == 0 else later) for k, end in enumerate(ends)
    )
    units = tuple(Unit(f"line {k}", end) for k, end in enumerate(ends, 1))
    return Run(line, technique, spans, units=units if len(units) > 1 else ())


def _align(edge: float) -> str:
    """Where the ruler's edge lies for the first line: the needle is one foot radius further in."""
    if abs(edge) < 1 / 32:
        return "ruler edge on the seam"
    side = "inside" if edge > 0 else "beyond"
    return f"ruler edge {format_inches(abs(edge), 16)} {side} the seam"


def _technique(ring: np.ndarray) -> str:
    """Curved ruler work where the sides are short chords of a bend."""
    sides = np.hypot(*np.diff(ring, axis=0).T)
    return "curved" if sides[sides < 1.0].sum() > sides.sum() / 2 else "straight"
