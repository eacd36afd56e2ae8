"""The machine itself: a plan is put in, it stitches at a pace, its events are kept in order."""

from __future__ import annotations

import threading
import time
from dataclasses import fields
from typing import Any

from chorograph_core.stitching.legs import Leg
from chorograph_core.stitching.rehearsing import Event, Quilter, rehearse

MOST_LEGS = 20_000


class Machine:
    """One machine. What it is told comes from outside: whatever is wrong with it raises ValueError."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._events: list[Event] = []
        self._legs: list[Leg] = []
        self._spots: list[tuple[float, float] | None] = []
        self._thread: threading.Thread | None = None
        self._stopping = threading.Event()
        self.finished = False

    def put_in(self, plan: Any) -> int:
        """Take a plan: *legs* with what each takes. Returns how many there are."""
        legs = plan.get("legs") if isinstance(plan, dict) else None
        if not isinstance(legs, list) or not 0 < len(legs) <= MOST_LEGS:
            raise ValueError("A plan has between one and 20,000 legs.")
        read, spots = [], []
        for number, each in enumerate(legs):
            try:
                leg = Leg(
                    number, str(each["kind"]), 0, 0, seconds=float(each["seconds"]),
                    cut=bool(each.get("cut")), took=float(each.get("took", 0)),
                    parts={str(k): float(v) for k, v in each["parts"].items()},
                )  # fmt: skip
                spot = each.get("ends")
                spots.append((float(spot[0]), float(spot[1])) if spot else None)
            except (KeyError, TypeError, ValueError, AttributeError, IndexError):
                raise ValueError(f"Leg {number} cannot be read.") from None
            read.append(leg)
        self.stop()
        with self._lock:
            self._legs, self._spots, self._events, self.finished = read, spots, [], False
        return len(read)

    def go(self, how: Any) -> None:
        """Begin to stitch: *seed*, *pace* (0: as fast as can be; 60: a minute in a second), *stands* (a
        letter a leg), *stop_after* (seconds at the machine), *quilter* (the fields of a `Quilter`)."""
        if not isinstance(how, dict) or not self._legs:
            raise ValueError("Put a plan in first, then say how.")
        known = {field.name for field in fields(Quilter)}
        given = how.get("quilter", {})
        if not isinstance(given, dict) or not set(given) <= known:
            raise ValueError("A quilter has none of these traits.")
        try:
            quilter = Quilter(**given)
            pace, seed = float(how.get("pace", 0)), int(how.get("seed", 0))
            stop_after = float(how.get("stop_after", float("inf")))
        except (TypeError, ValueError):
            raise ValueError("That is no way to stitch.") from None
        stands = str(how.get("stands", ""))
        if stands and len(stands) != len(self._legs):
            raise ValueError("It says of other legs how they stand.")
        self.stop()
        self._stopping.clear()
        with self._lock:
            self._events, self.finished = [], False
        work = rehearse(list(self._legs), quilter, seed, stands, stop_after)
        self._thread = threading.Thread(target=self._stitch, args=(work, pace), daemon=True)
        self._thread.start()

    def _stitch(self, work, pace: float) -> None:
        began = time.monotonic()
        for event in work:
            while pace > 0 and time.monotonic() - began < event.seconds / pace:
                if self._stopping.wait(min(0.2, event.seconds / pace)):
                    return
            if self._stopping.is_set():
                return
            with self._lock:
                self._events.append(event)
        self.finished = True

    def stop(self) -> None:
        """Leave off."""
        self._stopping.set()
        if self._thread is not None:
            self._thread.join(5)
            self._thread = None

    def told(self, after: int) -> dict[str, Any]:
        """Events from number *after* on, where the needle is, and whether all is done."""
        with self._lock:
            events = self._events[max(0, after) :]
            last = next(
                (e.leg for e in reversed(self._events) if e.kind in ("done", "other")), None
            )
        return {
            "events": [
                {"n": after + k, "seconds": round(e.seconds, 2), "kind": e.kind, "leg": e.leg,
                 "lasted": None if e.lasted is None else round(e.lasted, 2), "text": e.text}
                for k, e in enumerate(events)
            ],
            "position": self._spots[last] if last is not None else None,
            "finished": self.finished,
        }  # fmt: skip
