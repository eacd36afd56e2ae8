"""Stretches of a line that may be drawn otherwise: as many of them as the rest of the line bears.

What is eased in one place may cross something there, and be as it should in all others. So a change is a
patch, and a line takes all that it can: all at once where that goes, else those halves of them that go.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

TRIALS = 48
"""Lines tried at most."""


class Patch(NamedTuple):
    """*points* (n, 2) instead of those of a line from *first* to *last*, both included."""

    first: int
    last: int
    points: np.ndarray


def patched(line: np.ndarray, patches: Sequence[Patch]) -> np.ndarray:
    """The *line* (n, 2) with *patches*, of which none lies over another.

    >>> line = np.array([(0, 0), (1, 0), (2, 0), (3, 0)])
    >>> patched(line, [Patch(1, 2, np.array([(1.5, 1)]))]).tolist()
    [[0.0, 0.0], [1.5, 1.0], [3.0, 0.0]]
    """
    pieces, begun = [], 0
    for patch in sorted(patches, key=lambda each: each.first):
        pieces += [line[begun : patch.first], patch.points]
        begun = patch.last + 1
    return np.concatenate([*pieces, line[begun:]])


def with_what_fits(
    line: np.ndarray, choices: Sequence[Sequence[Patch]], fits: Callable[[np.ndarray], bool]
) -> np.ndarray:
    """The *line* (n, 2) with one patch of each of *choices*, the earliest of it that *fits* together with the
    others; itself where none does. No more than `TRIALS` lines are tried."""
    taken: list[Patch] = []
    left, tried = list(range(len(choices))), 0

    def take(some: list[tuple[int, Patch]]) -> None:
        nonlocal tried
        free = [(k, patch) for k, patch in some if not _over_any(patch, taken)]
        if not free or tried >= TRIALS:
            return
        tried += 1
        if fits(patched(line, [*taken, *(patch for _, patch in free)])):
            taken.extend(patch for _, patch in free)
            left[:] = [k for k in left if k not in {k for k, _ in free}]
        elif len(free) > 1:
            take(free[: len(free) // 2])
            take(free[len(free) // 2 :])

    for turn in range(max(map(len, choices), default=0)):
        # Of what lies over each other only the first is tried at once.
        apart: list[tuple[int, Patch]] = []
        for k in left:
            if turn < len(choices[k]):
                patch = choices[k][turn]
                if not _over_any(patch, [other for _, other in apart]):
                    apart.append((k, patch))
        take(apart)
    return patched(line, taken) if taken else line


def _over_any(patch: Patch, others: Sequence[Patch]) -> bool:
    return any(patch.first <= other.last and other.first <= patch.last for other in others)
