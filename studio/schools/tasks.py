"""Work for the background worker."""

from __future__ import annotations

from procrastinate.contrib.django import app

from studio.schools.models import Weighed


@app.task(queue="plans")
def weigh(weighed_id: int) -> None:
    """Plan one way of working."""
    from studio.schools.weighing import carry_out

    one = Weighed.objects.select_related("job__head", "told").filter(pk=weighed_id).first()
    if one is None or one.state != "queued":
        return
    try:
        carry_out(one)
    except Exception:
        Weighed.objects.filter(pk=weighed_id).update(
            state="failed", says="The planning broke off; price it again."
        )
        raise
