"""What is looked at before the first stitch, before the thread is changed, before the quilt is rolled on, and
at the end."""

from __future__ import annotations

from collections.abc import Sequence

from chorograph_core.designs.legend import LayerLinework, Thread
from chorograph_core.formats.wording import listed
from chorograph_core.job import Job
from chorograph_core.measure import format_length
from chorograph_core.reckon import evenness
from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.setting_up import FINE, HEAVY, THICK, needle_for

MOST_NAMED = 4
"""Places that are named one by one."""


def put_checks(job: Job, legs: Sequence[Leg], units: str = "in") -> None:
    """Write on each leg what is checked before it, lengths in *units*."""
    for number, leg in enumerate(legs):
        if leg.kind == "thread":
            before = next((each.thread for each in reversed(legs[:number]) if each.thread), "")
            leg.check += thread_checks(job, leg.thread, before)
        elif leg.kind == "roll":
            leg.check += roll_checks(job, legs[:number], legs[number + 1 :], leg)
        elif leg.kind == "move":
            leg.check += move_checks(job)
    if legs:
        # The first thread is put in at once: what both ask for is asked once.
        legs[0].check = list(dict.fromkeys([*first_checks(job, legs, units), *legs[0].check]))


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
    first = next((leg.thread for leg in legs if leg.thread), "")
    thread = next((each for each in job.threads if each.key == first), None)
    wanted = _needle(job, thread)
    told += [f"A fresh needle{wanted}; it turns freely by hand before the motor does it."]
    told += _tension(thread)
    if job.machine.kind == "frame":
        told.append(
            "The quilt is square on the frame, backing and batting smooth, not tight as a drum."
        )
    told.append("Needle down and up, the bobbin thread on top, a few stitches in place.")
    return told


def thread_checks(job: Job, key: str, before: str = "") -> list[str]:
    """When a thread is put in, after the one called *before*."""
    threads = {each.key: each for each in job.threads}
    thread = threads.get(key)
    if thread is None:
        return []
    last = threads.get(before, thread)
    loft = job.loaded_machine.loft
    turned = needle_for(thread.weight, loft) != needle_for(last.weight, loft)
    told = (
        [f"{thread.name} wants another needle than the last{_needle(job, thread)}."]
        if turned
        else []
    )
    told += _tension(thread)
    told.append("A hand’s breadth on the edge of the batting; look at the back.")
    return told


def _needle(job: Job, thread: Thread | None) -> str:
    """Which needle a thread wants, to be put behind a word."""
    if thread is None:
        return ""
    loft = job.loaded_machine.loft
    thick = ", one larger for the thick batting" if loft >= THICK else ""
    return f": {needle_for(thread.weight, loft)} for {thread.name}{thick}, or what the manual says"


def _tension(thread: Thread | None) -> list[str]:
    if thread is not None and thread.weight >= FINE:
        return [f"{thread.name} is fine: ease the tension."]
    if thread is not None and thread.weight <= HEAVY:
        return [f"{thread.name} is heavy: try the top tension again."]
    return []


def gap_checks(job: Job, drawn: Sequence[LayerLinework], units: str = "in") -> list[str]:
    """Before the first stitch: what stays open wider than the batting allows, when all that is *drawn* is
    stitched."""
    batting = job.intake.batting
    if batting is None or not drawn:
        return []
    even = evenness(job.zones, tuple(drawn))
    labels = {zone.id: zone.label or zone.id for zone in job.zones}
    wide = sorted(
        ((each.gap, name) for name, each in even.items() if each.gap > batting.gap), reverse=True
    )
    if not wide:
        return []
    widest, name = wide[0]
    more = f" and {len(wide) - 1} more place{'s' if len(wide) > 2 else ''}" if len(wide) > 1 else ""
    where = f"{labels[name][:1].upper()}{labels[name][1:]}{more}"
    stays = "stay" if len(wide) > 1 else "stays"
    return [f"{where} {stays} open, {format_length(widest, units)} at the widest: "
            f"{batting.name} holds to {format_length(batting.gap, units)}."]  # fmt: skip


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
    if job.machine_in(bool(roll.on)).kind == "frame":
        told.append("A hand under the quilt: no fold, nothing caught.")
    return told


def move_checks(job: Job) -> list[str]:
    """Before the quilt is carried to another machine."""
    return [
        "Thread cut, tails tied off or left long; needle up, machine off.",
        "Basting looked over: where a line has come loose, baste it again before the quilt is rolled.",
        "The table is clear; what is left to stitch can be told from the sheet.",
    ]


def last_checks(job: Job) -> list[str]:
    """When all is stitched."""
    return [
        "Marks out, as the pen wants it; nothing is ironed before.",
        "Tails buried." if job.machine.bury else "Every start and end looked at on the back.",
        "Stray threads pulled; the quilt looked at with a light from the side.",
        "Measured again, sides and middle, before it is trimmed.",
    ]
