"""Work for the background worker."""

from __future__ import annotations

from procrastinate.contrib.django import app


@app.task(queue="plans")
def print_paper(paper_id: int, key: str) -> None:
    """Make a paper that was asked for."""
    from studio.papers.making import carry_out

    carry_out(paper_id, key)
