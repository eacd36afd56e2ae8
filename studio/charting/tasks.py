"""Work for the background worker."""

from __future__ import annotations

from procrastinate.contrib.django import app

from studio.charting.models import Reading


@app.task(queue="readings")
def read_drawing_in(reading_id: int) -> None:
    """Read a large drawing into a chart."""
    from studio.charting.readings import carry_out

    reading = Reading.objects.select_related("job__studio").filter(pk=reading_id).first()
    if reading is None or reading.state not in ("queued", "running"):
        return
    try:
        carry_out(reading)
    except Exception:
        Reading.objects.filter(pk=reading_id).update(
            state="failed", data=b"", message="Reading it broke off. The job is as it was."
        )
        raise
