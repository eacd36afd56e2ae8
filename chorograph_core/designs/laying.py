"""How a run is laid, in words."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from chorograph_core.designs.linework import RULED, Run
from chorograph_core.rulers import Reach, edge_named

Stretch = tuple[np.ndarray, str, str, float]
"""A piece of a run: its points (n, 2), technique, kind and inches."""


def edge_of(pieces: Sequence[Stretch], reach: Reach) -> str:
    """The edge that the longest ruled one of *pieces* is stitched along, by its name, or by hand.

    Raises ValueError where no ruler is laid for any.
    """
    ruled = [piece for piece in pieces if piece[2] == "stitch" and piece[1] in RULED]
    return edge_named(max(ruled, key=lambda piece: piece[3])[0], reach)


def position_in(run: Run) -> str:
    """By what most of *run* is laid: how its second line is, since the first lies by a seam."""
    positions = [span.position for span in run.spans if span.position] or [run.position]
    return positions[min(1, len(positions) - 1)]
