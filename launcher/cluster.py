"""A private PostgreSQL cluster on loopback, from Debian's server packages.

The data folder is handed to the server as an open descriptor (/proc/self/fd/N). So the server, which
refuses to run as root, can run as another user even when the checkout lies in a folder that only its
owner can enter.
"""

from __future__ import annotations

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
        file = self.folder / "password"
        if not file.exists():
            self.folder.mkdir(parents=True, exist_ok=True)
            descriptor = os.open(file, os.O_WRONLY | os.O_CREAT, 0o600)
            os.write(descriptor, secrets.token_urlsafe(24).encode())
            os.close(descriptor)
        return file.read_text()

    @property
    def address(self) -> str:
        """Connection address for Django and psycopg."""
        return f"postgresql://{ROLE}:{self.password}@{HOST}:{self.port}/{DATABASE}"

    def start(self) -> None:
        """Make the cluster if there is none, start the server, make the database."""
        if (self.data / "postmaster.pid").exists() and self._alive():
            raise ClusterError("Chorograph is already running from this folder.")
        if not (self.data / "PG_VERSION").exists():
            self._make()
        (self.data / "postmaster.pid").unlink(missing_ok=True)
        self.port = free_port()
        settings = ["-c", f"listen_addresses={HOST}", "-c", f"port={self.port}",
                    "-c", "unix_socket_directories=", "-c", "max_connections=60"]  # fmt: skip
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
        with psycopg.connect(self._address("postgres"), autocommit=True) as link:
            known = link.execute("select 1 from pg_database where datname = %s", [DATABASE])
            if known.fetchone() is None:
                link.execute(f"create database {DATABASE}")

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

    def _address(self, database: str) -> str:
        return f"postgresql://{ROLE}:{self.password}@{HOST}:{self.port}/{database}"

    def _alive(self) -> bool:
        try:
            number = int((self.data / "postmaster.pid").read_text().split()[0])
            os.kill(number, 0)
        except (ValueError, IndexError, ProcessLookupError, OSError):
            return False
        return b"postgres" in Path(f"/proc/{number}/cmdline").read_bytes()

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
                psycopg.connect(self._address("postgres"), connect_timeout=2).close()
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


def pipe_tool(cluster: Cluster, tool: str, arguments: list[str], **files) -> int:
    """Run one of PostgreSQL's own tools against the cluster's database."""
    environment = {**os.environ, "PGPASSWORD": cluster.password}
    where = ["-h", HOST, "-p", str(cluster.port), "-U", ROLE, "-d", DATABASE]
    return subprocess.run(
        [str(binaries() / tool), *where, *arguments], env=environment, stderr=sys.stderr, **files
    ).returncode
