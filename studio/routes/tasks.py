"""Work for the background worker."""

from __future__ import annotations

from procrastinate.contrib.django import app

from studio.routes.models import Plan


@app.task(queue="plans")
def plan_route(plan_id: int) -> None:
    """Plan the route asked for."""
    from studio.routes.planning import carry_out

    plan = Plan.objects.select_related("job__head").filter(pk=plan_id).first()
    if plan is not None and plan.state not in ("done", "left"):
        try:
            carry_out(plan)
        except Exception:
            Plan.objects.filter(pk=plan_id).update(
                state="failed", message="Planning broke off. The job is as it was; try again."
            )
            raise


@app.task(queue="plans")
def print_run_sheet(plan_id: int) -> None:
    """Make the run sheet's PDF."""
    from studio.routes.printing import run_sheet_pdf

    plan = Plan.objects.select_related("job__head", "job__studio").filter(pk=plan_id).first()
    if plan is None or plan.state != "done":
        return
    try:
        plan.pdf = run_sheet_pdf(plan)
        plan.pdf_state = "done"
    except Exception:
        Plan.objects.filter(pk=plan_id).update(pdf_state="failed")
        raise
    plan.save(update_fields=["pdf", "pdf_state"])
