"""Where a wandering motif may be begun and left."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Polygon


def corner_doors(part: Polygon, most: int = 4) -> np.ndarray:
    """Corners of *part*, at most *most* of them spread round it: seams meet there."""
    ring = np.asarray(part.exterior.simplify(0.05).coords)[:-1]
    if len(ring) <= most:
        return ring
    chosen = [int(np.argmax(np.hypot(*(ring - ring.mean(axis=0)).T)))]
    while len(chosen) < most:
        apart = np.hypot(*(ring[:, None] - ring[chosen][None]).transpose(2, 0, 1)).min(axis=1)
        chosen.append(int(np.argmax(apart)))
    return ring[sorted(chosen)]
