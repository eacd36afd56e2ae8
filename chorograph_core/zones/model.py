"""A zone: a polygon that gets one design, and the patches it was made from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from shapely.geometry import Polygon

Kind = Literal["patch", "joined", "negative", "free", "part"]
KINDS: tuple[str, ...] = get_args(Kind)
"""One patch; several; background that flows across blocks; one that ignores the piecing; a part of
one that was cut."""


class ZoneError(ValueError):
    """A zone cannot be made. The message says why."""


@dataclass(frozen=True)
class Zone:
    """An area with one design. *forbidden*: the client does not want it stitched.

    *whole* is the shape that a zone has which runs behind what lies on it: its design is drawn in
    that, and cut where it is covered. None for a zone that is what it looks like.
    """

    id: str
    polygon: Polygon
    patches: tuple[str, ...] = ()
    kind: Kind = "patch"
    label: str = ""
    forbidden: bool = False
    whole: Polygon | None = None
