"""Archives without loss, bad archives with plain words, routes and drawings as files."""

import json
import re
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from xml.etree import ElementTree

import jsonschema
import numpy as np
from shapely.geometry import Polygon

from chorograph_core import cli
from chorograph_core.chart import Chart, Patch
from chorograph_core.designs.linework import length
from chorograph_core.formats import (
    ArchiveError,
    read_archive,
    read_steps,
    route_json,
    route_svg,
    run_sheet,
    write_archive,
    write_document,
)
from chorograph_core.formats.schemas import MADE_BY, schema_file
from chorograph_core.job import Job, job_linework, planned_job
from chorograph_core.layouts import StraightSet
from chorograph_core.route import replay
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top

SVG = "{http://www.w3.org/2000/svg}"


def validator(name: str) -> jsonschema.Draft202012Validator:
    """What holds an archive or a route against the schema that ships."""
    return jsonschema.Draft202012Validator(json.loads(schema_file(name).read_text()))


class ArchiveTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 1))
        cls.document = write_document(cls.job)

    def refused(self, data) -> str:
        with self.assertRaises(ArchiveError) as caught:
            read_archive(data if isinstance(data, bytes) else json.dumps(data).encode())
        return str(caught.exception)

    def changed(self, **values) -> dict:
        return {**json.loads(json.dumps(self.document)), **values}

    def test_written_and_read_back_without_loss(self):
        again = read_archive(write_archive(self.job))
        self.assertEqual(again, self.job)
        self.assertEqual(write_document(again), self.document)

    def test_what_we_write_keeps_to_the_schema(self):
        validator("archive").validate(self.document)

    def test_zones_may_be_left_out_and_charts_made_from_the_survey(self):
        document = self.changed(legend=[], chart=None)
        del document["zones"]
        job = read_archive(json.dumps(document).encode())
        self.assertEqual(len(job.zones), len(self.job.chart.patches))

    def test_truncated(self):
        data = write_archive(self.job)
        for cut in (0, 1, 10, len(data) // 2, len(data) - 3):
            with self.subTest(cut):
                self.refused(data[:cut])
        self.assertIn("line", self.refused(data[: len(data) // 2]))

    def test_of_a_newer_version(self):
        self.assertIn("newer", self.refused(self.changed(version=99)))

    def test_a_polygon_that_crosses_itself_is_named(self):
        document = self.changed()
        document["chart"]["patches"][3]["polygon"] = [[[0, 0], [4, 4], [4, 0], [0, 4]]]
        self.assertIn("chart.patches[3].polygon", self.refused(document))

    def test_numbers_that_are_none(self):
        text = write_archive(self.job).decode()
        for word in ("NaN", "Infinity", "-Infinity", "1e999"):
            broken = re.sub(r'"loft": [\d.]+', f'"loft": {word}', text)
            with self.subTest(word):
                self.refused(broken.encode())
        document = self.changed()
        document["chart"]["patches"][0]["polygon"][0][0] = [1e300, 0]
        self.assertIn("further out", self.refused(document))

    def test_megabytes_of_nothing(self):
        self.assertIn("MB", self.refused(b"\0" * 21_000_000))
        self.assertIn("empty", self.refused(b" " * 1000))
        self.assertIn("deep", self.refused(b"[" * 200_000))
        self.refused(b"\xff\xfe\x00binary")

    def test_every_reference_must_lead_somewhere(self):
        cases = [
            ("zones", lambda d: d["legend"][0]["zones"].append("z:nowhere")),
            ("already", lambda d: d["legend"][1]["zones"].append(d["legend"][0]["zones"][0])),
            ("thread", lambda d: d["legend"][0]["layers"][1].update(thread="unheard_of")),
            ("patch", lambda d: d["zones"][0].update(patches=["nowhere"])),
            ("two zones", lambda d: d["zones"].append(d["zones"][0])),
            ("survey.rows", lambda d: d["survey"].update(rows=0)),
            ("survey.sashing", lambda d: d["survey"].update(sashing=40)),
            ("machine.throat", lambda d: d["machine"].update(throat=-3)),
            ("title", lambda d: d.update(title=7)),
        ]
        for word, damage in cases:
            document = self.changed()
            damage(document)
            with self.subTest(word):
                self.assertIn(word, self.refused(document))

    def test_what_is_not_known_any_more_is_put_right_and_said(self):
        cases = [
            ("unheard_of", lambda d: d["legend"][0]["layers"][1].update(design="unheard_of")),
            ("spacing 99″ became 12″", lambda d: _settings(d, spacing=99)),
            ("fitting “tight” became come out even", lambda d: _settings(d, fitting="tight")),
            ("“wobble” is no longer there", lambda d: _settings(d, wobble=3)),
            ("“machine.moon” is not known", lambda d: d["machine"].update(moon=1)),
            ("“zones[2].mood” is not known", lambda d: d["zones"][2].update(mood="calm")),
        ]
        for words, damage in cases:
            document = self.changed()
            damage(document)
            with self.subTest(words):
                job = read_archive(json.dumps(document).encode())
                self.assertTrue(any(words in each for each in job.changes), job.changes)
                # It can be drawn, written, and what is written needs no putting right.
                job_linework(job)
                again = read_archive(write_archive(job))
                self.assertEqual(again, job)
        self.assertEqual(read_archive(write_archive(self.job)).changes, ())

    def test_an_outline_of_many_points_comes_back(self):
        angle = np.linspace(0, 2 * np.pi, 900, endpoint=False)
        ring = Polygon(np.column_stack([30 + 25 * np.cos(angle), 30 + 25 * np.sin(angle)]))
        job = Job("Round", Chart(ring, (Patch("p", ring, "field"),)), ())
        again = read_archive(write_archive(job))
        self.assertEqual(len(again.chart.outline.exterior.coords), 901)
        self.assertAlmostEqual(again.chart.outline.area, ring.area, places=3)

    def test_the_schemas_beside_the_reader_are_its_own_and_have_names(self):
        for name, make in MADE_BY.items():
            schema = json.loads(schema_file(name).read_text())
            self.assertEqual(schema, make())
            jsonschema.Draft202012Validator.check_schema(schema)
            self.assertTrue(schema["$id"].endswith(".json"))
        ids = {make()["$id"] for make in MADE_BY.values()}
        self.assertEqual(len(ids), len(MADE_BY))

    def test_a_megabyte_of_zeros_is_refused_at_once(self):
        document = self.changed()
        document["chart"]["patches"][0]["polygon"] = [[0] * 300_000]
        self.assertIn("chart.patches[0].polygon", self.refused(document))
        document = self.changed()
        document["threads"] = [0] * 300_000
        self.assertIn("threads", self.refused(document))

    def test_a_top_that_is_hardly_there_is_refused(self):
        tiny = [[[0, 0], [0.3, 0], [0.3, 0.3], [0, 0.3]]]
        document = self.changed(legend=[], zones=None, survey=None, groups=[])
        document["chart"] = {"outline": tiny, "patches": [{"id": "p", "polygon": tiny}]}
        self.assertIn("half an inch", self.refused(document))

    def test_things_that_are_no_archive(self):
        for data in (b"[]", b"null", b"7", b'{"format": "other"}', b'"text"'):
            self.assertIn("archive", self.refused(data))


def _settings(document: dict, **settings) -> None:
    """Give the crosshatch of the first entry other settings."""
    document["legend"][0]["layers"][1]["settings"] = settings


class RouteFileTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(small_top(1, 1))
        cls.route = planned_job(cls.job)

    def test_a_stored_route_replays_as_the_planned_one(self):
        document = json.loads(route_json(self.job, self.route, []))
        steps = read_steps(document)
        found = replay(
            self.job.chart, self.job.zones, job_linework(self.job), self.job.policy, steps
        )
        self.assertEqual(found, [])
        self.assertEqual(document["figures"]["cuts"], self.route.cuts)

    def test_the_svg_is_in_true_scale_and_stitching_order(self):
        tree = ElementTree.fromstring(route_svg(self.job, self.route.steps))
        self.assertEqual(tree.get("width"), f"{self.job.chart.width:g}in")
        self.assertEqual(float(tree.get("viewBox").split()[2]), self.job.chart.width)
        paths = list(tree.iter(f"{SVG}path"))
        # Through all layers the numbers are the order.
        paths.sort(key=lambda path: int(path.get("id")[1:]))
        self.assertEqual([p.get("id") for p in paths], [f"r{k + 1}" for k in range(len(paths))])
        runs = [
            p.get("data-run")
            for p in paths
            if not p.get("data-run").startswith(("travel", "ditch"))
        ]
        order = list(dict.fromkeys(s.run for s in self.route.steps
                                   if s.run and s.kind in ("stitch", "travel")
                                   and not s.run.startswith("ditch")))  # fmt: skip
        self.assertEqual(runs, order)

    def test_the_svg_has_a_layer_for_each_thread_for_travel_and_for_cuts(self):
        tree = ElementTree.fromstring(route_svg(self.job, self.route.steps))
        layers = {group.find(f"{SVG}title").text: group for group in tree.iter(f"{SVG}g")}
        ids = [group.get("id") for group in layers.values()]
        self.assertEqual(len(set(ids)), len(ids))
        for thread in self.job.threads:
            used = {
                s.run for s in self.route.steps if s.thread == thread.key and s.kind == "stitch"
            }
            group = layers.get(f"thread {thread.name}")
            self.assertEqual(group is not None, bool(used), thread.name)
            if group is not None:
                found = {path.get("data-run") for path in group.iter(f"{SVG}path")}
                self.assertLessEqual(used, found)
                self.assertFalse([name for name in found if name.startswith("travel")])
        self.assertEqual(
            len(list(layers["cuts"].iter(f"{SVG}circle"))),
            sum(s.kind == "tie_off" for s in self.route.steps),
        )
        travel = sum(length(s.points) for s in self.route.steps if s.kind == "travel" and not s.run)
        drawn = sum(
            length(np.array([[float(v) for v in pair.split(",")] for pair in
                             path.get("d")[1:].split()]))
            for name, group in layers.items() if name not in ("cuts",)
            and not name.startswith("thread") for path in group.iter(f"{SVG}path")
        )  # fmt: skip
        self.assertAlmostEqual(drawn, travel, delta=0.01 * len(self.route.steps))

    def test_a_route_keeps_to_its_schema(self):
        document = json.loads(route_json(self.job, self.route, []))
        validator("route").validate(document)
        with self.assertRaises(jsonschema.ValidationError):
            validator("route").validate({**document, "steps": [{"kind": "leap"}]})

    def test_the_run_sheet_tells_everything_and_each_path_once(self):
        document = json.loads(route_json(self.job, self.route, []))
        sheet = run_sheet(self.job, document)
        marks = sum(s.seconds for s in self.route.steps if s.kind == "mark") / 60
        minutes = sum(part.minutes for part in sheet.parts) + marks
        self.assertAlmostEqual(minutes, self.route.minutes, places=2)
        text = " ".join(sheet.instructions)
        for word in ("Thread", "Start", "Tie off and cut", "In at the", "Meander", "ruler is laid"):
            self.assertIn(word, text)
        letters = [card.key for card in sheet.cards]
        self.assertEqual(letters, [path.key for path in self.route.paths])
        visits = sum(len(card.places) for card in sheet.cards)
        self.assertEqual(
            visits, sum(s.kind == "path" and bool(s.station) for s in self.route.steps)
        )
        self.assertEqual(visits, sum(len(part.stops) for part in sheet.parts))
        for card in sheet.cards:
            self.assertTrue(card.marks)
            x0, y0, x1, y1 = card.box
            for mark in card.marks:
                self.assertTrue(x0 - 1 <= mark.x <= x1 + 1 and y0 - 1 <= mark.y <= y1 + 1)
        centimetres = run_sheet(self.job, document, "cm")
        self.assertTrue(any("cm" in each for each in centimetres.instructions))

    @long
    def test_a_top_of_alike_blocks_takes_few_instructions(self):
        job = designed(StraightSet(4, 3, 8, ("sawtooth_star",), 1))
        route = planned_job(job)
        sheet = run_sheet(job, json.loads(route_json(job, route, [])))
        self.assertEqual(len(sheet.parts), len({(p.kind, p.thread, p.reach) for p in sheet.parts}))
        told = {row.text for part in sheet.parts for row in part.rows}
        self.assertLess(len(told) + len(sheet.cards), 45)
        ditches = [card for card in sheet.cards if card.title.endswith("ditches")]
        self.assertLessEqual(len(ditches), 2)
        self.assertEqual(sum(len(card.places) for card in ditches), 12)


class CommandTests(TestCase):
    def setUp(self):
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "job.json"
        self.file.write_bytes(write_archive(designed(small_top(1, 1))))

    def run_cli(self, *arguments) -> tuple[int, str, str]:
        import contextlib
        import io

        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = cli.main([str(a) for a in arguments])
        return status, out.getvalue(), err.getvalue()

    def test_plan_prints_figures_and_writes_the_route(self):
        status, out, _ = self.run_cli("plan", self.file, "--json", "--out", self.folder / "r.svg")
        figures = json.loads(out.strip().splitlines()[-1])
        self.assertEqual(status, 0)
        self.assertEqual(figures["replay"], "clean")
        for key in ("zones", "stitched_inches", "cuts", "minutes", "lost_minutes", "seconds"):
            self.assertIsInstance(figures[key], (int, float))
        self.assertAlmostEqual(
            figures["travel_inches"]["all"],
            sum(v for k, v in figures["travel_inches"].items() if k != "all"), delta=0.1,
        )  # fmt: skip
        self.assertTrue((self.folder / "r.svg").read_bytes().startswith(b"<?xml"))

    def test_input_that_cannot_be_read_is_status_two(self):
        self.file.write_bytes(self.file.read_bytes()[:500])
        for arguments in (
            ("plan", self.file),
            ("plan", self.folder / "no.json"),
            ("plan", self.folder),
        ):
            status, out, err = self.run_cli(*arguments)
            self.assertEqual((status, out), (2, ""))
            self.assertTrue(err.strip())

    def test_draw_one_zone_or_all(self):
        out = self.folder / "d.svg"
        self.assertEqual(self.run_cli("draw", self.file, "--all", "--out", out)[0], 0)
        every = len(ElementTree.parse(out).findall(".//*[@d]"))
        zone = read_archive(self.file.read_bytes()).zones[0].id
        self.assertEqual(self.run_cli("draw", self.file, "--zone", zone, "--out", out)[0], 0)
        self.assertLess(len(ElementTree.parse(out).findall(".//*[@d]")), every)
        self.assertEqual(self.run_cli("draw", self.file, "--zone", "z:none", "--out", out)[0], 2)
        self.assertTrue(np.isfinite(out.stat().st_size))
