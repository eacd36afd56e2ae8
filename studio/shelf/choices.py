"""What the shelf offers to an intake, as the core sees it. Read once for each request."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from chorograph_core.designs.legend import Thread as CoreThread
from chorograph_core.estimating import Batting as CoreBatting
from chorograph_core.reckon import Machine as CoreMachine
from studio.accounts.models import Studio
from studio.shelf.models import Batting, Machine, Thread


class ShelfChoices:
    """Threads, battings and machines of a studio by key, and the *levels* of its price list."""

    def __init__(self, studio: Studio, levels: list[tuple[str, str]] = ()) -> None:
        self.levels = list(levels)
        self.threads = {t.key: core_thread(t) for t in Thread.objects.filter(studio=studio)}
        self.battings = {str(b.pk): _batting(b) for b in Batting.objects.filter(studio=studio)}
        self._machines = {
            str(m.pk): m for m in Machine.objects.filter(studio=studio).select_related("bobbin")
        }

    @property
    def machines(self) -> dict[str, Callable[[CoreMachine], CoreMachine]]:
        """How each machine changes the one a job has: rates and habits stay."""
        return {key: _putting(machine) for key, machine in self._machines.items()}

    def thread_names(self) -> list[tuple[str, str]]:
        """Threads by key and name."""
        return [(key, thread.name) for key, thread in self.threads.items()]

    def batting_names(self) -> list[tuple[str, str]]:
        """Battings by key and name."""
        return [(key, batting.name) for key, batting in self.battings.items()]

    def machine_names(self) -> list[tuple[str, str]]:
        """Machines by key and name."""
        return [(key, machine.name) for key, machine in self._machines.items()]

    def batting_of(self, batting: CoreBatting) -> str:
        """The key of the batting on the shelf that this is, or ``"other"``."""
        bare = replace(batting, layers=1, width=None, height=None, source="studio")
        return next((key for key, known in self.battings.items() if known == bare), "other")

    def machine_of(self, machine: CoreMachine) -> str:
        """The key of the machine on the shelf that this is, or empty."""
        return next((key for key, put in self.machines.items() if put(machine) == machine), "")


def core_thread(thread: Thread) -> CoreThread:
    """A thread of the shelf as a job carries it."""
    return CoreThread(
        thread.key, thread.name, thread.colour, float(thread.weight), float(thread.cone)
    )


def _batting(batting: Batting) -> CoreBatting:
    return CoreBatting(
        batting.name, batting.fibre, batting.colour, float(batting.loft), float(batting.gap)
    )


def _putting(machine: Machine) -> Callable[[CoreMachine], CoreMachine]:
    def put(before: CoreMachine) -> CoreMachine:
        yards = float(machine.bobbin.yards) if machine.bobbin else before.bobbin_yards
        return replace(
            before, name=machine.name, kind=machine.kind, throat=float(machine.throat),
            foot_radius=float(machine.foot_radius), backing_allowance=float(machine.allowance),
            bobbin_yards=yards,
        )  # fmt: skip

    return put
