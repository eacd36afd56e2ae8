"""All of a studio, as another installation wrote it (see `whole`), taken in: what is here already stays."""

from __future__ import annotations

import contextlib
import io
import json
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction

from chorograph_core.chart import ChartError
from chorograph_core.designs import SettingError
from chorograph_core.designs.registry import for_strokes
from chorograph_core.estimating.own_rates import LEAST, MOST, NAMES
from chorograph_core.formats import ArchiveError, read_archive
from studio.accounts.models import Studio
from studio.agenda.models import DayOff, Week
from studio.blocks.models import OwnBlock, own_block
from studio.carrying.history_in import take_history
from studio.carrying.whole import SCHEMA, SHELF
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.motifs.strokes import followed
from studio.photos.keeping import keep_photo
from studio.photos.pictures import PictureError
from studio.prices.forms import LevelForm, PricesForm
from studio.prices.lists import prices_of
from studio.prices.models import PriceLevel, Prices
from studio.shelf.forms import KINDS
from studio.shelf.models import OwnMotif, Thread

LARGEST = 200_000_000
"""Bytes that a file may unpack to."""
MOST_FILES = 2_000
MOST_LEVELS, MOST_DAYS = 8, 400
MOST_FAULTS = 5
"""Faults of one job that are told; more of them are of one kind."""
UNSOUND = (
    ChartError,
    SettingError,
    ValidationError,
    ValueError,
    TypeError,
    KeyError,
    AttributeError,
)
"""What reading a drawing of strangers may come to."""


class WholeError(ValueError):
    """The file is none of ours, or not whole. The message says why."""


_MANY = {"thing that happened": "things that happened", "class of bobbins": "classes of bobbins"}


def _many(what: str, count: int) -> str:
    return what if count == 1 else _MANY.get(what, f"{what}s")


@dataclass
class Taken:
    """What was taken in: how many of each, and what could not be, with the reason."""

    counts: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)

    def __str__(self) -> str:
        told = [f"{n} {_many(what, n)}" for what, n in self.counts.items() if n]
        return ", ".join(told) or "nothing new"


def take_in(studio: Studio, author, data: bytes) -> Taken:
    """Take in what another installation wrote: jobs as new ones with their photographs; of shelf, motifs and
    blocks what is not there under its name; prices, ways and rates where there are none of one's own yet.
    Raises WholeError."""
    try:
        box = zipfile.ZipFile(io.BytesIO(data))
        if len(box.infolist()) > MOST_FILES or sum(e.file_size for e in box.infolist()) > LARGEST:
            raise WholeError("This file holds more than a studio has.")
        about = json.loads(box.read("studio.json"))
    except WholeError:
        raise
    except (
        zipfile.BadZipFile,
        KeyError,
        ValueError,
        RuntimeError,
        RecursionError,
        NotImplementedError,
    ):
        raise WholeError("This is no file that a studio was written to.") from None
    if not isinstance(about, dict) or about.get("schema") != SCHEMA:
        raise WholeError("This file was written by something else, or a later version.")
    taken = Taken()
    with transaction.atomic():
        shelf = about.get("shelf")
        # Bobbins come before the machines that take them.
        for key in sorted(SHELF, key="machines".__eq__):
            _take_rows(studio, SHELF[key], _rows(shelf, key), taken)
        _own_in(studio, about, taken)
        _prices_in(studio, about.get("prices"), taken)
        _habits_in(studio, about)
        photos = list(_rows(about, "photos"))
        for name in sorted(box.namelist()):
            if name.startswith("jobs/") and name.endswith(".json"):
                job = _job_in(studio, author, box, name, taken)
                if job is not None:
                    mine = [row for row in photos if row.get("job") == name]
                    _photos_in(job, author, box, mine, taken)
    return taken


def _rows(values: Any, key: str) -> Iterator[dict[str, Any]]:
    """The rows under *key*: of what strangers wrote only what can be rows."""
    rows = values.get(key) if isinstance(values, dict) else None
    return (row for row in (rows if isinstance(rows, list) else []) if isinstance(row, dict))


def _in_words(value: Any) -> Any:
    """A value as it would come from a form."""
    return value if isinstance(value, (bool, type(None))) else str(value).replace("\0", "")


def _take_rows(studio: Studio, kind: str, rows: Iterator[dict[str, Any]], taken: Taken) -> None:
    model, form_class, _, one = KINDS[kind]
    known = set(model.objects.filter(studio=studio).values_list("name", flat=True))
    keys = set(Thread.objects.filter(studio=studio).values_list("key", flat=True))
    for row in rows:
        values = {name: _in_words(value) for name, value in row.items()}
        name, key = values.get("name"), values.get("key")
        if name in known or (kind == "thread" and key in keys):
            continue
        if kind == "machine":
            bobbin = studio.bobbins.filter(name=values.get("bobbin") or "").first()
            values["bobbin"] = bobbin.pk if bobbin is not None else None
        form = form_class(values, studio=studio, units="in")
        made = _kept(form, str(name), taken)
        if made is None:
            continue
        if kind == "thread" and key:
            # Jobs call their threads by it.
            _keyed(made, key)
            keys.add(made.key)
        known.add(made.name)
        taken.counts[one] += 1


def _kept(form: forms.ModelForm, name: str, taken: Taken) -> Any:
    """What the form makes, kept; None, and a fault, where it is not sound."""
    if form.is_valid():
        return form.save()
    told = [f"{form.fields[field].label}: {fault}" if field in form.fields else str(fault)
            for field, faults in form.errors.items() for fault in faults]  # fmt: skip
    why = " ".join(told)
    taken.faults.append(f"{name[:60]}: {why[:200]} Left out.")
    return None


def _keyed(thread: Thread, key: str) -> None:
    old, thread.key = thread.key, key
    try:
        thread.clean_fields()
    except ValidationError:
        thread.key = old
    thread.save()


def _own_in(studio: Studio, about: dict[str, Any], taken: Taken) -> None:
    """Motifs and blocks of one's own, each drawn before it is kept."""

    def motif(row: dict[str, Any]) -> OwnMotif:
        made = OwnMotif(
            studio=studio, name=row.get("name"), kind=row.get("kind"), stroke=row.get("stroke")
        )
        made.clean_fields()
        if not all(followed(each, {"stroke": made.stroke}).path for each in for_strokes(made.kind)):
            raise ValueError("it draws nothing")
        return made

    def block(row: dict[str, Any]) -> OwnBlock:
        made = OwnBlock(studio=studio)
        made.take(own_block(row["data"]))
        made.clean_fields()
        return made

    makers: dict[str, tuple[str, Any, Callable[[dict[str, Any]], Any]]] = {
        "own_motifs": ("motif", OwnMotif, motif), "own_blocks": ("block", OwnBlock, block),
    }  # fmt: skip
    for key, (one, model, make) in makers.items():
        known = set(model.objects.filter(studio=studio).values_list("name", flat=True))
        for row in _rows(about, key):
            if str(row.get("name")) in known:
                continue
            try:
                made = make(row)
            except UNSOUND:
                taken.faults.append(f"{str(row.get('name'))[:60]}: it cannot be drawn. Left out.")
                continue
            if made.name not in known:
                made.save()
                known.add(made.name)
                taken.counts[one] += 1


def _prices_in(studio: Studio, given: Any, taken: Taken) -> None:
    """The price list, as long as nobody wrote one here; levels that are not there by their key."""
    mine = prices_of(studio)
    names = PricesForm.Meta.fields
    untouched = all(
        getattr(mine, name) == Prices._meta.get_field(name).get_default() for name in names
    )
    if untouched and isinstance(given, dict):
        values = {name: _in_words(given.get(name)) for name in names}
        if _kept(PricesForm(values, instance=mine, units="in"), "The price list", taken):
            taken.counts["price list"] += 1
    known = set(mine.levels.values_list("key", flat=True))
    for row in _rows(given, "levels"):
        values = {name: _in_words(value) for name, value in row.items()}
        key = values.get("key")
        if key in known or len(known) >= MOST_LEVELS:
            continue
        level = PriceLevel(prices=mine, key=key or "", place=len(known))
        made = _kept(LevelForm(values, instance=level, units="in"), str(values.get("name")), taken)
        if made is not None:
            known.add(made.key)
            taken.counts["price level"] += 1


def _habits_in(studio: Studio, about: dict[str, Any]) -> None:
    """Address, ways of working and rates, where the studio has said nothing of its own."""
    ways, factors = about.get("ways"), about.get("factors")
    if not studio.address and isinstance(about.get("address"), str):
        studio.address = _in_words(about["address"])[:500]
    if not studio.ways and isinstance(ways, dict):
        studio.ways = {key: way for key, way in ways.items() if isinstance(way, str)}
    if not studio.factors and isinstance(factors, dict):
        studio.factors = {
            key: float(value)
            for key, value in factors.items()
            if key in NAMES and isinstance(value, (int, float)) and LEAST <= value <= MOST
        }
    studio.save(update_fields=["address", "ways", "factors"])
    if not Week.objects.filter(studio=studio).exists() and isinstance(about.get("week"), list):
        week = Week(studio=studio, hours=about["week"])
        with contextlib.suppress(ValidationError, TypeError, ValueError):
            week.full_clean()
            week.save()
    for row in list(_rows(about, "days_off"))[:MOST_DAYS]:
        day = DayOff(
            studio=studio,
            first=row.get("first"),
            last=row.get("last"),
            why=_in_words(row.get("why") or ""),
        )
        with contextlib.suppress(ValidationError, TypeError, ValueError):
            day.full_clean()
            if not studio.days_off.filter(first=day.first, last=day.last).exists():
                day.save()


def _job_in(studio: Studio, author, box: zipfile.ZipFile, name: str, taken: Taken) -> Job | None:
    try:
        core = read_archive(box.read(name))
    except (ArchiveError, zipfile.BadZipFile) as error:
        taken.faults.append(f"{name[5:60]}: {error}")
        return None
    said = " ".join(["Taken in with its studio.", *core.changes])
    taken.counts["job"] += 1
    job = create_job(studio, author, core, said[:300])
    try:
        past = json.loads(box.read(name.replace("jobs/", "history/", 1)))
    except (KeyError, ValueError, RecursionError, zipfile.BadZipFile):
        # Written before there was one.
        return job
    told = len(taken.faults)

    def fault(why: str) -> None:
        if len(taken.faults) - told < MOST_FAULTS:
            taken.faults.append(f"{core.title[:60]}: {why}")

    taken.counts["thing that happened"] += take_history(job, core_job(job), author, past, fault)
    return job


def _photos_in(
    job: Job, author, box: zipfile.ZipFile, rows: list[dict[str, Any]], taken: Taken
) -> None:
    for row in rows:
        file = str(row.get("file"))
        try:
            picture = SimpleUploadedFile("photo.jpg", box.read(file))
            keep_photo(
                job, author, picture, str(row.get("about")), _in_words(row.get("note") or "")
            )
            taken.counts["photograph"] += 1
        except (KeyError, PictureError, zipfile.BadZipFile) as error:
            taken.faults.append(
                f"{file[:80]}: {error if isinstance(error, PictureError) else 'missing'}"
            )
