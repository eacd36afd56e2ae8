"""Work that comes round by itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from procrastinate.contrib.django import app
from procrastinate.jobs import Status

if TYPE_CHECKING:
    from procrastinate import JobContext

GONE = 45
"""Seconds without a sign of life after which a worker is gone: it gives one each ten."""
TRIES = 2
"""How often work is begun that its worker did not survive: it may be what the worker did not survive."""


@app.periodic(cron="17 3 * * *")
@app.task(queue="plans", pass_context=False)
def clear_out_jobs(timestamp: int) -> None:
    """Each night: what was deleted long enough ago goes for good."""
    from studio.jobs.keeping import clear_out

    clear_out()


@app.periodic(cron="* * * * *")
@app.task(queue="readings", queueing_lock="take-up", pass_context=True)
async def take_up_again(context: JobContext, timestamp: int) -> None:
    """Each minute: what a worker had in hand that was killed, or whose machine went off, is begun once more
    by one that lives; nobody has to ask for it again."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=GONE):
        if job.attempts + 1 < TRIES:
            await manager.retry_job(job)
        else:
            await manager.finish_job(job, Status.FAILED, delete_job=False)
