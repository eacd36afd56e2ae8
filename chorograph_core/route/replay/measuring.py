"""What all rules measure with."""

from __future__ import annotations

import numpy as np

NEAR = 0.03
"""Inches within which two places are the same when a route is replayed."""


def inches_of(points) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum()) if len(points) > 1 else 0.0
