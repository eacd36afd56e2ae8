"""Proposals: candidates for a place, best first; a start for the whole quilt."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from chorograph_core.choosing.hearing import Heard, heard, lightness, plain_settings, space_in
from chorograph_core.choosing.levels import Level, begun_at
from chorograph_core.choosing.reasons import Reason, reasons_for, score
from chorograph_core.choosing.setting_out import Beside, Custom, Setting, setting_of
from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.drawing import fit_of
from chorograph_core.designs.legend import Entry, Layer, LayerLinework
from chorograph_core.job import Job
from chorograph_core.zones.places import places_of

SHORT = 8
"""Designs that are drawn to be compared, of those that suit best."""
LEAST = 0.35
"""How well a design must suit a zone to be heard at all."""
AGAIN = 0.05
"""What each earlier use of a design in a quilt weighs against it: a sampler wants to be looked at."""
DITCH = Layer("ditch", {}, "clear", 10)


@dataclass(frozen=True)
class Proposed:
    """A candidate with what is said of it and how well it does."""

    heard: Heard
    reasons: tuple[Reason, ...]
    score: float

    @property
    def design(self) -> Design:
        return designs()[self.heard.design]


def ranked(
    core: Job, place: Setting, level: Level, thread: str = "", only: Sequence[str] = (), units: str = "in",
    used: Counter[str] | None = None,
) -> list[Proposed]:  # fmt: skip
    """Candidates for a place, best first: those called *only*, else those that suit it best."""
    space = space_in(core, place)
    thread = thread or thread_for(core, place)
    keys = [key for key in only if key in designs()] or _short_list(space, level)
    found = []
    for key in keys:
        one = heard(core, place, candidate(designs()[key], space, level, thread))
        said = reasons_for(one, place, level, units)
        times = (used or Counter())[key]
        if times:
            said = (
                *said,
                Reason(
                    -AGAIN * times, f"used in {times} other place{'s' if times > 1 else ''} already"
                ),
            )
        found.append(Proposed(one, said, score(one, said)))
    return sorted(found, key=lambda each: (-round(each.score, 6), each.heard.design))


def candidate(design: Design, space: Space, level: Level, thread: str) -> tuple[Layer, ...]:
    """The layers of a candidate: the design as the level begins it, and the ground round a motif."""
    spi = 12.0 if design.family == "freehand" else 10.0
    layer = Layer(
        design.key,
        plain_settings(begun_at(design, space, level)),
        thread,
        spi,
        version=design.version,
    )
    if design.role != "motif" or not level.ground or level.ground not in designs():
        return (layer,)
    ground = designs()[level.ground]
    below = Layer(
        ground.key,
        plain_settings(begun_at(ground, space, level)),
        thread,
        12.0,
        version=ground.version,
    )
    return (layer, below)


def _short_list(space: Space, level: Level) -> list[str]:
    fits = {}
    for key, design in designs().items():
        if design.role not in ("fill", "motif"):
            continue
        try:
            fits[key] = fit_of(design, space, begun_at(design, space, level)).score
        except Exception:
            # One design's mistake must not take the others with it.
            continue
    good = sorted(
        (key for key, fit in fits.items() if fit >= LEAST), key=lambda key: (-fits[key], key)
    )
    # Both kinds of work are heard: what is drawn by hand and what is drawn by ruler.
    hand = [key for key in good if designs()[key].family == "freehand"][: SHORT // 2 + 1]
    ruler = [key for key in good if designs()[key].family == "ruler"][: SHORT - len(hand)]
    return sorted({*hand, *ruler}, key=lambda key: (-fits[key], key)) or list(fits)[:1]


def thread_for(core: Job, place: Setting) -> str:
    """The thread that blends best with the cloth, clear thread left out where there is another."""
    threads = [each for each in core.threads if each.key != "clear"] or list(core.threads)
    best = min(threads, key=lambda each: abs(lightness(each.colour) - lightness(place.colour)))
    return best.key


def proposed_legend(
    core: Job,
    level: Level,
    drawn: Sequence[LayerLinework] = (),
    bare_only: bool = False,
    units: str = "in",
    custom: Custom | None = None,
) -> tuple[tuple[Entry, ...], list[tuple[str, Proposed]]]:
    """A start for the whole quilt: an entry for each kind of place, and why. What the client forbids is left
    out; with *bare_only* what has a design keeps it.

    The places that cover most come first; those after them are chosen to differ from what lies beside them.
    """
    left_out, given = core.untouchable, core.entry_of()
    kept = list(core.legend) if bare_only else []
    working = core.with_legend(tuple(kept))
    lying: list[LayerLinework] = [one for one in drawn if bare_only]
    used: Counter[str] = Counter()
    told: list[tuple[str, Proposed, Entry]] = []
    for number, place in enumerate(places_of(core.chart, core.zones), 1):
        zones = [z for z in place.zones if z not in left_out and not (bare_only and z in given)]
        if not zones:
            continue
        here = setting_of(working, zones, lying, custom)
        here = replace(here, beside=_with_densities(here.beside, told))
        best = ranked(working, here, level, units=units, used=used)[0]
        used[best.heard.design] += 1
        name = (place.names if len(zones) > 1 else place.name).capitalize()
        entry = Entry(_id(kept, number), name, tuple(zones), (DITCH, *best.heard.layers))
        kept.append(entry)
        working = working.with_legend(tuple(kept))
        told.append((entry.id, best, entry))
    return tuple(kept), [(entry.name, best) for _, best, entry in told]


def _with_densities(beside: tuple[Beside, ...], told: list) -> tuple[Beside, ...]:
    """Neighbours as dense as what was just proposed for them, which nobody has drawn everywhere yet."""
    density = {zone: best.heard.density for _, best, entry in told for zone in entry.zones}
    return tuple(replace(one, density=density.get(one.zone, one.density)) for one in beside)


def _id(kept: Sequence[Entry], number: int) -> str:
    taken = {entry.id for entry in kept}
    while f"e{number}" in taken:
        number += 1
    return f"e{number}"
