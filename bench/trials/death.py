"""Web processes and the database are killed while people write: what was answered is there afterwards."""

from __future__ import annotations

import os
import signal
import threading
import time

import psycopg

from bench.table import table
from bench.trials.world import World

WRITERS, TIMES = 8, 5


def main(here: World) -> None:
    """Print what was answered, what is there, and how long nobody was answered."""
    rows = []
    for name, kill in (("a web process", _web), ("the database", _database)):
        stop, answered, refused = threading.Event(), [], []

        def write(number: int, word: str, stop=stop, answered=answered, refused=refused) -> None:
            person, k = here.people[number], 0
            while not stop.is_set():
                words = f"{word} {number}-{k}"
                answer = here.ask(person, f"/jobs/{person.jobs[1]}/book/", {"text": words})
                (answered if answer.status in (200, 302) else refused).append(words)
                k += 1
                time.sleep(0.01)

        threads = [threading.Thread(target=write, args=(number, f"killed {name}"))
                   for number in range(WRITERS)]  # fmt: skip
        for each in threads:
            each.start()
        away = []
        for _ in range(TIMES):
            time.sleep(1.5)
            kill(here)
            away.append(here.answers())
        stop.set()
        for each in threads:
            each.join()
        with psycopg.connect(here.cluster.address) as link:
            query = "select text from job_log_entry where text like %s"
            found = {row[0] for row in link.execute(query, [f"killed {name} %"])}
        lost = set(answered) - found
        rows.append([name, TIMES, len(answered), len(lost), len(refused), max(away)])
        assert answered and not lost, sorted(lost)[:5]
    table("Killed while eight people write", ["killed", "times", "notes answered", "lost", "refused",
                                              "longest silence, s"], rows)  # fmt: skip


def _web(here: World) -> None:
    os.kill(here.web_processes()[0], signal.SIGKILL)


def _database(here: World) -> None:
    """As by loss of power: no time to write anything down."""
    cluster = here.cluster
    assert cluster.process is not None
    cluster.process.send_signal(signal.SIGQUIT)
    cluster.process.wait(20)
    cluster.start(cluster.port)
