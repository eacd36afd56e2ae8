"""What each role may not do, by the names of addresses; everything else it may."""

from __future__ import annotations

from studio.accounts.models import Role

PRICED = frozenset({
    "prices", "quotes", "quote", "quote-pdf", "make-link", "revoke-link", "finish", "invoice",
    "invoice-pdf", "outbox", "consult-sheet", "consult-sheet-pdf", "audition-pdf",
    "export-job", "studio-data", "table-quotes",
})  # fmt: skip
"""Pages on which money stands, or letters to clients."""
OWNED = frozenset({
    "people", "invite", "invitation-back", "member-role", "member-out", "house", "house-ways", "house-rates",
    "take-lesson", "studio-data", "studio-data-in",
    "calendar-key",
})  # fmt: skip
"""Pages on which a studio is run."""
KEPT = frozenset({"job-more", "job-keep", "resting"})
"""Pages on which jobs are put away or deleted."""
DENIED: dict[str, frozenset[str]] = {
    Role.OWNER: frozenset(), Role.QUILTER: OWNED, Role.HELPER: PRICED | OWNED | KEPT,
}  # fmt: skip


def may(role: str, name: str | None) -> bool:
    """Whether somebody in a *role* may open the address called *name*."""
    return name not in DENIED.get(role, PRICED | OWNED | KEPT)


def why_not(role: str) -> str:
    """What is said to somebody who may not."""
    if role == Role.HELPER:
        return "Prices, clients’ letters and the running of the studio are for others here. Ask the owner."
    return "Who works here and how the studio is run is for its owner. Ask her."
