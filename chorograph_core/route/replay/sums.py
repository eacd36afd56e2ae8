"""Sums: layings of the ruler, seconds and inches, reckoned again from the lines."""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.designs.registry import designs
from chorograph_core.route.replay.measuring import inches_of


def sum_faults(asked, machine, steps) -> list[str]:
    """Layings of the ruler, seconds and inches, reckoned again from the lines."""
    faults = []
    laid: dict[str, int] = defaultdict(int)
    pieces: dict[str, int] = defaultdict(int)
    begun: dict[str, np.ndarray] = {}
    read: set[str] = set()
    rates = machine.rates
    for number, step in enumerate(steps, 1):
        if step.kind == "path":
            fresh = step.path not in read or step.path == "seams"
            least = rates.read_path if fresh else rates.place_path
            read.add(step.path)
            if min(abs(step.seconds - least), abs(step.seconds - least - rates.find_place)) > 0.01:
                faults.append(f"step {number}: says {step.seconds:.0f} seconds for looking up")
        if step.kind == "secure":
            seconds = rates.seconds(inches_of(step.points), "basting") + rates.tack
            if abs(seconds - step.seconds) > 0.05:
                faults.append(f"step {number}: says {step.seconds:.1f} seconds, not {seconds:.1f}")
        if step.kind == "tuck" and abs(step.seconds - rates.tuck) > 0.05:
            faults.append(f"step {number}: says {step.seconds:.1f} seconds for a tuck")
        if step.kind == "unpick" and abs(step.inches / rates.unpick * 60 - step.seconds) > 0.05:
            faults.append(f"step {number}: says {step.seconds:.1f} seconds for taking out basting")
        if step.kind == "ruler":
            laid[step.run] += step.count
            pieces[step.run] += 1
        elif step.kind == "stitch":
            begun.setdefault(step.run, np.asarray(step.points)[0])
            seconds = machine.rates.seconds(inches_of(step.points), step.how)
            if step.run.startswith("ditch:"):
                seconds += step.count * machine.rates.ruler_move
                least = _straight_inches(step.points, rates.lock) / rates.ruler_reach
                if step.count < least - 1e-6:
                    faults.append(f"step {number}: the ruler is laid too seldom for its ditches")
            if abs(seconds - step.seconds) > 0.05 + 0.01 * seconds:
                faults.append(f"step {number}: says {step.seconds:.1f} seconds, not {seconds:.1f}")
    for key, (one, run) in asked.items():
        if (
            run.in_ditch
            or len(run.points) < 2
            or (one.pattern is not None and len(_doors(one)) > 1)
        ):
            continue
        if run.closed and key in begun:
            # Where a ring is begun decides which of its curves are parted.
            away = np.hypot(*(run.points - begun[key]).T)
            run = run.begun_at(int(np.argmin(away)))
        needed = run.count_placements(machine.rates.reach)
        # A ring begun elsewhere has one stretch that is parted, or one that is no longer; a run that
        # no pass holds has one more or less for each of its parts, as its waves are told from there on.
        parted = max(0, pieces[key] - 1)
        if abs(laid[key] - needed) > int(run.closed) + parted:
            faults.append(f"{key} is ruled with {laid[key]} layings where {needed} are needed")
    return faults


def _doors(one: LayerLinework) -> np.ndarray:
    return (
        designs()[one.design].doors(one.pattern, one.settings) if one.pattern else np.empty((0, 2))
    )


def _straight_inches(points, lock: bool) -> float:
    """Inches of the legs that are long enough for a ruler; with the channel locked, of those that lie neither
    along the frame nor across it."""
    ways = np.abs(np.diff(points, axis=0))
    legs = np.hypot(*ways.T)
    ruled = legs >= 0.25
    if lock:
        ruled &= ways.min(axis=1) > 0.02 * legs
    return float(legs[ruled].sum())


LIVES = {"fading": 240.0, "humid": 45.0}
"""Minutes after which marks of a pen are gone."""


def fading_faults(asked, policy, steps) -> list[str]:
    """With a pen that fades, every layer with marks is marked before its first stitch, and not too long."""
    life = LIVES.get(policy.pen)
    if life is None:
        return []
    made: dict[str, float] = {}
    begun: dict[str, float] = {}
    at = 0.0
    for step in steps:
        if step.kind == "mark":
            # What is marked alone cannot be marked later, however long its marking takes.
            alone = step.seconds if len(step.marks) == 1 else 0.0
            for name in step.marks:
                made[name] = (at + alone) / 60
        elif step.kind in ("ruler", "stitch") and not step.seams:
            # The ruler is laid on the marks; all its layings for a line stand before it.
            begun.setdefault(step.run.rpartition("/")[0], at / 60)
        at += step.seconds
    faults = []
    for name in dict.fromkeys(
        f"{one.zone}/{one.layer}" for one, _ in asked.values() if _marks(one, policy)
    ):
        if name not in begun:
            continue
        if name not in made or made[name] > begun[name]:
            faults.append(f"{name} is stitched before it is marked")
        elif begun[name] - made[name] > life:
            faults.append(f"the marks of {name} have faded when it is come to")
    return faults


def _marks(one: LayerLinework, policy) -> bool:
    kinds = {"all": {"line", "dot"}, "spines": {"line"}, "none": set()}[policy.marking]
    return any(mark.kind in kinds for mark in one.linework.marks)


def mark_faults(asked, policy, machine, steps) -> list[str]:
    """Marks take the time that the drawn lines and dots take, as far as the studio marks."""
    lines = dots = 0.0
    for _, run in asked.values():
        if policy.straight == "eye" and policy.marking != "none" and not run.in_ditch:
            lines += sum(inches_of(points) for points, technique, kind in run.pieces()
                         if technique == "straight" and kind == "stitch")  # fmt: skip
    for one in {id(one): one for one, _ in asked.values()}.values():
        for mark in one.linework.marks:
            if mark.kind == "line" and policy.marking != "none":
                lines += inches_of(mark.points)
            elif mark.kind == "dot" and policy.marking == "all":
                dots += len(mark.points)
    needed = lines * machine.rates.mark_inch + dots * machine.rates.mark_dot
    made = sum(step.seconds for step in steps if step.kind == "mark")
    if abs(needed - made) > 1 + 0.01 * needed:
        return [f"marking is said to take {made:.0f} seconds, not {needed:.0f}"]
    return []
