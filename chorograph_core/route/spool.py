"""Thread and bobbin: what is used of each, and what no route can do without."""

from __future__ import annotations

import math
from collections.abc import Mapping
from types import MappingProxyType

from chorograph_core.reckon import Machine, thread_inches

ORDINARY = 11.0
"""Stitches per inch before any line was stitched."""


class Spool:
    """Thread as it is used: *used* inches of each on top and as many on its bobbin. *spi* is how close is
    being stitched, in stitches per inch.

    Below lies the same thread as on top: with another thread another bobbin is put in, a full one the first
    time, and the last one is put *aside* with what is left on it. *on_bobbin* are the inches left on the
    one in the machine.
    """

    def __init__(
        self, machine: Machine, thread: str = "", on_bobbin: float | None = None,
        aside: Mapping[str, float] = MappingProxyType({}),
    ) -> None:  # fmt: skip
        self.machine, self.spi = machine, ORDINARY
        self.full = machine.bobbin_yards * 36
        self.on_bobbin = self.full if on_bobbin is None else min(on_bobbin, self.full)
        self.used: dict[str, float] = {}
        self._thread = thread
        self._aside = {key: min(left, self.full) for key, left in aside.items()}
        self._begun_with = {**self._aside, thread: self.on_bobbin}
        self._bare: dict[str, float] = {}

    @property
    def aside(self) -> dict[str, float]:
        """Inches left on the bobbins of the other threads that were begun."""
        return dict(self._aside)

    def put_in(self, thread: str) -> None:
        """Another thread, and the bobbin that goes with it."""
        if thread == self._thread:
            return
        if self._thread:
            self._aside[self._thread] = max(self.on_bobbin, 0.0)
        # As long as no thread is known, what is in the machine is what it is.
        held = self.on_bobbin if not self._thread else self.full
        self.on_bobbin = self._aside.pop(thread, held)
        self._thread = thread

    def need(self, inches: float) -> float:
        """Inches of thread that so many stitched inches take."""
        return thread_inches(inches, self.spi, self.machine.loft)

    def use(self, thread: str, inches: float, starts: int = 0, spi: float | None = None) -> None:
        """Stitch, or travel, so many inches, with so many starts; with another *spi* than the last where one
        is given."""
        used = thread_inches(inches, spi or self.spi, self.machine.loft, starts, self.machine.tail)
        self.used[thread] = self.used.get(thread, 0.0) + used
        self.on_bobbin -= used

    def must(self, thread: str, inches: float) -> None:
        """So many inches are stitched by every route, as lines or as a design's own ways between them."""
        self._bare[thread] = self._bare.get(thread, 0.0) + self.need(inches)

    def refill(self) -> float:
        """Put in a full bobbin; the inches that were left on the last one."""
        left = max(self.on_bobbin, 0.0)
        self.on_bobbin = self.full + min(self.on_bobbin, 0.0)
        return left

    def least_changes(self, first: str, turns: int = 0) -> float:
        """Minutes of thread and bobbin changes that no route over this linework can avoid, with *first*
        in the needle at the beginning (empty: none); the thread is changed *turns* times in any case.

        Counts the thread of the linework alone, nothing of travel, against bobbins that are emptied to the
        end.
        """
        rates = self.machine.rates
        # The first thread costs nothing where none is in the needle yet.
        free = 1 if not first or first in self._bare else 0
        threads = max(turns, len(self._bare) - free)
        bobbins = sum(
            math.ceil(max(0.0, bare - self._begun_with.get(thread, self.full)) / self.full - 1e-9)
            for thread, bare in self._bare.items()
        )
        return (threads * rates.thread_change + bobbins * rates.bobbin) / 60
