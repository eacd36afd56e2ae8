"""Proposals: candidates for a place, best first; a start for the whole quilt."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from chorograph_core.choosing.hearing import Heard, heard, lightness, plain_settings, space_in
from chorograph_core.choosing.levels import Level, begun_at
from chorograph_core.choosing.reasons import Reason, reasons_for, score
from chorograph_core.choosing.setting_out import Beside, Custom, Setting, setting_of
from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.drawing import fit_of
from chorograph_core.designs.legend import Entry, Layer, LayerLinework, main_layer, role_of
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.zones.places import Place, places_of

SHORT = 8
"""Designs that are drawn to be compared, of those that suit best."""
LEAST = 0.35
"""How well a design must suit a zone to be heard at all."""
GOOD = 0.7
"""How well one of those must do in the end, no closer than the work pays for; else others are heard."""
TOGETHER, UP_TO, AGAIN = 0.06, 2, 0.04
"""What it weighs for a design that a quilt has it in another place, or in so many, since then it is learned
already and the quilt holds together; what each further use weighs against it."""
NEW, EACH = 0.1, 0.04
"""What it weighs against a design to be one more than such work has; and each that is over already."""
KNOWN = 4
"""Designs a quilt has already that are heard where they suit."""
NARROW, SMALL = 0.5, 1.0
"""Inches across a place up to which the ditch round it holds it, since nobody sees what is in it; and up to
which it does where all that suits it is closer than the work pays for."""
SIDE = 3.0
"""Times its width that a piece of a border is long from which on it is a side: others are pieced."""
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
    used = used or Counter()
    found = []

    def hear(key: str) -> None:
        one = heard(core, place, candidate(designs()[key], space, level, thread))
        said = (*reasons_for(one, place, level, units), *_learned(key, used, level))
        said = tuple(sorted(said, key=lambda reason: -abs(reason.weight)))
        found.append(Proposed(one, said, score(one, said)))

    if keys := [key for key in only if key in designs()]:
        for key in keys:
            hear(key)
    else:
        listed, others = _short_list(space, level, used)
        for key in listed:
            hear(key)
        for key in others:
            # In a small place all that suits it best may be closer than the work pays for, or beside itself.
            if any(each.score >= GOOD and each.heard.density <= level.high for each in found):
                break
            hear(key)
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


def _learned(key: str, used: Counter[str], level: Level) -> Iterator[Reason]:
    """What it says for or against a design how often a quilt has it, and how many others."""
    times, many = used[key], len(used)
    if 0 < times <= UP_TO:
        why = "it is learned already, and the quilt holds together"
        known = (
            f"in another place too: {why}" if times == 1 else f"in {times} other places too: {why}"
        )
        yield Reason(TOGETHER, known)
    elif times:
        yield Reason(-AGAIN * (times - UP_TO), f"in {times} other places already")
    elif many >= level.kinds:
        words = f"one design more in a quilt that has {many} already"
        yield Reason(-NEW - EACH * (many - level.kinds), words)


def _short_list(space: Space, level: Level, used: Counter[str]) -> tuple[list[str], Iterator[str]]:
    """The designs that are heard, of both kinds of work, and others that are heard if none of these will
    do: the most open first, as far as their settings tell."""
    fits = {}
    for key, design in designs().items():
        # A motif of one's own is one that somebody drew: without it there is nothing to propose.
        if design.role not in ("fill", "motif") or design.own:
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
    # What the quilt has already is heard in place of what suits least.
    known = [key for key in good if key in used][:KNOWN]
    turns = itertools.chain.from_iterable(itertools.zip_longest(hand, ruler))
    others = [key for key in turns if key is not None and key not in known]
    chosen = [*known, *others][: max(len(hand) + len(ruler), len(known))]
    listed = sorted(chosen, key=lambda key: (-fits[key], key)) or list(fits)[:1]

    def apart(key: str) -> float:
        return designs()[key].spacing(space, begun_at(designs()[key], space, level))

    others = sorted((key for key in good if key not in listed), key=lambda key: (-apart(key), key))
    return listed, iter(others[:SHORT])


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
    tell: Callable[[float], None] | None = None,
) -> tuple[tuple[Entry, ...], list[tuple[str, Proposed]]]:
    """A start for the whole quilt: an entry for each kind of place, and why. What the client forbids is left
    out; with *bare_only* what has a design keeps it.

    The places that cover most come first; those after them are chosen to differ from what lies beside them.
    The sides of a border are one place, whatever their lengths. *tell* is told the share that is done.
    """
    left_out, given = core.untouchable, core.entry_of()
    kept = list(core.legend) if bare_only else []
    working = core.with_legend(tuple(kept))
    lying: list[LayerLinework] = [one for one in drawn if bare_only]
    main = [entry.layers[main_layer(entry)] for entry in kept]
    used = Counter(layer.design for layer in main if role_of(layer) != "ditch")
    told: list[tuple[str, Proposed, Entry]] = []
    groups = _with_whole_borders(places_of(core.chart, core.zones))
    names = _names(core, groups, units)
    for number, places in enumerate(groups, 1):
        zones = [zone for place in places for zone in place.zones
                 if zone not in left_out and not (bare_only and zone in given)]  # fmt: skip
        if tell is not None:
            tell((number - 1) / len(groups))
        if not zones:
            continue
        here = setting_of(working, zones, lying, custom)
        here = replace(here, beside=_with_densities(here.beside, told))
        best = _best(working, here, level, units, used)
        more = best.heard.layers if best.heard.design != DITCH.design else ()
        used.update([best.heard.design] if more else ())
        entry = Entry(_id(kept, number), names[number - 1], tuple(zones), (DITCH, *more))
        kept.append(entry)
        working = working.with_legend(tuple(kept))
        told.append((entry.id, best, entry))
    return tuple(kept), [(entry.name, best) for _, best, entry in told]


def _best(core: Job, place: Setting, level: Level, units: str, used: Counter[str]) -> Proposed:
    """What suits a place best, or the ditch alone where it is that small."""
    wide = 2 * space_in(core, place).widest[1]
    told = format_length(wide, units)
    if wide <= NARROW:
        return _left_to_the_ditch(core, place, f"{told} across: the ditch round it holds it")
    best = ranked(core, place, level, units=units, used=used)[0]
    if wide <= SMALL and best.heard.density > level.high:
        why = (f"{told} across, and all else is closer than {level.name} work pays for: "
               "the ditch round it holds it")  # fmt: skip
        return _left_to_the_ditch(core, place, why)
    return best


def _left_to_the_ditch(core: Job, place: Setting, why: str) -> Proposed:
    one, said = heard(core, place, (DITCH,)), (Reason(0.3, why),)
    return Proposed(one, said, score(one, said))


def _with_whole_borders(places: Sequence[Place]) -> list[list[Place]]:
    """Places that get one design: the sides of a border together (as wide, of one cloth), all else by itself;
    what covers most first."""
    groups: dict[object, list[Place]] = {}
    for number, place in enumerate(places):
        long, wide = max(place.size), min(place.size)
        side = place.role == "border" and long >= SIDE * wide
        key = ("border", place.fabric, round(wide * 8)) if side else number
        groups.setdefault(key, []).append(place)

    def covers(group: list[Place]) -> float:
        return sum(place.shape.area * len(place.zones) for place in group)

    return sorted(groups.values(), key=lambda group: -covers(group))


def _names(core: Job, groups: Sequence[Sequence[Place]], units: str) -> list[str]:
    """What the entries are called: by the kind of place; by its cloth too, then by how narrow it is, then
    by its whole size, where several would be called alike."""

    def spelled(group: Sequence[Place], more: int) -> str:
        first = group[0]
        many = sum(len(place.zones) for place in group) > 1
        words = [(first.names if many else first.name).capitalize()]
        if more > 0:
            words.append(core.chart.fabric(first.fabric).name)
        if more > 1:
            sizes = sorted(first.size) if more > 2 else [min(first.size)]
            words.append(" × ".join(format_length(size, units) for size in sizes))
        return ", ".join(words)

    names = [spelled(group, 0) for group in groups]
    for more in (1, 2, 3):
        alike = {name for name, count in Counter(names).items() if count > 1}
        names = [spelled(group, more) if name in alike else name
                 for group, name in zip(groups, names, strict=True)]  # fmt: skip
    return names


def _with_densities(beside: tuple[Beside, ...], told: list) -> tuple[Beside, ...]:
    """Neighbours as dense as what was just proposed for them, which nobody has drawn everywhere yet."""
    density = {zone: best.heard.density for _, best, entry in told for zone in entry.zones}
    return tuple(replace(one, density=density.get(one.zone, one.density)) for one in beside)


def _id(kept: Sequence[Entry], number: int) -> str:
    taken = {entry.id for entry in kept}
    while f"e{number}" in taken:
        number += 1
    return f"e{number}"
