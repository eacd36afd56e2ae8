"""What the shelf offers to an intake, as the core sees it. Read once for each request."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from django.utils.text import slugify

from chorograph_core.designs.legend import Thread as CoreThread
from chorograph_core.estimating import Batting as CoreBatting
from chorograph_core.measure import LengthError, parse_length
from chorograph_core.reckon import Machine as CoreMachine
from chorograph_core.rulers import Ruler as CoreRuler
from studio.accounts.models import Studio
from studio.shelf.models import Batting, Machine, Ruler, Thread


class ShelfChoices:
    """Threads, battings and machines of a studio by key, and the *levels* of its price list."""

    def __init__(self, studio: Studio, levels: list[tuple[str, str]] = ()) -> None:
        self.levels = list(levels)
        self.threads = {t.key: core_thread(t) for t in Thread.objects.filter(studio=studio)}
        self.rulers = rulers_of(studio)
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


def rulers_of(studio: Studio) -> tuple[CoreRuler, ...]:
    """The studio's rulers."""
    return tuple(core_ruler(ruler) for ruler in Ruler.objects.filter(studio=studio))


def core_ruler(ruler: Ruler) -> CoreRuler:
    """A ruler of the shelf as a job carries it. Etched lines that cannot be read are left out."""
    sizes = {name: float(value) if (value := getattr(ruler, name)) else None
             for name in ("convex", "concave", "period", "height")}  # fmt: skip
    return CoreRuler(
        f"{slugify(ruler.name)[:50]}-{ruler.pk}", ruler.name, ruler.shape, float(ruler.length),
        float(ruler.thickness), _lengths(ruler.etched), margin=float(ruler.margin),
        taped=_lengths(ruler.taped), centred=ruler.centred, **sizes,
    )  # fmt: skip


def _lengths(text: str) -> tuple[float, ...]:
    """Lengths with commas between; what cannot be read is left out."""
    found = []
    for each in text.split(","):
        try:
            found.append(parse_length(each))
        except LengthError:
            continue
    return tuple(length for length in found if length > 0)


def _batting(batting: Batting) -> CoreBatting:
    return CoreBatting(
        batting.name,
        batting.fibre,
        batting.colour,
        float(batting.loft),
        float(batting.gap),
        roll=float(batting.width),
    )


def _putting(machine: Machine) -> Callable[[CoreMachine], CoreMachine]:
    def put(before: CoreMachine) -> CoreMachine:
        yards = float(machine.bobbin.yards) if machine.bobbin else before.bobbin_yards
        return replace(
            before, name=machine.name, kind=machine.kind, throat=float(machine.throat),
            foot_radius=float(machine.foot_radius), backing_allowance=float(machine.allowance),
            take_up=float(machine.takeup), clearance=float(machine.clearance),
            directions=machine.directions or "all",
            ruler_base=machine.ruler_base, seated=machine.seated,
            bobbin_yards=yards,
        )  # fmt: skip

    return put
