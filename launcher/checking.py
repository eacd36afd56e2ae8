"""What is checked beside the tests: style, layers, types, scripts. It takes a minute and a half
that nobody needs to wait for: the checks run meanwhile, and the closing line of the tests counts them.

``python -m launcher.checking FILE`` runs them and writes which are broken, and what they print, to FILE.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from pathlib import Path

HOME = Path(__file__).resolve().parent.parent
CHECKS = (
    ("ruff", ["ruff", "check", "."]),
    ("format", ["ruff", "format", "--check", "--quiet", "."]),
    ("layers", ["lint-imports"]),
    ("types", ["mypy", "--no-error-summary"]),
    ("scripts", ["oxlint", "--quiet", "--deny-warnings", "studio/assets"]),
)
LONGEST = 900.0
"""Seconds after which checks that have not come to an end count as broken."""


def run(into: Path) -> None:
    """Run all checks, one after another, and write what they found."""
    broken, told = [], []
    for name, (command, *arguments) in CHECKS:
        asked = [str(HOME / ".venv" / "bin" / command), *arguments]
        try:
            done = subprocess.run(asked, cwd=HOME, capture_output=True, text=True, check=False)
            fault = (done.stdout + done.stderr or "It gave no reason.") if done.returncode else ""
        except OSError as error:
            fault = f"{command}: {error.strerror}"
        if fault:
            broken.append(name)
            told.append(fault)
    beside = into.with_suffix(".new")
    beside.write_text(json.dumps({"broken": broken, "told": told}))
    os.replace(beside, into)


def found(at: Path, longest: float = LONGEST) -> tuple[list[str], list[str]]:
    """Which checks are broken, and what they print, once they are done."""
    until = time.monotonic() + longest
    while not at.exists():
        if time.monotonic() > until:
            return [name for name, _ in CHECKS], ["The checks did not come to an end."]
        time.sleep(0.2)
    read = json.loads(at.read_text())
    return read["broken"], read["told"]


if __name__ == "__main__":
    run(Path(sys.argv[1]))
