"""Work laid out, kept while the same quilt is planned by one way of working after another."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from chorograph_core.designs.legend import LayerLinework
from chorograph_core.reckon import Machine
from chorograph_core.route.model import Policy
from chorograph_core.route.network import Network
from chorograph_core.route.passes import Pass, Piece

SeamsKept = Callable[[Any, Callable[[], Network]], Network]


class Kept:
    """Linework and the work laid out of it, for plans of one job from its first stitch. Networks hold the
    paths found on them, so that what does not change from one way of working to the next is found once."""

    def __init__(self, most: int = 3) -> None:
        self._drawn: dict[Any, list[LayerLinework]] = {}
        self._laid: OrderedDict[str, Any] = OrderedDict()
        self._pieces: dict[int, list[Piece]] = {}
        self._seams: dict[Any, Network] = {}
        self._most, self._first = most, ""

    def drawn(self, key: Any, draw: Callable[[], list[LayerLinework]]) -> list[LayerLinework]:
        """The linework drawn for *key*."""
        if key not in self._drawn:
            self._drawn[key] = draw()
        return self._drawn[key]

    def pieces(
        self, drawn: Sequence[LayerLinework], find: Callable[[], list[Piece]]
    ) -> list[Piece]:
        """What of *drawn* reaches from where to where down the quilt."""
        if id(drawn) not in self._pieces:
            self._pieces[id(drawn)] = find()
        return self._pieces[id(drawn)]

    def laid(
        self, drawn: Sequence[LayerLinework], machine: Machine, policy: Policy,
        passes: tuple[Pass, ...], lay: Callable[[SeamsKept], Any],
    ) -> Any:  # fmt: skip
        """The work laid out in *passes*, as far as it depends on *machine* and *policy*. What lays it out
        is given where the bare seams are kept: another linework, or one that the quilt is rolled under,
        has the same."""
        # The order in which it is done, what is marked, how tails are secured: nothing of how it lies.
        plain = replace(
            policy, stabilise="quilt", technique="mixed", edges="baste", days="passes", marking="all",
            pen="chalk", orders=(), straight="ruler", effort=min(policy.effort, 1),
            oversized="roll" if policy.oversized == "roll" else "split",
            wishes=tuple(wish for wish in policy.wishes if wish.kind in ("around", "drawn")),
        )  # fmt: skip
        kind = (machine.kind, replace(machine.rates, lock=False), machine.directions)
        key = repr((id(drawn), kind, plain, passes))
        if key not in self._laid:
            under = repr((kind, replace(plain, oversized="split", retrace="on"), passes))
            self._laid[key] = lay(partial(self._bare, under))
            self._first = self._first or key
        self._laid.move_to_end(key)
        made = self._laid[key]
        if len(self._laid) > self._most:
            # The first is the job as it is worked now, to which one comes back.
            oldest = [other for other in self._laid if other not in (self._first, key)]
            del self._laid[oldest[0]]
        return made

    def _bare(self, under: str, content: Any, build: Callable[[], Network]) -> Network:
        key = (under, content)
        if key not in self._seams:
            if len(self._seams) >= self._most:
                del self._seams[next(iter(self._seams))]
            self._seams[key] = build()
        return self._seams[key]
