"""The work view in a real browser: how long until it is drawn, until a change is seen."""

from __future__ import annotations

import statistics
import subprocess
import time
from pathlib import Path

from bench.server import served, signed_in
from bench.table import table


def main() -> None:
    """Start a server on the benchmark's own database and look at the sampler."""
    with served() as (address, server), signed_in(address) as page:
        _look(page, address, server)


def _look(page, address: str, server: subprocess.Popen) -> None:
    page.click("table a >> text=Kelp Road Sampler")
    page.wait_for_selector("#work[data-drawn]")
    work = page.url.split("?")[0] + "?stage=designs"
    opened = _opened(page, work, 6)
    page.click(".legend-entry >> nth=3")
    page.wait_for_selector("#work[data-tried]")
    seen = []
    for gap in ("7/16", "1/2", "5/8", "9/16", "11/16"):
        page.evaluate("document.getElementById('work').removeAttribute('data-tried')")
        page.fill("#s-gap", gap)
        page.wait_for_selector("#work[data-tried]")
        seen.append(float(page.get_attribute("#work", "data-tried")))
    spacing = []
    page.click("[data-act=close-drawer]")
    page.wait_for_selector(".legend-entry")
    page.click(".legend-entry >> nth=0")
    page.wait_for_selector("#s-spacing")
    page.wait_for_timeout(500)
    for each in ("1/2", "5/8", "7/8", "1", "9/16"):
        page.evaluate("document.getElementById('work').removeAttribute('data-tried')")
        page.fill("#s-spacing", each)
        page.wait_for_selector("#work[data-tried]")
        spacing.append(float(page.get_attribute("#work", "data-tried")))
    large, frames, patches = _large(page, address)
    table(
        "Work view of the demo sampler, warm server",
        ["", "median", "worst", "limit"],
        [
            ["page drawn, ms", 1000 * statistics.median(opened), 1000 * max(opened), 1500.0],
            ["meander changed in 56 zones, ms", statistics.median(seen), max(seen), 300.0],
            ["crosshatch changed in 7 zones, ms", statistics.median(spacing), max(spacing), 300.0],
            [f"sheet of {patches:,} patches drawn, ms", 1000 * statistics.median(large),
             1000 * max(large), 2000.0],
            ["frames a second while it is dragged (30 at least)", frames, "", ""],
            ["memory of the web process, MB", _megabytes(server.pid), "", 400.0],
        ],
    )  # fmt: skip


def _opened(page, work: str, times: int) -> list[float]:
    """Seconds until the work view is drawn, *times* over."""
    seconds = []
    for _ in range(times):
        began = time.perf_counter()
        page.goto(work)
        page.wait_for_selector("#work[data-drawn]")
        seconds.append(time.perf_counter() - began)
    return seconds


def _large(page, address: str) -> tuple[list[float], float, int]:
    """A top of 2,500 patches: seconds until it is drawn, frames a second while it is dragged."""
    page.goto(f"{address}/jobs/new/")
    for name, value in (("title", "Large"), ("block_size", "6"), ("rows", "17"), ("columns", "16"),
                        ("sashing", ""), ("border1", ""), ("border2", "")):  # fmt: skip
        page.fill(f"#id_{name}", value)
    page.select_option("#id_block", "nine_patch")
    page.click("text=Make the chart")
    page.wait_for_selector("#work[data-drawn]")
    work = page.url.split("?")[0] + "?stage=zones"
    opened = _opened(page, work, 4)
    box = page.locator("#zones").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    for _ in range(3):
        page.mouse.wheel(0, -200)
    page.wait_for_timeout(500)
    page.evaluate(
        """() => { window.seen = 0; const tick = () => { window.seen += 1; requestAnimationFrame(tick); };
                   requestAnimationFrame(tick); }"""
    )
    page.mouse.down()
    began = time.perf_counter()
    for k in range(60):
        page.mouse.move(x + 90 * ((k % 20) / 20 - 0.5), y + 60 * ((k % 14) / 14 - 0.5))
    seconds = time.perf_counter() - began
    frames = page.evaluate("window.seen") / seconds
    page.mouse.up()
    return opened, frames, page.locator(".zone").count()


def _megabytes(parent: int) -> float:
    """Resident memory of the largest worker."""
    sizes = []
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            text = status.read_text()
        except OSError:
            continue
        if f"PPid:\t{parent}\n" in text:
            sizes.append(
                int(next(x for x in text.splitlines() if x.startswith("VmRSS")).split()[1]) / 1024
            )
    return max(sizes, default=0.0)
