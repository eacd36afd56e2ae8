"""Designs: what is stitched in a zone, as one contract with one file for each design."""

from chorograph_core.designs.contract import SPILL, Design, Fit
from chorograph_core.designs.linework import TECHNIQUES, Linework, Mark, Run, Span, Unit
from chorograph_core.designs.registry import broken_designs, design, designs, of_role
from chorograph_core.designs.settings import Parameter, SettingError, Settings
from chorograph_core.designs.space import Frame, Space, SpaceSeam

__all__ = [
    "SPILL",
    "TECHNIQUES",
    "Design",
    "Fit",
    "Frame",
    "Linework",
    "Mark",
    "Parameter",
    "Run",
    "SettingError",
    "Settings",
    "Space",
    "SpaceSeam",
    "Span",
    "Unit",
    "broken_designs",
    "design",
    "designs",
    "of_role",
]
