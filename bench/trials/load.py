"""Fifty people for a minute: reading pages, small edits; then the same beside imports and plans."""

from __future__ import annotations

import random
import statistics
import threading
import time
from collections import Counter, defaultdict

from bench.table import table
from bench.trials.world import Person, World

SECONDS = 60
PAUSE = (2.0, 8.0)
"""Seconds for which somebody looks at a page before she goes on."""
PAGES = {
    "list of jobs": (3, "/jobs/"),
    "work view": (4, "/jobs/{job}/?stage=zones"),
    "calendar": (2, "/calendar/"),
    "shelf": (2, "/shelf/"),
    "intake": (2, "/jobs/{job}/intake/"),
    "job book": (2, "/jobs/{job}/book/"),
    "thread": (1, "/jobs/{job}/thread/"),
    "bench table": (1, "/sums/"),
    "guide": (1, "/help/"),
}
"""How often each is opened, beside the others."""
EDITS = 4
"""Notes written into the job book, beside the pages."""


def main(here: World) -> None:
    """Print how long people waited."""
    _first_openings(here)
    quiet = _minute(here, beside=False)
    busy = _minute(here, beside=True)
    rows = []
    for name in [*PAGES, "a note", "all"]:
        for words, found in (("", quiet), ("beside imports and plans", busy)):
            times = sorted(found.times["all"] if name == "all" else found.times[name])
            if times:
                rows.append([f"{name}{', ' if words else ''}{words}", len(times),
                             statistics.median(times), _at(times, 0.95), times[-1]])  # fmt: skip
    table(f"{len(here.people)} people for {SECONDS} s, each looking for {PAUSE[0]:g} to {PAUSE[1]:g} s",
          ["", "asked", "median, s", "p95, s", "worst, s"], rows)  # fmt: skip
    for words, found in (("quiet", quiet), ("beside imports and plans", busy)):
        answers = dict(sorted(found.statuses.items()))
        print(f"  {words}: answers {answers}, {found.made} plans and imports asked for")


def _first_openings(here: World) -> None:
    """As after an upgrade, when nothing is kept: each quilt is drawn anew when somebody opens it."""
    first = {job: person for person in here.people for job in person.jobs}
    times = sorted(
        here.ask(person, f"/jobs/{job}/?stage=zones").seconds for job, person in first.items()
    )
    again = sorted(
        here.ask(person, f"/jobs/{job}/?stage=zones").seconds for job, person in first.items()
    )
    rows = [["first opened since an upgrade", len(times), statistics.median(times), times[-1]],
            ["opened again", len(again), statistics.median(again), again[-1]]]  # fmt: skip
    table(
        "The work view of each quilt, one after the other",
        ["", "quilts", "median, s", "worst, s"],
        rows,
    )


class _Found:
    def __init__(self) -> None:
        self.times: dict[str, list[float]] = defaultdict(list)
        self.statuses: Counter[int] = Counter()
        self.made = 0
        self.lock = threading.Lock()

    def add(self, name: str, status: int, seconds: float) -> None:
        """One answer."""
        with self.lock:
            self.times[name].append(seconds)
            self.times["all"].append(seconds)
            self.statuses[status] += 1


def _at(times: list[float], share: float) -> float:
    return times[min(int(share * len(times)), len(times) - 1)]


def _minute(here: World, beside: bool) -> _Found:
    found, ends = _Found(), time.perf_counter() + SECONDS
    threads = [threading.Thread(target=_work, args=(here, person, number, ends, found))
               for number, person in enumerate(here.people)]  # fmt: skip
    if beside:
        threads.append(threading.Thread(target=_plans, args=(here, ends, found)))
        threads.append(threading.Thread(target=_imports, args=(here, ends, found)))
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    return found


def _work(here: World, person: Person, seed: int, ends: float, found: _Found) -> None:
    chance = random.Random(seed)
    names = [*PAGES, "a note"]
    weights = [*(weight for weight, _ in PAGES.values()), EDITS]
    time.sleep(chance.uniform(0, PAUSE[1]))
    while time.perf_counter() < ends:
        (name,) = chance.choices(names, weights)
        job = chance.choice(person.jobs)
        if name == "a note":
            answer = here.ask(person, f"/jobs/{job}/book/", {"text": f"note {chance.random()}"})
        else:
            answer = here.ask(person, PAGES[name][1].format(job=job))
        found.add(name, answer.status, answer.seconds)
        time.sleep(chance.uniform(*PAUSE))


def _plans(here: World, ends: float, found: _Found) -> None:
    """A plan after the other, of the sampler of one studio after the other."""
    number = 1
    while time.perf_counter() < ends:
        person = here.people[number * 5 % len(here.people)]
        here.ask(person, f"/jobs/{person.jobs[0]}/plan/", {})
        found.made += 1
        number += 1
        time.sleep(6)


def _imports(here: World, ends: float, found: _Found) -> None:
    """An archive after the other, taken out and in again; and drawings and posters asked for."""
    person = here.people[-1]
    while time.perf_counter() < ends:
        archive = here.ask(person, f"/jobs/{person.jobs[0]}/archive.json", whole=True)
        taken = here.send(person, "/jobs/import/", "archive", archive.text.encode())
        here.ask(person, f"/jobs/{person.jobs[0]}/papers/drawing/", {})
        here.ask(person, f"/jobs/{person.jobs[1]}/papers/poster/", {})
        found.made += taken.status == 302
        time.sleep(4)
