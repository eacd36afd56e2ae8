"""On point: blocks stand on a corner, with side and corner setting triangles."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import ClassVar

import shapely
from shapely.geometry import LineString, Polygon, box
from shapely.ops import split

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
        corners = self._corner_triangles()
        rest = shapely.difference(bare, shapely.union_all([c.polygon for c in corners]))
        return made + corners + self._settings(rest, centres)

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
        made: list[Patch] = []
        seen = set()
        reach = (size + sash) / 2 / ROOT
        for x, y in centres.values():
            for dx, dy in ((-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)):
                mx, my = x + dx * reach, y + dy * reach
                spot = (round(mx, 4), round(my, 4))
                if spot in seen:
                    continue
                seen.add(spot)
                w, h = (sash, size) if dx == dy else (size, sash)
                corners = [(-w / 2, -h / 2), (w / 2, -h / 2), (w / 2, h / 2), (-w / 2, h / 2)]
                made.append(Patch(f"s{len(made) + 1}", Polygon([_stand(p, mx, my) for p in corners]),
                                  "sashing", "sash", None, "sash"))  # fmt: skip
        stones: set[tuple[float, float]] = set()
        far = (size + sash) / ROOT
        for x, y in centres.values():
            for dx, dy in ((0.0, -far), (far, 0.0), (0.0, far), (-far, 0.0)):
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

    def _corner_triangles(self) -> list[Patch]:
        """The four corners: half a square each, cut along the outer sash of the block beside it.

        That sash lies (pitch + sashing) / 2 from the middle of the block, so with the points floating
        by f each leg measures (pitch + sashing) / √2 + 2f.
        """
        width, height = self.body()
        leg = (self.block_size + 2 * self.sashing) / ROOT + 2 * self.float_by
        found = []
        for number, (x, y) in enumerate(((0, 0), (width, 0), (width, height), (0, height)), 1):
            aside, down = (leg if x == 0 else -leg), (leg if y == 0 else -leg)
            shape = Polygon([(x, y), (round(x + aside, 9), y), (x, round(y + down, 9))])
            if 2 * leg > min(width, height):
                # One block alone: where floating corners would overlap they meet in the middle.
                quarter = box(
                    min(x, width / 2), min(y, height / 2), max(x, width / 2), max(y, height / 2)
                )
                shape = shape.intersection(quarter)
            found.append(
                Patch(f"tc{number}", shape, "background", "setting", None, "corner triangle")
            )
        return found

    def _settings(self, bare, centres) -> list[Patch]:
        """The side triangles. Where the points float, the strip beyond each point is cut along the
        diagonal seam that ends there: it goes with the row that is sewn on last."""
        # Triangles that only touch at a point hang together by a hair; the grid parts them.
        pieces = list(shapely.get_parts(shapely.set_precision(bare, HAIR)))
        for cut in self._cuts(centres):
            pieces = [part for piece in pieces for part in _parted(piece, cut)]
        return [
            Patch(f"t{number}", piece, "background", "setting", None, "side triangle")
            for number, piece in enumerate((p for p in pieces if p.area >= 1e-4), 1)
        ]

    def _cuts(self, centres) -> list[LineString]:
        """From the points of the outer blocks to the edge, along the rows' seams (x + y constant)."""
        f = self.float_by
        if not f:
            return []
        width, height = self.body()
        xs = sorted({x for (row, _), (x, _) in centres.items() if row == 0})
        ys = sorted(
            {y for (row, column), (_, y) in centres.items() if column == 0 and row % 2 == 0}
        )
        over = 2 * HAIR
        cuts = []
        for x in xs:
            cuts.append(LineString([(x - over, f + over), (x + f + over, -over)]))
            cuts.append(LineString([(x + over, height - f - over), (x - f - over, height + over)]))
        for y in ys:
            cuts.append(LineString([(f + over, y - over), (-over, y + f + over)]))
            cuts.append(LineString([(width - f - over, y + over), (width + over, y - f - over)]))
        return cuts


def _parted(piece, cut: LineString) -> list:
    """The pieces that a cut makes of one."""
    if not piece.intersects(cut):
        return [piece]
    return [part for part in split(piece, cut).geoms if isinstance(part, Polygon)]


def _stand(point, x: float, y: float) -> tuple[float, float]:
    """A point about the origin, turned an eighth clockwise and moved to (*x*, *y*)."""
    px, py = point
    return round(x + (px - py) / ROOT, 9), round(y + (px + py) / ROOT, 9)


def _square(x: float, y: float, size: float) -> Polygon:
    half = size / 2
    return Polygon([_stand(p, x, y) for p in
                    ((-half, -half), (half, -half), (half, half), (-half, half))])  # fmt: skip
