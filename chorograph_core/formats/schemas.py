"""The JSON Schemas of what is written, as they stand beside this file; as a program it writes them again."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from chorograph_core.formats.document import json_schema
from chorograph_core.formats.route_document import route_schema

HERE = Path(__file__).parent
MADE_BY = {"archive": json_schema, "route": route_schema}


def schema_file(name: str) -> Path:
    """Where the schema of an *archive* or a *route* stands."""
    return HERE / f"{name}.schema.json"


def written(schema: dict[str, Any]) -> str:
    """A schema as text."""
    return json.dumps(schema, indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    for name, make in MADE_BY.items():
        schema_file(name).write_text(written(make()), encoding="utf-8")
