"""What every design promises: its settings, whether it fits a zone, and its linework."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Generic, Literal, TypeVar

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from chorograph_core.designs.linework import Linework
from chorograph_core.designs.settings import Parameter, Settings
from chorograph_core.designs.space import Space

SCALED = ("spacing", "cell", "width", "pitch", "period", "height", "gap", "chord")
"""Length settings that say how large a pattern is."""
RELATIVE = "relative"
"""The setting that says what angles are measured from."""
ROOMY = 0.7
"""Spacing over the radius of the widest circle, up to which a pattern reads."""
SPILL = 0.02
"""Inches a line may stray over the edge of its zone: less than the width of the thread's path."""


@dataclass(frozen=True)
class Fit:
    """How well a design suits a zone: *score* from 0 (do not) to 1, and the reasons in words."""

    score: float
    reasons: tuple[str, ...] = ()


Doorways = tuple[tuple[float, float] | None, tuple[float, float] | None]


Role = Literal["ditch", "frame", "fill", "motif", "figure"]
"""What a design is in a zone: the seams round it; a line that frames it; what fills it; a drawing
with a shape of its own, round which something else is laid; one that runs through many zones."""

S = TypeVar("S", bound=Settings)


class Design(ABC, Generic[S]):
    """A way to fill a zone. Subclass it in a file of its own; the registry finds it.

    `draw` must be a function of its arguments alone: the same zone, settings and seed give the same points,
    byte for byte. When the meaning or the range of a setting changes, raise *version* and say in `upgrade`
    what becomes of what was stored. A design that *looks_round* is drawn zone by zone and told the seams
    and neighbours; all others are drawn once for all alike zones. A *divisible* one may be drawn part by
    part where a zone is too deep to be reached at once: nobody sees where two parts meet. A *guided* one
    follows the guide of its space; round a *grounded* one that follows it at a width of its own a ground
    may lie; one that *goes_behind* goes on behind shapes its guide leads through. Sisters in a block that
    may be laid in several ways are turned round its middle where they hold a motif or a design that
    *faces*; others run through, as they stand. What the finish leaves of a zone is drawn as its sisters
    are; of an *undirected* design, which looks the same however it is turned, as what is alike. An *upright*
    one is its own mirror image about what is square to its rows, as scales are. One *of_print* is drawn
    round the shapes of a print. *own* says how one lays a stroke of one's own. *pointed*, *crosses*,
    *retraces*: its stroke has points, crosses itself, goes over its own line on purpose; a drawing that does
    so otherwise is judged the worse for it (`chorograph_core.designs.judging`).
    """

    key: ClassVar[str]
    name: ClassVar[str]
    family: ClassVar[str]
    stroke: ClassVar[str]
    role: ClassVar[Role] = "fill"
    version: ClassVar[int] = 1
    looks_round: ClassVar[bool] = False
    divisible: ClassVar[bool] = False
    pointed: ClassVar[bool] = False
    crosses: ClassVar[bool] = False
    retraces: ClassVar[bool] = False
    guided: ClassVar[bool] = False
    grounded: ClassVar[bool] = False
    goes_behind: ClassVar[bool] = False
    faces: ClassVar[bool] = False
    undirected: ClassVar[bool] = False
    upright: ClassVar[bool] = False
    of_print: ClassVar[bool] = False
    own: ClassVar[str] = ""
    settings_type: ClassVar[type[Settings]] = Settings

    @property
    def parameters(self) -> tuple[Parameter, ...]:
        """Its settings, as a page asks for them."""
        return self.settings_type.parameters()

    @property
    def turns(self) -> bool:
        """Whether sisters in a block are turned round its middle."""
        return self.faces or self.role == "motif"

    @abstractmethod
    def fits(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> Fit:
        """Say how well the design suits *space*, with reasons and numbers."""

    @abstractmethod
    def draw(
        self,
        space: Space,
        settings: Mapping[str, Any] | S | None = None,
        seed: int = 0,
        doorways: Doorways | None = None,
    ) -> Linework:
        """Draw it. Nothing leaves the space by more than `SPILL` inches.

        Raises `SettingError`, a sentence that names the setting, where a zone so large cannot be drawn so
        finely.
        """

    def spacing(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> float:
        """Inches between neighbouring lines that the settings ask for, by which gaps are judged; 0 for
        a design that does not fill."""
        return 0.0

    def proposed(self, space: Space) -> S:
        """Settings to begin with in *space*: the defaults, drawn in where the zone is too small for them.

        Lengths that grow with the lines' distance shrink with it to eighths of an inch, until three lines or
        so have room; margins stay. Angles are measured from the axis of a zone that lies by it.
        """
        lying = self._lying(space)
        settings = self.clean(lying)
        known = {p.key: p for p in self.parameters if p.kind == "length" and p.key in SCALED}
        apart = self.spacing(space, settings)
        room = ROOMY * space.widest[1]
        if not known or apart <= room or room <= 0:
            return settings
        made = dict(lying)
        for key, parameter in known.items():
            if not getattr(settings, key):
                # Nothing asked for stays nothing asked for.
                continue
            wanted = math.floor(getattr(settings, key) * room / apart * 8) / 8
            made[key] = min(max(wanted, parameter.low, 1 / 8), parameter.high)
        return self.clean(made)

    def _lying(self, space: Space) -> dict[str, Any]:
        """What its angles are measured from in *space*, where that is not what they are by default."""
        asked = next((p for p in self.parameters if p.key == RELATIVE), None)
        if asked is None or asked.default != "zone" or abs(space.frame.axis - space.side) < 1e-9:
            return {}
        return {RELATIVE: "axis", **({"angle": 90.0} if self.upright else {})}

    def doors(self, space: Space, settings: Mapping[str, Any] | S | None = None) -> np.ndarray:
        """Points (n, 2) at which `draw` can begin or end when asked by *doorways*, in any pairing; of a
        design with `variants` the beginning and end of each, one after the other.

        Empty for a design that cannot choose.
        """
        ends = [run.points[[0, -1]] for made in self.variants(space, settings) for run in made.runs]
        return np.concatenate(ends) if ends else np.empty((0, 2))

    def variants(
        self, space: Space, settings: Mapping[str, Any] | S | None = None
    ) -> tuple[Linework, ...]:
        """Other drawings that nobody can tell from what `draw` draws, each in one run, which begin and end
        elsewhere: from the other side, the other way round. None for most designs."""
        return ()

    def lies(self, settings: S) -> bool:
        """Whether it is drawn for the way a zone lies on the frame, and so anew for one that is turned."""
        return False

    def runs_alike(self, settings: S) -> bool:
        """Whether it is measured from the top's upper edge: then it runs the same way in all zones, and is
        drawn anew for each that is turned, or turned over."""
        return getattr(settings, RELATIVE, "") == "top"

    def alongside(self, settings: S) -> S:
        """Settings for a figure that lies in several regions apart: all of it must run the same way."""
        return settings

    def remaining(
        self, space: Space, settings: Mapping[str, Any] | S | None = None
    ) -> list[Polygon]:
        """What is left inside for the next layer: all of it, less what the design `reserves`."""
        return [space.polygon]

    def reserves(
        self, space: Space, settings: Mapping[str, Any] | S | None, linework: Linework
    ) -> BaseGeometry | None:
        """What a motif keeps free of the fill round it; None when it keeps nothing free."""
        return None

    def clean(self, settings: Mapping[str, Any] | S | None = None, unit: str = "in") -> S:
        """All settings with defaults filled in; raises `SettingError` for one that cannot be.

        Settings that were cleaned before are taken as they are. *unit* is what bare numbers mean among
        lengths that a person wrote.
        """
        if isinstance(settings, Settings):
            return settings
        return self.settings_type.cleaned(settings or {}, self.name, unit)  # type: ignore[return-value]

    def upgrade(self, settings: Mapping[str, Any], from_version: int) -> dict[str, Any]:
        """Settings stored under an older version, in the words of this one."""
        return dict(settings)

    def settled(
        self, settings: Mapping[str, Any], from_version: int
    ) -> tuple[dict[str, Any], tuple[str, ...]]:
        """Stored settings as ones that can be used, and a sentence for each that was changed."""
        if from_version < self.version:
            settings = self.upgrade(settings, from_version)
        kept, said = self.settings_type.settled(settings)
        return kept, tuple(f"{self.name}: {each}." for each in said)
