"""Where the work stands, as plain values and back: kept beside the job, and sent from device to device."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import msgspec
import numpy as np

from chorograph_core.designs.linework import Run, Span
from chorograph_core.route import State
from chorograph_core.route.model import Begun

Line = list[tuple[float, float]]


class _Rest(msgspec.Struct):
    points: Line
    technique: str
    spans: list[tuple[int, str, str, str]] = []
    position: str = ""


class _Begun(msgspec.Struct):
    run: str
    stitched: list[Line]
    rest: list[_Rest]


class _State(msgspec.Struct):
    done: list[str] = []
    thread: str = ""
    bobbin: float | None = None
    begun: list[_Begun] = []
    sewn: list[Line] = []
    needle: tuple[float, float] | None = None
    lies: float | None = None
    aside: dict[str, float] = {}


def state_values(state: State) -> dict[str, Any]:
    """*state* as plain values, points in inches to four decimals."""
    made = _State(
        sorted(state.done), state.thread, state.bobbin,
        [_Begun(each.run, [_line(line) for line in each.stitched], [_rest(run) for run in each.rest])
         for each in state.begun],
        [_line(line) for line in state.sewn], state.needle, state.lies, dict(state.aside),
    )  # fmt: skip
    return msgspec.to_builtins(made)


def read_state(values: Mapping[str, Any]) -> State:
    """The state that was written by `state_values`. Raises ValueError for what is none."""
    read = msgspec.convert(values, _State)
    begun = tuple(
        Begun(each.run, tuple(_array(line) for line in each.stitched),
              tuple(Run(_array(rest.points), rest.technique,
                        tuple(Span(*span) for span in rest.spans), position=rest.position)
                    for rest in each.rest))
        for each in read.begun
    )  # fmt: skip
    return State(frozenset(read.done), read.thread, read.bobbin, begun,
                 tuple(_array(line) for line in read.sewn), read.needle, read.lies,
                 tuple(sorted(read.aside.items())))  # fmt: skip


def _line(points: np.ndarray) -> Line:
    return [(round(float(x), 4), round(float(y), 4)) for x, y in points]


def _array(line: Sequence[tuple[float, float]]) -> np.ndarray:
    return np.asarray(line, float).reshape(-1, 2)


def _rest(run: Run) -> _Rest:
    spans = [(span.stop, span.technique, span.kind, span.position) for span in run.spans]
    return _Rest(_line(run.points), run.technique, spans, run.position)
