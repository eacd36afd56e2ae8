"""Work for the background worker."""

from __future__ import annotations

from datetime import UTC, datetime

from procrastinate.contrib.django import app

from studio.routes.models import Plan

LONG_AGO = datetime(2000, 1, 1, tzinfo=UTC)


@app.task(queue="plans")
def plan_route(plan_id: int) -> None:
    """Plan the route asked for."""
    from studio.routes.planning import carry_out

    plan = Plan.objects.select_related("job__head", "told").filter(pk=plan_id).first()
    if plan is not None and (plan.state not in ("done", "left") or plan.first):
        try:
            carry_out(plan)
        except Exception:
            broken = Plan.objects.filter(pk=plan_id)
            # A first answer stays, but nobody works on it any more.
            broken.filter(state="done").update(improving=False, heard_of=LONG_AGO)
            broken.exclude(state="done").update(
                state="failed", message="Planning broke off. The job is as it was; try again."
            )
            raise
