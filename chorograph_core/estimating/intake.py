"""What is written down when a client brings a top: measures, condition, materials, wishes."""

from __future__ import annotations

from dataclasses import dataclass, field

from chorograph_core.estimating.measuring import Measures

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

FROM = ("studio", "client")


@dataclass(frozen=True)
class Condition:
    """One thing looked for: whether it was *found*, and a *note* saying where."""

    kind: str
    found: bool = False
    note: str = ""


@dataclass(frozen=True)
class Backing:
    """The backing in hand, or None where it was not measured; *cloth_width* usable, to piece from.

    *source* says who brings it. Inches.
    """

    source: str = "client"
    width: float | None = None
    height: float | None = None
    cloth_width: float = 42.0
    note: str = ""


@dataclass(frozen=True)
class Batting:
    """A batting: *loft* of one layer in inches, *gap* the largest distance its maker allows.

    *width* and *height* are those of the piece in hand, None when it is cut from a roll.
    """

    name: str
    fibre: str = ""
    colour: str = "#f4efe2"
    loft: float = 0.09
    gap: float = 4.0
    layers: int = 1
    width: float | None = None
    height: float | None = None
    source: str = "studio"


@dataclass(frozen=True)
class Wishes:
    """What the client wants. *level* is a key of the price list, *budget* money as written.

    Bans live where they bind: in the zones (``forbidden``) and in the policy (``applique``).
    """

    style: str = ""
    level: str = ""
    occasion: str = ""
    budget: str = ""
    rush: bool = False
    bind: bool = False
    repair_hours: float = 0.0
    note: str = ""


@dataclass(frozen=True)
class Intake:
    """Everything taken down in the consult.

    *taken* is the day, ISO, empty until it was held; *contact* phone and address as free text."""

    taken: str = ""
    contact: str = ""
    measures: Measures = field(default_factory=Measures)
    conditions: tuple[Condition, ...] = ()
    backing: Backing | None = None
    batting: Batting | None = None
    wishes: Wishes = field(default_factory=Wishes)

    def condition(self, kind: str) -> Condition:
        """What was found of *kind*; not found if nobody looked."""
        return next((each for each in self.conditions if each.kind == kind), Condition(kind))
