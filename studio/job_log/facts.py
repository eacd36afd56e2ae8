"""What a job is like, in words that one would search for: "that blue sampler", "the wool batting"."""

from __future__ import annotations

import colorsys

from chorograph_core.blocks import block_library
from chorograph_core.blocks.own_blocks import block_name
from chorograph_core.designs import designs
from chorograph_core.estimating import CONDITIONS
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_inches

_HUES = [
    (15, "red"), (40, "orange brown"), (68, "yellow gold"), (160, "green"), (195, "teal turquoise"),
    (255, "blue"), (290, "purple violet"), (345, "pink"), (361, "red"),
]  # fmt: skip


def colour_words(colour: str) -> str:
    """The everyday words for a colour ``#rrggbb``: ``"blue"``, ``"cream white"``."""
    red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
    hue, light, strength = colorsys.rgb_to_hls(red, green, blue)
    if light > 0.86:
        return "cream white" if red > blue + 0.02 else "white"
    if light < 0.12:
        return "black"
    if strength < 0.12:
        return "grey"
    word = next(word for edge, word in _HUES if hue * 360 < edge)
    return f"navy {word}" if light < 0.28 and word == "blue" else word


def _once(name: str, more: str) -> str:
    """*name*, and *more* in brackets where it says something new."""
    return name if not more or more.lower() in name.lower() else f"{name} ({more})"


def _coloured(name: str, colour: str) -> str:
    words = [word for word in colour_words(colour).split() if word not in name.lower().split()]
    return _once(name, " ".join(words))


def facts_of(core: CoreJob) -> str:
    """The facts of a job, one subject a line."""
    intake = core.intake
    used = {layer.thread for entry in core.legend for layer in entry.layers}
    threads = [f"{t.name} ({colour_words(t.colour)}, {t.weight:g} wt)"
               for t in core.threads if t.key in used]  # fmt: skip
    drawings = {layer.design for entry in core.legend for layer in entry.layers}
    library = block_library()
    kinds = {patch.kind for patch in core.chart.patches}
    blocks = {library[kind].name for kind in kinds if kind in library}
    blocks |= {name for name in map(block_name, kinds) if name}
    size = f"{format_inches(core.size[0])} × {format_inches(core.size[1])}"
    worn = {patch.fabric for patch in core.chart.patches}
    fabrics = {_coloured(f.name, f.colour) for f in core.chart.fabrics if f.key in worn}
    batting = intake.batting
    lines = [
        f"{core.title}, top of {size}",
        f"Client: {core.client}" if core.client else "",
        f"Thread: {', '.join(threads)}" if threads else "",
        f"Fabrics: {', '.join(sorted(fabrics))}" if fabrics else "",
        f"Blocks: {', '.join(sorted(blocks))}" if blocks else "",
        f"Designs: {', '.join(sorted(designs()[key].name for key in drawings if key in designs()))}"
        if drawings
        else "",
        f"Batting: {_once(batting.name, batting.fibre)}" if batting else "",
        f"Backing: {intake.backing.note}" if intake.backing and intake.backing.note else "",
        f"Style: {intake.wishes.style}" if intake.wishes.style else "",
        f"Occasion: {intake.wishes.occasion}" if intake.wishes.occasion else "",
        f"Level: {intake.wishes.level}" if intake.wishes.level else "",
        f"Appliqué: {core.policy.applique}" if core.policy.applique != "full" else "",
        *(f"{CONDITIONS[c.kind]}: {c.note or 'yes'}" for c in intake.conditions if c.found),
        f"Wishes: {intake.wishes.note}" if intake.wishes.note else "",
    ]
    return "\n".join(line for line in lines if line)
