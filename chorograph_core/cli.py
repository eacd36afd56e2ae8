"""Headless commands: plan a route from an archive, draw zones. No database, no web."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

from chorograph_core.designs import SettingError
from chorograph_core.formats import (
    ArchiveError,
    drawing_svg,
    read_archive,
    route_json,
    route_summary,
    route_svg,
)
from chorograph_core.formats.archive import LARGEST
from chorograph_core.job import Job, job_linework, planned_job, replayed_job
from chorograph_core.route import PlanError, Route

UNREADABLE = 2


def main(arguments: list[str] | None = None) -> int:
    """Run ``plan`` or ``draw``; return the exit status."""
    parser = argparse.ArgumentParser(prog="chorograph", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    planning = commands.add_parser("plan", help="plan a route and print its figures")
    planning.add_argument("file", type=Path)
    planning.add_argument("--out", type=Path, help="write the route here (.json or .svg)")
    planning.add_argument("--json", action="store_true", help="end with one JSON object")
    drawing = commands.add_parser("draw", help="draw zones and linework as SVG")
    drawing.add_argument("file", type=Path)
    which = drawing.add_mutually_exclusive_group(required=True)
    which.add_argument("--zone", action="append", help="a zone by id; may be given again")
    which.add_argument("--all", action="store_true")
    drawing.add_argument("--out", type=Path, required=True)
    options = parser.parse_args(arguments)
    try:
        job = _read(options.file)
        return _plan(job, options) if options.command == "plan" else _draw(job, options)
    except (ArchiveError, PlanError, SettingError) as error:
        print(f"{options.file.name}: {error}", file=sys.stderr)
    except OSError as error:
        print(f"{error.filename}: {error.strerror}", file=sys.stderr)
    return UNREADABLE


def _read(path: Path) -> Job:
    with path.open("rb") as file:
        # One byte more than is allowed is enough to know; the rest need not be read.
        return read_archive(file.read(LARGEST + 1))


def _plan(job: Job, options: argparse.Namespace) -> int:
    route = planned_job(job)
    faults = replayed_job(job, route)
    if options.out:
        svg = options.out.suffix.lower() == ".svg"
        options.out.write_bytes(
            route_svg(job, route.steps) if svg else route_json(job, route, faults)
        )
    _print_table(job, route, faults)
    if options.json:
        print(json.dumps(route_summary(route, faults)))
    return 1 if faults else 0


def _print_table(job: Job, route: Route, faults: list[str]) -> None:
    hours, minutes = divmod(round(route.minutes), 60)
    print(f"{job.title}")
    print(f"  zones worked     {route.zones:>10,}")
    print(f"  at the machine   {hours:>7} h {minutes:02}")
    print(f"  stitched         {route.stitched_inches:>10,.0f} in")
    for kind, inches in route.travel_inches.items():
        name = "travel" if kind == "all" else f"  {kind}"
        print(f"  {name:<16} {inches:>10,.0f} in")
    print(f"  cuts             {route.cuts:>10,}")
    print(f"  lost             {route.lost_minutes:>10.1f} min")
    print(f"  floor            {route.floor.lost_minutes:>10.1f} min")
    print(f"  above the floor  {100 * route.gap:>10.1f} %")
    print(f"  planned in       {route.seconds:>10.2f} s")
    print(f"  replay           {'clean' if not faults else f'{len(faults)} faults':>10}")
    for fault in faults[:20]:
        print(f"    {fault}")


def _draw(job: Job, options: argparse.Namespace) -> int:
    zones = list(job.zones)
    if not options.all:
        known = {zone.id: zone for zone in zones}
        missing = [name for name in options.zone if name not in known]
        if missing:
            raise ArchiveError(f"There is no zone called “{missing[0]}”.", "--zone")
        zones = [known[name] for name in options.zone]
    options.out.write_bytes(drawing_svg(job, zones, job_linework(job)))
    print(f"{len(zones)} zones drawn to {options.out.name}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
