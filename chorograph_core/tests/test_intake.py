"""The intake in the archive: without loss, and faults named."""

import json
from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as some

from chorograph_core.estimating import Backing, Batting, Condition, Intake, Measures, Wishes
from chorograph_core.estimating.intake import CONDITIONS
from chorograph_core.formats import ArchiveError, read_archive, write_archive
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed, small_top

inches = some.none() | some.floats(1, 140)
texts = some.text(some.characters(exclude_characters="\0", exclude_categories=["Cs"]), max_size=40)
intakes = some.builds(
    Intake,
    taken=some.sampled_from(["", "2026-11-24"]),
    measures=some.builds(Measures, some.tuples(inches, inches, inches), some.tuples(inches, inches, inches),
                         some.tuples(inches, inches), some.tuples(*[inches] * 4), some.tuples(*[inches] * 4)),
    conditions=some.lists(some.builds(Condition, some.sampled_from(sorted(CONDITIONS)),
                                      some.booleans(), texts), max_size=4).map(tuple),
    backing=some.none() | some.builds(Backing, some.sampled_from(["studio", "client"]), inches, inches,
                                      some.floats(10, 120), texts),
    batting=some.none() | some.builds(Batting, texts, texts, loft=some.floats(0.01, 0.5),
                                      layers=some.integers(1, 3)),
    wishes=some.builds(Wishes, texts, texts, texts, rush=some.booleans(),
                       repair_hours=some.floats(0, 20)),
)  # fmt: skip


class IntakeArchiveTests(TestCase):
    job = designed(small_top(1, 1))

    @long
    @given(intakes)
    def test_there_and_back(self, intake):
        job = replace(self.job, intake=intake)
        self.assertEqual(read_archive(write_archive(job)), job)

    def test_an_archive_of_the_last_version_is_still_read(self):
        document = json.loads(write_archive(self.job))
        self.assertEqual(document["version"], 4)
        document["version"] = 3
        del document["rulers"], document["machine"]["take_up"], document["policy"]["whole_runs"]
        for entry in document["legend"]:
            for layer in entry["layers"]:
                del layer["version"], layer["over"]
        self.assertEqual(read_archive(json.dumps(document).encode()), self.job)

    def test_faults_are_named(self):
        for intake, where in (
            ({"measures": {"widths": [500, None, None]}}, "intake.measures.widths.0"),
            ({"measures": {"widths": [1]}}, "intake.measures.widths"),
            ({"conditions": [{"kind": "haunted"}]}, "intake"),
            ({"batting": {"name": "x", "loft": 90}}, "intake"),
            ({"taken": 1}, "intake.taken"),
        ):
            document = {**json.loads(write_archive(self.job)), "intake": intake}
            with self.assertRaises(ArchiveError) as caught:
                read_archive(json.dumps(document).encode())
            self.assertIn(where, str(caught.exception))

    def test_a_thick_batting_takes_more_thread(self):
        thin = planned_job(self.job).thread_inches
        doubled = replace(self.job, intake=Intake(batting=Batting("wool", loft=0.2, layers=2)))
        thick = planned_job(doubled).thread_inches
        for key, inches in thin.items():
            self.assertGreater(thick[key], inches * 1.5)

    def test_the_size_is_what_was_measured(self):
        self.assertEqual(self.job.size, (self.job.chart.width, self.job.chart.height))
        measured = replace(self.job, intake=Intake(measures=Measures(widths=(20, 21, None))))
        self.assertEqual(measured.size, (20.5, self.job.chart.height))
