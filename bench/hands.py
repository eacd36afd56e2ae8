"""How long a person's hands need to chart a top, reckoned from what she does in the real interface.

Stories are told in the browser as a quilter would act. Each action is priced by the keystroke-level
model (Card, Moran and Newell, 1980): a thought before it, pointing, pressing, keys, the way between
mouse and keys. To that comes what the machine makes her wait, measured. Somebody new to the program
looks for things and hesitates, until she has done the same a few times.
"""

from __future__ import annotations

import contextlib
import tempfile
import time
from collections.abc import Iterator

import numpy as np
from shapely.geometry import Polygon

from bench.server import served, signed_in
from bench.table import table
from chorograph_core.tests.shapes import irregular_top

THINK, POINT, PRESS, KEY, HOME = 1.35, 1.1, 0.1, 0.28, 0.4
"""Seconds: a thought, pointing at something, a button down or up, a key of a slow typist, a hand's way
from the mouse to the keys or back."""
NEW, LEARNT = 4.0, 0.4
"""So many times longer thinks somebody who does a thing the first time; the n-th time it is n to the
power of minus `LEARNT` of that (the power law of practice), until she thinks no longer than others."""
READ = 4.0
"""Seconds for each length that has to be read off the note about the top first."""


class Hands:
    """Acts on a page and adds up what that would take a person."""

    def __init__(self, page) -> None:
        self.page = page
        self.actions = self.read = 0
        self.moves = self.waited = self.new = 0.0
        self.at_keys = False
        self.done: dict[str, int] = {}

    def _act(self, moves: float, kind: str, keys: bool = False) -> None:
        self.actions += 1
        self.done[kind] = self.done.get(kind, 0) + 1
        self.new += THINK * max(1.0, NEW * self.done[kind] ** -LEARNT)
        self.moves += moves + (HOME if keys != self.at_keys else 0.0)
        self.at_keys = keys

    def click(self, selector: str) -> None:
        """Point at it and click."""
        # Pictures of a list are all one kind of thing; every other button is a thing of its own.
        self._act(
            POINT + 2 * PRESS, selector if selector.startswith("[") else selector.partition("[")[0]
        )
        self._wait(lambda: self.page.locator(selector).first.click())

    def touch(self, x: float, y: float) -> None:
        """Point at a spot of the window and click."""
        self._act(POINT + 2 * PRESS, "touch")
        self._wait(lambda: self.page.mouse.click(x, y))

    def write(self, selector: str, text: str, measured: bool = True) -> None:
        """Click into a field and type; *measured* texts are read off something first."""
        self._act(POINT + 2 * PRESS, "field")
        self._act(KEY * len(text), "write", keys=True)
        self.read += measured
        self._wait(lambda: self.page.fill(selector, text))

    def choose(self, selector: str, value: str) -> None:
        """Open a list and choose from it."""
        self._act(2 * POINT + 4 * PRESS, "list")
        self._wait(lambda: self.page.select_option(selector, value))

    def until(self, selector: str) -> None:
        """Wait for what she waits for."""
        self._wait(lambda: self.page.wait_for_selector(selector))

    @contextlib.contextmanager
    def meanwhile(self) -> Iterator[None]:
        """She acts while the machine works: she waits only for what takes it longer than her."""
        began, waited, busy = time.perf_counter(), self.waited, self.moves + self.actions * THINK
        yield
        took = time.perf_counter() - began
        self.waited = waited + max(0.0, took - (self.moves + self.actions * THINK - busy))

    def _wait(self, act) -> None:
        began = time.perf_counter()
        act()
        self.waited += time.perf_counter() - began

    @property
    def seconds(self) -> float:
        """What all of it takes somebody who knows the program."""
        return self.moves + self.actions * THINK + self.waited + self.read * READ

    @property
    def seconds_new(self) -> float:
        """What it takes somebody who does not."""
        return self.moves + self.new + self.waited + self.read * READ


def main() -> None:
    """Chart three tops by hand and print what that took."""
    rows = []
    with served() as (address, _), signed_in(address) as page:
        for name, story, minutes in (
            ("sampler, 30 blocks of 15 kinds, sashing, 2 borders", _sampler, 5.0),
            ("on point, 5 × 4 of 2 kinds, sashing, 2 borders", _on_point, 5.0),
            ("no rule, 40 patches, from a photograph", _photograph, 20.0),
        ):
            hands = Hands(page)
            page.goto(f"{address}/jobs/")
            said = story(hands, page)
            rows.append([name, hands.actions, hands.waited, hands.seconds / 60,
                         hands.seconds_new / 60, minutes, said])  # fmt: skip
    table(
        "Charting by hand: the keystroke-level model on the real interface",
        ["", "actions", "waited, s", "minutes", "new to it", "limit", "what came of it"],
        rows,
    )


def _first(hands: Hands, title: str) -> None:
    hands.click("text=New top")
    hands.until("#id_title")
    hands.write("#id_title", title, measured=False)


def _sizes(hands: Hands, **fields: str) -> None:
    """Write what was measured; the outer border is mitred."""
    for name, text in fields.items():
        hands.write(f"#id_{name}", text)
    hands.choose("[name=corner2]", "mitred")


def _last(hands: Hands) -> None:
    hands.click("text=Make the chart")
    hands.until("#work[data-drawn]")


def _kinds(page) -> str:
    zones, blocks = page.evaluate(
        """() => { const zones = [...document.querySelectorAll('.zone')];
           return [zones.length, new Set(zones.map((zone) => zone.dataset.block).filter(Boolean)).size]; }"""
    )
    return f"{zones} zones, {blocks} blocks"


def _sampler(hands: Hands, page) -> str:
    """Sizes in the form, then fifteen blocks, each laid in two places."""
    _first(hands, "Thirty blocks")
    _sizes(
        hands, block_size="12", rows="6", columns="5", sashing="1 1/2", border1="1 1/2", border2="5"
    )
    _last(hands)
    hands.click("[data-act=lay-blocks]")
    hands.until("#laying")
    titles = page.locator(".pictures label").evaluate_all("all => all.map((each) => each.title)")
    places = [(row, column) for row in range(6) for column in range(5)]
    spots = {}
    for row, column in places:
        box = page.locator(f'.zone[data-block="{row}.{column}"]').first.bounding_box()
        spots[row, column] = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    with hands.meanwhile():
        for k in range(15):
            hands.click(f'.pictures label[title="{titles[2 + 3 * k]}"]')
            hands.touch(*spots[places[k]])
            hands.touch(*spots[places[29 - k]])
        hands.until("#hint[data-waiting='0']")
    return _kinds(page)


def _on_point(hands: Hands, page) -> str:
    """All of it in the form."""
    _first(hands, "On point")
    hands.choose("#id_layout", "on_point")
    hands.choose("#id_block", "sawtooth_star")
    hands.choose("#id_second_block", "nine_patch")
    _sizes(hands, block_size="9", rows="5", columns="4", sashing="1 1/4", float_by="3/4",
           border1="1 1/2", border2="4")  # fmt: skip
    _last(hands)
    return _kinds(page)


def _photograph(hands: Hands, page) -> str:
    """The top's size, its photograph, the four corners looked at, every patch touched."""
    from studio.demo.camera import photograph

    chart = irregular_top()
    with tempfile.NamedTemporaryFile(suffix=".jpg") as file:
        file.write(photograph(chart, seed=3, across=2400))
        file.flush()
        hands.click("text=New consult")
        hands.until("#id_title")
        hands.write("#id_title", "No rule", measured=False)
        hands.write("#id_width", "48")
        hands.write("#id_height", "56")
        hands.click("main button.button-strong")
        hands.until("#photo-file")
        # The file is chosen in a window of the system: found, double-clicked.
        hands._act(2 * POINT + 6 * PRESS, "file")
        hands._wait(lambda: page.set_input_files("#photo-file", file.name))
        hands.click("#photos-part form[enctype] button")
        hands.until("#photos-part img")
    job = page.url.split("/intake")[0]
    hands.click("nav >> text=Chart")
    hands.until("a[href*='chart/photo']")
    hands.click("a[href*='chart/photo']")
    hands.click("a[href*='?photo=']")
    hands.until("#corner-marks")
    for _ in range(4):
        # She looks at each corner and leaves the mark where it stands.
        hands._act(POINT, "look")
    hands.click("text=Lay it flat")
    hands.until("#trace")
    for count, patch in enumerate(chart.patches, 1):
        spot = page.evaluate(
            """([x, y]) => { const m = document.getElementById('trace').getScreenCTM();
                const p = new DOMPoint(x, y).matrixTransform(m); return [p.x, p.y]; }""",
            list(patch.polygon.representative_point().coords[0]),
        )
        hands.touch(*spot)
        hands.until(f"#found-count:text-is('{count}')")
    hands.click("text=Chart it so")
    hands.until("#work[data-drawn]")
    return _likeness(page, job, chart)


def _likeness(page, job: str, chart) -> str:
    """How near the charted patches come to the true ones."""
    from chorograph_core.formats import read_archive

    data = page.request.get(f"{job}/archive.json").body()
    made = [patch.polygon for patch in read_archive(data).chart.patches]
    alike, far = [], []
    for patch in chart.patches:
        best = max(made, key=lambda each: each.intersection(patch.polygon).area)
        alike.append(best.intersection(patch.polygon).area / best.union(patch.polygon).area)
        far.append(_corner_miss(patch.polygon, best))
    return (
        f"{len(made)} patches, {min(alike):.1%} alike at worst, corners {np.median(far):.2f} in off"
    )


def _corner_miss(true: Polygon, made: Polygon) -> float:
    """Mean distance of the true corners from the nearest of those made, in inches."""
    corners = np.asarray(made.exterior.coords)
    return float(
        np.mean([np.hypot(*(corners - p).T).min() for p in np.asarray(true.exterior.coords)])
    )
