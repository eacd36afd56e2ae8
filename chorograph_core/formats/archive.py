"""The job archive: one JSON file that holds everything stored as truth about a job.

docs/format.md describes it; archive.schema.json beside this file is its JSON Schema, made by
`chorograph_core.formats.document`. It is read leniently: what a later or earlier Chorograph wrote
otherwise becomes the nearest good value, and the job says what was changed (`Job.changes`).
"""

from __future__ import annotations

import json
import re
from dataclasses import replace
from typing import Any

import msgspec
import shapely
from shapely.geometry import Polygon

from chorograph_core.blocks import Block, block
from chorograph_core.blocks.own_blocks import OWN, data_of, own_block
from chorograph_core.chart import Chart, ChartError
from chorograph_core.designs.legend import Entry, Layer, settled_layer
from chorograph_core.estimating import Intake, MeasuringError
from chorograph_core.formats import document as doc
from chorograph_core.formats.document import FORMAT, MOST_POINTS, VERSION, Document, ZoneEntry
from chorograph_core.job import STARTING_THREADS, Job
from chorograph_core.reckon import Machine, Rates
from chorograph_core.rulers import STARTING_RULERS
from chorograph_core.zones import Zone, zones_from_patches

LARGEST = 20_000_000
"""Bytes. A king-size top with 2,400 zones takes about 2 MB."""
MOST_CHANGES = 40
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
        parsed = json.loads(text, parse_constant=_refuse)
    except json.JSONDecodeError as error:
        cut = error.pos >= len(text.rstrip()) - 1
        what = "The file breaks off" if cut else f"The file is damaged ({error.msg.lower()})"
        raise ArchiveError(f"{what}.", f"line {error.lineno}") from None
    except ArchiveError:
        raise
    except ValueError:
        raise ArchiveError("There is a number that is too long.") from None
    except RecursionError:
        raise ArchiveError("The file is nested too deeply to be an archive.") from None
    return read_document(parsed)


def _refuse(word: str) -> float:
    raise ArchiveError(f"“{word}” is not a number that a quilt can have.")


def read_document(parsed: Any, own: bool = False) -> Job:
    """Read an archive that is already parsed JSON. Raises `ArchiveError`.

    In a document of our *own*, that `write_document` made and nobody has touched since, nothing is
    looked for that does not belong there.
    """
    if not isinstance(parsed, dict) or parsed.get("format") != FORMAT:
        raise ArchiveError(
            f"This is not a job archive (its format should be “{FORMAT}”).", "format"
        )
    version = parsed.get("version")
    if isinstance(version, int) and version > VERSION:
        raise ArchiveError(
            f"This archive is of version {version}, made by a newer Chorograph; "
            f"this one reads up to version {VERSION}.",
            "version",
        )
    own_blocks = _own_blocks(parsed.get("blocks"))
    try:
        found = doc.read(_upgraded(parsed), Document)
    except msgspec.ValidationError as error:
        cause = error.__cause__
        what, where = doc.in_words(error)
        if isinstance(cause, ChartError):
            where = f"{where}.{cause.field}".rstrip(".")
        raise ArchiveError(what, where) from None
    except RecursionError:
        raise ArchiveError("The file is nested too deeply to be an archive.") from None
    return replace(_job(found, [] if own else _unknown(parsed, found)), own=own_blocks)


def _upgraded(parsed: dict[str, Any]) -> dict[str, Any]:
    """A document of the last version as one of this. Version 3 had no rulers, and layers did not
    name the version of their design: both have defaults that say so."""
    return parsed


def _job(found: Document, changes: list[str]) -> Job:
    intake = found.intake or Intake()
    try:
        intake.measures.check()
    except MeasuringError as error:
        raise ArchiveError(str(error), f"intake.measures.{error.field}") from None
    chart = found.chart
    if chart is None and found.survey is not None:
        chart = found.survey.chart()
    if chart is None:
        raise ArchiveError("There is neither a survey nor a chart.", "chart")
    _check_chart(chart)
    zones = _zones(found.zones, chart)
    threads = found.threads or STARTING_THREADS
    legend = _legend(found.legend, zones, {thread.key for thread in threads}, changes)
    _check_groups(found, zones)
    _check_handover(found, zones)
    return Job(
        found.title, chart, zones, found.client, found.due or "", found.survey, legend, threads,
        _machine(found.machine), found.policy, intake, found.groups,
        found.rulers or STARTING_RULERS, found.handover, tuple(changes[:MOST_CHANGES]),
    )  # fmt: skip


def _unknown(given: Any, found: Document) -> list[str]:
    """Sentences about fields that were read over, since this Chorograph does not know them."""
    known = doc.write(replace(found, survey=None, blocks=()))
    names: list[str] = []
    _compare(given, known, "", names)
    return [f"“{name}” is not known here and was left out." for name in names]


def _compare(given: Any, known: Any, where: str, names: list[str]) -> None:
    if len(names) >= MOST_CHANGES:
        return
    if isinstance(given, dict) and isinstance(known, dict):
        for key, value in given.items():
            place = f"{where}.{key}" if where else str(key)
            if key not in known:
                names.append(place[:120])
            elif place not in ("survey", "blocks"):
                _compare(value, known[key], place, names)
    elif isinstance(given, list) and isinstance(known, list) and given:
        if isinstance(given[0], dict):
            for k, (one, two) in enumerate(zip(given, known, strict=False)):
                _compare(one, two, f"{where}[{k}]", names)


def _own_blocks(entries: Any) -> tuple[Block, ...]:
    """Take in the blocks that a studio drafted, so that the survey finds them."""
    found: list[Block] = []
    if not isinstance(entries, (list, tuple)):
        return ()
    for number, entry in enumerate(entries[:200]):
        try:
            if not isinstance(entry, dict):
                raise ChartError("A block is an object.", "")
            found.append(own_block(entry))
        except ChartError as error:
            where = f"blocks[{number}].{error.field}".rstrip(".")
            raise ArchiveError(str(error), where) from None
    return tuple(found)


def _check_chart(chart: Chart) -> None:
    names, points = set(), 0
    for number, patch in enumerate(chart.patches):
        where = f"chart.patches[{number}]"
        if patch.id in names:
            raise ArchiveError(f"There are two patches called “{patch.id}”.", where)
        names.add(patch.id)
        points += shapely.get_num_coordinates(patch.polygon)
        if points > MOST_POINTS:
            raise ArchiveError(f"There are over {MOST_POINTS:,} points.", where)
    if max(chart.width, chart.height) < 0.5:
        raise ArchiveError("The top is smaller than half an inch.", "chart.outline")


def _zones(entries: tuple[ZoneEntry, ...] | None, chart: Chart) -> tuple[Zone, ...]:
    if entries is None:
        return tuple(zones_from_patches(chart))
    made, names = [], set()
    for number, entry in enumerate(entries):
        where = f"zones[{number}]"
        if entry.id in names:
            raise ArchiveError(f"There are two zones called “{entry.id}”.", where)
        names.add(entry.id)
        for patch in entry.patches:
            try:
                chart.patch(patch)
            except KeyError:
                raise ArchiveError(f"There is no patch called “{patch}”.", where) from None
        shape = entry.polygon
        if shape is None and len(entry.patches) == 1:
            shape = chart.patch(entry.patches[0]).polygon
        if shape is None:
            raise ArchiveError("A zone of several patches needs its polygon.", where)
        _check_whole(entry.whole, shape, where)
        made.append(
            Zone(entry.id, shape, entry.patches, entry.kind, entry.label, entry.forbidden,
                 entry.whole)
        )  # fmt: skip
    return tuple(made)


def _check_whole(whole: Polygon | None, shape: Polygon, where: str) -> None:
    """A zone that runs behind something holds what shows of it."""
    if whole is not None and not whole.buffer(1e-3).covers(shape):
        raise ArchiveError("The whole zone does not hold what shows of it.", f"{where}.whole")


def _legend(
    entries: tuple[Entry, ...], zones: tuple[Zone, ...], threads: set[str], changes: list[str]
) -> tuple[Entry, ...]:
    known = {zone.id for zone in zones}
    taken: dict[str, str] = {}
    made = []
    for number, entry in enumerate(entries):
        where = f"legend[{number}]"
        for zone in entry.zones:
            if zone not in known:
                raise ArchiveError(f"There is no zone called “{zone}”.", f"{where}.zones")
            if zone in taken:
                raise ArchiveError(
                    f"“{zone}” already belongs to “{taken[zone]}”.", f"{where}.zones"
                )
            taken[zone] = entry.name or entry.id
        layers: list[Layer] = []
        for k, layer in enumerate(entry.layers):
            if layer.thread not in threads:
                raise ArchiveError(
                    f"There is no thread called “{layer.thread}”.", f"{where}.layers[{k}]"
                )
            layer, said = settled_layer(layer)
            layers.append(layer)
            changes += [f"{entry.name or entry.id}: {each}" for each in said]
        made.append(replace(entry, layers=tuple(layers)))
    return tuple(made)


def _check_groups(found: Document, zones: tuple[Zone, ...]) -> None:
    known = {zone.id for zone in zones}
    for number, group in enumerate(found.groups):
        for zone in group.zones:
            if zone not in known:
                raise ArchiveError(f"There is no zone called “{zone}”.", f"groups[{number}].zones")


def _check_handover(found: Document, zones: tuple[Zone, ...]) -> None:
    if found.handover is None:
        return
    known = {zone.id for zone in zones}
    for zone in found.handover.zones:
        if zone not in known:
            raise ArchiveError(f"There is no zone called “{zone}”.", "handover.zones")
    if found.handover.machine.kind != "sit-down":
        raise ArchiveError(
            "Only a sit-down machine can take over part of a quilt.", "handover.machine"
        )


def _machine(machine: Machine) -> Machine:
    """The machine with a speed for every technique; those it names count."""
    speeds = {**Rates().speeds, **machine.rates.speeds}
    return replace(machine, rates=replace(machine.rates, speeds=speeds))


def write_document(job: Job) -> dict[str, Any]:
    """The job as a JSON-ready document; `read_document` gives the same job back."""
    survey = None if job.survey is None else doc.write_layout(job.survey)
    zones = tuple(
        ZoneEntry(zone.id, zone.patches, zone.kind, zone.label, zone.forbidden,
                  None if zone.kind == "patch" else zone.polygon, zone.whole)
        for zone in job.zones
    )  # fmt: skip
    made = Document(
        FORMAT, VERSION, "in", job.title, job.client, job.due, None,
        tuple(data_of(block(key)) for key in _own_keys(survey)), job.chart, zones, job.legend,
        job.groups, job.threads, job.rulers, job.machine, job.policy, job.handover,
        None if job.intake == Intake() else job.intake,
    )  # fmt: skip
    written = doc.write(made)
    # What a zone does not have need not be said two thousand times.
    written["zones"] = [
        {k: v for k, v in zone.items() if v is not None} for zone in written["zones"]
    ]
    if job.handover is None:
        # So a job on one machine is written, and known by its digest, as it was before there were two.
        del written["handover"]
    return {**written, "survey": survey}


def _own_keys(survey: Any) -> list[str]:
    """Keys of the own blocks that a survey speaks of, each once."""
    if isinstance(survey, str):
        return [survey] if survey.startswith(OWN) else []
    parts = survey.values() if isinstance(survey, dict) else survey
    if not isinstance(survey, (dict, list)):
        return []
    return list(dict.fromkeys(key for part in parts for key in _own_keys(part)))


def write_archive(job: Job) -> bytes:
    """The job as the bytes of an archive file."""
    text = json.dumps(write_document(job), ensure_ascii=False, allow_nan=False, indent=1)
    return text.encode("utf-8")
