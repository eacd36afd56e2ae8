"""How much thread a line eats."""

from __future__ import annotations


def thread_inches(stitched: float, spi: float, loft: float, starts: int = 0, tail: float = 6.0):
    """Inches of top thread (and as many of bobbin) for *stitched* inches of line.

    Each stitch takes the thread half the thickness down and half back: a stitched inch uses
    1 + spi × loft inches. Every start and end leaves a *tail*.

    >>> round(thread_inches(100, 11, 0.1), 6)
    210.0
    """
    return stitched * (1 + spi * loft) + 2 * starts * tail


def thread_yards(top_inches: float, reserve: float) -> float:
    """Yards to have at hand for *top_inches* of top thread: as much again on the bobbin, and the
    *reserve* (a share) on both. Routes, bookings and quotes all reckon with this.

    >>> round(thread_yards(thread_inches(36, 11, 0.075), 0.1), 4)
    4.015
    """
    return 2 * top_inches * (1 + reserve) / 36
