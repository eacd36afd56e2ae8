"""Passes: nothing out of reach, the quilt rolled as the steps say."""

from __future__ import annotations

import numpy as np

from chorograph_core.route.replay.measuring import NEAR

DEEPER = 0.01
"""Inches that a pass may be deeper than the machine reaches: figures are rounded."""


def reach_faults(chart, passes, machine, steps, down_the_quilt=None) -> list[str]:
    """*down_the_quilt* is where the pass begins that is under the machine before the first step. Nothing is
    stitched out of reach; the quilt is rolled where the steps say, and the needle is where it still can be
    reached, or the thread is cut."""
    faults: list[str] = []
    windows = {each.number: each for each in passes}
    if not windows:
        return faults
    rolls = machine is not None and machine.kind == "frame"
    if machine is not None and not rolls:
        faults += _bundle_faults(machine, windows.values(), chart.outline.bounds[1::2])
    if rolls:
        first = chart.outline.bounds[1]
        for each in windows.values():
            depth = _depth(machine, each.top - first)
            if len(windows) > 1 and each.bottom - each.top > depth + DEEPER:
                faults.append(
                    f"pass {each.number} is {each.bottom - each.top:.2f} deep, {depth:.2f} is reached"
                )
    lies = next((step.reach for step in steps if step.kind != "mark"), 1)
    if down_the_quilt is not None:
        lies = min(windows.values(), key=lambda each: abs(each.top - down_the_quilt)).number
    position, down = np.zeros(2), False
    for number, step in enumerate(steps, 1):
        if step.kind == "roll":
            if step.count != abs(step.reach - lies):
                faults.append(
                    f"step {number}: rolls {step.count} times from pass {lies} to {step.reach}"
                )
            if machine is not None and abs(step.seconds - step.count * _to_roll(machine)) > 0.01:
                faults.append(f"step {number}: says {step.seconds:.0f} seconds for the rolling")
            lies = step.reach
            window = windows.get(lies)
            if down and window and not window.top - NEAR <= position[1] <= window.bottom + NEAR:
                faults.append(f"step {number}: rolls the needle out of reach without a cut")
            continue
        if step.kind == "mark":
            continue
        if step.reach != lies:
            faults.append(f"step {number}: is in pass {step.reach}, the quilt lies at pass {lies}")
            lies = step.reach
        down = step.kind in ("start", "stitch", "travel") or (down and step.kind != "tie_off")
        if not len(step.points):
            continue
        position = step.points[-1]
        window = windows.get(lies)
        low, high = step.points[:, 1].min(), step.points[:, 1].max()
        if window is None or low < window.top - NEAR or high > window.bottom + NEAR:
            faults.append(f"step {number}: lies out of reach in pass {lies}")
    return faults


def _to_roll(machine) -> float:
    return machine.rates.advance if machine.kind == "frame" else machine.rates.turn


def _bundle_faults(machine, passes, levels) -> list[str]:
    """Of a quilt that is not on a frame one end or the other fits into the throat beside the needle: loosely
    bundled, three times as thick as it is flat."""
    room = (machine.throat - machine.clearance) / 2
    most = np.pi * room**2 / (3 * (machine.loft + 0.03))
    bundles = {each.number: min(each.bottom - levels[0], levels[1] - each.top) for each in passes}
    return [
        f"pass {number} has {inches:.0f} inches in the throat"
        for number, inches in bundles.items()
        if inches > most + DEEPER
    ]


def _depth(machine, rolled: float) -> float:
    """What of the throat is left beside the roll: the rolled quilt, cloth and batting, is a ring round
    the bar whose area is its length times its thickness."""
    thick = machine.loft + 0.03
    across = 2 * np.sqrt((machine.take_up / 2) ** 2 + max(rolled, 0.0) * thick / np.pi)
    left = machine.throat - across - machine.clearance - 2.0 * machine.ruler_base
    return float(left / 2 if machine.seated else left)
