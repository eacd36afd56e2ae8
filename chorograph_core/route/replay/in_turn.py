"""Two machines: the quilt is carried over once, and each part holds by the rules of its own machine."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from chorograph_core.designs.figures import figures_in, wholes
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.route.replay.holding import holding_faults


def turn_faults(
    chart, zones, asked: Sequence[LayerLinework], policy, steps, machine, handover, since, passes,
    replayed: Callable[..., list[str]],
) -> list[str]:  # fmt: skip
    """Faults of *steps* that go from *machine* to that of *handover*; *replayed* finds those of one part, by
    its linework, policy, steps, machine, what was done before, its passes and the state it goes on from."""
    policy = replace(policy, days="basted")
    done = frozenset() if since is None else since.done
    over = [number for number, step in enumerate(steps) if step.kind == "move"]
    figures = figures_in(wholes(asked))
    faults = holding_faults(chart, zones, figures, policy, machine, steps, done)
    first = [each for each in passes if not each.another]
    second = [each for each in passes if each.another]
    if "moved" in done:
        if over:
            faults.append(f"step {over[0] + 1}: carries the quilt over, which lies there already")
        return faults + replayed(asked, policy, steps, handover.machine, done, second, since)
    away = set(handover.zones)
    stays = [one for one in asked if not _goes(one, away)]
    goes = [one for one in asked if _goes(one, away)]
    if not over:
        late = {step.zone for step in steps if step.kind == "stitch" and step.zone in away}
        faults += [f"{zone} belongs to the other machine" for zone in sorted(late)]
        left = [one for one in goes if any(one.key(k) not in done and not run.in_ditch
                                           for k, run in enumerate(one.linework.runs))]  # fmt: skip
        faults += [f"{one.zone} is stitched on neither machine" for one in left]
        return faults + replayed(stays, policy, steps, machine, done, first, since)
    if len(over) > 1:
        faults.append(f"step {over[1] + 1}: carries the quilt over a second time")
    at = over[0]
    before, after = steps[:at], steps[at + 1 :]
    if abs(steps[at].seconds - handover.machine.rates.move) > 0.01:
        faults.append(f"step {at + 1}: says {steps[at].seconds:.0f} seconds for carrying over")
    threaded = next((s.kind for s in reversed(before) if s.kind in ("stitch", "tie_off")), "")
    if threaded == "stitch":
        faults.append(f"step {at + 1}: carries the quilt over with the needle down")
    gone = {s.run for s in before if s.run and s.kind in ("stitch", "secure", "tuck")}
    gone |= {seam for s in before for seam in s.seams}
    gone |= {f"mark:{name}" for s in before for name in s.marks}
    later = type(since)(done=done | gone, begun=since.begun, sewn=since.sewn) if since else None
    faults += replayed(stays, policy, before, machine, done, first, since)
    return faults + replayed(goes, policy, after, handover.machine, done | gone, second, later)


def _goes(one: LayerLinework, away: set[str]) -> bool:
    """Whether some linework lies in nothing but what was handed over."""
    return away.issuperset((one.zone,) if one.figure is None else one.figure.zones)
