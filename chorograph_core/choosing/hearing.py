"""An audition: one candidate drawn in its place and measured."""

from __future__ import annotations

from dataclasses import dataclass

from shapely.geometry import Polygon

from chorograph_core.choosing.setting_out import Setting
from chorograph_core.designs import Linework, Settings, Space, designs
from chorograph_core.designs.drawing import drawn_safely, fit_of, stitchable
from chorograph_core.designs.legend import Layer, LayerLinework
from chorograph_core.designs.linework import Mark, Run
from chorograph_core.designs.space import largest_within, polygons, window_of
from chorograph_core.job import Job
from chorograph_core.reckon import evenness, reckon
from chorograph_core.zones import Zone

WINDOW = 14.0
"""Inches of a large zone in which a candidate is heard: the rest of it is more of the same."""


@dataclass(frozen=True)
class Heard:
    """A candidate as measured in the pattern zone: its layers and what each drew; how well the design
    suits the zone (0 to 1), and why; inches a square inch, the widest gap (inches); for all zones
    together minutes, layings of a ruler and inches of top thread; how much it shows (0 to 1)."""

    layers: tuple[Layer, ...]
    drawn: tuple[Linework, ...]
    suits: float
    why: tuple[str, ...]
    density: float
    gap: float
    minutes: float
    layings: int
    thread: float
    shows: float
    fault: str = ""

    @property
    def design(self) -> str:
        """The design that it is known by."""
        return self.layers[0].design


def heard(core: Job, place: Setting, layers: tuple[Layer, ...]) -> Heard:
    """Draw *layers*, a motif first and the ground round it after it, in the pattern zone, and
    measure them."""
    whole = space_in(core, place)
    space = window_of(whole, WINDOW)
    room, fault = [space.polygon], ""
    made: list[Linework] = []
    suits = 0.0
    why: tuple[str, ...] = ()
    for number, layer in enumerate(layers):
        drawing = designs()[layer.design]
        settings = drawing.clean(layer.settings)
        runs: list[Run] = []
        marks: list[Mark] = []
        reserved: list[Polygon] = []
        for part in room:
            part_space = (
                space
                if part is space.polygon
                else Space(part, None, space.foot_radius, space.rulers, cut_from=space.cut_from)
            )
            work, wrong = drawn_safely(drawing, part_space, settings, layer.seed)
            fault = fault or wrong
            runs += work.runs
            marks += work.marks
            kept = drawing.reserves(part_space, settings, work) if drawing.role == "motif" else None
            reserved += polygons(part.difference(kept)) if kept is not None else [part]
        if number == 0:
            fit = fit_of(drawing, whole, settings)
            suits, why = fit.score, fit.reasons
        made.append(Linework(tuple(runs), tuple(marks)))
        room = reserved
    seen = Zone(place.pattern.id, space.polygon, place.pattern.patches)
    return _measured(core, place, seen, layers, tuple(made), suits, why, fault)


def _measured(
    core: Job, place: Setting, seen: Zone, layers, made, suits: float, why, fault: str
) -> Heard:
    ones = [
        LayerLinework(
            place.pattern.id,
            "heard",
            number,
            layer.design,
            layer.thread,
            layer.spi,
            layer.passes,
            work,
        )
        for number, (layer, work) in enumerate(zip(layers, made, strict=True))
    ]
    whole, _ = reckon(ones, core.loaded_machine)
    even = evenness([seen], ones)[seen.id]
    times = sum(core.zone(zone).polygon.area for zone in place.zones) / max(seen.polygon.area, 1e-9)
    return Heard(
        layers, made, suits, tuple(why), even.density, even.gap, whole.minutes * times,
        round(whole.ruler_moves * times), sum(whole.thread_inches.values()) * times,
        shown(core, layers[0].thread, place), fault,
    )  # fmt: skip


def space_in(core: Job, place: Setting) -> Space:
    """What designs may fill of the pattern zone."""
    limit = stitchable(core.chart, core.policy.edge_finish)
    shape = place.pattern.polygon
    left = largest_within(shape, limit) or shape
    cut_from = None if left is shape else shape
    return Space(left, None, core.machine.foot_radius, core.rulers, cut_from=cut_from)


def shown(core: Job, thread: str, place: Setting) -> float:
    """How much a thread shows on the cloth, 0 to 1: how far both are apart in lightness, less what the print
    hides."""
    known = {each.key: each.colour for each in core.threads}
    apart = abs(lightness(known.get(thread, "#1e2b3c")) - lightness(place.colour)) / 100
    return min(1.0, 1.4 * apart) * (1 - 0.75 * place.busy)


def lightness(colour: str) -> float:
    """L* of a colour ``#rrggbb``, 0 (black) to 100 (white): CIE 1976, from sRGB.

    >>> round(lightness("#ffffff")), round(lightness("#000000")), round(lightness("#777777"))
    (100, 0, 50)
    """
    channels = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    y = 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
    return 116 * y ** (1 / 3) - 16 if y > 0.008856 else 903.3 * y


def plain_settings(settings: Settings) -> dict:
    """Settings as a layer stores them."""
    return dict(vars(settings))
