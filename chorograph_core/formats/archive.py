"""The job archive: one JSON file that holds everything stored as truth about a job.

docs/format.md describes it; archive.schema.json beside this file is its JSON Schema.
"""

from __future__ import annotations

import json
import re
from functools import cache
from importlib import resources
from typing import Any

import jsonschema
import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.validation import explain_validity

from chorograph_core.blocks.own_blocks import own_block
from chorograph_core.chart import Chart, ChartError, Fabric, Patch
from chorograph_core.designs import SettingError, designs
from chorograph_core.designs.legend import Entry, Layer, Thread
from chorograph_core.estimating import MeasuringError
from chorograph_core.formats.intake import read_intake
from chorograph_core.formats.layouts import read_layout
from chorograph_core.job import STARTING_THREADS, Job, Named
from chorograph_core.layouts import LARGEST_TOP, Layout
from chorograph_core.reckon import Machine, Rates
from chorograph_core.route import Policy
from chorograph_core.zones import Zone, zones_from_patches

FORMAT = "chorograph-job"
VERSION = 3
LARGEST = 20_000_000
"""Bytes. A king-size top with 2,400 zones takes about 2 MB."""
MOST_POINTS = 400_000
_STRANGE = re.compile(
    r"\0|\\u0000|\\u[dD][89abAB][0-9a-fA-F]{2}(?!\\u[dD][c-fC-F])"
    r"|(?<!\\u[dD][89abAB][0-9a-fA-F]{2})\\u[dD][c-fC-F][0-9a-fA-F]{2}"
)
"""Zero characters and halves of pairs: JSON can write them down, no database can hold them."""


class ArchiveError(ValueError):
    """The archive cannot be read. *where* names the field or line."""

    def __init__(self, message: str, where: str = "") -> None:
        super().__init__(f"{where}: {message}" if where else message)
        self.where = where


def read_archive(data: bytes) -> Job:
    """Read an archive. Raises `ArchiveError` with a sentence that names the field or line."""
    if len(data) > LARGEST:
        raise ArchiveError(
            f"The file is {len(data) / 1e6:.0f} MB; an archive is never over {LARGEST / 1e6:.0f} MB."
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise ArchiveError(
            "This is not text, so it is no archive.", f"byte {error.start}"
        ) from None
    if not text.strip("\0 \t\r\n"):
        raise ArchiveError("The file is empty.")
    strange = _STRANGE.search(text)
    if strange:
        line = text.count("\n", 0, strange.start()) + 1
        raise ArchiveError("There is a character that no writing has.", f"line {line}")
    try:
        document = json.loads(text, parse_constant=_refuse)
    except json.JSONDecodeError as error:
        cut = error.pos >= len(text.rstrip()) - 1
        what = "The file breaks off" if cut else f"The file is damaged ({error.msg.lower()})"
        raise ArchiveError(f"{what}.", f"line {error.lineno}") from None
    except RecursionError:
        raise ArchiveError("The file is nested too deeply to be an archive.") from None
    return read_document(document)


def _refuse(word: str) -> float:
    raise ArchiveError(f"“{word}” is not a number that a quilt can have.")


def read_document(document: Any, own: bool = False) -> Job:
    """Read an archive that is already parsed JSON. Raises `ArchiveError`.

    A document of our *own*, that `write_document` made and nobody has touched since, is not held
    against the schema again: that takes longer than all the rest.
    """
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ArchiveError(
            f"This is not a job archive (its format should be “{FORMAT}”).", "format"
        )
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        raise ArchiveError(
            f"This archive is of version {version}, made by a newer Chorograph; "
            f"this one reads up to version {VERSION}.",
            "version",
        )
    if not own:
        error = jsonschema.exceptions.best_match(_validator().iter_errors(document))
        if error is not None:
            raise ArchiveError(_in_words(error), _path(error.absolute_path))
    try:
        intake = read_intake(document.get("intake"))
    except MeasuringError as error:
        raise ArchiveError(str(error), f"intake.measures.{error.field}") from None
    _own_blocks(document.get("blocks", ()))
    survey = _survey(document.get("survey"))
    if document.get("chart") is not None:
        chart = _chart(document["chart"])
    elif survey is not None:
        chart = survey.chart()
    else:
        raise ArchiveError("There is neither a survey nor a chart.", "chart")
    zones = _zones(document.get("zones"), chart)
    threads = tuple(Thread(**entry) for entry in document.get("threads", ())) or STARTING_THREADS
    return Job(
        document.get("title", "Untitled"),
        chart,
        zones,
        document.get("client", ""),
        document.get("due") or "",
        survey,
        _legend(document.get("legend", ()), zones, threads),
        threads,
        _machine(document.get("machine", {})),
        Policy(**document.get("policy", {})),
        intake,
        _groups(document.get("groups", ()), zones),
    )


@cache
def _validator() -> jsonschema.Draft202012Validator:
    schema = json.loads(
        resources.files("chorograph_core.formats")
        .joinpath("archive.schema.json")
        .read_text("utf-8")
    )
    # Rings are long; they are checked below, with arrays, and better explained.
    schema["$defs"]["ring"] = {"type": "array"}
    return jsonschema.Draft202012Validator(schema)


def _in_words(error: jsonschema.ValidationError) -> str:
    value = error.instance
    shown = f"“{value}”" if isinstance(value, (str, int, float)) else "this"
    kind = error.validator
    if kind == "required":
        return error.message.replace("'", "“", 1).replace("'", "”", 1) + "."
    if kind == "additionalProperties":
        return "There is a field that does not belong here: " + error.message.split("(")[-1].rstrip(
            ")"
        )
    if kind == "enum":
        return f"{shown} is not one of {', '.join(map(str, error.validator_value))}."
    if kind == "type":
        return f"{shown} should be {error.validator_value}."
    if kind in ("minimum", "exclusiveMinimum", "maximum"):
        least = "at least" if kind == "minimum" else "more than" if "M" in kind else "at most"
        return f"{shown} should be {least} {error.validator_value:g}."
    if kind in ("maxItems", "minItems", "maxLength"):
        return f"This has the wrong length ({kind} {error.validator_value})."
    return error.message[:200]


def _path(path) -> str:
    words = ""
    for part in path:
        words += f"[{part}]" if isinstance(part, int) else f".{part}" if words else str(part)
    return words


def _own_blocks(entries) -> None:
    """Take in the blocks that a studio drafted, so that the survey finds them."""
    for number, entry in enumerate(entries):
        try:
            own_block(entry)
        except ChartError as error:
            where = f"blocks[{number}].{error.field}".rstrip(".")
            raise ArchiveError(str(error), where) from None


def _survey(entry: dict | None) -> Layout | None:
    if entry is None:
        return None
    try:
        return read_layout(entry)
    except ChartError as error:
        raise ArchiveError(str(error), f"survey.{error.field}") from None


def _chart(entry: dict) -> Chart:
    outline = _polygon(entry["outline"], "chart.outline")
    patches, names, points = [], set(), 0
    for number, patch in enumerate(entry["patches"]):
        where = f"chart.patches[{number}]"
        if patch["id"] in names:
            raise ArchiveError(f"There are two patches called “{patch['id']}”.", where)
        names.add(patch["id"])
        shape = _polygon(patch["polygon"], f"{where}.polygon")
        points += shapely.get_num_coordinates(shape)
        if points > MOST_POINTS:
            raise ArchiveError(f"There are over {MOST_POINTS:,} points.", where)
        block = patch.get("block")
        rest = {k: v for k, v in patch.items() if k not in ("id", "polygon", "block")}
        patches.append(Patch(patch["id"], shape, block=tuple(block) if block else None, **rest))
    fabrics = tuple(Fabric(**fabric) for fabric in entry.get("fabrics", ()))
    return Chart(outline, tuple(patches), fabrics)


def _polygon(rings: Any, where: str) -> Polygon:
    """A polygon from rings of [x, y] pairs, the outer ring first."""
    made = []
    for number, ring in enumerate(rings):
        place = f"{where}[{number}]"
        try:
            points = np.asarray(ring, dtype=float)
        except (ValueError, TypeError, OverflowError):
            raise ArchiveError("A ring is a list of [x, y] pairs of numbers.", place) from None
        if points.ndim != 2 or points.shape[1] != 2 or len(points) < 3:
            raise ArchiveError("A ring needs at least three [x, y] points.", place)
        if not np.isfinite(points).all():
            raise ArchiveError("A point is not a number.", place)
        if np.abs(points).max() > 4 * LARGEST_TOP:
            raise ArchiveError("A point lies further out than any quilt reaches.", place)
        made.append(points)
    if not made:
        raise ArchiveError("A polygon needs a ring.", where)
    shape = Polygon(made[0], made[1:])
    if not shape.is_valid:
        raise ArchiveError(f"The polygon crosses itself ({explain_validity(shape)}).", where)
    if shape.area < 1e-4:
        raise ArchiveError("The polygon has no area.", where)
    return shape


def _zones(entries: list | None, chart: Chart) -> tuple[Zone, ...]:
    if entries is None:
        return tuple(zones_from_patches(chart))
    made, names = [], set()
    for number, entry in enumerate(entries):
        where = f"zones[{number}]"
        if entry["id"] in names:
            raise ArchiveError(f"There are two zones called “{entry['id']}”.", where)
        names.add(entry["id"])
        patches = tuple(entry.get("patches", ()))
        for patch in patches:
            try:
                chart.patch(patch)
            except KeyError:
                raise ArchiveError(f"There is no patch called “{patch}”.", where) from None
        if entry.get("polygon"):
            shape = _polygon(entry["polygon"], f"{where}.polygon")
        elif len(patches) == 1:
            shape = chart.patch(patches[0]).polygon
        else:
            raise ArchiveError("A zone of several patches needs its polygon.", where)
        made.append(
            Zone(entry["id"], shape, patches, entry.get("kind", "patch"), entry.get("label", ""),
                 entry.get("forbidden", False), _whole(entry, shape, where))
        )  # fmt: skip
    return tuple(made)


def _whole(entry: dict, shape: Polygon, where: str) -> Polygon | None:
    """The shape of a zone that runs behind something."""
    if not entry.get("whole"):
        return None
    whole = _polygon(entry["whole"], f"{where}.whole")
    if not whole.buffer(1e-3).covers(shape):
        raise ArchiveError("The whole zone does not hold what shows of it.", f"{where}.whole")
    return whole


def _legend(entries, zones, threads) -> tuple[Entry, ...]:
    known_zones = {zone.id for zone in zones}
    known_threads = {thread.key for thread in threads}
    taken: dict[str, str] = {}
    made = []
    for number, entry in enumerate(entries):
        where = f"legend[{number}]"
        for zone in entry["zones"]:
            if zone not in known_zones:
                raise ArchiveError(f"There is no zone called “{zone}”.", f"{where}.zones")
            if zone in taken:
                raise ArchiveError(
                    f"“{zone}” already belongs to “{taken[zone]}”.", f"{where}.zones"
                )
            taken[zone] = entry.get("name", entry["id"])
        layers = []
        for k, layer in enumerate(entry["layers"]):
            place = f"{where}.layers[{k}]"
            if layer["design"] not in designs():
                raise ArchiveError(f"There is no design called “{layer['design']}”.", place)
            try:
                given = layer.get("settings", {})
                clean = designs()[layer["design"]].clean(given)
                settings = {key: clean[key] for key in given}
            except SettingError as error:
                raise ArchiveError(str(error), f"{place}.settings.{error.field}") from None
            if layer.get("thread", "main") not in known_threads:
                raise ArchiveError(f"There is no thread called “{layer.get('thread')}”.", place)
            layers.append(Layer(**{**layer, "settings": settings}))
        made.append(Entry(entry["id"], entry.get("name", ""), tuple(entry["zones"]), tuple(layers)))
    return tuple(made)


def _groups(entries, zones) -> tuple[Named, ...]:
    known = {zone.id for zone in zones}
    for number, entry in enumerate(entries):
        for zone in entry["zones"]:
            if zone not in known:
                raise ArchiveError(f"There is no zone called “{zone}”.", f"groups[{number}].zones")
    return tuple(Named(entry["name"], tuple(entry["zones"])) for entry in entries)


def _machine(entry: dict) -> Machine:
    values = dict(entry)
    rates = dict(values.pop("rates", {}))
    speeds = {**Rates().speeds, **rates.pop("speeds", {})}
    return Machine(**values, rates=Rates(speeds=speeds, **rates))
