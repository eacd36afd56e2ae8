"""The same pages again and again: what a web process holds must not go on growing."""

from __future__ import annotations

from bench.table import table
from bench.trials.load import PAGES
from bench.trials.world import World

ROUNDS = 4
ASKED = 240


def main(here: World) -> None:
    """Print the memory after each round; the first fills what is kept on purpose."""
    rows = []
    for number in range(1, ROUNDS + 1):
        for k in range(ASKED):
            person = here.people[k % len(here.people)]
            path = [*PAGES.values()][k % len(PAGES)][1].format(job=person.jobs[k % 2])
            assert here.ask(person, path).status == 200, path
        rows.append([f"after {number * ASKED} pages", here.megabytes()])
    grown = rows[-1][1] - rows[1][1]
    rows.append([f"grown by after the second round, over {(ROUNDS - 2) * ASKED} pages", grown])
    table("Memory of the largest web process", ["", "MB"], rows)
