"""Write a job as an archive; `archive` reads it back without loss."""

from __future__ import annotations

import json
from dataclasses import asdict, fields
from typing import Any

from shapely.geometry import Polygon, mapping

from chorograph_core.blocks.library import block
from chorograph_core.blocks.own_blocks import OWN, data_of
from chorograph_core.chart import Patch
from chorograph_core.formats.archive import FORMAT, VERSION
from chorograph_core.formats.intake import write_intake
from chorograph_core.formats.layouts import write_layout
from chorograph_core.job import Job
from chorograph_core.reckon import Machine, Rates
from chorograph_core.zones import Zone


def write_document(job: Job) -> dict[str, Any]:
    """The job as a JSON-ready document; `read_document` gives the same job back."""
    survey = None if job.survey is None else write_layout(job.survey)
    machine = {f.name: getattr(job.machine, f.name) for f in fields(Machine) if f.name != "rates"}
    rates = {f.name: getattr(job.machine.rates, f.name) for f in fields(Rates)}
    machine["rates"] = {**rates, "speeds": dict(rates["speeds"])}
    return {
        "format": FORMAT,
        "version": VERSION,
        "units": "in",
        "title": job.title,
        "client": job.client,
        "due": job.due,
        "survey": survey,
        "blocks": [data_of(block(key)) for key in _own_keys(survey)],
        "chart": {
            "outline": _rings(job.chart.outline),
            "patches": [_patch(patch) for patch in job.chart.patches],
            "fabrics": [asdict(fabric) for fabric in job.chart.fabrics],
        },
        "zones": [_zone(zone) for zone in job.zones],
        "legend": [
            {
                "id": entry.id,
                "name": entry.name,
                "zones": list(entry.zones),
                "layers": [
                    {
                        "design": layer.design, "settings": dict(layer.settings),
                        "thread": layer.thread, "spi": layer.spi, "passes": layer.passes,
                        "seed": layer.seed,
                    }
                    for layer in entry.layers
                ],
            }
            for entry in job.legend
        ],
        "groups": [{"name": group.name, "zones": list(group.zones)} for group in job.groups],
        "threads": [asdict(thread) for thread in job.threads],
        "machine": machine,
        "policy": asdict(job.policy),
        "intake": write_intake(job.intake),
    }  # fmt: skip


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


def _rings(shape: Polygon) -> list:
    return [[list(point) for point in ring[:-1]] for ring in mapping(shape)["coordinates"]]


def _patch(patch: Patch) -> dict:
    return {
        "id": patch.id, "polygon": _rings(patch.polygon), "role": patch.role,
        "fabric": patch.fabric, "block": list(patch.block) if patch.block else None,
        "cell": patch.cell, "kind": patch.kind,
    }  # fmt: skip


def _zone(zone: Zone) -> dict:
    entry: dict[str, Any] = {
        "id": zone.id, "patches": list(zone.patches), "kind": zone.kind, "label": zone.label,
        "forbidden": zone.forbidden,
    }  # fmt: skip
    if zone.kind != "patch":
        entry["polygon"] = _rings(zone.polygon)
    if zone.whole is not None:
        entry["whole"] = _rings(zone.whole)
    return entry
