"""A start for a whole quilt: what a quilter would never do is not proposed."""

import math
from collections import Counter
from dataclasses import replace
from unittest import TestCase, mock

from shapely.geometry import box

from chorograph_core.choosing.levels import LEVELS
from chorograph_core.choosing.proposing import GOOD, SHORT, ranked
from chorograph_core.choosing.setting_out import setting_of
from chorograph_core.choosing.starts import _given, _names, proposed_legend
from chorograph_core.designs import Space, designs
from chorograph_core.designs.legend import Entry, Layer, main_layer
from chorograph_core.job import Job, job_linework
from chorograph_core.layouts import Border, OffsetRows, OnPoint, StraightSet
from chorograph_core.measure import format_length
from chorograph_core.tests import long
from chorograph_core.tests.shapes import designed, small_top
from chorograph_core.zones import negative_space, zones_from_patches
from chorograph_core.zones.places import BACKGROUND, places_of, sides_together


def start(core, level):
    legend, told = proposed_legend(core.with_legend(()), level)
    return legend, told


class ProposingTests(TestCase):
    @classmethod
    def setUpClass(cls):
        # Wider than high, so that the sides of its border differ in length.
        cls.core = designed(small_top(1, 3))
        cls.starts = {level.key: start(cls.core, level) for level in LEVELS}

    def test_the_sides_of_a_border_get_one_design(self):
        border = {
            zone.id for zone in self.core.zones
            if zone.patches and self.core.chart.patch(zone.patches[0]).role == "border"
        }  # fmt: skip
        lengths = {
            round(max(z.polygon.bounds[2] - z.polygon.bounds[0], z.polygon.bounds[3] - z.polygon.bounds[1]))
            for z in self.core.zones if z.id in border
        }  # fmt: skip
        self.assertGreater(len(lengths), 1, "else this would be no trial")
        for level, (legend, _) in self.starts.items():
            with self.subTest(level):
                (entry,) = [each for each in legend if set(each.zones) & border]
                self.assertEqual(set(entry.zones), border)

    def test_a_motif_that_nobody_drew_is_not_proposed(self):
        for level, (legend, _) in self.starts.items():
            for entry in legend:
                with self.subTest(level, entry=entry.name):
                    self.assertFalse(designs()[entry.layers[main_layer(entry)].design].own)

    def test_entries_are_called_apart_and_every_zone_has_one(self):
        for level, (legend, told) in self.starts.items():
            with self.subTest(level):
                names = [entry.name for entry in legend]
                self.assertEqual(len(set(names)), len(names), names)
                self.assertEqual([name for name, _ in told], names)
                zones = [zone for entry in legend for zone in entry.zones]
                self.assertEqual(sorted(zones), sorted(zone.id for zone in self.core.zones))

    def test_large_and_small_setting_triangles_are_told_apart_by_their_size(self):
        """Measured along its base the one was as narrow as the other along its sides: two entries were
        called alike."""
        chart = OnPoint(3, 3, 9, ("square_in_square",)).chart()
        core = Job("on point", chart, tuple(zones_from_patches(chart)))
        for units in ("in", "cm"):
            names = _names(core, sides_together(places_of(chart, core.zones)), units)
            self.assertEqual(len(set(names)), len(names), names)
            sides = (9, 9 / math.sqrt(2))
            for inches in sides:
                self.assertTrue(any(format_length(inches, units) in name for name in names), names)
            # Of two as narrow as each other the whole size is told.
            first, *_ = places_of(chart, core.zones)
            two = [[replace(first, size=size)] for size in ((9.0, 3.0), (6.0, 3.0))]
            self.assertEqual(sum(" × " in name for name in _names(core, two, units)), 2)
            self.assertEqual(len(set(_names(core, [[first], [first], [first]], units))), 3)

    def test_no_ruler_is_laid_in_inch_squares(self):
        """Chevrons were proposed there: six layings for three inches of line in each of them."""
        survey = StraightSet(2, 2, 7, ("plain",), 1, False, True)
        chart = survey.chart()
        core = replace(
            self.core, chart=chart, zones=tuple(zones_from_patches(chart)), survey=survey
        )
        small = {zone.id for zone in core.zones if zone.polygon.area < 1.1}
        self.assertTrue(small)
        legend, _ = start(core, next(level for level in LEVELS if level.key == "custom"))
        (entry,) = [each for each in legend if set(each.zones) & small]
        self.assertEqual(designs()[entry.layers[main_layer(entry)].design].family, "freehand")

    def test_what_the_end_of_a_row_leaves_has_what_it_is_cut_from(self):
        """Stars, leaves and pebbles were proposed for the cut strips of half log cabins, each for another."""
        chart = OffsetRows(2, 3, 9, ("sunflower", "log_cabin")).chart()
        core = replace(self.core, chart=chart, zones=tuple(zones_from_patches(chart)), legend=())
        legend, told = start(core, LEVELS[0])
        entry_of = {zone: entry for entry in legend for zone in entry.zones}
        patch_of = {zone.id: chart.patch(zone.patches[0]) for zone in core.zones}
        whole = {patch.cell: entry_of[zone] for zone, patch in patch_of.items()}
        cut = {zone: patch for zone, patch in patch_of.items() if patch.cell.endswith("/half")}
        self.assertGreater(len(cut), 4)
        over = set()
        for zone, patch in cut.items():
            with self.subTest(zone):
                mine, theirs = entry_of[zone], whole[patch.cell.removesuffix("/half")]
                self.assertEqual([layer.design for layer in mine.layers],
                                 [layer.design for layer in theirs.layers])  # fmt: skip
                # The round middle, the square one; strips are cut across.
                exact = "w12" in zone or "r2c2" in zone
                self.assertEqual({layer.over for layer in mine.layers[1:]},
                                 {"whole" if exact else "zone"})  # fmt: skip
                self.assertEqual(mine is theirs, not exact)
                over.add(exact)
        self.assertEqual(over, {True, False}, "some are just half of it, others are not")
        self.assertEqual(len(told), len(legend))
        self.assertEqual(sorted(entry_of), sorted(patch_of))
        work = job_linework(core.with_legend(legend))
        self.assertEqual([one.fault for one in work if one.fault], [])

    def test_a_strip_a_few_eighths_wide_is_left_to_the_ditch(self):
        """Feathers were proposed for spacers a centimetre wide."""
        for wide, alone in ((0.375, True), (1.5, False)):
            survey = StraightSet(2, 2, 7, ("plain",), wide, False, True)
            chart = survey.chart()
            core = replace(
                self.core, chart=chart, zones=tuple(zones_from_patches(chart)), survey=survey
            )
            for level in (LEVELS[0], LEVELS[-1]):
                legend, told = start(core, level)
                for entry, (_, best) in zip(legend, told, strict=True):
                    with self.subTest(wide=wide, level=level.key, entry=entry.name):
                        narrow = core.zone(entry.zones[0]).polygon.area < 4.0
                        ditch = [layer.design for layer in entry.layers] == ["ditch"]
                        self.assertEqual(ditch, narrow and alone)
                        self.assertEqual(
                            "the ditch round it holds it" in best.reasons[0].text, ditch
                        )

    def test_in_a_small_place_nothing_is_closer_than_the_work_pays_for(self):
        """A feather with six inches a square inch was proposed for cornerstones in light work."""
        survey = StraightSet(2, 2, 7, ("plain",), 0.75, False, True)
        chart = survey.chart()
        core = replace(
            self.core, chart=chart, zones=tuple(zones_from_patches(chart)), survey=survey
        )
        for level in LEVELS:
            for name, best in start(core, level)[1]:
                with self.subTest(level=level.key, entry=name):
                    self.assertLessEqual(best.heard.density, level.high)

    @long
    def test_what_is_much_too_close_is_not_proposed_because_it_is_new(self):
        # Squares of two inches in a quilt that has most simple designs in many places already: a feather won
        # there, at six and a half inches a square inch.
        survey = StraightSet(2, 2, 6, ("nine_patch",), 0)
        chart = survey.chart()
        core = Job("Small squares", chart, tuple(zones_from_patches(chart)), survey=survey)
        dark = [zone.id for zone in core.zones if chart.patch(zone.patches[0]).fabric == "b"]
        place = setting_of(core, dark, [])
        used = Counter(meander=8, parallel=7, hook_drift=4, wavy_rows=4, figure_eights=3, pebbles=2)
        level = LEVELS[1]
        found = ranked(core, place, level, used=used)
        self.assertLessEqual(found[0].heard.density, level.high)
        over = [each for each in found if each.heard.density > 1.5 * level.high]
        self.assertTrue(over, "else this would be no trial")
        for each in over:
            # By hand: 0.2, and 0.55 for each time as much again.
            weight = -(0.2 + 0.55 * (each.heard.density / level.high - 1))
            told = [reason.weight for reason in each.reasons if "pays for" in reason.text]
            self.assertAlmostEqual(told[0], max(weight, -0.9), 9)

    def test_plumes_that_would_be_tiny_suit_less(self):
        feather = designs()["feather"]
        scores = [feather.fits(space, feather.proposed(space)).score
                  for space in (Space(box(0, 0, side, side)) for side in (1.5, 2, 3, 8))]  # fmt: skip
        self.assertEqual(scores, sorted(scores))
        self.assertLess(scores[1], 0.75)
        self.assertEqual(scores[2:], [0.8, 0.8])

    def test_others_are_heard_until_one_will_do(self):
        core = self.core.with_legend(())
        place = setting_of(core, [core.zones[0].id], [])
        open_to_all = replace(LEVELS[0], low=0.0, high=99.0)
        usual = ranked(core, place, open_to_all)
        self.assertTrue(any(each.score >= GOOD for each in usual))
        self.assertEqual(len(usual), SHORT)
        never = ranked(core, place, replace(open_to_all, high=0.001))
        self.assertGreater(len(never), SHORT)
        some = sorted(each.heard.density for each in never)[0] + 1e-6
        until = ranked(core, place, replace(open_to_all, high=some))
        self.assertLessEqual(len(until), len(never))
        self.assertLessEqual(
            {each.heard.design for each in usual}, {each.heard.design for each in never}
        )

    def test_shapes_of_a_print_are_not_followed_where_there_is_none(self):
        for busy, sign in ((0.0, -1), (0.8, 1)):
            cloth = tuple(replace(each, busy=busy) for each in self.core.chart.fabrics)
            core = replace(self.core, chart=replace(self.core.chart, fabrics=cloth), legend=())
            square = max(core.zones, key=lambda zone: zone.polygon.area)
            place = setting_of(core, [square.id], [])
            (one,) = ranked(core, place, LEVELS[0], only=["loose_shapes"])
            said = [r for r in one.reasons if "shapes" in r.text]
            self.assertEqual([math.copysign(1, r.weight) for r in said], [sign], said)
            sewn_on = replace(place, role="applique")
            (one,) = ranked(core, sewn_on, LEVELS[0], only=["loose_shapes"])
            self.assertFalse([r for r in one.reasons if "shapes" in r.text])

    def test_a_quilt_holds_together_by_what_comes_again(self):
        """Fourteen kinds of place got eleven designs: a sheet of samples, and eleven strokes to learn."""
        chart = StraightSet(
            3,
            3,
            11,
            ("courthouse_steps", "dutch_puzzle"),
            2,
            True,
            True,
            (Border(3, piecing="triangles", unit=3), Border(6, "block")),
        ).chart()
        core = replace(self.core, chart=chart, zones=tuple(zones_from_patches(chart)), legend=())
        places = sides_together(places_of(chart, core.zones))
        self.assertGreater(len(places), 10)
        light = next(level for level in LEVELS if level.key == "light")
        _, told = start(core, light)
        count = Counter(best.heard.design for _, best in told)
        self.assertLessEqual(len(count), light.kinds + 3, count)
        self.assertGreaterEqual(len(count), light.kinds, count)
        said = [reason for _, best in told for reason in best.reasons]
        self.assertTrue(any("it is learned already" in reason.text for reason in said))
        self.assertTrue(
            any("one design more" in reason.text and reason.weight < 0 for reason in said)
        )

    def test_what_a_quilt_has_already_counts(self):
        """Of two designs that do as well the one comes first that is learned; not one that is everywhere."""
        core = self.core.with_legend(())
        place = setting_of(core, [core.zones[0].id], [])
        level = LEVELS[1]
        before = {each.heard.design: each.score for each in ranked(core, place, level)}
        key = sorted(before)[0]
        others = [f"other {k}" for k in range(level.kinds)]
        for used, more in (
            ({key: 1}, 0.06), ({key: 2}, 0.06), ({key: 5}, -0.12), (dict.fromkeys(others, 1), -0.1),
            (dict.fromkeys([*others, "one", "two"], 1), -0.18),
        ):  # fmt: skip
            after = {each.heard.design: each.score
                     for each in ranked(core, place, level, only=[key], used=Counter(used))}  # fmt: skip
            self.assertAlmostEqual(after[key] - before[key], more, msg=str(used))

    @long
    def test_what_has_a_design_keeps_it(self):
        first = self.core.legend[0]
        core = self.core.with_legend((first,))
        legend, _ = proposed_legend(core, LEVELS[0], bare_only=True)
        self.assertEqual(legend[0], first)
        self.assertFalse({zone for entry in legend[1:] for zone in entry.zones} & set(first.zones))

    @long
    def test_what_the_client_forbids_is_left_out(self):
        banned = self.core.zones[0].id
        zones = tuple(replace(z, forbidden=z.id == banned) for z in self.core.zones)
        legend, _ = start(replace(self.core, zones=zones), LEVELS[0])
        self.assertNotIn(banned, {zone for entry in legend for zone in entry.zones})


class GroundTests(TestCase):
    """Backgrounds of one cloth, cut by the piecing into shapes unlike each other, read as one ground."""

    @classmethod
    def setUpClass(cls):
        survey = OffsetRows(2, 3, 9.0, ("star_eight", "hourglass"), borders=(Border(1.5),))
        chart = survey.chart()
        zones = negative_space(chart, zones_from_patches(chart))
        cls.core = Job("Offset rows", chart, tuple(zones), survey=survey)
        groups = sides_together(places_of(chart, zones))
        cls.grounds = [
            place.zones for group in groups for place in group if place.name == BACKGROUND
        ]

    def designs_of(self, legend) -> set[str]:
        """The designs that backgrounds have."""
        of = {zone: entry for entry in legend for zone in entry.zones}
        mains = [of[zones[0]].layers[main_layer(of[zones[0]])] for zones in self.grounds]
        return {layer.design for layer in mains}

    @long
    def test_they_get_one_design_and_say_why(self):
        self.assertGreater(len(self.grounds), 2, "else this would be no trial")
        legend, told = start(self.core, LEVELS[1])
        (one,) = self.designs_of(legend)
        # Lines run the same way, and as far apart, in all of them.
        of = {zone: entry for entry in legend for zone in entry.zones}
        mains = [of[zones[0]].layers[main_layer(of[zones[0]])] for zones in self.grounds]
        self.assertEqual(len({tuple(sorted(layer.settings.items())) for layer in mains}), 1)
        said = [reason.text for _, best in told for reason in best.reasons]
        self.assertTrue(any("they read as one ground" in text for text in said), said)
        # What has a design already says what the others get.
        first = [entry for entry in legend if set(entry.zones) & set(self.grounds[0])]
        (layer,) = [each for each in first[0].layers if each.design == one]
        other = "crosshatch" if one != "crosshatch" else "meander"
        kept = replace(first[0], layers=(replace(layer, design=other, settings={}),))
        legend, _ = proposed_legend(self.core.with_legend((kept,)), LEVELS[1], bare_only=True)
        self.assertEqual(self.designs_of(legend), {other})

    def test_what_lies_along_a_line_of_its_own_is_not_given_to_others(self):
        zones = self.grounds[0]
        for layer, given in (
            (Layer("parallel", {}, "indigo"), 1),
            (Layer("swirl_row", {}, "indigo", guide=((0.0, 0.0), (9.0, 9.0))), 0),
            (Layer("waves", {}, "indigo", over="region"), 0),
            (Layer("ditch", {}, "indigo"), 0),
        ):
            core = self.core.with_legend((Entry("e", "e", tuple(zones), (layer,)),))
            self.assertEqual(len(_given(core, zones)), given, layer.design)
        self.assertEqual(_given(self.core.with_legend(()), zones), ())

    @long
    def test_rows_of_all_run_the_same_way(self):
        core = self.core.with_legend(())
        place = setting_of(core, list(self.grounds[0]), [])
        (free,) = ranked(core, place, LEVELS[1], only=["parallel"])
        (along,) = ranked(core, place, LEVELS[1], only=["parallel"], ground=())
        self.assertNotEqual(free.heard.layers[0].settings["relative"], "top")
        self.assertEqual(along.heard.layers[0].settings["relative"], "top")
        # Those that come after have just what the first have.
        (same,) = ranked(core, place, LEVELS[1], only=["parallel"], ground=free.heard.layers)
        self.assertEqual(same.heard.layers, free.heard.layers)

    @long
    def test_else_they_would_differ(self):
        with mock.patch("chorograph_core.choosing.proposing.ONE_GROUND", 0.0):
            legend, _ = start(self.core, LEVELS[1])
        self.assertGreater(len(self.designs_of(legend)), 1)
