"""Estimating: what a top measures, what goes under it, what it costs, when it is done."""

from chorograph_core.estimating.backing import BackingPlan, Piecing, backing_plan
from chorograph_core.estimating.batting import batting_size, fabric_notes
from chorograph_core.estimating.calendar import (
    Booked,
    Move,
    Promise,
    WorkWeek,
    earliest,
    pushed_in,
    schedule,
)
from chorograph_core.estimating.edges import EdgeEffect, edge_effect, finish_in_words
from chorograph_core.estimating.findings import Finding, materials_findings
from chorograph_core.estimating.intake import (
    CONDITIONS,
    Backing,
    Batting,
    Condition,
    Intake,
    Wishes,
)
from chorograph_core.estimating.measuring import (
    SIDES,
    Fullness,
    Measures,
    MeasuringError,
    Shape,
    fullness,
    shape_of,
)
from chorograph_core.estimating.price import (
    Asked,
    Level,
    Offer,
    PriceError,
    PriceList,
    booked_hours,
    finishing_hours,
    offer,
)

__all__ = [
    "CONDITIONS",
    "SIDES",
    "Asked",
    "Backing",
    "BackingPlan",
    "Batting",
    "Booked",
    "Condition",
    "EdgeEffect",
    "Finding",
    "Fullness",
    "Intake",
    "Level",
    "Measures",
    "MeasuringError",
    "Move",
    "Offer",
    "Piecing",
    "PriceError",
    "PriceList",
    "Promise",
    "Shape",
    "Wishes",
    "WorkWeek",
    "backing_plan",
    "batting_size",
    "booked_hours",
    "earliest",
    "edge_effect",
    "fabric_notes",
    "finish_in_words",
    "finishing_hours",
    "fullness",
    "materials_findings",
    "offer",
    "pushed_in",
    "schedule",
    "shape_of",
]
