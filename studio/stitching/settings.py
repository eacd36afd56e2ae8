"""How the machine is set for a part of a quilt: kept with its taps, found again on the next one."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.legs import Leg
from studio.jobs.models import Job
from studio.plain import plain
from studio.stitching.models import Tap

FIELDS = {
    "mode": "regulated or constant", "spi": "stitches an inch", "speed": "speed", "needle": "needle",
    "foot": "foot", "tension": "tension", "bobbin": "thread in the bobbin",
}  # fmt: skip
"""What is set, in words."""
MODES = ("regulated", "constant")
LONGEST = 40
NEWEST = 400


def part_of_leg(leg: Leg) -> str:
    """What kind of work a leg is, as far as the machine is set for it."""
    if leg.kind != "fill":
        return "ditch"
    return "ruler" if "ruler_move" in leg.parts else "hand"


PARTS = {"ditch": "in the ditch", "ruler": "by ruler", "hand": "by hand"}


def read_settings(values: Any) -> dict[str, str]:
    """What was set, as far as it says anything; unknown things are left out."""
    if not isinstance(values, Mapping):
        return {}
    read = {name: plain(str(values.get(name, "")))[:LONGEST] for name in FIELDS}
    if read["mode"] not in MODES:
        read["mode"] = ""
    return {name: value for name, value in read.items() if value}


def in_words(settings: Mapping[str, str], units: str = "in") -> str:
    """Settings as one reads them off: regulated, 12 to the inch, needle 4.0."""
    unit = "inch" if units == "in" else "centimetre"
    told = {"mode": "{}", "spi": f"{{}} to the {unit}", "speed": "speed {}", "needle": "needle {}",
            "foot": "{} foot", "tension": "tension {}", "bobbin": "{} in the bobbin"}  # fmt: skip
    return ", ".join(
        words.format(settings[name]) for name, words in told.items() if settings.get(name)
    )


def settings_of(job: Job, core: CoreJob) -> dict[str, dict[str, Any]]:
    """By thread and part: how it was set last on this quilt, else on an earlier one of the studio; *of* is
    that one's title."""
    rows = Tap.objects.filter(job__studio=job.studio, kind="set").order_by("-at", "-seq", "-pk")
    known: dict[str, dict[str, Any]] = {}
    threads = {thread.key for thread in core.threads}
    for owner, title, facts in rows.values_list("job_id", "job__title", "facts")[:NEWEST]:
        key = f"{facts.get('thread', '')}/{facts.get('part', '')}"
        if facts.get("thread") not in threads:
            continue
        mine = owner == job.pk
        if key not in known or (mine and known[key]["of"]):
            known[key] = {"settings": facts.get("settings", {}), "of": "" if mine else title}
    return known
