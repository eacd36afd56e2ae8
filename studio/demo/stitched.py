"""Quilts that were stitched: one to its end, with the log of its days, one to its middle."""

from __future__ import annotations

import math
from dataclasses import asdict, replace
from datetime import timedelta

from django.utils import timezone

from chorograph_core.job import Job as CoreJob
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.stitching.rehearsing import Quilter, rehearse
from studio.demo.tops import _CLEAR, _assigned, _core, _layer
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.stitching.following import followed
from studio.stitching.rehearsal import keep

HAND = {"ditch": 1.3, "straight": 0.9, "curved": 1.2, "ruler_move": 1.45, "medium": 0.75, "fine": 1.15,
        "large": 0.8, "cut": 0.75, "look_up": 1.6, "advance": 0.9, "retrace": 1.1}  # fmt: skip
"""How many times as long as foretold the demo's quilter takes."""


def ferry_steps() -> CoreJob:
    """A table runner of rail fences and squares, stitched and sent home."""
    survey = StraightSet(
        2, 5, 9, ("nine_patch", "hourglass"), 0, False, False, (Border(3, "butted"),)
    )
    rules = [
        ("Nine patches, squares", lambda p: p.kind == "nine_patch" and p.fabric == "b",
         (_CLEAR, _layer("crosshatch", "indigo", spacing=0.75))),
        ("Nine patches, light", lambda p: p.kind == "nine_patch",
         (_CLEAR, _layer("loops", "indigo"))),
        ("Hourglass, dark", lambda p: p.kind == "hourglass" and p.fabric == "b",
         (_CLEAR, _layer("parallel", "indigo", spacing=0.5))),
        ("Hourglass, light", lambda p: p.kind == "hourglass",
         (_CLEAR, _layer("meander", "indigo"))),
        ("Border", lambda p: p.cell.startswith("border1"),
         (_CLEAR, _layer("ribbon_candy", "bracken"))),
    ]  # fmt: skip
    core = _assigned(_core("Ferry Steps", "Maren", -6, survey), rules)
    return replace(core, policy=replace(core.policy, stabilise="pass"))


def stitch(job: Job, author, ends, share: float = 1.0, **traits) -> None:
    """Have a job stitched up to a *share* of its minutes by the demo's quilter, so that she stopped at the
    moment *ends*."""
    now = followed(job, job.studio.units)
    assert now is not None
    quilter = Quilter(HAND, bobbin=core_job(job).machine.bobbin_yards * 36, **traits)
    # She takes longer than was foretold; a whole quilt is stitched to its end, however long that takes.
    limit = share * 1.15 * sum(leg.seconds for leg in now.legs) if share < 1 else math.inf
    events = [asdict(each) for each in rehearse(now.legs, quilter, 11, now.stands, limit)]
    began = ends - timedelta(seconds=events[-1]["seconds"])
    keep(job, now, events, began, author, job.studio.units)


def some_days_ago(days: int, hour: int = 17):
    """An hour of a day in the past."""
    day = timezone.localtime() - timedelta(days=days)
    return day.replace(hour=hour, minute=10, second=0, microsecond=0)
