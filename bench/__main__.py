"""Run all benchmarks, or those named: routes, floors, sizes, charting, pages, hands, motifs,
layouts, freehand, steering, learning, machine, trials, mixed."""

from __future__ import annotations

import sys
from importlib import import_module

BENCHES = (
    "routes", "sizes", "charting", "pages", "hands", "motifs", "floors", "layouts", "freehand", "steering",
    "learning", "machine", "trials", "mixed",
)  # fmt: skip


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
        # One by one: what another one needs is no part of what this one holds.
        import_module(f"bench.{name}").main()
    return 0


sys.exit(main())
