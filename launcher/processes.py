"""Processes that are ours: told from others by when they began, stopped with all they started."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import time
from dataclasses import asdict, dataclass
from pathlib import Path


@dataclass(frozen=True)
class Identity:
    """A process: its number, and when it began in ticks since the machine did. A number alone may be
    another process by now."""

    pid: int
    began: int

    @property
    def alive(self) -> bool:
        """Whether that very process still runs."""
        return identity_of(self.pid) == self

    def signal_group(self, number: int) -> None:
        """Signal the process and everything of its group, if it is still the one."""
        if self.alive:
            with contextlib.suppress(ProcessLookupError, PermissionError):
                os.killpg(self.pid, number)


def identity_of(pid: int) -> Identity | None:
    """Who has this number now; None when nobody has, or only a dead one that was not buried yet."""
    try:
        stat = Path(f"/proc/{pid}/stat").read_text()
    except (FileNotFoundError, ProcessLookupError, PermissionError):
        return None
    # The name in brackets may hold anything; what follows it is plain: state is field 3, start 22.
    fields = stat.rpartition(")")[2].split()
    return None if fields[0] in ("Z", "X") else Identity(pid, int(fields[19]))


def group_alive(pid: int) -> bool:
    """Whether any process of the group *pid* leads is left."""
    try:
        os.killpg(pid, 0)
    except (ProcessLookupError, PermissionError):
        return False
    return True


def stop_groups(groups: list[Identity], patience: float = 10.0) -> None:
    """Ask process groups to stop, and end what has not after *patience* seconds."""
    ours = [each for each in groups if each.alive]
    for each in ours:
        each.signal_group(signal.SIGTERM)
    deadline = time.monotonic() + patience
    while ours and time.monotonic() < deadline:
        time.sleep(0.05)
        ours = [each for each in ours if each.alive]
    for each in groups:
        # A leader that is gone may have left workers that hold the port.
        if group_alive(each.pid) and (each.alive or identity_of(each.pid) is None):
            with contextlib.suppress(ProcessLookupError, PermissionError):
                os.killpg(each.pid, signal.SIGKILL)


class RunFile:
    """Which launcher runs from this folder, where, and what it started."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def write(self, address: str, children: list[Identity]) -> None:
        """Note the launcher that calls this, and its children."""
        own = identity_of(os.getpid())
        assert own is not None
        part = self.path.with_suffix(".part")
        part.write_text(
            json.dumps({"launcher": asdict(own), "address": address,
                        "children": [asdict(child) for child in children]})
        )  # fmt: skip
        part.replace(self.path)

    def read(self) -> tuple[Identity, str, list[Identity]] | None:
        """Launcher, address and children as noted last; None where nothing (readable) is."""
        try:
            noted = json.loads(self.path.read_text())
            children = [Identity(**child) for child in noted["children"]]
            return Identity(**noted["launcher"]), str(noted["address"]), children
        except (OSError, ValueError, KeyError, TypeError):
            return None

    def clear(self) -> None:
        """Nothing runs any more."""
        self.path.unlink(missing_ok=True)
