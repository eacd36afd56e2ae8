"""Trials of the whole application as it is served: load, death, leaks, junk, backup.

Bounded, on loopback, on a database of their own that is thrown away; docs/trials.md keeps their figures.
"""

from __future__ import annotations

from bench.trials import backup, death, junk, leaks, load
from bench.trials.world import world


def main() -> None:
    """One after the other, each on what the one before left."""
    with world() as here:
        load.main(here)
        leaks.main(here)
        junk.main(here)
        backup.main(here)
        death.main(here)
