"""Read a foreign drawing in a process of its own: what it may cost is bounded, and it can be put down.

Run as a program it reads a line of JSON (what is wanted) and then the file from standard input, and
writes lines of JSON: ``{"share", "what"}`` while it works, at last ``{"chart", "said"}``, ``{"shapes"}``,
``{"lines"}`` or ``{"fault", "field"}``. `read_apart` runs it.
"""

from __future__ import annotations

import contextlib
import json
import os
import resource
import selectors
import signal
import subprocess
import sys
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from shapely.geometry import Polygon

from chorograph_core.chart import Chart, ChartError
from chorograph_core.formats import document
from chorograph_core.formats.drawings import DrawingError, read_drawing
from chorograph_core.formats.drawn_in import TakenIn, chart_in

MEMORY = 2_000_000_000
"""Bytes of address space that a reading may take; a large real top takes a tenth of it."""
TOO_MUCH = (
    "It takes more to read than any top should: there are too many lines, curves or crossings in it. "
    "Leave in the drawing only the seams."
)
Progress = Callable[[float, str], None]


@dataclass(frozen=True)
class Limits:
    """Seconds of computing that a reading may take; the clock on the wall counts three times that."""

    seconds: int = 12


WHILE_ONE_WAITS = Limits(12)
IN_THE_WORKER = Limits(90)


def chart_apart(
    data: bytes, name: str, width: float, tolerance: float, units: str,
    limits: Limits = WHILE_ONE_WAITS, progress: Progress | None = None,
) -> TakenIn:  # fmt: skip
    """`chart_in`, in a process of its own. Raises `DrawingError` or `ChartError`.

    Whatever *progress* raises puts the reading down at once and is passed on.
    """
    asked = {"what": "chart", "name": name, "width": width, "tolerance": tolerance, "units": units}
    found = read_apart(asked, data, limits, progress)
    return TakenIn(document.read(found["chart"], Chart), tuple(found["said"]))


def shapes_apart(
    data: bytes, name: str, limits: Limits = WHILE_ONE_WAITS
) -> tuple[list[tuple[Polygon, str]], tuple[float, float]]:
    """The closed shapes of a drawing with their fill colours, in inches from its top left corner, and
    its width and height. Raises `DrawingError`."""
    found = read_apart({"what": "shapes", "name": name}, data, limits)
    shapes = [(document.polygon(rings), colour) for rings, colour in found["shapes"]]
    width, height = found["size"]
    return shapes, (width, height)


def lines_apart(
    data: bytes, name: str, limits: Limits = WHILE_ONE_WAITS
) -> list[list[tuple[float, float]]]:
    """The lines of a drawing in its own order, in inches. Raises `DrawingError`."""
    found = read_apart({"what": "lines", "name": name}, data, limits)
    return [[(x, y) for x, y in line] for line in found["lines"]]


def read_apart(
    asked: dict[str, Any], data: bytes, limits: Limits, progress: Progress | None = None
) -> dict[str, Any]:
    """Run the reader on *data* and return its last line. Raises as `chart_apart`."""
    child = subprocess.Popen(
        [sys.executable, "-m", __name__],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
        env={"PATH": os.environ.get("PATH", ""), "PYTHONPATH": os.pathsep.join(filter(None, sys.path)),
             "OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", "CHOROGRAPH_APART": str(limits.seconds),
             **{k: v for k, v in os.environ.items() if k.startswith("OPENBLAS_")}},
        start_new_session=True,
    )  # fmt: skip
    watch = threading.Timer(3 * limits.seconds + 10, _put_down, [child])
    watch.start()
    try:
        _hand_over(child, json.dumps(asked).encode() + b"\n" + data)
        last = _listen(child, progress)
    finally:
        watch.cancel()
        _put_down(child)
        if child.stdout is not None:
            child.stdout.close()
    if "fault" in last:
        kind = ChartError if last["kind"] == "chart" else DrawingError
        raise kind(last["fault"], last["field"])
    if not last.keys() & {"chart", "shapes", "lines"}:
        raise DrawingError(TOO_MUCH)
    return last


def _listen(child: subprocess.Popen, progress: Progress | None) -> dict[str, Any]:
    """The last line that the child writes. *progress* is told every second, also while it is silent:
    whoever does not want it any more can say so there."""
    assert child.stdout is not None
    last: dict[str, Any] = {}
    told = (0.05, "reading the file")
    rest = b""
    with selectors.DefaultSelector() as waiting:
        waiting.register(child.stdout, selectors.EVENT_READ)
        while True:
            if waiting.select(1.0):
                fresh = os.read(child.stdout.fileno(), 1 << 20)
                if not fresh:
                    return last
                *lines, rest = (rest + fresh).split(b"\n")
                for line in lines:
                    last = json.loads(line)
                    if "share" in last:
                        told = (last["share"], last["what"])
                        # Each word as it comes, though several arrive at once.
                        if progress is not None:
                            progress(*told)
            elif progress is not None:
                progress(*told)


def _hand_over(child: subprocess.Popen, data: bytes) -> None:
    """Write all of *data* from a thread, so that neither side waits for the other."""

    def write() -> None:
        assert child.stdin is not None
        # A child that gave up does not read to the end.
        with contextlib.suppress(OSError):
            child.stdin.write(data)
            child.stdin.close()

    threading.Thread(target=write, daemon=True).start()


def _put_down(child: subprocess.Popen) -> None:
    if child.poll() is None:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(child.pid, signal.SIGKILL)
    child.wait()


def _bound() -> None:
    """Take on the limits: this process can neither compute nor allocate beyond them."""
    seconds = int(os.environ.get("CHOROGRAPH_APART", "12"))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _say(value: dict[str, Any]) -> None:
    sys.stdout.write(json.dumps(value) + "\n")
    sys.stdout.flush()


def main() -> int:
    """Read what standard input asks for."""
    _bound()
    asked = json.loads(sys.stdin.buffer.readline())
    data = sys.stdin.buffer.read()
    try:
        if asked["what"] == "lines":
            drawing = read_drawing(data, asked["name"])
            _say({"lines": [line.tolist() for line in drawing.lines]})
            return 0
        if asked["what"] == "shapes":
            drawing = read_drawing(data, asked["name"])
            x0, y0, x1, y1 = drawing.bounds
            closed = drawing.scaled(1.0).closed()
            shapes = [[document.write(shape), colour] for shape, colour in closed]
            _say({"shapes": shapes, "size": [x1 - x0, y1 - y0]})
            return 0
        taken = chart_in(
            data, asked["name"], asked["width"], asked["tolerance"], asked["units"],
            lambda share, what: _say({"share": share, "what": what}),
        )  # fmt: skip
        _say({"chart": document.write(taken.chart), "said": list(taken.said)})
    except ChartError as error:
        _say({"fault": str(error), "field": error.field, "kind": "chart"})
    except DrawingError as error:
        _say({"fault": str(error), "field": "", "kind": "drawing"})
    except MemoryError:
        _say({"fault": TOO_MUCH, "field": "", "kind": "drawing"})
    return 0


if __name__ == "__main__":
    sys.exit(main())
