"""Keeps what was drawn lately."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Any


class DrawingCache:
    """Linework of one pattern zone by what it was drawn from; the least used is dropped.

    The server draws in several threads at once: every access holds the lock.
    """

    def __init__(self, most: int = 600) -> None:
        self._kept: OrderedDict[str, Any] = OrderedDict()
        self._most = most
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
