"""Lines that follow the zone's edge inwards at a fixed distance, each after the last."""

from __future__ import annotations

import numpy as np
import shapely

from chorograph_core.designs.contract import Design, Fit, Linework, Parameter, Run, polygons
from chorograph_core.designs.placing import moves_along
from chorograph_core.measure import format_inches


class InsetEcho(Design):
    """One line inside (a breathing line) or as many as there is room for."""

    key = "inset_echo"
    name = "Inset echo"
    family = "ruler"
    stroke = "round and back to where it began, then a step in to the next line"
    frames = True
    parameters = (
        Parameter("first", "First line from the seam", "length", 0.25, 0.0625, 6.0, 0.0625,
                  help="1/4″ is the foot against the seam."),
        Parameter("spacing", "Between lines", "length", 0.5, 0.125, 6.0, 0.0625),
        Parameter("count", "How many lines", "count", 1, 0, 60, 1, help="0 fills the zone."),
    )  # fmt: skip

    def fits(self, space, settings=None):
        """It needs room for its first line."""
        s = self.clean(settings)
        if not space.inset(s["first"]):
            deep = format_inches(s["first"])
            return Fit(0.0, (f"no room for a line {deep} inside the seam",))
        reasons = []
        pieces = len(space.inset(s["first"]))
        if pieces > 1:
            reasons.append(f"the zone is narrow: the line falls into {pieces} parts")
        return Fit(0.7 if pieces == 1 else 0.4, tuple(reasons) or ("follows any shape",))

    def draw(self, space, settings, seed=0, doorways=None):
        """Closed runs, from the edge inwards."""
        s = self.clean(settings)
        runs, moves = [], []
        depth, number = s["first"], 0
        while s["count"] == 0 or number < s["count"]:
            parts = polygons(space.polygon.buffer(-depth, join_style="mitre"))
            if not parts:
                break
            for part in parts:
                for ring in (part.exterior, *part.interiors):
                    if ring.length < 0.5:
                        continue
                    line = shapely.get_coordinates(ring.simplify(1e-6))
                    runs.append(Run(_from_long_side(line), _technique(line), closed=True))
                    align = _align(depth - space.foot_radius) if number == 0 else (
                        f"{format_inches(s['spacing'])} inside the last line")  # fmt: skip
                    moves += moves_along(line, space.foot_radius, "straight edge", align)
            number += 1
            depth = s["first"] + number * s["spacing"]
        return Linework(tuple(runs), (), tuple(moves))

    def remaining(self, space, settings):
        """What lies inside the innermost line."""
        s = self.clean(settings)
        if s["count"] == 0:
            return []
        return space.inset(s["first"] + (s["count"] - 1) * s["spacing"])


def _align(edge: float) -> str:
    """Where the ruler's edge lies for the first line: the needle is one foot radius further in."""
    if abs(edge) < 1 / 32:
        return "ruler edge on the seam"
    side = "inside" if edge > 0 else "beyond"
    return f"ruler edge {format_inches(abs(edge), 16)} {side} the seam"


def _from_long_side(ring: np.ndarray) -> np.ndarray:
    """Let the ring begin in the middle of its longest side: a start meets its end cleanly there."""
    sides = np.hypot(*np.diff(ring, axis=0).T)
    k = int(np.argmax(sides))
    middle = (ring[k] + ring[k + 1]) / 2
    return np.vstack([middle, ring[k + 1 : -1], ring[: k + 1], middle])


def _technique(ring: np.ndarray) -> str:
    """Curved ruler work where the sides are short chords of a bend."""
    sides = np.hypot(*np.diff(ring, axis=0).T)
    return "curved" if sides[sides < 1.0].sum() > sides.sum() / 2 else "straight"
