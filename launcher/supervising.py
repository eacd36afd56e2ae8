"""Keep the parts of the application running: each is started again by itself when it stops."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from launcher.cluster import Cluster, ClusterError
from launcher.processes import Identity, identity_of, stop_groups

LOOK = 0.5
"""Seconds between two looks at the parts."""
LONGEST_PAUSE = 20.0
STEADY = 30.0
"""Seconds after which a part that runs counts as well again."""


@dataclass
class Part:
    """A part of the application: how it is started, and what became of it."""

    name: str
    start: Callable[[], subprocess.Popen]
    process: subprocess.Popen | None = None
    identity: Identity | None = None
    failures: int = 0
    not_before: float = 0.0
    since: float = field(default_factory=time.monotonic)

    def run(self) -> None:
        """Start it."""
        self.process = self.start()
        self.identity = identity_of(self.process.pid)
        self.since = time.monotonic()

    @property
    def running(self) -> bool:
        return self.process is not None and self.process.poll() is None


class Supervisor:
    """Looks after the database and the parts that use it."""

    def __init__(
        self, cluster: Cluster, parts: list[Part], noted: Callable[[list[Identity]], None]
    ) -> None:
        self.cluster = cluster
        self.parts = parts
        self._noted = noted
        self._database_failures = 0
        self._database_pause = 0.0

    def start(self) -> None:
        """Start every part."""
        for part in self.parts:
            part.run()
        self._note()

    def _note(self) -> None:
        self._noted([part.identity for part in self.parts if part.identity is not None])

    def look(self) -> None:
        """Start again whatever has stopped; a part that keeps stopping waits longer each time."""
        now = time.monotonic()
        if not self.cluster.running and now >= self._database_pause:
            print("The database stopped; it is started again.", file=sys.stderr, flush=True)
            try:
                self.cluster.start(self.cluster.port)
                self._database_failures = 0
            except ClusterError as error:
                self._database_failures += 1
                self._database_pause = now + _pause(self._database_failures)
                print(error, file=sys.stderr, flush=True)
        changed = False
        for part in self.parts:
            if part.running:
                if now - part.since > STEADY:
                    part.failures = 0
                continue
            if part.not_before <= part.since:
                part.failures += 1
                part.not_before = now + _pause(part.failures)
                print(f"The {part.name} stopped; it is started again.", file=sys.stderr, flush=True)
                if part.identity is not None:
                    # Its workers may hold the port that it wants again.
                    stop_groups([part.identity], 1.0)
            if now >= part.not_before and self.cluster.running:
                part.run()
                changed = True
        if changed:
            self._note()

    def stop(self) -> None:
        """Stop every part and all it started."""
        stop_groups([part.identity for part in self.parts if part.identity is not None])
        for part in self.parts:
            if part.process is not None:
                try:
                    part.process.wait(5)
                except subprocess.TimeoutExpired:
                    part.process.kill()


def _pause(failures: int) -> float:
    return min(LONGEST_PAUSE, 0.5 * 2 ** (failures - 1))
