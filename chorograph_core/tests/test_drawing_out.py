"""Chart and linework for other programs, read back by libraries that know nothing of them."""

from __future__ import annotations

import io
from dataclasses import replace
from unittest import TestCase

import ezdxf
import numpy as np
import svgelements
from ezdxf import recover
from shapely.geometry import Polygon

from chorograph_core.designs.figures import wholes
from chorograph_core.formats.drawing_out import drawing_dxf, drawing_svg, layers_of
from chorograph_core.job import job_linework
from chorograph_core.tests.shapes import designed, small_top


class DrawingOutTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 2))
        cls.drawn = job_linework(cls.job)
        cls.svg, cls.dxf = drawing_svg(cls.job, cls.drawn), drawing_dxf(cls.job, cls.drawn)
        cls.names = [each.key for each in layers_of(cls.job, cls.drawn)]
        cls.inches = sum(
            float(np.hypot(*np.diff(points, axis=0).T).sum())
            for one in wholes(cls.drawn) for run in one.linework.runs
            for points, _, kind in run.pieces() if kind == "stitch"
        )  # fmt: skip

    def test_layers_are_named_and_hold_what_they_say(self):
        self.assertEqual(self.names[:2], ["outline", "patches"])
        self.assertTrue({"thread-indigo-40", "thread-clear-fine"} <= set(self.names))
        self.assertEqual(len(set(self.names)), len(self.names))

    def test_an_svg_library_finds_every_inch_in_true_size(self):
        drawing = svgelements.SVG.parse(io.BytesIO(self.svg), ppi=96)
        # By the standard an inch is 96 of a viewer's units.
        self.assertAlmostEqual(drawing.width / 96, self.job.chart.width, places=3)
        found, groups = 0.0, set()
        for element in drawing.elements():
            if isinstance(element, svgelements.Group) and element.id:
                groups.add(element.id)
                if element.id.startswith("thread-"):
                    found += (
                        sum(
                            path.length()
                            for path in element.select()
                            if isinstance(path, svgelements.Path)
                        )
                        / 96
                    )
        self.assertEqual(groups, set(self.names))
        self.assertAlmostEqual(found, self.inches, delta=0.01 * self.inches)

    def test_a_dxf_library_finds_closed_patches_and_every_inch(self):
        document = ezdxf.read(io.StringIO(self.dxf.decode()))
        self.assertEqual(document.units, ezdxf.units.IN)
        self.assertFalse(document.audit().errors)
        patches = list(document.modelspace().query('LWPOLYLINE[layer=="patches"]'))
        self.assertTrue(all(line.closed for line in patches))
        area = sum(Polygon(line.get_points("xy")).area for line in patches)
        self.assertAlmostEqual(area, self.job.chart.outline.area, delta=0.01)
        lines = document.modelspace().query("LWPOLYLINE")
        found = sum(
            float(np.hypot(*np.diff(np.array(line.get_points("xy")), axis=0).T).sum())
            for line in lines if line.dxf.layer.startswith("thread-")
        )  # fmt: skip
        self.assertAlmostEqual(found, self.inches, delta=0.01 * self.inches)
        # What is at the top of the quilt is at the top of the drawing.
        top = max(y for line in patches for _, y in line.get_points("xy"))
        self.assertAlmostEqual(top, self.job.chart.outline.bounds[3], places=3)
        # Another reader of the same, which trusts nothing.
        again, auditor = recover.read(io.BytesIO(self.dxf))
        self.assertFalse(auditor.has_errors)
        self.assertEqual(len(again.modelspace()), len(document.modelspace()))

    def test_a_dxf_in_centimetres_says_so_and_is_as_large(self):
        document = ezdxf.read(io.StringIO(drawing_dxf(self.job, [], "cm").decode()))
        self.assertEqual(document.units, ezdxf.units.CM)
        x0, y0, x1, y1 = self.job.chart.outline.bounds
        (edge,) = document.modelspace().query('LWPOLYLINE[layer=="outline"]')
        corners = np.array(edge.get_points("xy"))
        found = np.ptp(corners, axis=0)
        np.testing.assert_allclose(found, [(x1 - x0) * 2.54, (y1 - y0) * 2.54], atol=0.01)

    def test_threads_whose_names_differ_by_signs_alone_have_layers_of_their_own(self):
        names = ["Indigo 40", "indigo-40", "藍", "赤"]
        keys = [thread.key for thread in self.job.threads]
        threads = tuple(
            replace(thread, name=names[k % 4]) for k, thread in enumerate(self.job.threads)
        )
        job = replace(self.job, threads=threads)
        found = [each.key for each in layers_of(job, self.drawn)]
        self.assertEqual(len(set(found)), len(found))
        self.assertGreaterEqual(len(keys), 3)
        document = ezdxf.read(io.StringIO(drawing_dxf(job, self.drawn).decode()))
        self.assertTrue(set(found) <= {layer.dxf.name for layer in document.layers})

    def test_without_a_design_there_is_the_chart(self):
        self.assertEqual([each.key for each in layers_of(self.job, [])], ["outline", "patches"])
        self.assertIn(b"<path", drawing_svg(self.job, []))
        self.assertTrue(drawing_dxf(self.job, []))
