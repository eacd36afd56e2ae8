"""The stage rail. Each room says what its own stages are: see `stage`."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from chorograph_core.job import Job as CoreJob
from studio.jobs.models import Job


@dataclass(frozen=True)
class Stage:
    """A stage: its key and name, where it leads, what it says, and whether it is done; *priced*: money
    stands there."""

    key: str
    name: str
    address: str
    says: str
    done: bool = False
    more: str = ""
    priced: bool = False


Stages = Callable[[Job, CoreJob], list[Stage]]
_rooms: dict[int, Stages] = {}


def stage(place: int) -> Callable[[Stages], Stages]:
    """Put what the decorated function returns on the rail, at *place* among the others.

    It belongs in a module ``stage`` of the room, which is found by itself when Django starts.
    """

    def put(said: Stages) -> Stages:
        if place in _rooms and _rooms[place] is not said:
            raise RuntimeError(f"two rooms want place {place} on the rail")
        _rooms[place] = said
        return said

    return put


def rail(job: Job, core: CoreJob) -> list[Stage]:
    """The stages of *job* in order."""
    return [each for place in sorted(_rooms) for each in _rooms[place](job, core)]
