"""Figures: a layer laid over several zones as one, and how it is stitched: whole, not zone by zone."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from chorograph_core.chart import Placement
from chorograph_core.designs.legend import Figure, LayerLinework

_IN_PLACE = Placement(((1.0, 0.0), (0.0, 1.0)), (0.0, 0.0))


def wholes(drawn: Iterable[LayerLinework]) -> list[LayerLinework]:
    """The same linework with every figure in one, in the place of its first piece.

    A hand does not stop where a figure crosses a seam. The whole is called by the figure's key where
    its pieces are called by their zones.
    """
    made: list[LayerLinework] = []
    seen: set[str] = set()
    for one in drawn:
        figure = one.figure
        if figure is None or one.zone == figure.key:
            made.append(one)
        elif (name := f"{figure.key}/{one.layer}") not in seen:
            seen.add(name)
            made.append(
                replace(one, zone=figure.key, linework=figure.linework, pattern=figure.space,
                        placement=_IN_PLACE)
            )  # fmt: skip
    return made


def figures_in(drawn: Sequence[LayerLinework]) -> dict[str, Figure]:
    """All figures by key."""
    return {one.figure.key: one.figure for one in drawn if one.figure is not None}
