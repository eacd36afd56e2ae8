"""What a change of the intake changed, in words for the job book; and what is still missing."""

from __future__ import annotations

from chorograph_core.estimating import CONDITIONS
from chorograph_core.job import Job as CoreJob
from chorograph_core.measure import format_length
from studio.intake.forms import APPLIQUE, FINISHES, MEASURES


def missing(core: CoreJob) -> list[str]:
    """What the consult has not brought yet, shortest words first to be asked."""
    intake = core.intake
    found = []
    if None in (*intake.measures.widths, *intake.measures.heights):
        found.append("measures")
    if not intake.taken:
        found.append("date held")
    if intake.backing is None:
        found.append("backing")
    if intake.batting is None:
        found.append("batting")
    if not intake.wishes.level:
        found.append("level")
    if not core.due:
        found.append("due date")
    return found


def describe(before: CoreJob, after: CoreJob, units: str = "in") -> str:
    """The differences between two jobs' intakes as one line of the book."""
    old, new = before.intake, after.intake
    said: list[str] = []

    def tell(name: str, was, now) -> None:
        if was != now:
            said.append(f"{name}: {now or 'taken back'}")

    tell("Title", before.title, after.title)
    tell("Client", before.client, after.client)
    tell("Phone and address", bool(old.contact), "noted" if new.contact else "")
    tell("Consult held", old.taken, new.taken)
    tell("Wanted by", before.due, after.due)
    tell("The quilt is here from", old.at_hand, new.at_hand)
    tell("Level", old.wishes.level, new.wishes.level)
    tell("Edge", before.policy.edge_finish, dict(FINISHES)[after.policy.edge_finish]
         if before.policy.edge_finish != after.policy.edge_finish else before.policy.edge_finish)  # fmt: skip
    if before.policy.applique != after.policy.applique:
        said.append(f"Appliqué: {dict(APPLIQUE)[after.policy.applique]}")
    was, now = ([t.name for t in core.threads] for core in (before, after))
    tell("Threads agreed", was, ", ".join(now) if was != now else was)
    tell("Machine", before.machine.name, after.machine.name)
    if old.batting != new.batting:
        layers = f", {new.batting.layers} layers" if new.batting and new.batting.layers > 1 else ""
        said.append(f"Batting: {new.batting.name + layers if new.batting else 'taken back'}")
    if old.backing != new.backing:
        size = ""
        if new.backing and new.backing.width and new.backing.height:
            size = (f"{format_length(new.backing.width, units)} × "
                    f"{format_length(new.backing.height, units)}")  # fmt: skip
        said.append(f"Backing: {size or 'noted'}" if new.backing else "Backing: taken back")
    for group, labels in MEASURES.items():
        pairs = zip(labels, getattr(old.measures, group), getattr(new.measures, group), strict=True)
        for label, was, now in pairs:
            if was != now:
                said.append(f"{label}: {format_length(now, units) if now else 'taken back'}")
    for kind, label in CONDITIONS.items():
        was, now = old.condition(kind), new.condition(kind)
        if was != now:
            said.append(f"{label}: {now.note or ('yes' if now.found else 'no')}")
    for name in ("style", "occasion", "budget", "note"):
        tell(name.capitalize(), getattr(old.wishes, name), getattr(new.wishes, name))
    for name, label in (("rush", "Rush"), ("bind", "Binding by the studio")):
        if getattr(old.wishes, name) != getattr(new.wishes, name):
            said.append(f"{label}: {'yes' if getattr(new.wishes, name) else 'no'}")
    if old.wishes.repair_hours != new.wishes.repair_hours:
        said.append(f"Repairs: {new.wishes.repair_hours:g} h")
    return f"Intake. {'; '.join(said)}" if said else "Intake"
