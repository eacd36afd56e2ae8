"""Changes that need no drawer, as a table: what each does to a job, and how the book tells it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field
from typing import Any

from chorograph_core.job import Job as CoreJob
from studio.asking import number_or
from studio.charting.following import meant
from studio.plain import plain
from studio.workbench import applique, cuts, edits, handing, piecing, wishing, working
from studio.workbench.handing import Machines


@dataclass(frozen=True)
class Asked:
    """What a person asked for: the chosen zones, the form's values and files, the studio's unit of
    length, the keys of its own blocks, its machines and its people by their names."""

    ids: list[str]
    values: Mapping[str, Any]
    files: Mapping[str, Any]
    units: str
    own: tuple[str, ...] = ()
    machines: Machines = field(default_factory=dict)
    people: Collection[str] = ()

    @property
    def name(self) -> str:
        """The name that was typed."""
        return plain(self.values.get("name"), 60)

    @property
    def sure(self) -> bool:
        """Whether she was asked, and means it."""
        return bool(self.values.get("sure"))

    @property
    def number(self) -> int:
        """Which of those offered; -1 for what is no number."""
        return number_or(self.values, "number", -1)


@dataclass(frozen=True)
class Change:
    """*act* makes one job of another; *summary* may speak of ``{count}`` zones and their ``{name}``."""

    act: Callable[[CoreJob, Asked], CoreJob]
    summary: str
    own_blocks: bool = False
    machines: bool = False

    def says(self, asked: Asked) -> str:
        """The line for the book."""
        return self.summary.replace("{count}", str(len(asked.ids))).replace("{name}", asked.name)


CHANGES: dict[str, Change] = {
    "join": Change(lambda core, it: edits.join_zones(core, it.ids), "Joined {count} zones"),
    "flow": Change(lambda core, it: edits.flow_background(core), "Let the background flow together"),
    "part": Change(lambda core, it: edits.part_zones(core, it.ids), "Took zones apart"),
    "name": Change(lambda core, it: edits.name_zones(core, it.ids, it.name),
                   "Named {count} zones {name}"),
    "unname": Change(lambda core, it: edits.unname_zones(core, it.name), "Took the name {name} off"),
    "ban": Change(lambda core, it: edits.ban_zones(core, it.ids, True), "Forbade stitching in {count}"),
    "allow": Change(lambda core, it: edits.ban_zones(core, it.ids, False), "Allowed {count} zones"),
    "drop": Change(lambda core, it: edits.drop_entry(core, it.values.get("entry", "")),
                   "Took an entry out of the legend"),
    "figures": Change(lambda core, it: edits.join_figures(core, it.number),
                      "Joined the figures between blocks"),
    "cut": Change(lambda core, it: cuts.cut_zones(core, it.ids, it.values, it.units),
                  "Cut {count} zones"),
    "school": Change(
        lambda core, it: working.choose_school(
            core, it.values.get("school", ""), it.values.get("technique", ""),
            it.values.get("edges", ""), it.values.get("days", ""), it.values.get("oversized", ""),
        ),
        "Chose in which order the quilt is stitched",
    ),
    "mix": Change(lambda core, it: working.choose_mix(core, it.values),
                  "Chose ways of working"),
    "help": Change(lambda core, it: working.take_help(core, it.values.get("help", "")),
                   "Took what helps most"),
    "wish": Change(
        lambda core, it: wishing.with_wish(
            core, wishing.asked_wish(core, it.values.get("kind", ""),
                                     it.values.get("mine", "").split(","),
                                     it.values.get("others", "").split(","),
                                     it.values.get("thread", "")),
        ),
        "Wished something of the route",
    ),
    "unwish": Change(lambda core, it: wishing.without_wish(core, it.number),
                     "Took a wish of the route back"),
    "over": Change(
        lambda core, it: handing.with_handover(
            core, handing.asked_handover(core, it.machines, it.people, it.values)
        ),
        "Gave part of the quilt to another machine", machines=True,
    ),
    "back": Change(
        lambda core, it: handing.taken_back(
            core, [name for name in it.values.get("mine", "").split(",") if name]
        ),
        "Took a part of the quilt back from another machine",
    ),
    "order": Change(
        lambda core, it: working.choose_order(
            core, working.runs_from(it.values), it.values.getlist("instead")
        ),
        "Put a path in an order of one's own",
    ),
    "unorder": Change(lambda core, it: working.drop_order(core, working.runs_from(it.values, "instead")),
                      "Left the order of a path to the planner"),
    "free": Change(lambda core, it: cuts.let_in_shape(core, it.values),
                   "Let in a shape drawn by hand"),
    "exchange": Change(
        lambda core, it: meant(
            core, piecing.exchange_blocks(core, it.ids, it.values, it.own), it.sure
        ),
        "Exchanged blocks", own_blocks=True,
    ),
    "through": Change(lambda core, it: meant(core, piecing.run_through(core, it.ids), it.sure),
                      "Let the sashing run through"),
    "place": Change(lambda core, it: piecing.place_block(core, it.values, it.units, it.own),
                    "Placed a block", own_blocks=True),
    "recolour": Change(lambda core, it: piecing.recolour(core, it.values), "Recoloured a fabric"),
    "sew": Change(lambda core, it: applique.sew_on(core, it.values, it.units), "Sewed a shape on"),
    "sew-drawing": Change(
        lambda core, it: applique.sew_drawing(core, it.values, it.files.get("file"), it.units),
        "Sewed on the shapes of a drawing",
    ),
    "sewn": Change(lambda core, it: applique.set_sewn(core, it.ids, True), "Said what is appliqué"),
    "pieced": Change(lambda core, it: applique.set_sewn(core, it.ids, False),
                     "Said what is pieced in"),
    "unsew": Change(lambda core, it: applique.take_off(core, it.ids), "Took a shape off"),
    "behind": Change(lambda core, it: applique.run_zones_behind(core, it.ids),
                     "Let zones run behind what lies on them"),
    "front": Change(lambda core, it: applique.bring_zones_front(core, it.ids),
                    "Brought zones to the front"),
}  # fmt: skip
