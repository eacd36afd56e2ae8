"""Let the simulated machine stitch a plan: it is put in, what happens is read, and kept in the log if
wished."""

from __future__ import annotations

import json
import subprocess
import sys
import time
import urllib.request
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.utils import timezone

from chorograph_core.job import Job as CoreJob
from chorograph_core.stitching.log import Log, Tapped, log_of
from chorograph_core.stitching.rehearsing import Quilter
from studio.jobs.models import Job
from studio.stitching.following import Followed, facts_of, steps_of
from studio.stitching.receiving import receive

WAITS = 0.05
PATIENCE = 20.0
"""Seconds without an answer after which the machine is taken for dead."""


@dataclass
class Rehearsed:
    """Everything that happened, in order, and the log it makes."""

    events: list[dict[str, Any]]
    log: Log


@contextmanager
def machine() -> Iterator[str]:
    """The address of a simulated machine, in a process of its own that ends with the block."""
    process = subprocess.Popen(
        [sys.executable, "-m", "simulated_machine"],
        cwd=settings.HOME,
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert process.stdout is not None
        yield process.stdout.readline().strip()
    finally:
        process.terminate()
        process.wait(5)


def rehearse(
    job: Job, core: CoreJob, now: Followed, quilter: Quilter, seed: int, pace: float = 0.0,
    stop_after: float | None = None,
) -> Rehearsed:  # fmt: skip
    """Have the plan stitched from where it is followed by now."""
    steps, _ = steps_of(now.plan)
    legs = []
    for leg in now.legs:
        moving = [step for step in steps[leg.first : leg.stop] if len(step.points)]
        ends = moving[-1].points[-1].tolist() if moving else None
        legs.append({"kind": leg.kind, "seconds": leg.seconds, "parts": leg.parts, "cut": leg.cut,
                     "took": leg.took, "ends": ends})  # fmt: skip
    how: dict[str, Any] = {
        "seed": seed,
        "pace": pace,
        "stands": now.stands,
        "quilter": asdict(quilter),
    }
    if stop_after is not None:
        how["stop_after"] = stop_after
    with machine() as address:
        _ask(f"{address}/plan", {"legs": legs})
        _ask(f"{address}/go", how)
        events = list(_events(address))
    facts = {leg.number: facts_of(leg, core) for leg in now.legs}
    begin = timezone.now()
    tapped = [
        Tapped(e["kind"], begin + timedelta(seconds=e["seconds"]), "machine", now.plan.pk, e["leg"],
               e["lasted"], facts.get(e["leg"], {}), e["text"])
        for e in events
    ]  # fmt: skip
    return Rehearsed(events, log_of(tapped))


def _events(address: str) -> Iterator[dict[str, Any]]:
    count, heard = 0, time.monotonic()
    while True:
        told = _ask(f"{address}/events?after={count}")
        yield from told["events"]
        count += len(told["events"])
        if told["events"]:
            heard = time.monotonic()
        elif told["finished"]:
            return
        elif time.monotonic() - heard > PATIENCE:
            raise TimeoutError("The machine does not go on.")
        else:
            time.sleep(WAITS)


def _ask(address: str, values: Any = None) -> Any:
    data = json.dumps(values).encode() if values is not None else None
    request = urllib.request.Request(address, data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request, timeout=PATIENCE) as answer:
        return json.load(answer)


def keep(
    job: Job, now: Followed, events: list[dict[str, Any]], began: datetime, author, units: str
) -> None:
    """Send what happened as a tablet would, as if it had begun at *began*."""
    taps = [
        {"key": str(uuid.uuid4()), "kind": e["kind"], "leg": e["leg"], "plan": now.plan.pk,
         "seq": number, "lasted": e["lasted"], "text": e["text"],
         "at": int((began.timestamp() + e["seconds"]) * 1000)}
        for number, e in enumerate(events, 1)
    ]  # fmt: skip
    for first in range(0, len(taps), 400):
        receive(job, {"device": "the machine", "now": int(timezone.now().timestamp() * 1000),
                      "taps": taps[first : first + 400]}, author, units)  # fmt: skip
