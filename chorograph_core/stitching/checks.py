"""What is looked at before the first stitch, before the thread is changed, before the quilt is rolled on, and
at the end."""

from __future__ import annotations

from collections.abc import Sequence

from chorograph_core.formats.wording import listed
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.stitching.legs import Leg

FINE = 60
"""Weight of a thread from which on it is fine: the tension is eased for it."""
HEAVY = 30
"""Weight of a thread up to which it is heavy, and wants a larger needle."""
MOST_NAMED = 4
"""Places that are named one by one."""


def put_checks(job: Job, legs: Sequence[Leg], units: str = "in") -> None:
    """Write on each leg what is checked before it, lengths in *units*."""
    for number, leg in enumerate(legs):
        if leg.kind == "thread":
            leg.check += thread_checks(job, leg.thread)
        elif leg.kind == "roll":
            leg.check += roll_checks(job, legs[:number], legs[number + 1 :], leg)
    if legs:
        legs[0].check[:0] = first_checks(job, legs, units)


def first_checks(job: Job, legs: Sequence[Leg], units: str = "in") -> list[str]:
    """Before the first stitch."""
    ruled = any("ruler_move" in leg.parts for leg in legs)
    told = []
    if ruled:
        clear = format_length(1, units)
        told.append(
            f"Ruler foot on, thick ruler at hand; fingers {clear} from the foot, never before it."
        )
        if job.machine.kind == "frame":
            told.append("The ruler base is on the needle plate.")
    told.append("A fresh needle; it turns freely by hand before the motor does it.")
    if job.machine.kind == "frame":
        told.append(
            "The quilt is square on the frame, backing and batting smooth, not tight as a drum."
        )
    told.append("Needle down and up, the bobbin thread on top, a few stitches in place.")
    return told


def thread_checks(job: Job, key: str) -> list[str]:
    """When a thread is put in."""
    thread = next((each for each in job.threads if each.key == key), None)
    if thread is None:
        return []
    told = []
    if thread.weight >= FINE:
        told.append("Fine thread: ease the tension, a fine needle.")
    elif thread.weight <= HEAVY:
        told.append("Heavy thread: a larger needle, the top tension tried again.")
    told.append("A hand’s breadth on the edge of the batting; look at the back.")
    return told


def roll_checks(
    job: Job, before: Sequence[Leg], after: Sequence[Leg], roll: Leg
) -> list[str]:  # fmt: skip
    """Before the quilt is rolled on: what waits for another thread in what goes out of reach, and the
    backing."""
    stitched = [leg for leg in before if leg.kind in ("ditch", "fill")]
    told = []
    if stitched:
        here = stitched[-1]
        names = {thread.key: thread.name for thread in job.threads}
        waiting: dict[str, list[str]] = {}
        for leg in after:
            if leg.reach == here.reach and leg.kind == "fill" and leg.place:
                places = waiting.setdefault(leg.thread, [])
                if leg.place not in places:
                    places.append(leg.place)
        for thread, places in waiting.items():
            where = listed(places) if len(places) <= MOST_NAMED else f"{len(places)} places"
            verb = "waits" if len(places) == 1 else "wait"
            told.append(f"{where[:1].upper()}{where[1:]} {verb} for {names.get(thread, thread)}: pin flat, "
                        "pins parallel to the roller.")  # fmt: skip
        if not waiting:
            told.append("Nothing is left behind in this pass.")
    if job.machine.kind == "frame":
        told.append("A hand under the quilt: no fold, nothing caught.")
    return told


def last_checks(job: Job) -> list[str]:
    """When all is stitched."""
    return [
        "Marks out, as the pen wants it; nothing is ironed before.",
        "Tails buried." if job.machine.bury else "Every start and end looked at on the back.",
        "Stray threads pulled; the quilt looked at with a light from the side.",
        "Measured again, sides and middle, before it is trimmed.",
    ]
