"""What a route is: policy, steps, the floor, and the sums over them."""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from chorograph_core.designs.legend import ZoneId
from chorograph_core.designs.linework import Run
from chorograph_core.measure.limits import Harm
from chorograph_core.route.passes import Pass

STEP_KINDS = (
    "mark", "thread", "start", "ruler", "stitch", "travel", "tie_off", "bobbin", "roll", "path", "secure",
    "unpick", "tuck",
    "unmark", "move",
)  # fmt: skip
TRAVEL_KINDS = ("ditch", "edge", "open", "retrace", "link")
"""Hidden in a seam; along the raw edge; across open fabric; on top of stitching; along a zone's
edge from one line of a design to the next."""

TOLERANCE = 0.02
"""Inches. Ends closer than this are the same place."""


RunName = Annotated[str, Meta(max_length=260)]
RunOrder = Annotated[tuple[RunName, ...], Meta(min_length=2, max_length=400)]


@dataclass(frozen=True)
class Wish:
    """What a person wishes of a route: some *zones* ``"before"`` *others*, ``"first"`` or ``"last"`` of
    what is done in the same thread and pass, place after place in the order in which they are named
    (``"kept"``), no travel along them and through them (``"around"``), or their designs left as they are
    drawn, begun and ended where they do (``"drawn"``). *thread* is the one in which the order is meant;
    empty for all."""

    kind: Literal["before", "first", "last", "kept", "around", "drawn"]
    zones: Annotated[tuple[ZoneId, ...], Meta(min_length=1, max_length=2000)]
    others: Annotated[tuple[ZoneId, ...], Meta(max_length=2000)] = ()
    thread: Annotated[str, Meta(max_length=60)] = ""


@dataclass(frozen=True)
class Policy:
    """How the studio works, as far as the route depends on it.

    *stabilise*: ``"quilt"`` stitches every ditch before any filling, ``"pass"`` those of a pass before
    any filling in it, ``"zone"`` those of a place just before its fillings, place after place,
    ``"free"`` asks for no order and is done pass by pass.
    *technique*: ``"mixed"`` stitches the fillings of a thread as they lie, block by block, ``"ruler"``
    what is ruled before what is freehand, ``"design"`` one design after the other.
    *edges*: on a frame they are basted as each pass comes under the machine (``"baste"``), the top
    floats (``"float"``), or the seam of the border is locked straight before anything else
    (``"border"``), where the border is fuller than the body.
    *days*: ``"passes"`` from top to bottom, or the whole quilt is basted first (``"basted"``): then any
    place can be done on any day, its basting taken out before it is stitched.
    *oversized*: a run that no pass holds is cut where passes meet (``"split"``), stitched in one go while the
    quilt is rolled on and back under it (``"roll"``), or whichever loses less (``"less"``).
    *straight*: straight lines are stitched along a ruler (``"ruler"``), with the channel locked where they
    lie along the frame or across it (``"lock"``), or by eye (``"eye"``), lines in the fabric drawn first.
    *marking*: everything that a design wants marked (``"all"``), its axes and spines only (``"spines"``), or
    nothing (``"none"``). *pen*: with what (see `chorograph_core.route.marking`); with one that fades, each
    thing is marked just before it is stitched.
    *retrace*: a stroke that goes back over its own line does so exactly on it (``"on"``) or beside it, like a
    ribbon (see `chorograph_core.designs.beside`).
    *orders*: in which order a person wants the runs at one station, by their names; all alike stations
    follow. *wishes*: what else she wishes.
    *whole_runs*: a run is stitched in one go, or may be left between two of its units and taken up
    again. *harm_open* multiplies the
    price of travel that shows on open fabric; *edge_finish* says whether the raw edge may be used;
    *applique* what the client lets be stitched in appliqué (see `chorograph_core.zones.bans`).
    """

    stabilise: Literal["quilt", "pass", "zone", "free"] = "quilt"
    technique: Literal["mixed", "ruler", "design"] = "mixed"
    edges: Literal["baste", "float", "border"] = "baste"
    days: Literal["passes", "basted"] = "passes"
    oversized: Literal["less", "split", "roll"] = "less"
    straight: Literal["ruler", "lock", "eye"] = "ruler"
    marking: Literal["all", "spines", "none"] = "all"
    pen: Literal["chalk", "soluble", "fading", "humid", "crease"] = "chalk"
    retrace: Literal["on", "beside"] = "on"
    edge_finish: Literal["binding", "turned", "faced", "knife"] = "binding"
    applique: Literal["leave", "outline", "light", "full"] = "full"
    orders: Annotated[tuple[RunOrder, ...], Meta(max_length=200)] = ()
    wishes: Annotated[tuple[Wish, ...], Meta(max_length=60)] = ()
    harm_open: Harm = 10.0
    harm_edge: Harm = 1.2
    effort: Annotated[int, Meta(ge=0, le=20)] = 1
    whole_runs: bool = True

    @property
    def edge_open(self) -> bool:
        """Whether one may stitch along the raw edge, where the binding will cover it."""
        return self.edge_finish == "binding"


Kind = Literal["ditch", "fill"]


@dataclass(frozen=True)
class Stage:
    """What is done in one go: in one pass of the frame, one thread; all ditches or all fillings.

    *reach* numbers the pass from 1; *technique* narrows a stage to work of one kind, empty for all,
    *place* to one station, by its key; a stage of ditches without one is that of the seams between.
    *level* counts the layers below that reach further than its place: figures, and what the quilt is rolled
    under. They are told apart where places are done one by one or something is rolled under.
    *through*: the quilt is rolled on and back meanwhile, *reach* is the pass it begins in.
    """

    kind: Kind
    thread: str
    reach: int = 1
    technique: str = ""
    place: str = ""
    level: int = 0
    through: bool = False

    @property
    def name(self) -> str:
        """How the floor and its readers call it."""
        return ":".join(filter(None, (self.kind, self.thread, self.technique)))


@dataclass(frozen=True, eq=False)
class Begun:
    """A run that was left in its middle: its name, the lines of it that are stitched, each (n, 2), and what
    of it is left, as runs that go on from there."""

    run: str
    stitched: tuple[np.ndarray, ...]
    rest: tuple[Run, ...]


@dataclass(frozen=True)
class State:
    """Where the work stands. *done* names what is finished: runs (zone/layer/figure), seams, basted edges,
    tucks, marks. *begun* are runs left in their middle, *sewn* lines (n, 2) in the ditch of seams that are
    not done altogether. *thread* is in the needle, *bobbin* the inches left on the one
    below it (None: a full one), *aside* those left on the bobbins of other threads.
    *needle* is where it is down; None where the thread is cut. *lies* is how many inches down the quilt the
    pass begins that is under the machine; None where it has yet to be loaded."""

    done: frozenset[str] = frozenset()
    thread: str = ""
    bobbin: float | None = None
    begun: tuple[Begun, ...] = ()
    sewn: tuple[np.ndarray, ...] = field(default=(), compare=False)
    needle: tuple[float, float] | None = None
    lies: float | None = None
    aside: tuple[tuple[str, float], ...] = ()

    @property
    def fresh(self) -> bool:
        """Whether nothing was done yet."""
        return not (self.done or self.begun or self.sewn)


@dataclass(frozen=True)
class Step:
    """One thing to do. *points* (n, 2) in inches, empty where nothing moves.

    *reach* is the pass it is done in, *station* the place and *path* the path followed there; a step of
    kind ``"path"`` is the looking up of one, ``"roll"`` the rolling on to another pass, ``"move"`` the laying
    of the quilt under another machine. *run* names the run being stitched, *how* the technique or the kind
    of travel, *count* how many ruler layings or marks; the *seconds* of a stretch of ditch hold those of its
    layings. *price* is what a travel or cut counts in lost minutes, harm included; *instead* what the best
    other way there would have counted, for a cut: 0 where none was looked for, infinite where none leads
    there. *marks* names what a step of kind ``"mark"`` marks, as zone/layer.
    """

    kind: str
    points: np.ndarray
    seconds: float = 0.0
    inches: float = 0.0
    thread: str = ""
    zone: str = ""
    entry: str = ""
    run: str = ""
    how: str = ""
    count: int = 0
    price: float = 0.0
    reason: str = ""
    seams: tuple[str, ...] = ()
    reach: int = 1
    station: str = ""
    path: str = ""
    instead: float = 0.0
    marks: tuple[str, ...] = ()


@dataclass(frozen=True)
class FollowedPath:
    """A path that is learned once: its *key* in the steps, a *title* in words, and the stations where
    it is followed, in order."""

    key: str
    title: str
    stations: tuple[str, ...]


@dataclass(frozen=True)
class Floor:
    """A lower bound in lost minutes for any route over the same linework and policy that goes through the
    same places in the same passes, each in one go.

    *links* is what the designs' own ways along their edges and retraces cost, *changes* thread and
    bobbin changes, *stages* what each stage must lose in travel and cuts, *rolls* and *lookups* what
    rolling on and looking up take at least; *layings* is the least number of times that a ruler is
    laid along the ditches. *together* is what no route can do without besides, since not all of these
    can be least at once: who goes the shortest way looks for places that do not follow, and lays the ruler
    more often.
    """

    links: float
    changes: float
    stages: tuple[tuple[str, float], ...]
    rolls: float = 0.0
    lookups: float = 0.0
    layings: int = 0
    together: float = 0.0

    @property
    def travel(self) -> float:
        """What travel and cuts lose at least, the designs' own ways left out."""
        return sum(minutes for _, minutes in self.stages)

    @property
    def avoidable(self) -> float:
        """What no route can do without of travel, cuts, rolls and looking up: the designs' own ways
        and the changes of thread and bobbin stand on both sides."""
        return self.travel + self.rolls + self.lookups + self.together

    @property
    def lost_minutes(self) -> float:
        return self.links + self.changes + self.avoidable


@dataclass
class Route:
    """Steps in order, with the floor beside them.

    *drawn* is the linework as it is stitched: designs that can choose where they begin and end have
    been drawn again between the doorways the route gave them; *figures* has the zones that each figure
    in it lies over, by its key. *thread_inches* is what each thread
    needs on top, and as much again on the bobbin, without reserve. *laying* is what laying a ruler
    takes, in minutes. *notes* say which wishes it could not keep, and why, by their place in the policy,
    *redrawn* the zones whose designs were drawn again, to begin or end elsewhere.
    """

    steps: list[Step]
    floor: Floor
    zones: int = 0
    seconds: float = 0.0
    notes: dict[int, str] = field(default_factory=dict)
    drawn: list = field(default_factory=list)
    thread_inches: dict[str, float] = field(default_factory=dict)
    end: State = field(default_factory=State)
    passes: tuple[Pass, ...] = ()
    paths: tuple[FollowedPath, ...] = ()
    laying: float = 0.0
    figures: dict[str, tuple[str, ...]] = field(default_factory=dict)
    redrawn: tuple[str, ...] = ()
    least: Callable[[], Floor] | None = field(default=None, repr=False, compare=False)

    def bounded(self) -> Route:
        """The same route with all of its floor, which it says itself how to find: what travel and cuts lose
        at least takes as long to find as the route."""
        if self.least is None:
            return self
        began = time.perf_counter()
        floor = self.least()
        taken = time.perf_counter() - began
        return replace(self, floor=floor, least=None, seconds=self.seconds + taken)

    @property
    def minutes(self) -> float:
        """Time at the machine in minutes."""
        return sum(step.seconds for step in self.steps) / 60

    @property
    def away_minutes(self) -> float:
        """Minutes at the other machine; carrying the quilt over is the first one's."""
        away = {each.number for each in self.passes if each.another}
        return (
            sum(step.seconds for step in self.steps if step.reach in away and step.kind != "move")
            / 60
        )

    @property
    def stitched_inches(self) -> float:
        """Inches that add quilting."""
        return sum(step.inches for step in self.steps if step.kind == "stitch")

    @property
    def travel_inches(self) -> dict[str, float]:
        """Inches of travel by kind, and ``"all"``."""
        sums: dict[str, float] = defaultdict(float)
        for step in self.steps:
            if step.kind == "travel":
                sums[step.how] += step.inches
        found = {kind: sums.get(kind, 0.0) for kind in TRAVEL_KINDS}
        found["all"] = sum(found.values())
        return found

    @property
    def cuts(self) -> int:
        """How often the thread is cut: every start needs one at its end."""
        return sum(step.kind == "tie_off" for step in self.steps)

    @property
    def rolls(self) -> int:
        """How often the quilt is rolled on or back."""
        return sum(step.count for step in self.steps if step.kind == "roll")

    @property
    def layings(self) -> int:
        """How often a ruler is laid along the ditches."""
        return sum(step.count for step in self.steps if step.kind == "stitch" and step.seams)

    @property
    def lost_by_kind(self) -> dict[str, float]:
        """Lost minutes: ``"travel"`` with the designs' own ways, ``"cuts"``, ``"changes"`` of thread and
        bobbin, ``"rolls"``, ``"lookups"``, ``"layings"`` of a ruler over the fewest there can be."""
        kinds = {"travel": "travel", "start": "cuts", "tie_off": "cuts", "thread": "changes",
                 "bobbin": "changes", "roll": "rolls", "path": "lookups"}  # fmt: skip
        found = dict.fromkeys(("travel", "cuts", "changes", "rolls", "lookups"), 0.0)
        for step in self.steps:
            if step.kind in kinds:
                found[kinds[step.kind]] += step.price
        found["layings"] = max(0, self.layings - self.floor.layings) * self.laying
        return found

    @property
    def lost_minutes(self) -> float:
        """Everything that is neither stitching nor the fewest layings this linework can be ruled
        with, harm to the look priced in."""
        return sum(self.lost_by_kind.values())

    @property
    def avoidable(self) -> float:
        """Lost minutes without what stands in every route: the designs' own ways, thread and bobbins."""
        return self.lost_minutes - self.lost_by_kind["changes"] - self.floor.links

    @property
    def gap(self) -> float:
        """How far the avoidable part lies above its floor, as a share of the floor."""
        floor = self.floor.avoidable
        return (self.avoidable - floor) / floor if floor > 0 else 0.0
