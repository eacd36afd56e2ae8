"""The document of a job: its shape is that of these and the core's dataclasses, and nothing else.

Reader, writer and JSON Schema all follow from the annotations (msgspec); what only this format has is
said here: polygons are lists of rings, a zone that is one patch leaves its polygon out, a layout
carries its kind.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields, replace
from typing import Annotated, Any, Literal

import msgspec
import numpy as np
from msgspec import Meta
from shapely.geometry import Polygon, mapping
from shapely.validation import explain_validity

from chorograph_core.chart import Chart, ChartError
from chorograph_core.designs.legend import Entry, Thread, ZoneId
from chorograph_core.estimating import Intake
from chorograph_core.job import Named
from chorograph_core.layouts import LARGEST_TOP, LAYOUTS, Layout
from chorograph_core.measure.limits import Day, Name
from chorograph_core.reckon import Machine
from chorograph_core.route import Policy
from chorograph_core.route.handing_over import Handover
from chorograph_core.rulers import Ruler
from chorograph_core.zones.model import Kind

FORMAT: Literal["chorograph-job"] = "chorograph-job"
VERSION = 4
DIALECT = "https://json-schema.org/draft/2020-12/schema"
MOST_POINTS = 400_000
"""Points of one polygon; those of a whole document are counted by the reader."""


@dataclass(frozen=True)
class ZoneEntry:
    """A zone as it is written: *polygon* is left out where the zone is one patch."""

    id: ZoneId
    patches: Annotated[tuple[str, ...], Meta(max_length=20_000)] = ()
    kind: Kind = "patch"
    label: Name = ""
    forbidden: bool = False
    polygon: Polygon | None = None
    whole: Polygon | None = None


@dataclass(frozen=True)
class Document:
    """A job as it is stored. Lengths in inches, x right, y down."""

    format: Literal["chorograph-job"]
    version: Annotated[int, Meta(ge=1)]
    units: Literal["in"] = "in"
    title: Name = "Untitled"
    client: Name = ""
    due: Day | None = ""
    survey: Layout | None = None
    blocks: Annotated[tuple[dict[str, Any], ...], Meta(max_length=200)] = ()
    chart: Chart | None = None
    zones: Annotated[tuple[ZoneEntry, ...], Meta(max_length=20_000)] | None = None
    legend: Annotated[tuple[Entry, ...], Meta(max_length=500)] = ()
    groups: Annotated[tuple[Named, ...], Meta(max_length=500)] = ()
    threads: Annotated[tuple[Thread, ...], Meta(max_length=200)] = ()
    rulers: Annotated[tuple[Ruler, ...], Meta(max_length=200)] = ()
    machine: Machine = field(default_factory=Machine)
    policy: Policy = field(default_factory=Policy)
    handover: Handover | None = None
    intake: Intake | None = None


def read(value: Any, kind: type) -> Any:
    """Plain JSON as an instance of *kind*; raises `msgspec.ValidationError` naming the place."""
    return msgspec.convert(value, kind, dec_hook=_read_own)


def write(value: Any) -> Any:
    """What `read` reads back as the same value: lists, objects, numbers, text."""
    return msgspec.json.decode(msgspec.json.encode(value, enc_hook=_write_own))


def schema_id(name: str, version: int) -> str:
    """The name by which a schema is known wherever it lies; nothing is fetched from there."""
    return f"https://chorograph.example/schemas/{name}-{version}.json"


def json_schema() -> dict[str, Any]:
    """The JSON Schema of a document, made from the annotations."""
    made = write(msgspec.json.schema(Document, schema_hook=_schema_of_own))
    return {
        "$schema": DIALECT,
        "$id": schema_id("archive", VERSION),
        "title": "Chorograph job archive",
        "description": "One job. All lengths are inches, x right, y down, origin at the top left "
        "corner of the top.",
        **made,
    }


def _read_own(kind: type, value: Any) -> Any:
    if kind is Polygon:
        return polygon(value)
    if kind is Layout:
        return layout(value)
    raise NotImplementedError(kind)


def _write_own(value: Any) -> Any:
    if isinstance(value, Polygon):
        return [[list(point) for point in ring[:-1]] for ring in mapping(value)["coordinates"]]
    raise NotImplementedError(type(value))


def _schema_of_own(kind: type) -> dict[str, Any]:
    if kind is Polygon:
        point = {"type": "array", "minItems": 2, "maxItems": 2, "items": {"type": "number"}}
        return {
            "type": "array",
            "minItems": 1,
            "items": {"type": "array", "minItems": 3, "items": point},
            "description": "rings of [x, y] points, the outer one first; the last joins the first",
        }
    if kind is Layout:
        return {
            "type": "object",
            "required": ["kind"],
            "properties": {"kind": {"enum": list(LAYOUTS)}},
            "description": "the numbers of a layout; which there are depends on its kind",
        }
    raise NotImplementedError(kind)


def polygon(rings: Any) -> Polygon:
    """A polygon from rings of [x, y] pairs, the outer ring first. Raises ValueError."""
    if not isinstance(rings, (list, tuple)) or not rings:
        raise ValueError("A polygon needs a ring.")
    made = []
    for ring in rings:
        if not isinstance(ring, (list, tuple)) or len(ring) > MOST_POINTS:
            raise ValueError("A ring is a list of [x, y] pairs of numbers.")
        try:
            points = np.asarray(ring, dtype=float)
        except (ValueError, TypeError, OverflowError):
            raise ValueError("A ring is a list of [x, y] pairs of numbers.") from None
        if points.ndim != 2 or points.shape[1] != 2 or len(points) < 3:
            raise ValueError("A ring needs at least three [x, y] points.")
        if not np.isfinite(points).all():
            raise ValueError("A point is not a number.")
        if np.abs(points).max() > 4 * LARGEST_TOP:
            raise ValueError("A point lies further out than any quilt reaches.")
        made.append(points)
    shape = Polygon(made[0], made[1:])
    if not shape.is_valid:
        raise ValueError(f"The polygon crosses itself ({explain_validity(shape)}).")
    if shape.area < 1e-4:
        raise ValueError("The polygon has no area.")
    return shape


def layout(entry: Any) -> Layout:
    """A layout from its numbers, checked. Raises `ChartError` naming the field."""
    if not isinstance(entry, dict):
        raise ChartError("This should be an object.", "")
    kind = entry.get("kind", "straight_set")
    if kind not in LAYOUTS:
        raise ChartError(f"There is no layout called “{kind}”.", "kind")
    made_of = LAYOUTS[kind]
    values = {key: value for key, value in entry.items() if key not in ("kind", "fabrics")}
    unknown = sorted(set(values) - {each.name for each in fields(made_of)})  # type: ignore[arg-type]
    if unknown:
        raise ChartError(f"There is no “{unknown[0]}” here.", unknown[0])
    try:
        made = msgspec.convert(values, made_of)
    except msgspec.ValidationError as error:
        what, where = in_words(error)
        raise ChartError(what, where) from None
    made.check()
    return made


def write_layout(survey: Layout) -> dict[str, Any]:
    """What `layout` reads back as the same layout. Its fabrics stand in the chart."""
    values = msgspec.to_builtins(replace(survey, fabrics=()))  # type: ignore[type-var]
    del values["fabrics"]
    return {"kind": survey.kind, **write(values)}


_TYPES = {
    "str": "text", "int": "a whole number", "float": "a number", "bool": "true or false",
    "array": "a list", "object": "an object", "null": "nothing",
}  # fmt: skip


def in_words(error: msgspec.ValidationError) -> tuple[str, str]:
    """What is wrong and where, as a quilter can read it: from msgspec's short English."""
    text, _, place = str(error).partition(" - at `")
    where = place.rstrip("`").removeprefix("$").lstrip(".").replace("[...]", "")
    words = text
    for short, long in _TYPES.items():
        words = words.replace(f"`{short}`", long)
    words = words.replace(" | ", " or ").replace("of length", "of a length")
    if words.startswith("Expected"):
        words = "This should be " + words.removeprefix("Expected ")
    elif words.startswith("Invalid enum value"):
        words = words.replace("Invalid enum value ", "This cannot be ").replace("'", "”")
        words = words.replace("be ”", "be “", 1)
    elif words.startswith("Object missing required field"):
        words = words.replace("Object missing required field `", "“").replace("`", "” is missing")
    return (words if words.endswith(".") else f"{words}."), where
