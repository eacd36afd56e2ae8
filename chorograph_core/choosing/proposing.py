"""Proposals: candidates for a place, best first."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from chorograph_core.choosing.hearing import Heard, heard, lightness, plain_settings, space_in
from chorograph_core.choosing.levels import Level, begun_at, level_of
from chorograph_core.choosing.reasons import Reason, reasons_for, score
from chorograph_core.choosing.setting_out import Setting
from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.drawing import fit_of
from chorograph_core.designs.legend import Layer
from chorograph_core.job import Job

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
ONE_GROUND = 0.35
"""What it weighs for a design that the other backgrounds of a cloth have it."""
KNOWN = 4
"""Designs a quilt has already that are heard where they suit."""
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
    used: Counter[str] | None = None, ground: Sequence[Layer] | None = None,
) -> list[Proposed]:  # fmt: skip
    """Candidates for a place, best first: those called *only*, else those that suit it best. Of a background
    *ground* is what others of its cloth have, none of them as yet if it is empty: all run the same way."""
    space = space_in(core, place)
    if place.role == "applique":
        # Whatever the work round it is, a shape sewn on is stitched as little as holds it.
        level = level_of("light")
    thread = thread or thread_for(core, place)
    used = used or Counter()
    same = ground[0].design if ground else ""
    wanted = [key for key in only if key in designs()]
    listed, others = (wanted, []) if wanted else _short_list(space, level, used, same)
    found: list[Proposed] = []
    for key in [*listed, *others]:
        # In a small place all that suits it best may be closer than the work pays for, or beside itself: then
        # others are heard, until one does.
        if len(found) >= len(listed) and any(_does(each, level) for each in found):
            break
        layers = candidate(designs()[key], space, level, thread, ground is not None)
        again = _learned(key, used, level)
        if ground and key == same:
            layers, again = tuple(ground), _one_ground(place)
        one = heard(core, place, layers)
        said = (*reasons_for(one, place, level, units), *again)
        said = tuple(sorted(said, key=lambda reason: -abs(reason.weight)))
        found.append(Proposed(one, said, score(one, said)))
    return sorted(found, key=lambda each: (-round(each.score, 6), each.heard.design))


def _does(one: Proposed, level: Level) -> bool:
    """Whether it will do: well enough, and no closer than the work pays for."""
    return one.score >= GOOD and one.heard.density <= level.high


def candidate(
    design: Design, space: Space, level: Level, thread: str, alongside: bool = False
) -> tuple[Layer, ...]:
    """The layers of a candidate: the design as the level begins it, and the ground round a motif; *alongside*
    others it runs the way they do."""
    spi = 12.0 if design.family == "freehand" else 10.0
    begun = begun_at(design, space, level)
    layer = Layer(
        design.key,
        plain_settings(design.alongside(begun) if alongside else begun),
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


def _one_ground(place: Setting) -> Iterator[Reason]:
    """What it says for a design that the other backgrounds have it."""
    words = f"the other backgrounds of {place.fabric} have it: they read as one ground"
    yield Reason(ONE_GROUND, words)


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


def _short_list(
    space: Space, level: Level, used: Counter[str], same: str
) -> tuple[list[str], list[str]]:
    """The designs that are heard, of both kinds of work, the *same* as of other backgrounds among them, and
    others that are heard if none of these will do: the most open first, as far as their settings tell."""
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
    known = sorted((key for key in good if key in used), key=lambda key: key != same)[:KNOWN]
    turns = itertools.chain.from_iterable(itertools.zip_longest(hand, ruler))
    others = [key for key in turns if key is not None and key not in known]
    chosen = [*known, *others][: max(len(hand) + len(ruler), len(known))]
    listed = sorted(chosen, key=lambda key: (-fits[key], key)) or list(fits)[:1]

    def apart(key: str) -> float:
        return designs()[key].spacing(space, begun_at(designs()[key], space, level))

    others = sorted((key for key in good if key not in listed), key=lambda key: (-apart(key), key))
    return listed, others[:SHORT]


def thread_for(core: Job, place: Setting) -> str:
    """The thread that blends best with the cloth, clear thread left out where there is another."""
    threads = [each for each in core.threads if each.key != "clear"] or list(core.threads)
    best = min(threads, key=lambda each: abs(lightness(each.colour) - lightness(place.colour)))
    return best.key
