"""The intake of a job in its archive: plain JSON both ways."""

from __future__ import annotations

from dataclasses import asdict, fields
from typing import Any

from chorograph_core.estimating import Backing, Batting, Condition, Intake, Measures, Wishes


def read_intake(entry: dict[str, Any] | None) -> Intake:
    """An intake from JSON that fits the schema. Raises `MeasuringError` for a measure too large."""
    if entry is None:
        return Intake()
    measures = Measures(**{k: tuple(v) for k, v in entry.get("measures", {}).items()})
    measures.check()
    return Intake(
        entry.get("taken", ""),
        entry.get("contact", ""),
        measures,
        tuple(Condition(**each) for each in entry.get("conditions", ())),
        Backing(**entry["backing"]) if entry.get("backing") else None,
        Batting(**entry["batting"]) if entry.get("batting") else None,
        Wishes(**entry.get("wishes", {})),
    )


def write_intake(intake: Intake) -> dict[str, Any] | None:
    """JSON that `read_intake` reads back as the same intake; None for an empty one."""
    if intake == Intake():
        return None
    return {
        "taken": intake.taken,
        "contact": intake.contact,
        "measures": {f.name: list(getattr(intake.measures, f.name)) for f in fields(Measures)},
        "conditions": [asdict(each) for each in intake.conditions],
        "backing": asdict(intake.backing) if intake.backing else None,
        "batting": asdict(intake.batting) if intake.batting else None,
        "wishes": asdict(intake.wishes),
    }
