"""What a job costs at each level of work, and what an hour of it then earns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal

from moneyed import Money, get_currency

from chorograph_core.measure import METRES_PER_INCH, METRES_PER_YARD, SQ_METRES_PER_SQ_INCH
from chorograph_core.reckon import thread_inches, thread_yards

CENT = Decimal("0.01")
SPI = 11.0
"""Stitches per inch that thread is estimated with before any design says its own."""
WITHOUT_LEVEL = 400.0
"""Square inches an hour for a job nobody has set a level for: honest rather than quick."""
TAXED = ("all", "goods", "none")
MOST = Decimal(10_000_000)


class PriceError(ValueError):
    """A price list cannot be used. *field* names what is wrong, the message says how."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Level:
    """One level of work.

    *basis* ``"area"``: *rate* is money a square inch; ``"hour"``: money an hour. *pace* is how many
    square inches an hour takes, slow and quick; *density* inches of line a square inch, for thread.
    """

    key: str
    name: str
    detail: str = ""
    basis: str = "area"
    rate: Decimal = Decimal("0.05")
    minimum: Decimal = Decimal(0)
    pace: tuple[float, float] = (400.0, 800.0)
    density: float = 2.0


STARTING_LEVELS = (
    Level("allover", "All-over", "one repeating pattern over everything", "area",
          Decimal("0.040"), Decimal(90), (1600, 2600), 0.7),
    Level("light", "Light custom", "ditches, one design in each kind of place", "area",
          Decimal("0.062"), Decimal(140), (800, 1300), 1.2),
    Level("full", "Full custom", "every zone its own design, ruler work, borders fitted", "area",
          Decimal("0.115"), Decimal(220), (380, 620), 2.2),
    Level("heirloom", "Heirloom", "fine fills, marked motifs, for show", "hour",
          Decimal(46), Decimal(600), (170, 290), 4.5),
)  # fmt: skip


@dataclass(frozen=True)
class PriceList:
    """A studio's prices, in *currency* (ISO code).

    *setup_hours* go into every job (loading, squaring, thread); *binding_pace* is how many inches of
    edge are bound in an hour. *tax* is a share; *taxed* says
    whether all lines, only goods, or nothing bear it; *tax_included*: the prices hold it already.
    *rounding* is the step the total is rounded to. *units* is how quantities and rates are written, and what
    is multiplied: with ``"cm"`` square metres and metres, whatever the rates are kept in.
    """

    currency: str = "USD"
    levels: tuple[Level, ...] = STARTING_LEVELS
    wished_hourly: Decimal = Decimal(38)
    setup_hours: float = 1.5
    batting_area: Decimal = Decimal("0.0065")
    thread_yard: Decimal = Decimal("0.012")
    binding_inch: Decimal = Decimal("0.22")
    binding_pace: float = 90.0
    repair_hour: Decimal = Decimal(35)
    rush: Decimal = Decimal("0.25")
    tax: Decimal = Decimal("0")
    taxed: str = "goods"
    tax_included: bool = False
    rounding: Decimal = CENT
    units: str = "in"

    def check(self) -> None:
        """Raise `PriceError` naming the first number that cannot be."""
        numbers = {
            "wished_hourly": self.wished_hourly, "batting_area": self.batting_area,
            "thread_yard": self.thread_yard, "binding_inch": self.binding_inch,
            "repair_hour": self.repair_hour, "rush": self.rush, "tax": self.tax,
        }  # fmt: skip
        for name, number in numbers.items():
            if not number.is_finite() or not 0 <= number < MOST:
                raise PriceError("A price is a number, zero or more.", name)
        if self.tax > 1:
            raise PriceError("Tax is a share of the price; over 100% cannot be.", "tax")
        if not self.rounding.is_finite() or self.rounding < CENT:
            raise PriceError("Totals are rounded to a hundredth or coarser.", "rounding")
        for level in self.levels:
            if not level.rate.is_finite() or not 0 <= level.rate < MOST:
                raise PriceError(f"{level.name}: the rate is a number, zero or more.", "rate")
            if not 0 < level.pace[0] <= level.pace[1]:
                raise PriceError(f"{level.name}: the slow pace comes first, above zero.", "pace")


@dataclass(frozen=True)
class Asked:
    """What is to be priced: the top in inches, and what the studio supplies besides.

    *hours* at the machine, setting up included, and *yards* of thread in all are known once a route is
    planned; *loft* is that of all layers of batting under the foot, *reserve* the share of thread kept
    in hand.
    """

    width: float
    height: float
    batting_area: float = 0.0
    supply_thread: bool = True
    bind: bool = False
    repair_hours: float = 0.0
    rush: bool = False
    hours: float | None = None
    yards: float | None = None
    loft: float = 0.09
    reserve: float = 0.1

    @property
    def area(self) -> float:
        return self.width * self.height


@dataclass(frozen=True)
class Line:
    """One line of an offer. *goods*: material rather than work."""

    name: str
    detail: str
    amount: Money
    goods: bool = False


@dataclass(frozen=True)
class Offer:
    """A level priced. *hours* and *hourly* are (low, high); *hourly* is what work and its minimum
    bring for each of those hours, before tax and without goods."""

    level: Level
    lines: tuple[Line, ...]
    tax: Money
    total: Money
    hours: tuple[float, float]
    hourly: tuple[Money, Money]
    warnings: tuple[str, ...] = field(default=())

    @property
    def middle_hours(self) -> float:
        return sum(self.hours) / 2


def hours_for(level: Level, area: float, setup: float) -> tuple[float, float]:
    """Hours (low, high) that *area* square inches take at a level, setting up included."""
    return (area / level.pace[1] + setup, area / level.pace[0] + setup)


def finishing_hours(prices: PriceList, width: float, height: float, bind: bool) -> float:
    """Hours after the machine: binding goes by the inch of edge."""
    return 2 * (width + height) / prices.binding_pace if bind and prices.binding_pace > 0 else 0.0


def booked_hours(
    prices: PriceList, level_key: str, area: float, repair_hours: float = 0.0,
    planned_minutes: float | None = None,
) -> float:  # fmt: skip
    """The hours that a job takes up in the calendar, finishing apart: the one rule for quotes, promises
    and the calendar page.

    A planned route says them; else the slow pace of the level agreed, since a promise that is kept is
    worth more than an early one; without a level `WITHOUT_LEVEL`. Setting up and repairs count.
    """
    if planned_minutes is not None:
        return planned_minutes / 60 + prices.setup_hours + repair_hours
    level = next((level for level in prices.levels if level.key == level_key), None)
    pace = WITHOUT_LEVEL if level is None else level.pace[0]
    return area / pace + prices.setup_hours + repair_hours


def estimated_yards(level: Level, asked: Asked) -> float:
    """Yards of thread, top and bobbin, that a level will take: the same sum as a route's."""
    inches = asked.area * level.density
    return thread_yards(thread_inches(inches, SPI, asked.loft), asked.reserve)


def offer(prices: PriceList, level: Level, asked: Asked) -> Offer:
    """Price one level. *asked.hours*, when a route was planned, replaces the range by one figure."""
    prices.check()
    hours = hours_for(level, asked.area, prices.setup_hours)
    if asked.hours is not None:
        hours = (asked.hours, asked.hours)
    lines = [_work(prices, level, asked, hours)]
    if asked.repair_hours:
        mending = round(asked.repair_hours, 2)
        lines.append(_line(prices, "Repairs", f"{mending:g} h at {_rate(prices.repair_hour)}",
                           prices.repair_hour * _exact(mending)))  # fmt: skip
    if asked.rush:
        work = sum((line.amount.amount for line in lines), Decimal(0))
        lines.append(_line(prices, "Rush", f"{prices.rush:.0%} of the work", work * prices.rush))
    if asked.batting_area:
        said, amount = _counted(prices, prices.batting_area, asked.batting_area, "area")
        lines.append(_line(prices, "Batting", said, amount, goods=True))
    if asked.supply_thread:
        yards = asked.yards if asked.yards is not None else estimated_yards(level, asked)
        said, amount = _counted(prices, prices.thread_yard, yards, "thread")
        about = "" if asked.yards is not None else "about "
        lines.append(_line(prices, "Thread", f"{about}{said}", amount, goods=True))
    if asked.bind:
        said, amount = _counted(
            prices, prices.binding_inch, 2 * (asked.width + asked.height), "edge"
        )
        lines.append(_line(prices, "Binding", said, amount))
    lines = [line for line in lines if line.amount.amount]
    tax, total = _with_tax(prices, lines)
    rest = total.amount - sum((line.amount.amount for line in lines), Decimal(0))
    rest -= Decimal(0) if prices.tax_included else tax.amount
    if rest:
        lines.append(Line("Rounding", "", Money(rest, prices.currency)))
    earned = sum((line.amount.amount for line in lines if not line.goods and line.name != "Binding"),
                 Decimal(0))  # fmt: skip
    if prices.tax_included and prices.taxed == "all":
        earned /= 1 + prices.tax
    spent = (hours[0] + asked.repair_hours, hours[1] + asked.repair_hours)
    slow, quick = (
        Money(_round(earned / _exact(value), prices.currency), prices.currency)
        for value in spent[::-1]
    )
    hourly = (slow, quick)
    return Offer(level, tuple(lines), tax, total, spent, hourly, _warnings(prices, hourly, spent))


def offers(prices: PriceList, asked: Asked, keys: Sequence[str] = ()) -> list[Offer]:
    """Two to four levels side by side, in the price list's order."""
    return [offer(prices, level, asked) for level in prices.levels if not keys or level.key in keys]


def _work(prices: PriceList, level: Level, asked: Asked, hours) -> Line:
    # Priced from the quantity as it is printed: whoever multiplies the line finds its amount.
    if level.basis == "hour":
        middle = round(sum(hours) / 2, 1)
        amount = level.rate * _exact(middle)
        detail = f"{middle:.1f} h at {_rate(level.rate)}"
    else:
        detail, amount = _counted(prices, level.rate, asked.area, "area")
    if amount < level.minimum:
        amount, detail = level.minimum, "the least a job costs"
    return _line(prices, level.name, detail, amount)


_METRIC = {"area": (SQ_METRES_PER_SQ_INCH, "m²", "sq in"), "thread": (METRES_PER_YARD, "m", "yd"),
           "edge": (METRES_PER_INCH, "m round", "″ round")}  # fmt: skip
"""What one square inch, yard or inch of edge is in metres, and how it is written."""


def _counted(prices: PriceList, rate: Decimal, quantity: float, what: str) -> tuple[str, Decimal]:
    """A quantity at a rate: as it is written, and what the two figures that are written come to. Metres are
    counted to a hundredth, thread to a whole one."""
    factor, metric, inch = _METRIC[what]
    if prices.units != "cm":
        whole = round_half_up(quantity)
        said = f"{whole:,}{'' if inch.startswith('″') else ' '}{inch}"
        return f"{said} at {_rate(rate)}", rate * whole
    places = Decimal(1) if what == "thread" else CENT
    metres = (_exact(quantity) * factor).quantize(places)
    each = (rate / factor).quantize(Decimal("0.0001"))
    return f"{metres:,} {metric} at {_rate(each)}", each * metres


def extra(prices: PriceList, name: str, amount: Decimal) -> Line:
    """A line of work that no rate makes: something agreed on the way, or taken off."""
    return _line(prices, name, "", amount)


def totalled(prices: PriceList, lines: Sequence[Line]) -> tuple[Money, Money]:
    """Tax and total of some lines."""
    return _with_tax(prices, lines)


def _with_tax(prices: PriceList, lines: Sequence[Line]) -> tuple[Money, Money]:
    """Tax and total. Where prices hold the tax, it is what lies inside: t / (1 + t) of them."""
    whole = sum((line.amount.amount for line in lines), Decimal(0))
    base = {"all": whole, "none": Decimal(0)}.get(
        prices.taxed, sum((line.amount.amount for line in lines if line.goods), Decimal(0))
    )
    if prices.tax_included:
        tax = _round(base * prices.tax / (1 + prices.tax), prices.currency)
        total = whole
    else:
        tax = _round(base * prices.tax, prices.currency)
        total = whole + tax
    step = max(prices.rounding, step_of(prices.currency))
    total = (total / step).quantize(Decimal(1), ROUND_HALF_UP) * step
    return Money(tax, prices.currency), Money(_round(total, prices.currency), prices.currency)


def _warnings(prices: PriceList, hourly, hours) -> tuple[str, ...]:
    if hourly[0].amount < prices.wished_hourly:
        return (
            f"In {hours[1]:.1f} hours it brings {hourly[0].amount:.2f} an hour; "
            f"you want {prices.wished_hourly:.2f}.",
        )
    return ()


def round_half_up(number: float) -> int:
    """The nearest whole number, a half up: as one rounds by hand.

    >>> round_half_up(2.5), round_half_up(3.5)
    (3, 4)
    """
    return int(_exact(round(number, 6)).quantize(Decimal(1), ROUND_HALF_UP))


def step_of(currency: str) -> Decimal:
    """The smallest amount of a currency: a hundredth, a whole yen.

    >>> step_of("USD"), step_of("JPY")
    (Decimal('0.01'), Decimal('1'))
    """
    return Decimal(1) / get_currency(currency).sub_unit


def _rate(rate: Decimal) -> str:
    """A rate without idle zeros, and never fewer than two places: 46.00, 0.115."""
    return f"{rate:.2f}" if rate == rate.quantize(CENT) else f"{rate.normalize():f}"


def _line(prices: PriceList, name: str, detail: str, amount: Decimal, goods: bool = False) -> Line:
    return Line(name, detail, Money(_round(amount, prices.currency), prices.currency), goods)


def _round(amount: Decimal, currency: str) -> Decimal:
    return amount.quantize(step_of(currency), ROUND_HALF_UP)


def _exact(number: float) -> Decimal:
    return Decimal(repr(float(number)))
