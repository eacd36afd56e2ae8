"""Keeps what was drawn lately, by what it was drawn from."""

from __future__ import annotations

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from typing import Any

import shapely
from shapely.geometry import Polygon

WHOLE = 2
"""Drawings of a whole legend that are kept."""


class DrawingCache:
    """Linework of one pattern zone by what it was drawn from; the least used is dropped.

    The server draws in several threads at once: every access holds the lock.
    """

    def __init__(self, most: int = 600) -> None:
        self._kept: OrderedDict[str, Any] = OrderedDict()
        self._most = most
        self._whole: list[tuple[tuple[Any, ...], tuple[Any, ...]]] = []
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._kept)

    def get(self, key: str) -> Any | None:
        """What was drawn for *key*, or None."""
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
            return found

    def put(self, key: str, made: Any) -> None:
        """Keep *made* for next time."""
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)

    def whole(self, parts: tuple[Any, ...], draw: Callable[[], Sequence[Any]]) -> list[Any]:
        """What *draw* draws of the very same *parts*, kept for the last `WHOLE` of them: the same chart is
        drawn again and again while somebody asks about it."""
        with self._lock:
            for known, made in self._whole:
                if all(one is other for one, other in zip(known, parts, strict=True)):
                    return list(made)
        drawn = draw()
        with self._lock:
            self._whole = [(parts, tuple(drawn)), *self._whole[: WHOLE - 1]]
        return list(drawn)


def shape_key(shape: Polygon) -> str:
    """A polygon as text, the same for the same corners in the same order."""
    return str(shapely.to_wkb(rounded(shape), hex=True))


def rounded(shape: Polygon) -> Polygon:
    """The polygon to a billionth of an inch: what is drawn in it is drawn in all that have its key."""
    return shapely.set_precision(shape, 1e-9, mode="pointwise")


def digest(values: Sequence[Any]) -> str:
    """SHA-256 of plain values in a canonical spelling."""
    return hashlib.sha256(json.dumps(values, sort_keys=True).encode()).hexdigest()
