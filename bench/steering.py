"""The route in her hands: ways of working priced, what would help, the rest planned anew, a wish's price."""

from __future__ import annotations

import random
import time
from dataclasses import replace

import numpy as np

from bench.sizes import _job as sized
from bench.table import peak_megabytes, table
from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import Job, planned_job, replayed_job
from chorograph_core.route import State
from chorograph_core.route.keeping import Kept
from chorograph_core.route.model import Wish
from chorograph_core.steering.helping import candidates, with_help
from chorograph_core.steering.schools import alternatives, priced, unplanned
from chorograph_core.steering.standing import stands_after
from studio.demo import tops as demo


def main() -> None:
    """Schools and helps of the sampler, replanning of tops that are half done."""
    job, cache, kept = demo.sampler(), DrawingCache(), Kept()
    now = priced(job, {}, cache, kept=kept)
    rows, took = [], []
    for question, answer in alternatives(job):
        began = time.perf_counter()
        made = unplanned(question.key, answer.key, now, job, cache) or priced(
            job, {question.key: answer.key}, cache, kept=kept
        )
        took.append(time.perf_counter() - began)
        rows.append([f"{question.name}: {answer.name}", made.whole - now.whole, made.rolls, made.cuts,
                     made.layings, made.lookups, took[-1]])  # fmt: skip
    table("Ways of working on the sampler, against how it is worked now",
          ["way", "minutes more", "rolls", "cuts", "layings", "look-ups", "seconds"], rows)  # fmt: skip
    helps = []
    for change in candidates(job, cache):
        began = time.perf_counter()
        priced(with_help(job, change), {}, cache)
        helps.append(time.perf_counter() - began)
    some = job.zones[40].id
    wished = replace(job, policy=replace(job.policy, wishes=(Wish("first", (some,)),)))
    began = time.perf_counter()
    priced(wished, {}, cache, kept=kept)
    wish = time.perf_counter() - began
    # A worker that is asked for another quilt has let go of what it kept of this one.
    kept, cache = Kept(), DrawingCache()
    table("In her hands", ["what", "ours", "aim"], [
        ["first three ways priced, two workers, seconds", sum(took[:3]) / 2, 3.0],
        ["all ways priced, two workers, seconds", sum(took) / 2, 8.0],
        ["what would help, two workers, seconds", sum(helps) / 2, 20.0],
        ["a wish's price, seconds", wish, 1.0],
        *(_replanned(f"the rest of {zones} zones, half done, seconds", each, aim)
          for zones, each, aim in ((323, job, 1.0), (2445, sized(11, 14), 4.0))),
        ["peak MB", peak_megabytes(), 400.0],
    ])  # fmt: skip


def _replanned(what: str, job: Job, aim: float) -> list:
    """Seconds until a first answer for the rest is there, in the middle of the work and about it."""
    cache = DrawingCache()
    quick = replace(job, policy=replace(job.policy, effort=0))
    route = planned_job(quick, cache)
    tops = {each.number: each.top for each in route.passes}
    rng, seconds = random.Random(5), []
    for _ in range(3):
        share = rng.uniform(0.4, 0.6)
        state = stands_after(job, route.steps, tops, share * route.minutes * 60, State())
        began = time.perf_counter()
        rest = planned_job(quick, cache, state=state, bound=False)
        seconds.append(time.perf_counter() - began)
    if len(job.zones) < 1000:
        assert not replayed_job(quick, rest, state)
    return [what, float(np.median(seconds)), aim]
