"""How a machine is set up for a thread and a kind of work, as long as nobody wrote down how she did it."""

from __future__ import annotations

from chorograph_core.job import Job

FINE = 60
"""Weight of a thread from which on it is fine: the tension is eased for it."""
HEAVY = 30
"""Weight of a thread up to which it is heavy, and wants a larger needle."""
NEEDLES = ((20, "110/18"), (HEAVY, "100/16"), (40, "90/14"), (80, "80/12"))
"""Needles by the heaviest weight each takes: hundredths of a millimetre and the older number. Defaults:
needle and thread go together, and the machine's manual says which of them it takes."""
FINEST = "70/10"
THICK = 0.25
"""Inches under the foot from which batting is thick, and the next larger needle goes through it better."""


def needle_for(weight: float, loft: float) -> str:
    """A needle for thread of a *weight* through *loft* inches of batting.

    >>> needle_for(40, 0.09), needle_for(100, 0.09), needle_for(40, 0.3)
    ('90/14', '70/10', '100/16')
    """
    sizes = [needle for _, needle in NEEDLES] + [FINEST]
    at = next((k for k, (most, _) in enumerate(NEEDLES) if weight <= most), len(NEEDLES))
    return sizes[max(at - (1 if loft >= THICK else 0), 0)]


def usual_settings(job: Job) -> dict[str, dict[str, str]]:
    """What is proposed by ``thread/part`` (part: ditch, ruler or hand): needle, foot, and tension where the
    thread wants another."""
    loft = job.loaded_machine.loft
    ruled = {"ditch": job.policy.straight == "ruler", "ruler": True, "hand": False}
    usual: dict[str, dict[str, str]] = {}
    for thread in job.threads:
        tension = {"tension": "eased"} if thread.weight >= FINE else {}
        for part, by_ruler in ruled.items():
            foot = "ruler" if by_ruler else "freehand"
            needle = needle_for(thread.weight, loft)
            usual[f"{thread.key}/{part}"] = {"needle": needle, "foot": foot, **tension}
    return usual
