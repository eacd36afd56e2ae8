"""The kinds of paper there are, each handed in by the room that knows how it is made."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass

from studio.jobs.models import Job

Tell = Callable[[float], None]
"""Is told the share that is done; it raises `Unwanted` when nobody waits for the paper any more."""


WORDS = {"png": "picture", "dxf": "drawing, DXF"}
"""What files are called where their kind is no word of the craft."""


class Unwanted(Exception):
    """The job is another by now, or another paper was asked for."""


@dataclass(frozen=True)
class Kind:
    """A kind of paper: its *name* in addresses, what it is called in the name of its file, that file's
    *ending*; *made_of* is whatever a paper of it depends on besides what the studio and its paper are (None:
    there is nothing to print now); *make* makes it; *stands_on* names the page where it
    is asked for."""

    name: str
    title: str
    ending: str
    made_of: Callable[[Job], str | None]
    make: Callable[[Job, Tell], bytes]
    stands_on: str = "job-more"

    @property
    def words(self) -> str:
        """What the file is called on a button."""
        return WORDS.get(self.ending, self.ending.upper())

    def key(self, job: Job) -> str | None:
        """Names what a paper printed now is made of, in 64 characters; None: there is nothing to print."""
        made_of = self.made_of(job)
        if made_of is None:
            return None
        studio = job.studio
        whole = f"{made_of} {job.head.body_id} {studio.name} {studio.units} {studio.paper} {studio.locale}"
        return hashlib.sha256(whole.encode()).hexdigest()


KINDS: dict[str, Kind] = {}


def hand_in(kind: Kind) -> Kind:
    """Let *kind* be asked for."""
    KINDS[kind.name] = kind
    return kind
