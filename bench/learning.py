"""What a log teaches, over simulated studios: how near it comes, and how often its ranges hold the truth."""

from __future__ import annotations

import time

import numpy as np

from bench.table import table
from chorograph_core.estimating.learning import PRIOR, Timed, learned

NAMES = ("ditch", "straight", "curved", "medium", "fine", "ruler_move", "cut", "look_up")
STUDIOS = 150
STRAYING = 0.25


def _studio(rng, things: int, odd: float):
    """A hand of its own, and what was timed of it; a share of *odd* things with a pause nobody saw."""
    true = dict(zip(NAMES, np.maximum(rng.normal(1, PRIOR, len(NAMES)), 0.3), strict=True))
    timed = []
    for _ in range(things):
        parts = {str(name): float(rng.lognormal(3.5, 0.8))
                 for name in rng.choice(NAMES, rng.integers(1, 4), replace=False)}  # fmt: skip
        took = sum(true[name] * seconds for name, seconds in parts.items())
        took *= rng.lognormal(-(STRAYING**2) / 2, STRAYING)
        timed.append(Timed(parts, float(took * (rng.uniform(3, 9) if rng.random() < odd else 1))))
    return true, timed


def _misses(off) -> float:
    return 100 * float(np.sqrt(np.mean(np.square(off))))


def main() -> None:
    """Defaults against what is learned, by how much was timed; then how long a large log takes."""
    rng = np.random.default_rng(14)
    rows = []
    for things in (5, 20, 80, 400):
        for odd in (0.0, 0.05):
            plain, ours, held, asked, jobs = [], [], 0, 0, 0
            for _ in range(STUDIOS):
                true, timed = _studio(rng, things, odd)
                found = learned(timed)
                for name, factor in found.factors.items():
                    plain.append(1 - true[name])
                    ours.append(factor.mean - true[name])
                    held += factor.low <= true[name] <= factor.high
                    asked += 1
                parts = {name: float(rng.uniform(300, 4000)) for name in NAMES}
                _, low, high = found.estimate(parts)
                jobs += low <= sum(true[n] * s for n, s in parts.items()) <= high
            rows.append([
                f"{things} timed{', 5% with a pause unseen' if odd else ''}",
                _misses(plain), _misses(ours),
                100 * held / asked, 100 * jobs / STUDIOS,
            ])  # fmt: skip
    head = ["", "defaults miss by %", "learned miss by %", "ranges hold %", "whole quilts hold %"]
    table("Own rates over 150 simulated studios", head, rows)
    _, timed = _studio(rng, 20_000, 0.03)
    began = time.perf_counter()
    learned(timed)
    took = time.perf_counter() - began
    table("A large log", ["", "seconds", "aim"], [["20,000 things learned from", took, 2.0]])
