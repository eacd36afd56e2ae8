"""Flower: a centre, counted petals round it, leaves between them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from chorograph_core.designs.contract import Fit, Linework, Mark
from chorograph_core.designs.curves import bezier
from chorograph_core.designs.engine.figure_motifs import FigureMotif
from chorograph_core.designs.engine.plume_stroke import Thread, thread_for
from chorograph_core.designs.settings import (
    Settings,
    angle_setting,
    choice_setting,
    count_setting,
    length_setting,
    margin_setting,
    share_setting,
)
from chorograph_core.measure import format_inches

LEAST = 0.35
"""Inches: a flower of less radius is a blob."""


@dataclass(frozen=True)
class FlowerSettings(Settings):
    """How large, how many of what."""

    radius: float = length_setting(
        "Radius", 0.0, 0.0, 40.0, 0.125, help="0: as large as there is room for."
    )
    petals: int = count_setting("Petals", 8, 3, 48)
    rows: int = count_setting("Rows of petals", 1, 1, 3)
    centre: float = share_setting("Centre", 0.24, 0.08, 0.6, 0.02,
                          help="Its radius against that of the petals.")  # fmt: skip
    shape: str = choice_setting("Petals are", (("round", "round"), ("pointed", "pointed")))
    line: str = choice_setting("A line in each petal", (("no", "no"), ("yes", "yes")))
    leaves: int = count_setting(
        "Leaves outside", 0, 0, 48, help="Evenly round; halves match when even."
    )
    turned: float = angle_setting("Turned by", 0.0, -180.0, 180.0, 2.5)
    margin: float = margin_setting()


class Flower(FigureMotif[FlowerSettings]):
    """Petals that are counted, so that both halves match."""

    key = "flower"
    name = "Flower"
    stroke = "in to the centre, round it, petal by petal round, leaf by leaf round, out where one came in"
    settings_type = FlowerSettings

    def fits(self, space, settings=None):
        """It wants a zone about as wide as long."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius < LEAST:
            return Fit(0.1, ("no room for a flower: echo instead",))
        share = math.pi * radius**2 / space.polygon.area
        pair = "" if s.petals % 2 == 0 else ", an odd number: halves do not match"
        return Fit(0.2 + 0.55 * min(1.0, share / 0.72),
                   (f"{s.petals} petals, radius {format_inches(radius, 16)}{pair}",))  # fmt: skip

    def draw(self, space, settings=None, seed=0, doorways=None):
        """One closed run from the outermost point of the first petal."""
        s = self.clean(settings)
        radius = _radius(space, s)
        if radius < LEAST:
            return Linework()
        middle = np.array(space.middle[0])
        begin = space.frame.axis - math.pi / 2 + math.radians(s.turned)
        thread = thread_for(radius / 2)
        outer = radius * (0.72 if s.leaves else 1.0)
        core = outer * s.centre
        half = math.pi / s.petals
        start = begin - half
        ring = start + np.linspace(0, 2 * math.pi, 49)
        circle = middle + core * np.column_stack([np.cos(ring), np.sin(ring)])
        circle[-1] = circle[0]
        thread.add(circle)
        thread.unit("centre")
        for row in range(s.rows):
            near = core if row == 0 else core + (outer - core) * 0.42 * row
            far = core + (outer - core) * ((row + 1) / s.rows if s.rows > 1 else 1.0)
            shift = half if row % 2 else 0.0
            if row:
                _step(thread, middle, near, start + shift)
            for k in range(s.petals):
                _petal(thread, middle, near, far, start + shift + 2 * half * k, half, s)
                thread.unit(f"petal {row * s.petals + k + 1}")
        if s.leaves:
            _leaves(thread, middle, outer, radius, begin, s)
        run = thread.run()
        marks = (Mark("dot", middle[None], "middle"), Mark("line", circle, "centre"))
        return Linework((run,) if run else (), marks)

    def closing(self, space, s):
        """Between neighbouring lines."""
        return 0.5 * max(_radius(space, s), LEAST)


def _radius(space, s: FlowerSettings) -> float:
    free = space.middle[1] - s.margin
    return min(s.radius, free) if s.radius else free


def _polar(middle, radius: float, angle: float) -> np.ndarray:
    return middle + radius * np.array([math.cos(angle), math.sin(angle)])


def _petal(thread: Thread, middle, near: float, far: float, at: float, half: float, s) -> None:
    """Out from the last petal's foot, round or to a point, and in to the next foot."""
    foot, next_foot = _polar(middle, near, at), _polar(middle, near, at + 2 * half)
    tip = _polar(middle, far, at + half)
    # Beside its neighbours a petal is as wide as its share of the round.
    swell = near + (far - near) * 0.72
    edge = 0.88 * half
    left, right = _polar(middle, swell, at + half - edge), _polar(middle, swell, at + half + edge)
    along = (tip - middle) / max(far, 1e-9)
    aside = np.array([-along[1], along[0]])
    wide = float(np.hypot(*(right - left)))
    flat = 0.28 * wide if s.shape == "round" else 0.06 * wide
    up = 0.3 * (far - near)
    rise = (left - foot) * 0.5
    out = np.vstack([
        bezier(foot, foot + rise, left - along * up, left, 10),
        bezier(left, left + along * up, tip - aside * flat, tip, 12)[1:],
    ])  # fmt: skip
    fall = (next_foot - right) * 0.5
    back = np.vstack([
        bezier(tip, tip + aside * flat, right + along * up, right, 12),
        bezier(right, right - along * up, next_foot - fall, next_foot, 10)[1:],
    ])  # fmt: skip
    thread.add(out)
    thread.add(back)
    if s.line == "yes":
        foot_in = _polar(middle, near, at + 2 * half)
        end = _polar(middle, near + 0.6 * (far - near), at + half)
        start = _polar(middle, near, at + half)
        arc = [_polar(middle, near, at + 2 * half - half * t) for t in np.linspace(0, 1, 8)]
        arc[0], arc[-1] = foot_in, start
        thread.add(np.array(arc), "retrace")
        thread.add(np.vstack([start, end]))
        thread.add(np.vstack([end, start]), "retrace")
        thread.add(np.array(arc[::-1]), "retrace")


def _step(thread: Thread, middle, near: float, at: float) -> None:
    """From where the last row ended to where the next begins: behind a petal."""
    here = thread.points[-1][-1]
    thread.add(np.vstack([here, _polar(middle, near, at)]))


def _leaves(thread: Thread, middle, outer: float, radius: float, begin: float, s) -> None:
    """Leaves outside, one after another along the outer ends of the petals."""
    half = math.pi / s.petals
    here = thread.points[-1][-1]
    valley = outer * 0.86
    angle = math.atan2(*(here - middle)[::-1])
    thread.add(np.vstack([here, _polar(middle, valley, angle)]))
    step = 2 * math.pi / s.leaves
    # A leaf stands in a valley between two petals where there is one near.
    for k in range(s.leaves):
        wished = angle + step * k
        place = angle + round((wished - angle) / (2 * half)) * 2 * half
        last = thread.points[-1][-1]
        was = math.atan2(*(last - middle)[::-1])
        sweep = (place - was) % (2 * math.pi)
        if sweep > 1e-6:
            arc = was + np.linspace(0, sweep, max(2, math.ceil(sweep / 0.05)))
            thread.add(middle + valley * np.column_stack([np.cos(arc), np.sin(arc)]))
        foot, tip = _polar(middle, valley, place), _polar(middle, radius, place)
        along = (tip - foot) / max(float(np.hypot(*(tip - foot))), 1e-9)
        long = float(np.hypot(*(tip - foot)))
        aside = np.array([-along[1], along[0]]) * 0.42 * long
        thread.add(
            bezier(
                foot,
                foot + along * 0.25 * long - aside,
                tip - along * 0.4 * long - aside * 0.5,
                tip,
                12,
            )
        )
        thread.add(
            bezier(
                tip,
                tip - along * 0.4 * long + aside * 0.5,
                foot + along * 0.25 * long + aside,
                foot,
                12,
            )
        )
        thread.unit(f"leaf {k + 1}")
