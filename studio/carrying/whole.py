"""All of a studio in one file: open formats in a ZIP. How it comes in again: see `whole_in`."""

from __future__ import annotations

import contextlib
import datetime
import io
import json
import zipfile
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.forms.models import model_to_dict
from django.utils.text import slugify

from chorograph_core.formats import write_archive
from studio.accounts.models import Studio
from studio.agenda.models import Week
from studio.blocks.models import OwnBlock
from studio.carrying.history import history_of
from studio.carrying.tables import TABLES, written
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.photos.keeping import kept, name_of
from studio.prices.lists import prices_of
from studio.shelf.forms import KINDS
from studio.shelf.models import Machine, OwnMotif

SCHEMA = "chorograph-studio-1"
SHELF = {"threads": "thread", "battings": "batting", "bobbins": "bobbin", "rulers": "ruler",
         "marking_tools": "marker", "machines": "machine"}  # fmt: skip
"""What lies on the shelf, and as which kind; bobbins before the machines that take them."""
ABOUT = ("name", "units", "locale", "address", "paper", "ways", "factors")


def whole_of(studio: Studio) -> bytes:
    """The file: studio.json (what it is, shelf, prices, hours and days off, what its photographs show), of
    each job its archive and what happened on it, tables, photographs."""
    out = io.BytesIO()
    photos = []
    jobs = Job.objects.filter(studio=studio, dropped__isnull=True).select_related("head")
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as box:
        for number, job in enumerate(jobs, 1):
            name = f"{number:04}-{slugify(job.title)[:40] or 'job'}"
            archive = f"jobs/{name}.json"
            box.writestr(archive, write_archive(core_job(job)))
            box.writestr(f"history/{name}.json", _json(history_of(job)))
            for photo in job.photos.all():
                file = f"photos/{name}/{photo.about}-{photo.pk}.jpg"
                with contextlib.suppress(FileNotFoundError):
                    box.writestr(file, kept(name_of(photo)), zipfile.ZIP_STORED)
                    photos.append(
                        {"file": file, "job": archive, "about": photo.about, "note": photo.note}
                    )
        for name, table in TABLES.items():
            box.writestr(f"tables/{name}.csv", written(table(studio)))
        about = {**_about(studio), "photos": photos}
        box.writestr("studio.json", _json(about))
    return out.getvalue()


class _Exactly(DjangoJSONEncoder):
    """Django's own, but for times, of which it leaves the smallest parts out."""

    def default(self, o: Any) -> Any:
        """*o* as text."""
        return o.isoformat() if isinstance(o, datetime.datetime) else super().default(o)


def _json(value: Any) -> str:
    return json.dumps(value, cls=_Exactly, indent=1, ensure_ascii=False)


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
        "shelf": {key: [plain(one) for one in KINDS[kind][0].objects.filter(studio=studio)]
                  for key, kind in SHELF.items()},
        "own_motifs": [plain(one) for one in OwnMotif.objects.filter(studio=studio)],
        "own_blocks": [plain(one) for one in OwnBlock.objects.filter(studio=studio)],
        "week": week.hours if (week := Week.objects.filter(studio=studio).first()) else None,
        "days_off": [plain(one) for one in studio.days_off.all()],
        "prices": {**plain(prices), "levels": [plain(level) for level in prices.levels.all()]},
    }  # fmt: skip
