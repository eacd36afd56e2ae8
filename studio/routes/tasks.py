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


@app.task(queue="plans")
def print_run_sheet(plan_id: int, body: str) -> None:
    """Make the run sheet's PDF from the document *body*, the one it was asked for from.

    If the job has another by now, or another sheet was asked for, this one is nobody's.
    """
    from studio.routes.printing import run_sheet_pdf

    plan = Plan.objects.select_related("job__head", "job__studio").filter(pk=plan_id).first()
    if plan is None or plan.state != "done" or plan.pdf_key != plan.key_for(body):
        return
    asked = Plan.objects.filter(pk=plan_id, pdf_key=plan.pdf_key)
    if plan.job.head.body_id != body:
        asked.update(pdf_state="", pdf_key="")
        return
    try:
        made = run_sheet_pdf(plan)
    except Exception:
        asked.update(pdf_state="failed")
        raise
    asked.update(pdf=made, pdf_state="done")
