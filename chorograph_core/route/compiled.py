"""Loops over single prices, compiled where they are first called.

A search looks at millions of them one after the other, each for what the last one left: what numpy does
with whole arrays at once cannot be said of it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar, cast

from numba import njit

F = TypeVar("F", bound=Callable)


def compiled(loop: F) -> F:
    """The same *loop*, compiled for the kinds of arrays it is called with, and kept for the next process
    where there is a folder to keep it in."""
    try:
        return cast(F, njit(cache=True)(loop))
    except RuntimeError:
        return cast(F, njit(loop))
