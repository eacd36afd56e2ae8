"""Papers that the worker makes, where they are asked for."""

from __future__ import annotations

from django import template
from django.template import Context

from studio.jobs.models import Job
from studio.papers.kinds import KINDS
from studio.papers.making import paper_of

register = template.Library()


@register.inclusion_tag("papers/_paper.html", takes_context=True)
def paper(context: Context, job: Job, name: str) -> dict:
    """How the paper of a kind, by its *name*, stands: asked for, waited for, fetched."""
    kind = KINDS[name]
    token = context.get("csrf_token")
    return {"job": job, "kind": kind, "paper": paper_of(job, kind), "csrf_token": token}
