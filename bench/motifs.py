"""How every design fills its zones: the measures of `chorograph_core.designs.judging`, and a sheet
of drawings to look at."""

from __future__ import annotations

import math
import time
from pathlib import Path

import shapely
from PIL import Image, ImageDraw
from shapely.affinity import rotate, skew
from shapely.geometry import LineString, Point, Polygon

from bench.table import table
from chorograph_core.blocks.library import block_library
from chorograph_core.chart import alike
from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.drawing import drawn_safely, fit_of
from chorograph_core.designs.judging import Judged, judged
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.tests.shapes import UGLY

SHEET = Path(__file__).parent.parent / ".local" / "motifs.png"
NAMES = ("gap", "tip", "evenness", "edge", "corners", "spill", "roundness", "crossings", "retrace",
         "unbroken")  # fmt: skip
TILE, PAD, SCALE = 120, 8, 3
"""A drawing's side and edge on the sheet in pixels, and how much finer it is drawn at first."""
ROOM = 1.5
"""A zone has room for a fill if a circle of this many spacings lies in it."""
SUITS = 0.35
"""The score from which the drawer says that a design will do."""


def zones() -> list[tuple[str, Polygon]]:
    """Forty-eight zones and more: shapes of the block library at 12 inches, sashing and borders, and
    ugly ones."""
    found = [(name, shape) for name, shape in UGLY.items() if name != "tiny"]
    top = StraightSet(2, 2, 12, ("nine_patch",), 2, False, True, (Border(6, "mitred"),)).chart()
    found += [(p.role, p.polygon) for p in top.patches if p.role in ("sashing", "border")][:4]
    seen: list[Polygon] = []
    for key in block_library():
        for patch in StraightSet(1, 1, 12, (key,)).chart().patches:
            if patch.polygon.area > 6:
                seen.append(patch.polygon)
    classes = alike(seen)
    firsts = [seen[classes.members(k)[0]] for k in range(max(classes.classes) + 1)]
    step = max(1, len(firsts) // 36)
    return found + [(f"block {k}", shape) for k, shape in enumerate(firsts[::step])]


def strips() -> list[tuple[str, Polygon]]:
    """Thirty more for what wants a strip: lying, standing, on a slant, cut slantwise, tapering, mitred,
    bent round and to and fro, turning a corner."""
    made: list[tuple[str, Polygon]] = []
    for number, (long, wide) in enumerate(((8, 2), (10, 3), (16, 1.5), (24, 4), (40, 6), (7, 3))):
        lies = shapely.box(0, 0, long, wide)
        made += [
            (f"standing {number}", rotate(lies, 90)),
            (f"slanting {number}", rotate(lies, (20, 30, 45)[number % 3])),
            (f"cut slantwise {number}", skew(lies, (30, 45)[number % 2])),
        ]
    for number, (long, low, high) in enumerate(((10, 1.5, 3), (14, 2, 3.5), (20, 4, 3))):
        wedge = Polygon([(0, 0), (long, 0), (long, high), (0, low)])
        mitred = Polygon([(0, 0), (long + 8, 0), (long + 8 - low, low), (low, low)])
        made += [(f"tapering {number}", wedge), (f"mitred {number}", mitred)]
    for number, (inner, outer) in enumerate(((4, 6), (6, 9), (10, 12))):
        ring = Point(0, 0).buffer(outer, 64).difference(Point(0, 0).buffer(inner, 64))
        made.append((f"round {number}", ring.intersection(shapely.box(0, 0, outer, outer))))
        way = [(x / 4, inner / 4 * math.sin(x / 4 * math.pi / 8)) for x in range(97)]
        made.append(
            (f"to and fro {number}", LineString(way).buffer((outer - inner) / 2, cap_style="flat"))
        )
    corner = [(0, 0), (20, 0), (20, 4), (4, 4), (4, 16), (0, 16)]
    return [
        *made,
        ("corner", Polygon(corner)),
        ("wide corner", Polygon(corner).buffer(1, join_style="mitre")),
    ]


def main() -> None:
    """Judge every design that fills, by its default settings, and draw the sheet."""
    places, lengths, rows, drawn = zones(), strips(), [], []
    for drawing in designs().values():
        if drawing.role == "ditch":
            continue
        began = time.perf_counter()
        measured: list[Judged] = []
        taken = roomy = declined = 0
        whole = 0
        for _, shape in (*places, *(lengths if drawing.guided else ())):
            space, settings = Space(shape), drawing.clean(_filling(drawing))
            fit = fit_of(drawing, space, settings)
            has_room = bool(space.inset(ROOM * max(0.1, drawing.spacing(space, settings))))
            roomy += has_room
            linework, _ = drawn_safely(drawing, space, settings, 1)
            if fit.score < SUITS or not linework.runs:
                declined += 1
                drawn.append((drawing.name, shape, None))
                continue
            taken += has_room
            measured.append(judged(drawing, space, settings, linework))
            whole += not measured[-1].faults(drawing)
            drawn.append((drawing.name, shape, linework))
        rows.append(
            [drawing.name, len(measured), f"{taken}/{roomy}", whole,
             *(_holds(drawing, measured, name) for name in NAMES), time.perf_counter() - began]
        )  # fmt: skip
    head = ["design", "zones", "with room", "all hold", *NAMES, "seconds"]
    table(
        f"Motifs on {len(places)} zones, along strips on {len(lengths)} more: in how many each measure holds",
        head,
        rows,
    )
    _sheet(drawn, len(places))
    print(f"The drawings: {SHEET.relative_to(SHEET.parent.parent)}")


def _filling(drawing: Design) -> dict[str, int]:
    """A frame has one line by default; it is judged as a fill, with as many as have room."""
    return {"count": 0} if drawing.role == "frame" else {}


def _holds(drawing, measured: list[Judged], name: str) -> str:
    known = [one for one in measured if getattr(one, name) is not None]
    if not known:
        return "-"
    good = sum(name not in one.faults(drawing) for one in known)
    worst = max(getattr(one, name) for one in known)
    return f"{good} ({worst:.2f})" if good < len(known) else f"{good}"


def _sheet(drawn: list, across: int) -> None:
    """A row of tiles for each design; what it declines is left empty."""
    columns = min(across, 16)
    down = math.ceil(across / columns)
    count = len(drawn) // across
    size = (columns * TILE, count * (down * TILE + 24))
    image = Image.new("RGB", size, "#fbf7ec")
    for number, (name, shape, linework) in enumerate(drawn):
        design, place = divmod(number, across)
        x = place % columns * TILE
        y = design * (down * TILE + 24) + 24 + place // columns * TILE
        if place == 0:
            ImageDraw.Draw(image).text((6, y - 18), name, fill="#1e2b3c")
        image.paste(_tile(shape, linework), (x, y))
    SHEET.parent.mkdir(exist_ok=True)
    image.save(SHEET)


def _tile(shape: Polygon, linework) -> Image.Image:
    side = TILE * SCALE
    tile = Image.new("RGB", (side, side), "#fbf7ec")
    pen = ImageDraw.Draw(tile)
    x0, y0, x1, y1 = shape.bounds
    by = (side - 2 * PAD * SCALE) / max(x1 - x0, y1 - y0)

    def at(points):
        return [(PAD * SCALE + (x - x0) * by, PAD * SCALE + (y - y0) * by) for x, y in points]

    for ring in (shape.exterior, *shape.interiors):
        pen.line(at(shapely.get_coordinates(ring)), fill="#c9bfa8", width=SCALE)
    for run in linework.runs if linework else ():
        pen.line(at(run.points), fill="#1e2b3c", width=SCALE, joint="curve")
    return tile.resize((TILE, TILE), Image.Resampling.LANCZOS)
