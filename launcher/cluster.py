"""A private PostgreSQL cluster on loopback, from Debian's server packages.

The data folder is handed to the server as an open descriptor (/proc/self/fd/N). So the server, which
refuses to run as root, can run as another user even when the checkout lies in a folder that only its
owner can enter.
"""

from __future__ import annotations

import contextlib
import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import psycopg

ROLE = "chorograph"
DATABASE = "chorograph"
FRESH, GONE = "chorograph_fresh", "chorograph_gone"
"""A database that is being restored into, and the one whose place it has taken."""
HOST = "127.0.0.1"


class ClusterError(RuntimeError):
    """The database cannot be started. The message says what to do."""


def binaries() -> Path:
    """Folder of the newest installed PostgreSQL server."""
    found = sorted(
        (
            path
            for path in Path("/usr/lib/postgresql").glob("*/bin")
            if (path / "postgres").exists()
        ),
        key=lambda path: float(path.parent.name),
    )
    if not found:
        raise ClusterError("The PostgreSQL server is not installed: apt-get install postgresql")
    return found[-1]


def free_port() -> int:
    """A port on loopback that nothing listens on."""
    with socket.socket() as probe:
        probe.bind((HOST, 0))
        return probe.getsockname()[1]


def secret_in(file: Path, size: int) -> str:
    """The secret kept in *file*, readable by its owner alone; made when there is none, or an empty
    one that a crash left."""
    kept = file.read_text().strip() if file.exists() else ""
    if kept:
        return kept
    file.parent.mkdir(parents=True, exist_ok=True)
    made = secrets.token_urlsafe(size)
    part = file.with_name(f"{file.name}.part")
    descriptor = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    os.write(descriptor, made.encode())
    os.fsync(descriptor)
    os.close(descriptor)
    part.replace(file)
    return made


class Cluster:
    """One data folder and the server that runs on it."""

    def __init__(self, folder: Path, throwaway: bool = False) -> None:
        self.folder = folder
        self.data = folder / "data"
        self.throwaway = throwaway
        self.port = 0
        self.process: subprocess.Popen | None = None

    @property
    def password(self) -> str:
        """The role's password, made on first use and kept where only the owner reads it."""
        return secret_in(self.folder / "password", 24)

    @property
    def address(self) -> str:
        """Connection address for Django and psycopg."""
        return f"postgresql://{ROLE}:{self.password}@{HOST}:{self.port}/{DATABASE}"

    @property
    def running(self) -> bool:
        """Whether the server that was started here still runs."""
        return self.process is not None and self.process.poll() is None

    def attach(self) -> bool:
        """Use the server that already runs on this folder, without owning it; False when none does."""
        noted = self._noted()
        if noted is None:
            return False
        self.port = noted[1]
        return True

    def start(self, port: int = 0) -> None:
        """Make the cluster if there is none, start the server on *port* or a free one, make the
        database. What a crash left behind is put right."""
        if self._noted() is not None:
            raise ClusterError("Chorograph is already running from this folder.")
        fresh = not (self.data / "PG_VERSION").exists()
        if fresh:
            self._make()
        (self.data / "postmaster.pid").unlink(missing_ok=True)
        self._heal_password(fresh)
        self.port = port or free_port()
        settings = ["-c", f"listen_addresses={HOST}", "-c", f"port={self.port}",
                    "-c", "unix_socket_directories=", "-c", "max_connections=60",
                    "-c", "log_min_duration_statement=500"]  # fmt: skip
        if self.throwaway:
            settings += ["-c", "fsync=off", "-c", "synchronous_commit=off",
                         "-c", "full_page_writes=off"]  # fmt: skip
        log = (self.folder / "postgres.log").open("ab")
        with _handle(self.data) as handle:
            self.process = subprocess.Popen(
                self._as_server(["postgres", "-D", f"/proc/self/fd/{handle.number}", *settings]),
                stdout=log, stderr=log, pass_fds=[handle.number], start_new_session=True,
            )  # fmt: skip
        self._wait()
        with psycopg.connect(self.address_of("postgres"), autocommit=True) as link:
            known = {row[0] for row in link.execute("select datname from pg_database")}
            if DATABASE not in known:
                link.execute(f"create database {DATABASE}")
            for name in sorted(known & {FRESH, GONE}):
                # What a restore that broke off, or has just been carried out, left behind.
                link.execute(f"drop database {name} with (force)")

    def stop(self) -> None:
        """Stop the server; a throw-away cluster is removed."""
        if self.process and self.process.poll() is None:
            self.process.send_signal(signal.SIGINT)
            try:
                self.process.wait(20)
            except subprocess.TimeoutExpired:
                self.process.kill()
        if self.throwaway:
            shutil.rmtree(self.folder, ignore_errors=True)

    def address_of(self, database: str) -> str:
        """Connection address of one database."""
        return f"postgresql://{ROLE}:{self.password}@{HOST}:{self.port}/{database}"

    def _noted(self) -> tuple[int, int] | None:
        """Process and port of a server that runs on this very folder; None for a stale note.

        The number alone does not say it: after a crash another process may have it.
        """
        try:
            lines = (self.data / "postmaster.pid").read_text().split("\n")
            pid, port = int(lines[0]), int(lines[3])
            here = Path(f"/proc/{pid}/cwd").resolve(strict=True).samefile(self.data)
            named = b"postgres" in Path(f"/proc/{pid}/cmdline").read_bytes()
        except (ValueError, IndexError, OSError):
            return None
        return (pid, port) if here and named else None

    def stop_other(self, patience: float = 15.0) -> bool:
        """Stop a server that an earlier launcher left running on this folder; whether there was one."""
        noted = self._noted()
        if noted is None:
            return False
        pid = noted[0]
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGINT)
        deadline = time.monotonic() + patience
        while self._noted() is not None and time.monotonic() < deadline:
            time.sleep(0.1)
        if self._noted() is not None:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGQUIT)
            time.sleep(0.5)
        return True

    def _heal_password(self, fresh: bool) -> None:
        """An empty password file is given a new one, and the role in the database as well."""
        file = self.folder / "password"
        if fresh or (file.exists() and file.read_text().strip()):
            return
        words = f"alter role {ROLE} password '{self.password}';\n"
        with _handle(self.data) as handle:
            done = subprocess.run(
                self._as_server(["postgres", "--single", "-D", f"/proc/self/fd/{handle.number}",
                                 "postgres"]),
                input=words, text=True, capture_output=True, pass_fds=[handle.number], cwd="/",
            )  # fmt: skip
        if done.returncode:
            raise ClusterError(f"The database's password could not be set anew:\n{done.stderr}")

    def _make(self) -> None:
        if self.data.exists():
            # An earlier try broke off before the cluster was whole.
            shutil.rmtree(self.data)
        self.data.mkdir(parents=True, mode=0o700)
        word = self.folder / "initial"
        word.write_text(self.password)
        user = _server_user()
        if user:
            os.chown(self.data, user.pw_uid, user.pw_gid)
            os.chown(word, user.pw_uid, user.pw_gid)
        with _handle(self.data) as data, _handle(word) as secret:
            made = subprocess.run(
                self._as_server(
                    ["initdb", "-D", f"/proc/self/fd/{data.number}", "-U", ROLE, "-E", "UTF8",
                     "--locale=C.UTF-8", "--auth=scram-sha-256",
                     f"--pwfile=/proc/self/fd/{secret.number}", "--no-instructions"]
                ),
                pass_fds=[data.number, secret.number], capture_output=True, text=True, cwd="/",
            )  # fmt: skip
        word.unlink()
        if made.returncode:
            shutil.rmtree(self.data, ignore_errors=True)
            raise ClusterError(f"The database could not be made:\n{made.stderr}")

    def _as_server(self, command: list[str]) -> list[str]:
        command = [str(binaries() / command[0]), *command[1:]]
        user = _server_user()
        if user:
            switch = [
                "setpriv",
                f"--reuid={user.pw_uid}",
                f"--regid={user.pw_gid}",
                "--clear-groups",
            ]
            return [*switch, *command]
        return command

    def _wait(self) -> None:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                break
            try:
                psycopg.connect(self.address_of("postgres"), connect_timeout=2).close()
                return
            except psycopg.OperationalError:
                time.sleep(0.1)
        tail = (self.folder / "postgres.log").read_text(errors="replace")[-1500:]
        self.stop()
        raise ClusterError(f"The database did not start:\n{tail}")


class _handle:
    """An open descriptor of a path, for as long as a child is being started."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.number = -1

    def __enter__(self) -> _handle:
        self.number = os.open(self.path, os.O_RDONLY)
        return self

    def __exit__(self, *_) -> None:
        os.close(self.number)


def _server_user() -> pwd.struct_passwd | None:
    """Whom the server runs as when we are root; None when we are not."""
    if os.getuid() != 0:
        return None
    try:
        return pwd.getpwnam("postgres")
    except KeyError:
        return pwd.getpwnam("nobody")


def pipe_tool(
    cluster: Cluster, tool: str, arguments: list[str], database: str = DATABASE, **files
) -> int:
    """Run one of PostgreSQL's own tools against a database of the cluster."""
    environment = {**os.environ, "PGPASSWORD": cluster.password}
    where = ["-h", HOST, "-p", str(cluster.port), "-U", ROLE, "-d", database]
    return subprocess.run(
        [str(binaries() / tool), *where, *arguments], env=environment, stderr=sys.stderr, **files
    ).returncode
