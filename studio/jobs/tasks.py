"""Work that comes round by itself."""

from __future__ import annotations

from procrastinate.contrib.django import app


@app.periodic(cron="17 3 * * *")
@app.task(queue="plans", pass_context=False)
def clear_out_jobs(timestamp: int) -> None:
    """Each night: what was deleted long enough ago goes for good."""
    from studio.jobs.keeping import clear_out

    clear_out()
