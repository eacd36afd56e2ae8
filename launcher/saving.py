"""Backup and restore: the database and the photographs together, as one tar file."""

from __future__ import annotations

import re
import shutil
import sys
import tarfile
import tempfile
from pathlib import Path

from launcher.cluster import Cluster, pipe_tool

DUMP = "database.dump"
PHOTO = re.compile(r"media/(\d+/[0-9a-f-]{36}/[0-9a-f-]{36}(-small|-flat)?\.jpg)")


def save(cluster: Cluster, media: Path, file: Path) -> int:
    """Write the database and all files in *media* to *file*; return the exit status."""
    with tempfile.TemporaryDirectory() as folder:
        dump = Path(folder) / DUMP
        status = pipe_tool(cluster, "pg_dump", ["--format=custom", "--no-owner", f"--file={dump}"])
        if status:
            return status
        # Written beside the goal and moved there whole: a backup is complete or not there.
        part = file.with_name(f"{file.name}.part")
        with tarfile.open(part, "w") as tar:
            tar.add(dump, DUMP)
            for photo in sorted(media.glob("*/*/*.jpg")) if media.is_dir() else ():
                tar.add(photo, f"media/{photo.relative_to(media)}")
        part.chmod(0o600)
        part.replace(file)
    return 0


def bring_back(cluster: Cluster, media: Path, file: Path) -> int:
    """Put back what `save` wrote, in place of what is there. An older, bare dump is taken too."""
    with tempfile.TemporaryDirectory() as folder:
        dump = file
        if tarfile.is_tarfile(file):
            dump = Path(folder) / DUMP
            try:
                _unpack(file, Path(folder))
            except (tarfile.TarError, KeyError, OSError) as error:
                print(f"{file} cannot be read: {error}", file=sys.stderr)
                return 2
        status = pipe_tool(
            cluster, "pg_restore",
            ["--clean", "--if-exists", "--no-owner", "--single-transaction", str(dump)],
        )  # fmt: skip
        if status == 0 and dump is not file:
            shutil.rmtree(media, ignore_errors=True)
            if (Path(folder) / "media").is_dir():
                shutil.copytree(Path(folder) / "media", media)
                media.chmod(0o700)
    return status


def _unpack(file: Path, folder: Path) -> None:
    """The dump, and files named as photographs are; whatever else a tar may hold is left in it."""
    with tarfile.open(file) as tar:
        _write(tar, tar.getmember(DUMP), folder / DUMP)
        for member in tar.getmembers():
            found = PHOTO.fullmatch(member.name)
            if found and member.isfile():
                _write(tar, member, folder / "media" / found[1])


def _write(tar: tarfile.TarFile, member: tarfile.TarInfo, goal: Path) -> None:
    source = tar.extractfile(member)
    if source is None:
        raise KeyError(member.name)
    goal.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    with source, goal.open("wb") as out:
        shutil.copyfileobj(source, out)
    goal.chmod(0o600)
