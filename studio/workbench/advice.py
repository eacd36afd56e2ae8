"""Advice that stands beside what it is about: a number, a reason, never a bar."""

from __future__ import annotations

from dataclasses import dataclass

from chorograph_core.chart.side_by_side import lying_side_by_side
from chorograph_core.choosing.take_up import is_held
from chorograph_core.designs import broken_designs
from chorograph_core.estimating import Batting
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_density, format_length
from chorograph_core.zones.bans import LIGHT
from studio.workbench.linework import LegendLine

RISES = 4.0
"""An area this many times less dense than its neighbour will stand up."""
WIDEST = 4.0
"""Inches between lines that most battings forgive, as long as none is chosen."""


@dataclass(frozen=True)
class Advice:
    """A short heading and the sentence behind it; *entry* is what it concerns."""

    heading: str
    text: str
    entry: str = ""


def advice(core: CoreJob, lines: list[LegendLine], units: str = "in") -> list[Advice]:
    """What a good quilter would say on seeing this legend, most telling first; at most three."""
    batting = core.intake.batting
    found = (
        [*_wide(lines, batting, units), *_rising(core, lines, units)]
        if batting
        else [*_rising(core, lines, units), *_wide(lines, None, units)]
    )
    return [*_read_otherwise(core), *_not_asked(core, lines, units), *found[:3]]


def _read_otherwise(core: CoreJob) -> list[Advice]:
    """What the document says and cannot be taken as it stands, and files that hold no design."""
    found = [Advice("Read otherwise than it was written.", text) for text in core.changes[:5]]
    return found + [
        Advice("A design could not be loaded.", f"{name}: {why}. The others are not touched by it.")
        for name, why in broken_designs().items()
    ]


def _not_asked(core: CoreJob, lines: list[LegendLine], units: str) -> list[Advice]:
    """Appliqué that is filled before anybody asked the client: many want nothing stitched there."""
    if core.policy.applique != "full" or core.intake.taken:
        return []
    shapes = {patch.id for patch in core.chart.patches if patch.role == "applique"}
    sewn = {zone.id for zone in core.zones if not shapes.isdisjoint(zone.patches)}
    filled = [
        line for line in lines if line.density > LIGHT and not sewn.isdisjoint(line.entry.zones)
    ]
    return [
        Advice(
            f"{line.name} is stitched into appliqué.",
            f"Many clients forbid it, or want a few holding lines at most; this is "
            f"{format_density(line.density, units, words=True)}. Ask, and say in Intake what she wants.",
            line.entry.id,
        )
        for line in filled[:1]
    ]


def _rising(core: CoreJob, lines: list[LegendLine], units: str) -> list[Advice]:
    touching = _neighbours(core)
    held = {zone.id for zone in core.zones if is_held(zone)}
    found = []
    for low in (line for line in lines if not held.issuperset(line.entry.zones)):
        beside = [
            high
            for high in lines
            if high is not low and frozenset((low.entry.id, high.entry.id)) in touching
        ]
        dense = max(beside, key=lambda line: line.density, default=None)
        if dense is None or low.density * RISES >= dense.density or dense.density < 1:
            continue
        times = dense.density / low.density if low.density > 0.05 else 0
        less = f"{times:.1f} times less" if times else "next to nothing"
        here, there = (format_density(each.density, units, words=True) for each in (low, dense))
        found.append(
            Advice(
                f"{low.name} will rise.",
                f"It holds {here}, beside it {dense.name} {there}: {less}. Intended?",
                low.entry.id,
            )
        )
    return found


def _wide(lines: list[LegendLine], batting: Batting | None, units: str) -> list[Advice]:
    widest = batting.gap if batting else WIDEST
    why = (
        f"{batting.name.capitalize()} holds only with lines no further than "
        f"{format_length(widest, units)} apart: stitch it closer, or take another batting."
        if batting
        else f"Many battings want lines no further than {format_length(widest, units)} apart; "
        f"choose the batting in Intake."
    )
    return [
        Advice(f"{line.name} leaves {format_length(line.gap, units)} open.", why, line.entry.id)
        for line in sorted(lines, key=lambda line: -line.gap)
        if line.gap > widest
    ]


def _neighbours(core: CoreJob) -> set[frozenset[str]]:
    """Pairs of entries that have zones lying side by side."""
    entry_of = core.entry_of()
    zones = [zone for zone in core.zones if zone.id in entry_of]
    if not zones:
        return set()
    owners = [entry_of[zone.id] for zone in zones]
    pairs = lying_side_by_side([zone.polygon for zone in zones])
    return {
        frozenset((owners[a], owners[b]))
        for a, b, inches in zip(*pairs, strict=True)
        if inches > 0.5 and owners[a] != owners[b]
    }
