"""Prices to the cent, and the hourly rate that results."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as some
from moneyed import Money

from chorograph_core.estimating import (
    Asked,
    Level,
    PriceError,
    PriceList,
    booked_hours,
    finishing_hours,
    offer,
)
from chorograph_core.estimating.price import STARTING_LEVELS, estimated_yards, offers

cents = some.decimals(0, 2, places=3, allow_nan=False)
asks = some.builds(
    Asked,
    width=some.floats(10, 120), height=some.floats(10, 120), batting_area=some.floats(0, 15000),
    supply_thread=some.booleans(), bind=some.booleans(), repair_hours=some.floats(0, 5),
    rush=some.booleans(),
)  # fmt: skip
lists = some.builds(
    PriceList,
    wished_hourly=some.just(Decimal(38)), batting_area=cents, thread_yard=cents, binding_inch=cents,
    tax=some.decimals(0, "0.3", places=4), taxed=some.sampled_from(["all", "goods", "none"]),
    tax_included=some.booleans(), rounding=some.sampled_from([Decimal("0.01"), Decimal("0.05"), Decimal(1)]),
)  # fmt: skip


class OfferTests(TestCase):
    @given(lists, asks, some.sampled_from(STARTING_LEVELS))
    def test_lines_and_tax_make_the_total(self, prices, asked, level):
        made = offer(prices, level, asked)
        whole = sum((line.amount for line in made.lines), Money(0, "USD"))
        if not prices.tax_included:
            whole += made.tax
        self.assertEqual(whole, made.total)
        self.assertEqual(made.total.amount % prices.rounding, 0)
        for line in made.lines:
            self.assertEqual(line.amount.amount, round(line.amount.amount, 2))
        rounding = [line for line in made.lines if line.name == "Rounding"]
        self.assertTrue(all(abs(line.amount.amount) <= prices.rounding / 2 for line in rounding))

    @given(lists, asks, some.sampled_from(STARTING_LEVELS))
    def test_whoever_multiplies_a_line_finds_its_amount(self, prices, asked, level):
        spelled = [line for line in offer(prices, level, asked).lines if " at " in line.detail]
        for line in spelled:
            quantity, rate = line.detail.removeprefix("about ").split(" at ")
            number = quantity.split()[0].replace(",", "").removesuffix("″")
            self.assertAlmostEqual(line.amount.amount, Decimal(number) * Decimal(rate),
                                   delta=Decimal("0.005"))  # fmt: skip

    @given(lists, asks)
    def test_never_below_the_least_and_never_cheaper_for_more(self, prices, asked):
        for level in STARTING_LEVELS:
            small = offer(prices, level, asked)
            self.assertGreaterEqual(small.lines[0].amount.amount, level.minimum)
            large = offer(prices, level, replace(asked, width=asked.width * 2))
            self.assertGreaterEqual(large.total, small.total)
            self.assertLessEqual(small.hours[0], small.hours[1])

    def test_by_hand(self):
        level = Level("full", "Full", "", "area", Decimal("0.10"), Decimal(200), (400, 500))
        prices = PriceList(levels=(level,), setup_hours=2, tax=Decimal("0.08"), taxed="goods",
                           batting_area=Decimal("0.01"), rush=Decimal("0.25"),
                           wished_hourly=Decimal(40))  # fmt: skip
        made = offer(prices, level, Asked(60, 80, 5000, False, False, 1, True))
        amounts = [(line.name, line.amount.amount) for line in made.lines]
        self.assertEqual(amounts, [("Full", Decimal("480.00")), ("Repairs", Decimal("35.00")),
                                   ("Rush", Decimal("128.75")), ("Batting", Decimal("50.00"))])  # fmt: skip
        self.assertEqual(made.tax.amount, Decimal("4.00"))
        self.assertEqual(made.total.amount, Decimal("697.75"))
        self.assertEqual(made.hours, (4800 / 500 + 3, 4800 / 400 + 3))
        self.assertEqual(made.hourly[0].amount, Decimal("42.92"))
        self.assertEqual(made.warnings, ())

    def test_tax_inside_the_price(self):
        prices = PriceList(tax=Decimal("0.25"), taxed="all", tax_included=True)
        level = Level("x", "X", "", "hour", Decimal(50), Decimal(0), (100, 100))
        made = offer(prices, level, Asked(10, 10, 0, False, hours=4))
        self.assertEqual((made.total.amount, made.tax.amount), (Decimal(200), Decimal(40)))
        self.assertEqual(made.hourly[0].amount, Decimal(40))

    def test_thread_is_reckoned_as_a_route_reckons_it(self):
        level = Level("x", "X", density=2.0)
        prices = PriceList(thread_yard=Decimal("0.01"))
        # 1 + 11 x 0.075, top and bobbin: 3.65 inches for each stitched inch; doubled wool 7.5.
        for loft, inch in ((0.075, 3.65), (0.25, 7.5)):
            asked = Asked(60, 60, loft=loft, reserve=0.0)
            self.assertAlmostEqual(estimated_yards(level, asked), 7200 * inch / 36)
            line = next(x for x in offer(prices, level, asked).lines if x.name == "Thread")
            self.assertIn(f"about {round(7200 * inch / 36):,} yd", line.detail)
        known = Asked(60, 60, hours=20, yards=1578.0)
        line = next(x for x in offer(prices, level, known).lines if x.name == "Thread")
        self.assertEqual(line.detail, "1,578 yd at 0.01")

    def test_one_rule_for_the_hours_that_are_booked(self):
        prices = PriceList(setup_hours=1.5)
        # 5,200 sq in at the slow pace of full custom, 380 an hour, half an hour of repairs.
        self.assertAlmostEqual(booked_hours(prices, "full", 5200, 0.5), 5200 / 380 + 2)
        self.assertAlmostEqual(booked_hours(prices, "", 5200, 0.5), 13 + 2)
        self.assertAlmostEqual(booked_hours(prices, "full", 5200, 0.5, 600), 12)
        made = offer(prices, STARTING_LEVELS[2], Asked(52, 100, repair_hours=0.5))
        self.assertAlmostEqual(made.hours[1], booked_hours(prices, "full", 5200, 0.5))
        self.assertAlmostEqual(finishing_hours(prices, 60, 75, True), 3.0)
        self.assertEqual(finishing_hours(prices, 60, 75, False), 0.0)

    def test_yen_have_no_hundredths_and_halves_go_up(self):
        prices = PriceList("JPY", tax=Decimal("0.1"), taxed="all", thread_yard=Decimal("1.7"))
        made = offer(
            prices, STARTING_LEVELS[2], Asked(61.5, 61, 3001.5, bind=True, repair_hours=1.25)
        )
        for amount in (made.total, made.tax, *made.hourly, *(line.amount for line in made.lines)):
            self.assertEqual(amount.amount, int(amount.amount))
        # 61 1/2 x 61 = 3,751 1/2 square inches are 3,752, as one rounds by hand.
        self.assertIn("3,752 sq in", made.lines[0].detail)
        self.assertTrue(any("3,002 sq in" in line.detail for line in made.lines))

    def test_below_the_wished_rate_is_said(self):
        prices = PriceList(wished_hourly=Decimal(500))
        for made in offers(prices, Asked(60, 60), ["allover", "full"]):
            self.assertIn("you want 500.00", made.warnings[0])

    def test_a_list_that_cannot_be_names_its_field(self):
        for change, field in (({"tax": Decimal(2)}, "tax"), ({"rush": Decimal(-1)}, "rush"),
                              ({"thread_yard": Decimal("NaN")}, "thread_yard"),
                              ({"rounding": Decimal(0)}, "rounding"),
                              ({"levels": (Level("a", "A", pace=(9, 3)),)}, "pace"),
                              ({"levels": (Level("a", "A", rate=Decimal(-3)),)}, "rate")):  # fmt: skip
            with self.assertRaises(PriceError) as caught:
                PriceList(**change).check()
            self.assertEqual(caught.exception.field, field)
