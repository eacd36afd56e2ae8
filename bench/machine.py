"""At the machine and in a long log: how soon a tap shows, a page opens, a hand is learned."""

from __future__ import annotations

import statistics
import time
import uuid
from datetime import timedelta

from bench.server import served, signed_in
from bench.table import table

JOBS, TAPS = 200, 100_000
TIMES = 15
SHOWS = """() => {
  const began = performance.now();
  document.querySelector("[data-tap=done]").click();
  return new Promise((seen) => requestAnimationFrame(() => seen(performance.now() - began)));
}"""


def main() -> None:
    """Start a server on the benchmark's own database; follow the sampler, then fill the log."""
    with served() as (address, _), signed_in(address) as page:
        page.click("table a >> text=Kelp Road Sampler")
        page.wait_for_selector("#work[data-drawn]")
        job = page.url.split("/jobs/")[1].split("/")[0]
        stitch = f"{address}/jobs/{job}/stitch/"
        opened = [_opened(page, stitch) for _ in range(8)][2:]
        taps = _tapped(page)
        page.wait_for_selector("#stitch[data-waiting='0']")
        page.context.set_offline(True)
        apart = _tapped(page)
        page.context.set_offline(False)
        table(
            "At the machine, the demo sampler, warm server",
            ["", "median", "worst", "aim"],
            [
                ["page opened and drawn, ms", _ms(statistics.median(opened)), _ms(max(opened)), 1000.0],
                ["a tap shows, ms", statistics.median(taps), max(taps), 100.0],
                ["a tap shows without a line, ms", statistics.median(apart), max(apart), 100.0],
            ],
        )  # fmt: skip
        full = _fill(job)
        rows = []
        for name, path in (("log of one job", f"/jobs/{full}/log/"), ("rates of her own", "/lesson/"),
                           ("list of jobs", "/jobs/"), ("at the machine", f"/jobs/{job}/stitch/plan/"),
                           ("finish", f"/jobs/{full}/finish/"), ("search", "/find/?q=indigo")):  # fmt: skip
            took = sorted(_asked(page, address + path) for _ in range(TIMES))
            rows.append([name, took[len(took) // 2], took[int(0.95 * (len(took) - 1))], 500.0])
        table(
            f"Pages beside a log of {JOBS} jobs and {TAPS:,} taps",
            ["ms", "median", "p95", "aim"],
            rows,
        )


def _ms(seconds: float) -> float:
    return 1000 * seconds


def _opened(page, address: str) -> float:
    began = time.perf_counter()
    page.goto(address)
    page.wait_for_selector("#stitch[data-loaded='1']")
    took = time.perf_counter() - began
    while page.locator("dialog[open] [data-close]").count():
        page.locator("dialog[open] [data-close]").first.click()
    return took


def _tapped(page) -> list[float]:
    """Milliseconds from a tap until the next leg is drawn."""
    found = []
    for _ in range(12):
        found.append(page.evaluate(SHOWS))
        page.wait_for_timeout(120)
        while page.locator("dialog[open] [data-close]").count():
            page.locator("dialog[open] [data-close]").first.click()
    return found


def _asked(page, address: str) -> float:
    began = time.perf_counter()
    answer = page.request.get(address)
    assert answer.status == 200, (address, answer.status)
    return 1000 * (time.perf_counter() - began)


def _fill(sampler: str) -> str:
    """Many jobs with many taps, straight into the database; returns one of them."""
    import django

    django.setup()
    from django.utils import timezone

    from chorograph_core.tests.shapes import designed, small_top
    from studio.jobs.models import Job
    from studio.jobs.revisions import create_job
    from studio.stitching.following import facts_of, followed
    from studio.stitching.models import Tap

    job = Job.objects.select_related("head", "studio").get(pk=sampler)
    now = followed(job, "in")
    from studio.jobs.revisions import core_job

    facts = [facts_of(leg, core_job(job)) for leg in now.legs]
    core = designed(small_top())
    begin = timezone.now() - timedelta(days=700)
    jobs = [create_job(job.studio, None, core, "made for the benchmark") for _ in range(JOBS)]
    made: list[Tap] = []
    for number in range(TAPS):
        leg = number % len(facts)
        made.append(Tap(
            job=jobs[number * JOBS // TAPS], key=uuid.uuid4(), device="tablet", seq=number,
            at=begin + timedelta(minutes=number * 10), kind="done", plan=None, leg=leg,
            lasted=1.2 * facts[leg]["seconds"] + 1, facts=facts[leg],
        ))  # fmt: skip
        if len(made) == 5000:
            Tap.objects.bulk_create(made)
            made = []
    Tap.objects.bulk_create(made)
    return str(jobs[7].pk)
