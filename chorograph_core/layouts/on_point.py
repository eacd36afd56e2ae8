"""On point: blocks stand on a corner, with side and corner setting triangles."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np
import shapely
from shapely.geometry import Polygon, box

from chorograph_core.chart.model import ChartError, Fabric, Patch
from chorograph_core.layouts.base import PALETTE, Exchange, Layout, block_count, finite, grid_fits
from chorograph_core.layouts.borders import Border

ROOT = math.sqrt(2.0)
HAIR = 1e-7


@dataclass(frozen=True)
class OnPoint(Layout):
    """*rows* × *columns* blocks standing in the open, and (rows − 1)(columns − 1) between them.

    *float_by*: how far the points stand inside the edge, 0 when the setting triangles are trimmed
    to them. With *sashing* every block has it on all four sides.
    """

    kind: ClassVar[str] = "on_point"
    name: ClassVar[str] = "On point"

    rows: int
    columns: int
    block_size: float
    blocks: tuple[str, ...] = ("nine_patch",)
    between: str = ""
    sashing: float = 0.0
    cornerstones: bool = False
    float_by: float = 0.0
    borders: tuple[Border, ...] = ()
    fabrics: tuple[Fabric, ...] = field(default=PALETTE)
    exchanged: tuple[Exchange, ...] = ()
    fitted: tuple[float, ...] = ()
    open_crossings: tuple[str, ...] = ()

    def check_body(self) -> None:
        """Counts, sizes, and a float that leaves the rows recognisable."""
        for place in self.open_crossings:
            if not (place.isascii() and place.isdigit() and len(place) < 6):
                raise ChartError(f"“{place[:20]}” is no crossing: write its number.",
                                 "open_crossings")  # fmt: skip
        grid_fits(self.rows, self.columns, self.block_size, self.blocks, self.sashing)
        block_count(2 * self.rows - 1, self.columns)
        finite(float_by=self.float_by)
        if not 0 <= self.float_by <= self.block_size / 4:
            raise ChartError("Points float at most a quarter of the block.", "float_by")

    def body(self) -> tuple[float, float]:
        """The diagonals side by side, the sashing round the outer blocks, and the float."""
        pitch = (self.block_size + self.sashing) * ROOT
        more = self.sashing * ROOT + 2 * self.float_by
        return self.columns * pitch + more, self.rows * pitch + more

    def patches(self) -> list[Patch]:
        """Blocks, sashing, and what is left of each diagonal row as setting pieces."""
        size, sash = self.block_size, self.sashing
        pitch = size + sash
        width, height = self.body()
        frame = box(0, 0, width, height)
        centres = self._centres()
        made: list[Patch] = []
        taken: list[Polygon] = []
        for (row, column), (x, y) in centres.items():
            key = self._key(row, column)
            for patch in self.block_patches(key, (row, column), -size / 2, -size / 2, size):
                shape = Polygon([_stand(p, x, y) for p in patch.polygon.exterior.coords[:-1]])
                made.append(Patch(patch.id, shape, patch.role, patch.fabric, patch.block,
                                  patch.cell, patch.kind))  # fmt: skip
            taken.append(_square(x, y, size))
        if sash:
            lanes = self._run_through(self._sashes(centres))
            made += lanes
            taken += [patch.polygon for patch in lanes]
        bare = shapely.difference(frame, shapely.union_all(taken, grid_size=1e-9))
        return made + self._settings(bare, frame, pitch)

    def _centres(self) -> dict[tuple[int, int], tuple[float, float]]:
        """Centre of each block by (row, column): even rows stand in the open, odd ones between."""
        pitch = (self.block_size + self.sashing) * ROOT
        first = pitch / 2 + self.sashing * ROOT / 2 + self.float_by
        found = {}
        for row in range(2 * self.rows - 1):
            odd = row % 2
            for column in range(self.columns - odd):
                found[row, column] = (first + (column + odd / 2) * pitch, first + row * pitch / 2)
        return found

    def _key(self, row: int, column: int) -> str:
        if row % 2 and self.between:
            return self.between
        return self.blocks[(row // 2 * self.columns + column) % len(self.blocks)]

    def _sashes(self, centres) -> list[Patch]:
        """Sashes on all sides of every block, each once; cornerstones where they cross."""
        size, sash = self.block_size, self.sashing
        made, seen = [], set()
        reach = (size + sash) / 2 / ROOT
        for x, y in centres.values():
            for dx, dy in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                mx, my = x + dx * reach, y + dy * reach
                spot = (round(mx, 4), round(my, 4))
                if spot in seen:
                    continue
                seen.add(spot)
                w, h = (sash, size) if dx == dy else (size, sash)
                corners = [(-w / 2, -h / 2), (w / 2, -h / 2), (w / 2, h / 2), (-w / 2, h / 2)]
                made.append(Patch(f"s{len(made) + 1}", Polygon([_stand(p, mx, my) for p in corners]),
                                  "sashing", "sash", None, "sash"))  # fmt: skip
        stones = set()
        far = (size + sash) / ROOT
        for x, y in centres.values():
            for dx, dy in ((0, -far), (far, 0), (0, far), (-far, 0)):
                spot = (round(x + dx, 4), round(y + dy, 4))
                if spot in stones:
                    continue
                stones.add(spot)
                fabric = "stone" if self.cornerstones else "sash"
                made.append(Patch(f"cs{len(stones)}", _square(x + dx, y + dy, sash),
                                  "cornerstone", fabric, None, "stone"))  # fmt: skip
        return made

    def _run_through(self, lanes: list[Patch]) -> list[Patch]:
        """The sashing, strips that fall from left to right made one across crossings left open."""
        open_ = {f"cs{number}" for number in self.open_crossings}
        stones = [patch for patch in lanes if patch.id in open_]
        if not stones:
            return lanes
        kept = [patch for patch in lanes if patch.id not in open_]
        for stone in stones:
            x, y = stone.polygon.centroid.coords[0]
            step = (self.block_size + self.sashing) / 2 / ROOT
            ends = [(x - step, y - step), (x + step, y + step)]
            near = [p for p in kept if p.role == "sashing"
                    and any(p.polygon.distance(shapely.points(end)) < 1e-6 for end in ends)
                    and p.polygon.intersection(stone.polygon.buffer(1e-6)).area > 1e-9]  # fmt: skip
            shape = shapely.union_all([stone.polygon, *(p.polygon for p in near)], grid_size=1e-9)
            name = near[0].id if near else stone.id
            gone = {patch.id for patch in near}
            kept = [patch for patch in kept if patch.id not in gone]
            kept.append(Patch(name, shape, "sashing", "sash", None, "sash"))
        return kept

    def _settings(self, bare, frame: Polygon, pitch: float) -> list[Patch]:
        """What is left, cut along the diagonal rows as it is sewn."""
        # In the turned frame v = (x + y) / √2 is constant along a seam between two rows.
        start = self.float_by * ROOT + self.sashing + pitch / 2
        _, _, right, bottom = frame.bounds
        longest = right + bottom
        first = start - pitch * math.ceil(start / pitch + 1)
        made: list[Patch] = []
        corners = [np.array(c) for c in frame.exterior.coords[:-1]]
        v = first
        while v < longest / ROOT + pitch:
            low, high = v * ROOT, (v + pitch) * ROOT
            strip = Polygon([(low + longest, -longest), (high + longest, -longest),
                             (high - longest, longest), (low - longest, longest)])  # fmt: skip
            # Triangles that only touch at a point hang together by a hair; the grid parts them.
            part = shapely.set_precision(bare.intersection(strip), HAIR)
            for piece in getattr(part, "geoms", [part]):
                if not isinstance(piece, Polygon) or piece.area < 1e-4:
                    continue
                touches = sum(piece.distance(shapely.points(c)) < 1e-6 for c in corners)
                cell = "corner triangle" if touches else "side triangle"
                made.append(Patch(f"t{len(made) + 1}", piece, "background", "setting", None, cell))
            v += pitch
        return made


def _stand(point, x: float, y: float) -> tuple[float, float]:
    """A point about the origin, turned an eighth clockwise and moved to (*x*, *y*)."""
    px, py = point
    return round(x + (px - py) / ROOT, 9), round(y + (px + py) / ROOT, 9)


def _square(x: float, y: float, size: float) -> Polygon:
    half = size / 2
    return Polygon([_stand(p, x, y) for p in
                    ((-half, -half), (half, -half), (half, half), (-half, half))])  # fmt: skip
