"""Run all benchmarks, or those named: routes, floors, sizes, charting, pages, hands, motifs,
layouts, freehand, steering, learning, machine, trials, mixed."""

from __future__ import annotations

import sys

from bench import (
    charting,
    floors,
    freehand,
    hands,
    layouts,
    learning,
    machine,
    mixed,
    motifs,
    pages,
    routes,
    sizes,
    steering,
    trials,
)

BENCHES = {
    "routes": routes.main, "sizes": sizes.main, "charting": charting.main, "pages": pages.main,
    "hands": hands.main, "motifs": motifs.main, "floors": floors.main,
    "layouts": layouts.main, "freehand": freehand.main, "steering": steering.main,
    "learning": learning.main, "machine": machine.main, "trials": trials.main,
    "mixed": mixed.main,
}  # fmt: skip


def main() -> int:
    """Run them one after the other."""
    wanted = sys.argv[1:] or list(BENCHES)
    for name in wanted:
        if name not in BENCHES:
            print(
                f"There is no benchmark called {name}. Known: {', '.join(BENCHES)}.",
                file=sys.stderr,
            )
            return 2
    for name in wanted:
        BENCHES[name]()
    return 0


sys.exit(main())
