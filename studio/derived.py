"""What follows from a document: worked out once, by whoever asks first, and kept by what it follows from.

In each process the newest are kept; where the installation has a folder for it (`CHOROGRAPH_CACHE`), its
processes share what takes long, also after they are started anew.
"""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Generic, TypeVar, cast

from django.conf import settings
from django.core.cache import caches

Made = TypeVar("Made")
_NONE = object()


@lru_cache(maxsize=1)
def code() -> str:
    """Names the code that runs: what another version worked out is worked out again."""
    found = hashlib.sha256()
    for package in ("chorograph_core", "studio"):
        for kind in ("*.py", "*.mo"):
            for file in sorted((Path(settings.HOME) / package).rglob(kind)):
                if "tests" not in file.parts:
                    found.update(file.read_bytes())
    return found.hexdigest()[:16]


def name_of(*of: object) -> str:
    """A name for what follows from *of*, as this version of the code works it out."""
    return hashlib.sha256(repr((code(), *of)).encode()).hexdigest()[:24]


_one_at_a_time = threading.RLock()
"""Held by whoever works something out. Two at once in one process would take as long as one after the other,
and whoever only reads a page would wait for both. What is worked out may need something else that is, hence
reentrant."""


class Derived(Generic[Made]):
    """Answers of one kind by their keys: the *most* newest, *shared* with other processes or not.

    Whoever asks for what somebody else is already working out waits for it: fifty who open one quilt do not
    draw it fifty times. An answer is handed to many and is changed by nobody.
    """

    def __init__(self, name: str, most: int = 16, shared: bool = False) -> None:
        self.name, self.most, self.shared = name, most, shared
        self._kept: OrderedDict[tuple, Made] = OrderedDict()
        self._lock = threading.Lock()

    def __call__(self, key: tuple, make: Callable[[], Made]) -> Made:
        """The answer for *key*, which names all that it follows from; *make* works it out."""
        found = self._found(key)
        if found is _NONE:
            with _one_at_a_time:
                found = self._found(key)
                if found is _NONE:
                    found = make()
                    if self.shared:
                        caches["derived"].set(self._named(key), found)
                    self._keep(key, found)
        return cast(Made, found)

    def _named(self, key: tuple) -> str:
        return f"{self.name}-{name_of(*key)}"

    def _found(self, key: tuple) -> object:
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        if not self.shared:
            return _NONE
        found = caches["derived"].get(self._named(key), _NONE)
        if found is not _NONE:
            self._keep(key, found)
        return found

    def _keep(self, key: tuple, made: object) -> None:
        with self._lock:
            self._kept[key] = cast(Made, made)
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)

    def clear(self) -> None:
        """Forget what this process keeps."""
        with self._lock:
            self._kept.clear()
