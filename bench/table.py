"""Plain tables and what a process has used."""

from __future__ import annotations

import resource
import timeit
from collections.abc import Sequence


def table(title: str, head: Sequence[str], rows: Sequence[Sequence]) -> None:
    """Print *rows* under *head*; numbers to the right."""
    shown = [[_show(cell) for cell in row] for row in rows]
    widths = [max(len(row[k]) for row in [list(head), *shown]) for k in range(len(head))]
    print(f"\n{title}")
    for row in [list(head), ["-" * width for width in widths], *shown]:
        cells = [
            row[0].ljust(widths[0]),
            *(c.rjust(w) for c, w in zip(row[1:], widths[1:], strict=True)),
        ]
        print("  " + "  ".join(cells))


def _show(cell) -> str:
    return (
        f"{cell:,.2f}"
        if isinstance(cell, float)
        else f"{cell:,}"
        if isinstance(cell, int)
        else str(cell)
    )


def calibration() -> float:
    """Seconds for a fixed piece of plain Python: tells how fast the machine is just now."""
    return min(timeit.repeat("sum(range(1000))", number=10_000, repeat=3))


def peak_megabytes() -> float:
    """Most memory this process has held so far."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
