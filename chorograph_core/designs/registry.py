"""Find every design: one file in ruler/ or freehand/ with one subclass of `Design`."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
from functools import cache

from chorograph_core.designs.contract import Design


@cache
def designs() -> dict[str, Design]:
    """All designs by key, ruler work first, each family by name."""
    found: dict[str, Design] = {}
    for family in ("ruler", "freehand"):
        package = importlib.import_module(f"chorograph_core.designs.{family}")
        here = []
        for module in pkgutil.iter_modules(package.__path__):
            loaded = importlib.import_module(f"{package.__name__}.{module.name}")
            here += [
                member()
                for _, member in inspect.getmembers(loaded, inspect.isclass)
                if issubclass(member, Design) and member.__module__ == loaded.__name__
            ]
        for design in sorted(here, key=lambda d: d.name):
            if design.key in found:
                raise RuntimeError(f"two designs are called {design.key}")
            found[design.key] = design
    return found


def design(key: str) -> Design:
    """Return the design called *key*; KeyError if there is none."""
    return designs()[key]
