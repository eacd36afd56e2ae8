"""Jobs put together by chance, as many as asked for: what is wrong with any of them."""

from __future__ import annotations

import time
import traceback

from bench.table import table
from chorograph_core.tests.mixed import faults_of, mixed_job

SLOW = 60.0
"""Seconds from which on a job is named though nothing is wrong with it."""


def main() -> int:
    """Try a hundred."""
    return mixed()


def mixed(first: int = 0, count: int = 100) -> int:
    """Try the jobs numbered from *first* on; how many are at fault."""
    rows, wrong = [], 0
    for seed in range(first, first + count):
        began = time.perf_counter()
        try:
            faults = faults_of(mixed_job(seed), seed)
        except Exception:
            faults = [traceback.format_exc(limit=-3).strip().replace("\n", " ")]
        seconds = time.perf_counter() - began
        wrong += bool(faults)
        if faults or seconds > SLOW:
            rows.append((f"job {seed}", seconds, "; ".join(faults)[:300]))
            print(*rows[-1], flush=True)
    table(f"{count} mixed jobs, {wrong} at fault", ("job", "seconds", "what is wrong"), rows)
    return wrong
