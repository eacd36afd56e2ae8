"""Thread and bobbin: what is used of each, and what no route can do without."""

from __future__ import annotations

import math

from chorograph_core.reckon import Machine, thread_inches


class Spool:
    """Thread as it is used: *used* inches of each on top and as many on the bobbin, of which *on_bobbin*
    are left. *spi* is the stitch length being stitched."""

    def __init__(self, machine: Machine, on_bobbin: float | None) -> None:
        self.machine, self.spi = machine, 11.0
        self.full = machine.bobbin_yards * 36
        self.on_bobbin = self.full if on_bobbin is None else min(on_bobbin, self.full)
        self.used: dict[str, float] = {}
        self._begun_with = self.on_bobbin
        self._bare: dict[str, float] = {}

    def need(self, inches: float) -> float:
        """Inches of thread that so many stitched inches take."""
        return thread_inches(inches, self.spi, self.machine.loft)

    def use(self, thread: str, inches: float, starts: int = 0) -> None:
        """Stitch, or travel, so many inches, with so many starts."""
        used = thread_inches(inches, self.spi, self.machine.loft, starts, self.machine.tail)
        self.used[thread] = self.used.get(thread, 0.0) + used
        self.on_bobbin -= used

    def must(self, thread: str, inches: float) -> None:
        """So many inches are stitched by every route."""
        self._bare[thread] = self._bare.get(thread, 0.0) + self.need(inches)

    def refill(self) -> float:
        """Put in a full bobbin; the inches that were left on the last one."""
        left = max(self.on_bobbin, 0.0)
        self.on_bobbin = self.full + min(self.on_bobbin, 0.0)
        return left

    def least_changes(self, first: str) -> float:
        """Minutes of thread and bobbin changes that no route over this linework can avoid, with *first*
        in the needle at the beginning (empty: none).

        Counts the thread of the stitched lines alone, against bobbins that are emptied to the end.
        """
        rates = self.machine.rates
        # The first thread costs nothing where none is in the needle yet.
        free = 1 if not first or first in self._bare else 0
        threads = max(0, len(self._bare) - free)
        later = max(0.0, sum(self._bare.values()) - self._begun_with)
        bobbins = math.ceil(later / self.full - 1e-9)
        return (threads * rates.thread_change + bobbins * rates.bobbin) / 60
