"""Open formats in and out: the job archive, the route as JSON and SVG, drawings as SVG."""

from chorograph_core.formats.archive import (
    FORMAT,
    LARGEST,
    VERSION,
    ArchiveError,
    read_archive,
    read_document,
    write_archive,
    write_document,
)
from chorograph_core.formats.drawing import drawing_svg
from chorograph_core.formats.ical import calendar_file
from chorograph_core.formats.route_drawing import route_svg
from chorograph_core.formats.route_files import (
    away_passes,
    read_steps,
    route_json,
    route_summary,
)
from chorograph_core.formats.run_sheet import RunSheet, places_in_words, run_sheet
from chorograph_core.formats.state_files import read_state, state_values

__all__ = [
    "FORMAT",
    "LARGEST",
    "VERSION",
    "ArchiveError",
    "RunSheet",
    "away_passes",
    "calendar_file",
    "drawing_svg",
    "places_in_words",
    "read_archive",
    "read_document",
    "read_state",
    "read_steps",
    "route_json",
    "route_summary",
    "route_svg",
    "run_sheet",
    "state_values",
    "write_archive",
    "write_document",
]
