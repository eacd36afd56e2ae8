"""Numbers on the maps of long seams: can they be followed from the paper alone?"""

from __future__ import annotations

import json
from dataclasses import replace
from unittest import TestCase

import numpy as np
import shapely

from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.formats import route_json, run_sheet
from chorograph_core.formats.run_parts import Part, Row
from chorograph_core.formats.seam_marks import MOST, NEAR, number_seams, straight_on
from chorograph_core.job import Job, planned_job
from chorograph_core.layouts import Border, OnPoint, StraightSet
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy
from chorograph_core.zones import negative_space, zones_from_patches


def in_the_ditch(chart, zones=None) -> Job:
    """Nothing but ditches round every zone."""
    zones = tuple(zones or zones_from_patches(chart))
    legend = (Entry("e", "All", tuple(z.id for z in zones), (Layer("ditch", {}, "clear"),)),)
    return Job("Ditches", chart, zones, legend=legend, policy=Policy(effort=0, edges="float"))


def followed(part: Part) -> list[int]:
    """The legs of a part in the order in which somebody stitches them who sees the drawn lines and the
    numbers on them: from a number on along its line, straight over what crosses it; where it ends or turns to
    the next number if that stands there, else along the one line that goes on from there, else to the next
    number, wherever it is."""
    lines = legs_of(part)
    order: list[int] = []

    def at(spot, k, end) -> bool:
        return bool(np.hypot(*(lines[k][end] - spot)) <= NEAR)

    for number, mark in enumerate(part.marks):
        spot, ahead = np.array([mark.x, mark.y]), np.array([mark.dx, mark.dy])
        fits = [
            (k, end)
            for k in range(len(lines))
            for end, beside in ((0, 1), (-1, -2))
            if at(spot, k, end) and k not in order
            and _unit(lines[k][beside] - lines[k][end]) @ ahead > 0.999
        ]  # fmt: skip
        if len(fits) != 1:
            return order
        (k, end) = fits[0]
        after = part.marks[number + 1] if number + 1 < len(part.marks) else None
        while True:
            order.append(k)
            spot = lines[k][-1 if end == 0 else 0]
            if after is not None and np.hypot(after.x - spot[0], after.y - spot[1]) <= NEAR:
                break
            here = [(j, e) for j in range(len(lines)) for e in (0, -1) if at(spot, j, e)]
            on = [(j, e) for j, e in here if j not in order]
            if len(here) != 2 or len(on) != 1:
                break
            k, end = on[0]
    return order


def legs_of(part: Part) -> list[np.ndarray]:
    return [leg for points, _ in part.seams for leg in straight_on(points)]


def _unit(vector: np.ndarray) -> np.ndarray:
    return vector / max(float(np.hypot(*vector)), 1e-9)


class SeamMarkTests(TestCase):
    def assert_followed(self, job: Job) -> list[int]:
        route = planned_job(job, bound=False)
        sheet = run_sheet(job, json.loads(route_json(job, route, [])))
        counts = []
        for part in sheet.parts:
            self.assertLess(len(part.marks), MOST)
            self.assertEqual(
                [mark.number for mark in part.marks], list(range(1, len(part.marks) + 1))
            )
            self.assertEqual(
                followed(part), list(range(len(legs_of(part)))), (part.kind, part.reach)
            )
            told = [row.detail for row in part.rows if row.detail.endswith("on the map")]
            # Wherever the needle goes down to a seam, and in their order.
            numbers = [int(detail.split()[1]) for detail in told]
            self.assertEqual(numbers, sorted(set(numbers)))
            self.assertEqual(numbers[:1], [1] if part.seams else [])
            counts.append(len(legs_of(part)))
        return counts

    def test_seams_of_rows_and_borders(self):
        chart = StraightSet(3, 3, 9, ("sawtooth_star", "nine_patch"), 1.5, False, True,
                            (Border(2), Border(4, "mitred"))).chart()  # fmt: skip
        self.assertGreater(sum(self.assert_followed(in_the_ditch(chart))), 12)

    def test_a_background_that_flows_round_stars(self):
        """Fifty short seams round the stars of a pass, of which twelve had a number."""
        chart = OnPoint(3, 3, 9, ("star_eight",), "economy", borders=(Border(2),)).chart()
        zones = negative_space(chart, zones_from_patches(chart))
        for kind in ("frame", "sit-down"):
            job = replace(in_the_ditch(chart, zones), machine=Machine(kind=kind))
            self.assertGreater(max(self.assert_followed(job)), 30)

    def test_who_starts_is_told_where(self):
        legs = [[(0, 0), (9, 0)], [(9, 0), (9, 9)], [(0, 5), (20, 5)]]
        rows = [Row("seams", "Long seams."), Row("start", "Start at the left.")]
        part = Part("ditch", "clear", 1, 0, 20)
        begun = (rows[0], None, rows[1])
        part.seams = [(np.array(leg, float), row) for leg, row in zip(legs, begun, strict=True)]
        number_seams(part)
        # The second goes on round a corner; the third crosses it, and begins elsewhere.
        self.assertEqual([(m.number, m.x, m.y, m.dx, m.dy) for m in part.marks],
                         [(1, 0, 0, 1, 0), (2, 0, 5, 1, 0)])  # fmt: skip
        self.assertEqual([row.detail for row in rows], ["at 1 on the map", "at 2 on the map"])
        self.assertEqual(followed(part), [0, 1, 2])
        self.assertTrue(shapely.linestrings(legs[1]).crosses(shapely.linestrings(legs[2])))
