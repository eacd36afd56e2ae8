"""Settings: cleaned once, upgraded, and put right where a range was narrowed."""

from dataclasses import dataclass
from unittest import TestCase, mock

from hypothesis import given
from hypothesis import strategies as some

from chorograph_core.designs import Design, Linework, SettingError, designs
from chorograph_core.designs.settings import Settings, count_setting, length_setting, share_setting
from chorograph_core.formats import read_document, write_document
from chorograph_core.job import job_linework
from chorograph_core.tests.shapes import designed, small_top


@dataclass(frozen=True)
class NewSettings(Settings):
    """The gap was called spread once, and went up to 9 inches."""

    gap: float = length_setting("Gap", 0.5, 0.25, 2.0)
    share: float = share_setting("Share", 0.4, 0.2, 0.6, 0.05)
    count: int = count_setting("Count", 2, 1, 9)


class Renamed(Design[NewSettings]):
    key, name, family, stroke, version = "renamed", "Renamed", "freehand", "none", 3
    settings_type = NewSettings

    def fits(self, space, settings=None):
        raise NotImplementedError

    def draw(self, space, settings=None, seed=0, doorways=None):
        return Linework()

    def upgrade(self, settings, from_version):
        kept = dict(settings)
        if from_version < 2 and "spread" in kept:
            kept["gap"] = kept.pop("spread")
        if from_version < 3 and "gap" in kept:
            kept["gap"] = kept["gap"] / 2  # it was measured from line to line and back
        return kept


class SettingTests(TestCase):
    def test_shares_are_written_as_ratio_or_percent(self):
        for text in ("45%", " 45 % ", "0.45", ".45", 0.45):
            with self.subTest(text):
                self.assertAlmostEqual(NewSettings.cleaned({"share": text}, "x").share, 0.45)
        with self.assertRaises(SettingError) as told:
            NewSettings.cleaned({"share": "95%"}, "x")
        self.assertEqual(str(told.exception), "Share goes from 20% to 60%.")

    def test_an_older_version_is_upgraded_step_by_step(self):
        drawing = Renamed()
        self.assertEqual(drawing.settled({"spread": 1.5}, 1), ({"gap": 0.75}, ()))
        self.assertEqual(drawing.settled({"gap": 1.5}, 2), ({"gap": 0.75}, ()))
        self.assertEqual(drawing.settled({"gap": 1.5}, 3), ({"gap": 1.5}, ()))

    def test_a_narrowed_range_gives_the_nearest_value_and_says_so(self):
        kept, said = Renamed().settled({"gap": 9.0, "count": 40}, 3)
        self.assertEqual(kept, {"gap": 2.0, "count": 9})
        self.assertEqual(said, ("Renamed: gap 9″ became 2″.", "Renamed: count 40 became 9."))

    @given(some.dictionaries(
        some.sampled_from(["gap", "share", "count", "wobble"]),
        some.one_of(some.floats(), some.integers(), some.text(max_size=5), some.none(),
                    some.booleans(), some.lists(some.integers(), max_size=2)),
    ))  # fmt: skip
    def test_whatever_was_stored_can_be_used(self, stored):
        kept, _ = Renamed().settled(stored, 3)
        Renamed().clean(kept)

    def test_a_job_lives_when_the_range_of_a_setting_is_narrowed(self):
        stored = write_document(designed(small_top(1, 1)))
        for entry in stored["legend"]:
            for layer in entry["layers"]:
                if layer["design"] == "meander":
                    layer["settings"] = {"gap": 0.5}
        meander = designs()["meander"]
        narrow = length_setting("Gap", 1.0, 0.75, 4.0)

        @dataclass(frozen=True)
        class Narrowed(meander.settings_type):
            gap: float = narrow

        with mock.patch.object(type(meander), "settings_type", Narrowed):
            job = read_document(stored)
            self.assertIn("Meander: gap 1/2″ became 3/4″.", " ".join(job.changes))
            drawn = [one for one in job_linework(job) if one.design == "meander"]
            self.assertTrue(drawn and all(one.linework.runs for one in drawn))
