"""Saved while people write, restored into another database: what was answered before is in it."""

from __future__ import annotations

import contextlib
import io
import tempfile
import threading
import time
from pathlib import Path

import psycopg

from bench.table import table
from bench.trials.world import World
from launcher.cluster import Cluster
from launcher.saving import bring_back, save

WRITERS = 8


def main(here: World) -> None:
    """Print what was saved, and what came back."""
    stop, kept = threading.Event(), []

    def write(number: int) -> None:
        person = here.people[number]
        for k in range(10_000):
            if stop.is_set():
                return
            words = f"saved {number}-{k}"
            if here.ask(person, f"/jobs/{person.jobs[1]}/book/", {"text": words}).status in (
                200,
                302,
            ):
                kept.append(words)

    threads = [threading.Thread(target=write, args=(number,)) for number in range(WRITERS)]
    for each in threads:
        each.start()
    time.sleep(4)
    before, began = set(kept), time.perf_counter()
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "saved.tar"
        with contextlib.redirect_stdout(io.StringIO()):
            assert save(here.cluster, here.media, file) == 0
        took = time.perf_counter() - began
        stop.set()
        for each in threads:
            each.join()
        other = Cluster(Path(folder) / "postgres", throwaway=True)
        other.start()
        try:
            began = time.perf_counter()
            with contextlib.redirect_stdout(io.StringIO()):
                assert bring_back(other, Path(folder), file) == 0
            back = time.perf_counter() - began
            with psycopg.connect(other.address) as link:
                rows = link.execute("select text from job_log_entry where text like 'saved %'")
                found = {row[0] for row in rows}
        finally:
            other.stop()
        size = file.stat().st_size / 1e6
    lost = before - found
    table("Saved while eight people write", ["", ""], [
        ["notes answered before it began", len(before)],
        ["of these in what was restored", len(before & found)],
        ["notes written meanwhile", len(set(kept) - before)], ["seconds to save", took],
        ["seconds to restore", back], ["MB", size],
    ])  # fmt: skip
    assert before and not lost, sorted(lost)[:5]
