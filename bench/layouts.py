"""Ruler layouts: how fast they are drawn and laid, and the sheet of all of them on eight shapes."""

from __future__ import annotations

import math
import time
from pathlib import Path

import numpy as np
import shapely
from PIL import Image, ImageDraw, ImageFont
from shapely.geometry import Point, Polygon, box

from bench.table import table
from chorograph_core.designs import Design, Space, designs
from chorograph_core.designs.drawing import draw_legend, drawn_safely, fit_of
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.job import job_linework
from chorograph_core.layouts import StraightSet
from chorograph_core.rulers import simulated
from chorograph_core.zones import zones_from_patches
from chorograph_core.zones.places import places_of
from studio.demo.ruler_work import harbour, tideway
from studio.demo.tops import sampler

SHEET = Path(__file__).parent.parent / "docs" / "ruler-layouts.png"
TILE, GAP, NAME, FINE = 150, 10, 210, 3
ZONES = 2400


def shapes() -> dict[str, Polygon]:
    """Eight kinds of zone."""
    turn = math.pi / 7
    fan = Polygon([(0, 0), *(20 * np.array([math.cos(a), math.sin(a)]) for a in (turn, 3 * turn))])
    ring = Point(0, 0).buffer(11, quad_segs=64).difference(Point(0, 0).buffer(4, quad_segs=64))
    at = np.arange(6) * math.pi / 3
    return {
        "square": box(0, 0, 7, 7),
        "triangle": Polygon([(0, 0), (8, 0), (0, 8)]),
        "kite": Polygon([(0, 0), (4, -2.6), (10, 0), (4, 2.6)]),
        "hexagon": Polygon(5 * np.column_stack([np.cos(at), np.sin(at)])),
        "wedge": ring.intersection(fan),
        "border": Polygon([(0, 0), (24, 0), (20, 4), (4, 4)]),
        "corner": Polygon([(0, 0), (14, 0), (14, 12), (10, 12), (10, 4), (0, 4)]),
        "holed": box(0, 0, 10, 10).difference(Point(5, 5).buffer(2, quad_segs=32)),
    }


def ruled() -> list[Design]:
    """All ruler layouts but the ditch."""
    return [d for d in designs().values() if d.family == "ruler" and d.role != "ditch"]


def many_zones() -> list[Polygon]:
    """As many zones as a large top has, no two alike: quadrilaterals, triangles, wedges."""
    rng = np.random.default_rng(5)
    kinds = [box(0, 0, 3, 3), Polygon([(0, 0), (4, 0), (0, 4)]), box(0, 0, 8, 2), shapes()["wedge"]]
    found = []
    for k in range(ZONES):
        shape = kinds[k % len(kinds)]
        by = rng.uniform(0.7, 1.3, 2)
        found.append(shapely.transform(shape, lambda p, by=by: p * by))
    return found


def main() -> None:
    """Seconds for each layout and for all, layings found and simulated, and the sheet."""
    zones, rows, each_ms = many_zones(), [], []
    for design in ruled():
        took = []
        for zone in zones[:: ZONES // 40]:
            began = time.perf_counter()
            space = Space(zone)
            drawn_safely(design, space, design.proposed(space), 1)
            took.append((time.perf_counter() - began) * 1000)
        each_ms += took
        rows.append([design.name, float(np.median(took)), float(np.percentile(took, 95))])
    table("One zone, drawn cold", ["layout", "median ms", "95 % ms"], rows)
    began = time.perf_counter()
    layouts = ruled()
    for k, zone in enumerate(zones):
        space = Space(zone)
        design = layouts[k % len(layouts)]
        drawn_safely(design, space, design.clean(), 1)
    whole = time.perf_counter() - began
    table("All layouts", ["measure", "ours", "aim"], [
        [f"{ZONES} zones of a top, layouts in turn, seconds", top(ruled()), 4.0],
        [f"{ZONES} zones, no two alike, seconds", whole, 4.0],
        ["one zone, median ms", float(np.median(each_ms)), 15.0],
        ["one zone, 95th percentile ms", float(np.percentile(each_ms, 95)), 60.0],
        *_tray(), *_layings(),
    ])  # fmt: skip
    sheet(ruled(), SHEET)


def top(layouts: list[Design]) -> float:
    """Seconds to draw a top of so many zones, its kinds of place given all the designs in turn."""
    chart = StraightSet(
        10, 15, 8, ("square_in_square", "hourglass", "nine_patch", "sawtooth_star"), 1
    ).chart()
    zones = zones_from_patches(chart)[:ZONES]
    places = places_of(chart, zones)
    entries = [
        Entry(f"{k}.{j}", "", place.zones[j :: len(layouts)], (Layer(layout.key, {}, "t"),))
        for k, place in enumerate(places)
        for j, layout in enumerate(layouts)
        if place.zones[j :: len(layouts)]
    ]
    began = time.perf_counter()
    draw_legend(chart, zones, entries)
    return time.perf_counter() - began


def _tray() -> list[list]:
    """The drawings of a tray, each design as it would propose itself."""
    found = []
    for name in ("square", "triangle", "border"):
        space = Space(shapes()[name])
        began = time.perf_counter()
        for design in list(designs().values())[:20]:
            settings = design.proposed(space)
            fit_of(design, space, settings)
            drawn_safely(design, space, settings, 1)
        found.append(
            [f"twenty candidates on a {name}, ms", (time.perf_counter() - began) * 1000, 300.0]
        )
    return found


def _layings() -> list[list]:
    """Every laying of the demo tops found, and each simulated: foot and ruler as shapes."""
    found = []
    for job in (sampler(), harbour(), tideway()):
        drawn = [one for one in job_linework(job) if one.role != "ditch"]
        began = time.perf_counter()
        foot, kind = job.machine.foot_radius, job.machine.kind
        laid = [p for one in drawn for p in one.linework.placements(job.rulers, foot, kind)]
        took = time.perf_counter() - began
        bad = sum(bool(simulated(p, foot, kind)) for p in laid)
        hand = sum(p.by_hand for p in laid)
        found.append(
            [f"{job.title}: {len(laid)} layings, {hand} by hand, {bad} fail; seconds", took, 0.5]
        )
    return found


def sheet(rows: list[Design], path: Path) -> None:
    """Every design on eight shapes, one row each; what it declines is drawn faint."""
    columns = shapes()
    size = (NAME + len(columns) * (TILE + GAP) + GAP, GAP + len(rows) * (TILE + GAP))
    image = Image.new("RGB", size, "#efe8d8")
    pen = ImageDraw.Draw(image)
    font = ImageFont.load_default(17)
    for row, design in enumerate(rows):
        y = GAP + row * (TILE + GAP)
        pen.multiline_text(
            (14, y + TILE / 2 - 18), design.name.replace(" or ", "\nor "), "#1e2b3c", font
        )
        for column, shape in enumerate(columns.values()):
            space = Space(shape)
            settings = design.proposed(space)
            if design.role == "frame":
                settings = design.clean({"count": 0})
            fit = fit_of(design, space, settings)
            made, _ = drawn_safely(design, space, settings, 1)
            tile = _tile(shape, made, fit.score >= 0.35)
            image.paste(tile, (NAME + column * (TILE + GAP), y))
    image.quantize(64).save(path, optimize=True)
    print(f"The sheet: docs/{path.name}")


def _tile(shape: Polygon, made, suits: bool) -> Image.Image:
    side = TILE * FINE
    tile = Image.new("RGB", (side, side), "#fbf7ec")
    pen = ImageDraw.Draw(tile)
    x0, y0, x1, y1 = shape.bounds
    by = (side - 18 * FINE) / max(x1 - x0, y1 - y0)
    left, top = (side - (x1 - x0) * by) / 2, (side - (y1 - y0) * by) / 2

    def at(points):
        return [(left + (x - x0) * by, top + (y - y0) * by) for x, y in points]

    pen.polygon(at(shape.exterior.coords), fill="#f3ebd3")
    for ring in (shape.exterior, *shape.interiors):
        pen.line(at(ring.coords), fill="#c9b98c", width=FINE)
    for run in made.runs:
        for points, _, kind in run.pieces():
            if len(points) > 1:
                ink = "#2e7566" if kind != "stitch" else "#1e2b3c"
                pen.line(
                    at(points), fill=ink if suits else "#b9b09a", width=FINE + 1, joint="curve"
                )
    return tile.resize((TILE, TILE), Image.Resampling.LANCZOS)
