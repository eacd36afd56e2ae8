"""What a log teaches, over simulated studios: how near it comes, and how often its ranges hold the truth."""

from __future__ import annotations

import time

import numpy as np

from bench.table import table
from chorograph_core.estimating.learning import learned
from chorograph_core.tests.test_learning import NAMES, studio

STUDIOS = 150


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
                true, timed = studio(rng, things, odd)
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
    _, timed = studio(rng, 20_000, 0.03)
    began = time.perf_counter()
    learned(timed)
    took = time.perf_counter() - began
    table("A large log", ["", "seconds", "aim"], [["20,000 things learned from", took, 2.0]])
