"""Find every design: one file in ruler/ or freehand/ with a subclass of `Design`."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
from functools import cache
from types import ModuleType

from chorograph_core.designs.contract import Design, Role

FAMILIES = ("ruler", "freehand")


@cache
def _found() -> tuple[dict[str, Design], dict[str, str]]:
    found: dict[str, Design] = {}
    broken: dict[str, str] = {}
    for family in FAMILIES:
        package = importlib.import_module(f"chorograph_core.designs.{family}")
        here: list[Design] = []
        for module in sorted(pkgutil.iter_modules(package.__path__), key=lambda each: each.name):
            name = f"{package.__name__}.{module.name}"
            try:
                here += designs_in(importlib.import_module(name))
            except Exception as error:
                # One broken file must not take the others away: it is named where designs are chosen.
                broken[name] = f"{type(error).__name__}: {error}"
        for design in sorted(here, key=lambda d: d.name):
            if design.key in found:
                broken[f"{family}/{design.key}"] = f"two designs are called {design.key}"
                continue
            found[design.key] = design
    return found, broken


def designs_in(module: ModuleType) -> list[Design]:
    """One of each design that *module* itself defines, at whatever depth it derives from `Design`;
    abstract ones are what others derive from."""
    return [
        member()
        for _, member in inspect.getmembers(module, inspect.isclass)
        if issubclass(member, Design)
        and member.__module__ == module.__name__
        and not inspect.isabstract(member)
    ]


def designs() -> dict[str, Design]:
    """All designs by key, ruler work first, each family by name."""
    return _found()[0]


def broken_designs() -> dict[str, str]:
    """Files that hold no usable design, by name, with what is wrong."""
    return _found()[1]


def design(key: str) -> Design:
    """Return the design called *key*; KeyError if there is none."""
    return designs()[key]


def for_strokes(kind: str) -> list[Design]:
    """The designs that lay a stroke of one's own of a *kind*."""
    return [
        each for each in designs().values()
        if each.own and any(p.strokes == kind for p in each.parameters)
    ]  # fmt: skip


def of_role(role: Role) -> Design:
    """The first design in that role: what "in the ditch" or "a breathing line" means."""
    return next(each for each in designs().values() if each.role == role)
