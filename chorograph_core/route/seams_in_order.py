"""In which order the seams of a pass are gone over: in walks that travel least, or line after line so that
none is broken, whichever costs less with what the ruler takes.

Walks that pair odd ends join the lines that cross, and break some of them for it: each time the ruler is
laid once more. Who goes along one line after the other, as rows are ploughed, travels a little at their ends
instead.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from chorograph_core.reckon import Machine
from chorograph_core.route.choosing import order_of, rounds_for
from chorograph_core.route.ditch_paths import Laying, walk_options, walked
from chorograph_core.route.lines import straight_lines
from chorograph_core.route.one_way import WAYS, parts_of
from chorograph_core.route.walks import Pricing, Walk, straight_walks
from chorograph_core.route.works import Work

MOST_LINES = 150
"""Lines up to which an order of them is looked for: of more it would take long."""


@dataclass(frozen=True)
class Gone:
    """Links in the order they are gone, as (link, node it is entered from), from one node to another."""

    links: tuple[tuple[int, int], ...]
    entry: int
    leave: int


@dataclass(frozen=True)
class SeamOrders:
    """Finds the order for one *machine*; without *effort* the first there is, whatever the ruler takes. A
    *cut* is what any way costs at most, in minutes."""

    machine: Machine
    cut: float
    effort: int

    def best(
        self, work: Work, start: int | None, coming: Pricing | None, leaving: Pricing | None
    ) -> list[Gone]:
        """All seams of *work*, from the node *start*, or anywhere: *coming* and *leaving* say what it costs
        to come to a node and to go on from it."""
        rates = self.machine.rates
        asked = sorted(set(work.seams))
        laying = rates.ruler_move / 60 if self.effort else 0.0
        orders = []
        if laying and len(asked) > 1:
            lines = list(straight_lines(work.ground.network, asked))
            if 1 < len(lines) <= MOST_LINES:
                orders.append(self._order(lines, work, start, leaving))
        walks = straight_walks(work.ground, asked, self.cut, coming, leaving, laying)
        if walks:
            orders.append(self._order(walks, work, start, leaving))
        return min(orders, key=lambda order: order[0], default=(0.0, []))[1]

    def _order(
        self, walks: Sequence[Walk], work: Work, start: int | None, leaving: Pricing | None
    ) -> tuple[float, list[Gone]]:
        """The best order of *walks*, with what it costs in minutes."""
        network, ground = work.ground.network, work.ground
        ways, priced = [], []
        for walk in walks:
            pairs, how = walk_options(network, walk)
            ways.append([Gone(tuple(walked(network, walk, each)), a, b)
                         for (a, b), each in zip(pairs, how, strict=True)])  # fmt: skip
            priced.append([(way.entry, way.leave, self._price(way, work)) for way in ways[-1]])
        rounds = rounds_for(len(walks), self.effort)
        order = order_of(ground, priced, start, self.cut, rounds, leaving)
        gone = [ways[k][option] for k, option in order]
        between = [(one.leave, two.entry) for one, two in itertools.pairwise(gone)]
        if start is not None:
            between.append((start, gone[0].entry))
        price = sum(float(ground.prices([one], self.cut, [two])[0, 0]) for one, two in between)
        price += sum(priced[k][option][2] for k, option in order)
        return price + (leaving(gone[-1].leave) if leaving and gone else 0.0), gone

    def _price(self, way: Gone, work: Work) -> float:
        """What is lost along a way in minutes: over links again, against the way the machine stitches well,
        and for layings of the ruler."""
        network = work.ground.network
        left, again = set(work.seams), 0.0
        for number, _ in way.links:
            if number not in left:
                again += network.links[number].price
            left.discard(number)
        if self.effort:
            laying = Laying(self.machine.rates.ruler_move / 60, self.machine.rates.reach)
            again += laying.along(network, work.seams, way.links)
        directions = self.machine.directions
        if directions not in WAYS:
            return again
        ways = [network.links[number].way(start) for number, start in way.links]
        wrong = sum(against for _, against in parts_of(np.concatenate(ways), directions))
        return again + 2 * self.cut * wrong
