"""Lengths as a quilter writes and reads them."""

from chorograph_core.measure.lengths import (
    CM_PER_INCH,
    INCHES_PER_YARD,
    METRES_PER_INCH,
    METRES_PER_YARD,
    SQ_METRES_PER_SQ_INCH,
    LengthError,
    format_cm,
    format_density,
    format_inches,
    format_length,
    format_yards,
    in_units,
    parse_length,
    written_length,
)

__all__ = [
    "CM_PER_INCH",
    "INCHES_PER_YARD",
    "METRES_PER_INCH",
    "METRES_PER_YARD",
    "SQ_METRES_PER_SQ_INCH",
    "LengthError",
    "format_cm",
    "format_density",
    "format_inches",
    "format_length",
    "format_yards",
    "in_units",
    "parse_length",
    "written_length",
]
