"""Designs: what is stitched in a zone, as one contract with one file for each design."""

from chorograph_core.designs.contract import (
    SPILL,
    TECHNIQUES,
    Design,
    Fit,
    Linework,
    Mark,
    Parameter,
    RulerMove,
    Run,
    SettingError,
    Space,
    Span,
)
from chorograph_core.designs.registry import design, designs

__all__ = [
    "SPILL",
    "TECHNIQUES",
    "Design",
    "Fit",
    "Linework",
    "Mark",
    "Parameter",
    "RulerMove",
    "Run",
    "SettingError",
    "Space",
    "Span",
    "design",
    "designs",
]
