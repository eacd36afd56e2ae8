"""Backup and restore: the database and the photographs together, as one tar file.

The tar ends with a manifest: what it is, how many rows each table has, the size and SHA-256 of every
file. A tar without one was cut off. A restore reads everything through first, restores into a database
and a folder of their own, and only then exchanges them: both databases are renamed in one transaction,
and the database itself says which folder its photographs are in. Killed at any moment, it leaves either
the old state whole or the new one.
"""

from __future__ import annotations

import contextlib
import datetime
import hashlib
import io
import json
import re
import secrets
import shutil
import sys
import tarfile
import tempfile
from pathlib import Path

import psycopg
from psycopg import sql

from launcher.cluster import DATABASE, FRESH, GONE, Cluster, pipe_tool

DUMP, MANIFEST = "database.dump", "manifest.json"
WHAT = "chorograph-backup"
PHOTO = re.compile(r"media/(\d+/[0-9a-f-]{36}/[0-9a-f-]{36}(-small|-flat)?\.jpg)")
NEEDED = ("django_migrations", "accounts_studio", "jobs_job", "jobs_revision")
"""Tables without which a dump is none of ours."""
FOLDER = re.compile(r"media(-[0-9a-f]{12})?")


class BackupError(RuntimeError):
    """The file cannot be restored. The message says why; nothing was changed."""


def media_folder(cluster: Cluster, home: Path) -> Path:
    """Where the photographs that go with the database are: it says so itself."""
    query = "select shobj_description(oid, 'pg_database') from pg_database where datname = %s"
    with psycopg.connect(cluster.address_of("postgres"), autocommit=True) as link:
        row = link.execute(query, [DATABASE]).fetchone()
    name = row[0] if row and row[0] and FOLDER.fullmatch(row[0]) else "media"
    return home / name


def tidy_media(current: Path) -> None:
    """Take away folders of photographs that a restore which broke off left behind."""
    if not current.is_dir():
        return
    for folder in current.parent.glob("media*"):
        if folder != current and folder.is_dir() and FOLDER.fullmatch(folder.name):
            shutil.rmtree(folder, ignore_errors=True)


def save(cluster: Cluster, media: Path, file: Path) -> int:
    """Write the database and all files in *media* to *file*; return the exit status.

    May be done while the application runs: the dump is one moment of the database, photographs are
    never altered once they are kept.
    """
    with tempfile.TemporaryDirectory() as folder:
        dump = Path(folder) / DUMP
        status = pipe_tool(cluster, "pg_dump", ["--format=custom", "--no-owner", f"--file={dump}"])
        if status:
            return status
        files: dict[str, dict] = {}
        # Written beside the goal and moved there whole: a backup is complete or not there.
        part = file.with_name(f"{file.name}.part")
        part.touch(0o600)
        with tarfile.open(part, "w") as tar:
            _put(tar, DUMP, dump.read_bytes(), files)
            for photo in sorted(media.glob("*/*/*.jpg")) if media.is_dir() else ():
                # Taken out meanwhile: the dump still speaks of it, but nobody wants it back.
                with contextlib.suppress(FileNotFoundError):
                    _put(tar, f"media/{photo.relative_to(media)}", photo.read_bytes(), files)
            manifest = {
                "what": WHAT, "version": 1,
                "made": datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds"),
                "rows": _rows(cluster, DATABASE), "files": files,
            }  # fmt: skip
            _put(tar, MANIFEST, json.dumps(manifest, indent=1).encode(), {})
        part.replace(file)
    photos = len(files) - 1
    print(
        f"{file}: the database and {photos} photograph files, {file.stat().st_size / 1e6:.1f} MB."
    )
    return 0


def _put(tar: tarfile.TarFile, name: str, data: bytes, files: dict[str, dict]) -> None:
    entry = tarfile.TarInfo(name)
    entry.size, entry.mode = len(data), 0o600
    tar.addfile(entry, io.BytesIO(data))
    files[name] = {"size": len(data), "sha256": hashlib.sha256(data).hexdigest()}


def _rows(cluster: Cluster, database: str) -> dict[str, int]:
    """How many rows each table has."""
    with psycopg.connect(cluster.address_of(database), autocommit=True) as link:
        names = [row[0] for row in link.execute(
            "select tablename from pg_tables where schemaname = 'public' order by 1")]  # fmt: skip
        return {
            name: link.execute(sql.SQL("select count(*) from {}").format(sql.Identifier(name)))
            .fetchone()[0]
            for name in names
        }  # fmt: skip


def bring_back(cluster: Cluster, home: Path, file: Path) -> int:
    """Put back what `save` wrote, in place of what is there; return the exit status."""
    fresh = home / f"media-{secrets.token_hex(6)}"
    try:
        with tempfile.TemporaryDirectory() as folder:
            manifest = _unpack(file, Path(folder), fresh)
            _restore(cluster, Path(folder) / DUMP, manifest)
            _exchange(cluster, fresh.name)
    except (BackupError, OSError, tarfile.TarError, psycopg.Error) as error:
        print(f"{file}: {error}\nNothing was changed.", file=sys.stderr)
        shutil.rmtree(fresh, ignore_errors=True)
        return 2
    tidy_media(fresh)
    with psycopg.connect(cluster.address_of("postgres"), autocommit=True) as link:
        link.execute(f"drop database if exists {GONE} with (force)")
    return 0


def _unpack(file: Path, folder: Path, media: Path) -> dict:
    """Everything in the tar, held against its manifest before anything else is touched."""
    with tarfile.open(file) as tar:
        members = {member.name: member for member in tar.getmembers() if member.isfile()}
        if MANIFEST not in members:
            raise BackupError(
                "It breaks off: its last part, the list of what is in it, is missing."
            )
        manifest = json.loads(_read(tar, members[MANIFEST]))
        if not isinstance(manifest, dict) or manifest.get("what") != WHAT:
            raise BackupError("It is no backup of Chorograph.")
        listed = manifest.get("files", {})
        if DUMP not in listed:
            raise BackupError("It holds no database.")
        media.mkdir(mode=0o700, parents=True)
        for name, told in listed.items():
            found = PHOTO.fullmatch(name)
            if name != DUMP and not found:
                raise BackupError(f"It lists “{name[:80]}”, which no backup holds.")
            if name not in members:
                raise BackupError(f"{name} is missing in it.")
            data = _read(tar, members[name])
            if len(data) != told["size"] or hashlib.sha256(data).hexdigest() != told["sha256"]:
                raise BackupError(f"{name} is damaged.")
            goal = folder / DUMP if name == DUMP else media / found[1]
            goal.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            goal.write_bytes(data)
            goal.chmod(0o600)
    return manifest


def _read(tar: tarfile.TarFile, member: tarfile.TarInfo) -> bytes:
    source = tar.extractfile(member)
    if source is None:
        raise BackupError(f"{member.name} cannot be read.")
    with source:
        return source.read()


def _restore(cluster: Cluster, dump: Path, manifest: dict) -> None:
    """The dump in a database of its own, and whether that is what the manifest says."""
    with psycopg.connect(cluster.address_of("postgres"), autocommit=True) as link:
        link.execute(f"drop database if exists {FRESH} with (force)")
        link.execute(f"create database {FRESH}")
    status = pipe_tool(
        cluster, "pg_restore", ["--no-owner", "--exit-on-error", "--single-transaction", str(dump)],
        FRESH,
    )  # fmt: skip
    rows = _rows(cluster, FRESH) if status == 0 else {}
    missing = [name for name in NEEDED if name not in rows]
    if status or missing:
        raise BackupError("Its database is damaged, or is none of Chorograph's.")
    for name, count in manifest.get("rows", {}).items():
        # The count was taken after the dump: while people work, it may be a little ahead.
        if name in NEEDED and name in rows and rows[name] > count:
            raise BackupError(f"Its database has other rows in {name} than it says.")


def _exchange(cluster: Cluster, media: str) -> None:
    """The fresh database in place of the old one, with its folder of photographs, in one step."""
    with psycopg.connect(cluster.address_of("postgres"), autocommit=True) as link:
        link.execute(f"comment on database {FRESH} is '{media}'")
        link.execute(f"drop database if exists {GONE} with (force)")
        link.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname in (%s, %s) "
            "and pid <> pg_backend_pid()", [DATABASE, FRESH],
        )  # fmt: skip
        with link.transaction():
            link.execute(f"alter database {DATABASE} rename to {GONE}")
            link.execute(f"alter database {FRESH} rename to {DATABASE}")
