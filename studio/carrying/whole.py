"""All of a studio in one file: open formats in a ZIP, and back in on another installation."""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import dataclass, field
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.forms.models import model_to_dict
from django.utils.text import slugify

from chorograph_core.formats import ArchiveError, read_archive, write_archive
from studio.accounts.models import Studio
from studio.blocks.models import OwnBlock
from studio.carrying.tables import TABLES, written
from studio.jobs.models import Job
from studio.jobs.revisions import core_job, create_job
from studio.photos.keeping import path_of
from studio.prices.lists import prices_of
from studio.prices.models import PriceLevel
from studio.shelf.models import Batting, Bobbin, Machine, MarkingTool, OwnMotif, Ruler, Thread

SCHEMA = "chorograph-studio-1"
LARGEST = 200_000_000
"""Bytes that a file may unpack to."""
MOST = 2_000
SHELF = {"threads": Thread, "battings": Batting, "bobbins": Bobbin, "rulers": Ruler,
         "marking_tools": MarkingTool, "machines": Machine, "own_motifs": OwnMotif,
         "own_blocks": OwnBlock}  # fmt: skip
ABOUT = ("name", "units", "address", "paper", "ways", "factors")


class WholeError(ValueError):
    """The file is none of ours, or not whole. The message says why."""


@dataclass
class Taken:
    """What was taken in: how many of each, and jobs that could not be, with the reason."""

    counts: dict[str, int] = field(default_factory=dict)
    faults: list[str] = field(default_factory=list)


def whole_of(studio: Studio) -> bytes:
    """The file: studio.json (what it is, shelf, prices), a job archive each, tables, photographs."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as box:
        box.writestr(
            "studio.json",
            json.dumps(_about(studio), cls=DjangoJSONEncoder, indent=1, ensure_ascii=False),
        )
        for number, job in enumerate(
            Job.objects.filter(studio=studio, dropped__isnull=True).select_related("head")
        ):
            name = f"{number + 1:04}-{slugify(job.title)[:40] or 'job'}"
            box.writestr(f"jobs/{name}.json", write_archive(core_job(job)))
            for photo in job.photos.all():
                path = path_of(photo)
                if path.is_file():
                    box.write(
                        path, f"photos/{name}/{photo.about}-{photo.pk}.jpg", zipfile.ZIP_STORED
                    )
        for name, table in TABLES.items():
            box.writestr(f"tables/{name}.csv", written(table(studio)))
    return out.getvalue()


def _about(studio: Studio) -> dict[str, Any]:
    prices = prices_of(studio)
    left_out = {"id", "studio", "prices", "last_number", "last_invoice"}

    def plain(one) -> dict[str, Any]:
        values = {name: value for name, value in model_to_dict(one).items() if name not in left_out}
        if isinstance(one, Machine):
            values["bobbin"] = one.bobbin.name if one.bobbin else None
        return values

    return {
        "schema": SCHEMA, **{name: getattr(studio, name) for name in ABOUT},
        "shelf": {key: [plain(one) for one in model.objects.filter(studio=studio)]
                  for key, model in SHELF.items()},
        "prices": {**plain(prices), "levels": [plain(level) for level in prices.levels.all()]},
    }  # fmt: skip


def take_in(studio: Studio, author, data: bytes) -> Taken:
    """Take in what another installation wrote: jobs as new ones, of shelf and price list what is not there
    under its name. What is there already stays as it is. Raises WholeError."""
    try:
        box = zipfile.ZipFile(io.BytesIO(data))
        entries = box.infolist()
        if len(entries) > MOST or sum(entry.file_size for entry in entries) > LARGEST:
            raise WholeError("This file holds more than a studio has.")
        about = json.loads(box.read("studio.json"))
    except (zipfile.BadZipFile, KeyError, ValueError, RuntimeError, NotImplementedError) as error:
        if isinstance(error, WholeError):
            raise
        raise WholeError("This is no file that a studio was written to.") from None
    if not isinstance(about, dict) or about.get("schema") != SCHEMA:
        raise WholeError("This file was written by something else, or a later version.")
    taken = Taken()
    with transaction.atomic():
        _shelf_in(studio, about.get("shelf"), taken)
        _levels_in(studio, about.get("prices"), taken)
        for name in sorted(entry.filename for entry in entries):
            if name.startswith("jobs/") and name.endswith(".json"):
                try:
                    core = read_archive(box.read(name))
                except (ArchiveError, zipfile.BadZipFile) as error:
                    taken.faults.append(f"{name[5:60]}: {error}")
                    continue
                said = " ".join(["Taken in with its studio.", *core.changes])
                create_job(studio, author, core, said[:300])
                taken.counts["jobs"] = taken.counts.get("jobs", 0) + 1
    return taken


def _shelf_in(studio: Studio, shelf: Any, taken: Taken) -> None:
    for key, model in SHELF.items():
        rows = shelf.get(key) if isinstance(shelf, dict) else None
        known = set(model.objects.filter(studio=studio).values_list("name", flat=True))
        keys = (
            set(model.objects.filter(studio=studio).values_list("key", flat=True))
            if model is Thread
            else set()
        )
        fields = {each.name for each in model._meta.concrete_fields} - {"id", "studio"}
        for row in rows if isinstance(rows, list) else []:
            if (
                not isinstance(row, dict)
                or row.get("name") in known
                or (keys and row.get("key") in keys)
            ):
                continue
            values = {name: value for name, value in row.items() if name in fields}
            if model is Machine:
                values["bobbin"] = studio.bobbins.filter(name=row.get("bobbin")).first()
            one = model(studio=studio, **values)
            try:
                one.full_clean(exclude=["studio"])
            except Exception:
                # One row that is not sound takes none of the others with it.
                taken.faults.append(f"{str(row.get('name'))[:60]}: not sound, left out.")
                continue
            one.save()
            taken.counts[key] = taken.counts.get(key, 0) + 1


def _levels_in(studio: Studio, prices: Any, taken: Taken) -> None:
    mine = prices_of(studio)
    known = set(mine.levels.values_list("key", flat=True))
    fields = {each.name for each in PriceLevel._meta.concrete_fields} - {"id", "prices"}
    for row in prices.get("levels", []) if isinstance(prices, dict) else []:
        if isinstance(row, dict) and row.get("key") not in known and len(known) < 8:
            level = PriceLevel(
                prices=mine, **{name: value for name, value in row.items() if name in fields}
            )
            try:
                level.full_clean(exclude=["prices"])
            except Exception:
                taken.faults.append(f"{str(row.get('name'))[:60]}: not sound, left out.")
                continue
            level.save()
            known.add(level.key)
