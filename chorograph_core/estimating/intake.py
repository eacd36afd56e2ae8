"""What is written down when a client brings a top: measures, condition, materials, wishes."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from msgspec import Meta

from chorograph_core.estimating.measuring import Measures
from chorograph_core.measure.limits import Colour, Day, Key, Name, Note

CONDITIONS = {
    "open_seams": "Open seams",
    "loose_threads": "Loose threads on the back",
    "stains": "Stains",
    "unpressed": "Not pressed",
    "marks": "Marks on the top",
    "embellishments": "Buttons, beads, trims",
    "fragile": "Old or fragile fabric",
    "bleeding": "Dyes that may bleed",
}
"""What is looked for on a top, by key."""

Source = Literal["studio", "client"]
Sized = Annotated[float, Meta(ge=1, le=400)]
ConditionKind = Literal[
    "open_seams", "loose_threads", "stains", "unpressed", "marks", "embellishments", "fragile",
    "bleeding",
]  # fmt: skip


@dataclass(frozen=True)
class Condition:
    """One thing looked for: whether it was *found*, and a *note* saying where."""

    kind: ConditionKind
    found: bool = False
    note: Note = ""


@dataclass(frozen=True)
class Backing:
    """The backing in hand, or None where it was not measured; *cloth_width* usable, to piece from.

    *source* says who brings it. Inches.
    """

    source: Source = "client"
    width: Sized | None = None
    height: Sized | None = None
    cloth_width: Annotated[float, Meta(ge=4, le=200)] = 42.0
    note: Note = ""


@dataclass(frozen=True)
class Batting:
    """A batting: *loft* of one layer in inches, *gap* the largest distance its maker allows.

    *width* and *height* are those of the piece in hand, None when it is cut from a roll, which is
    *roll* wide (None when that is not known).
    """

    name: Name
    fibre: Name = ""
    colour: Colour = "#f4efe2"
    loft: Annotated[float, Meta(ge=0.005, le=1)] = 0.09
    gap: Annotated[float, Meta(ge=0.25, le=24)] = 4.0
    layers: Annotated[int, Meta(ge=1, le=3)] = 1
    width: Sized | None = None
    height: Sized | None = None
    source: Source = "studio"
    roll: Sized | None = None


@dataclass(frozen=True)
class Wishes:
    """What the client wants. *level* is a key of the price list, *budget* money as written.

    Bans live where they bind: in the zones (``forbidden``) and in the policy (``applique``).
    """

    style: Name = ""
    level: Key = ""
    occasion: Name = ""
    budget: Key = ""
    rush: bool = False
    bind: bool = False
    repair_hours: Annotated[float, Meta(ge=0, le=200)] = 0.0
    note: Annotated[str, Meta(max_length=4000)] = ""


@dataclass(frozen=True)
class Intake:
    """Everything taken down in the consult.

    *taken* is the day, ISO, empty until it was held; *at_hand* the day from which the quilt can be
    worked on, empty when it is there; *contact* phone and address as free text.
    """

    taken: Day = ""
    contact: Annotated[str, Meta(max_length=300)] = ""
    measures: Measures = field(default_factory=Measures)
    conditions: Annotated[tuple[Condition, ...], Meta(max_length=30)] = ()
    backing: Backing | None = None
    batting: Batting | None = None
    wishes: Wishes = field(default_factory=Wishes)
    at_hand: Day = ""

    def condition(self, kind: ConditionKind) -> Condition:
        """What was found of *kind*; not found if nobody looked."""
        return next((each for each in self.conditions if each.kind == kind), Condition(kind))
