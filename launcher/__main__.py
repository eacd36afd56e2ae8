"""The commands behind ./chorograph that need a database."""

from __future__ import annotations

import argparse
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from launcher.cluster import Cluster, ClusterError
from launcher.saving import bring_back, save

HOME = Path(__file__).resolve().parent.parent
LOCAL = HOME / ".local"
MEDIA = LOCAL / "media"


def main() -> int:
    """Run one command and return its exit status."""
    parser = argparse.ArgumentParser(prog="chorograph")
    commands = parser.add_subparsers(dest="command", required=True)
    starting = commands.add_parser("start")
    starting.add_argument("--port", type=int, default=0)
    starting.add_argument("--host", default="127.0.0.1")
    starting.add_argument("--no-demo", action="store_true")
    for name in ("test", "bench"):
        commands.add_parser(name).add_argument("labels", nargs="*")
    for name in ("backup", "restore"):
        commands.add_parser(name).add_argument("file", type=Path)
    options = parser.parse_args()
    # A shell that starts us in the background leaves Ctrl-C ignored; we want it heard.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))
    try:
        return globals()[f"_{options.command}"](options)
    except ClusterError as error:
        print(error, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _start(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / "postgres")
    children: list[subprocess.Popen] = []
    try:
        port = _web_port(options.host, options.port)
        cluster.start()
        environment = _environment(cluster, options.host)
        _django(environment, "migrate", "--verbosity=0")
        if not options.no_demo:
            _django(environment, "load_demo")
        children.append(
            _child(environment, "gunicorn", "studio.wsgi", "--bind", f"{options.host}:{port}",
                   "--workers=2", "--threads=4", "--timeout=120", "--no-control-socket",
                   "--error-logfile=-", "--log-level=warning")
        )  # fmt: skip
        children.append(_child(environment, "python", "manage.py", "procrastinate", "worker"))
        _wait_for(options.host, port, children)
        shown = "127.0.0.1" if options.host in ("0.0.0.0", "") else options.host
        print(f"\nChorograph is at http://{shown}:{port}/")
        if not options.no_demo:
            print("Sign in as rosalind with the password linen-and-thread (demo studio).")
        else:
            print("Its first page asks for the name of your studio and a password.")
        print("Ctrl-C stops it.", flush=True)
        while all(child.poll() is None for child in children):
            time.sleep(0.5)
        print("A part of Chorograph stopped; stopping the rest.", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("\nStopping.")
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for child in children:
            if child.poll() is None:
                child.terminate()
        for child in children:
            try:
                child.wait(15)
            except subprocess.TimeoutExpired:
                child.kill()
        cluster.stop()


def _web_port(host: str, wished: int) -> int:
    """The wished port, else 8000, else any that is free."""
    for port in [wished] if wished else [8000, 8001, 8002, 0]:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
            except OSError as error:
                if wished:
                    raise ClusterError(f"Port {wished} cannot be used: {error.strerror}.") from None
                continue
            return probe.getsockname()[1]
    raise ClusterError("No port is free.")


def _environment(cluster: Cluster, host: str = "127.0.0.1") -> dict[str, str]:
    key = LOCAL / "secret-key"
    if not key.exists():
        descriptor = os.open(key, os.O_WRONLY | os.O_CREAT, 0o600)
        os.write(descriptor, secrets.token_urlsafe(48).encode())
        os.close(descriptor)
    return {
        **os.environ,
        "DATABASE_URL": cluster.address,
        "CHOROGRAPH_SECRET": key.read_text(),
        "CHOROGRAPH_HOST": host,
        "CHOROGRAPH_MEDIA": str(MEDIA),
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        # One thread for each sum: workers share the cores.
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
        "PYTHONUNBUFFERED": "1",
    }


def _tool(name: str) -> str:
    return str(HOME / ".venv" / "bin" / name)


def _django(environment: dict[str, str], *arguments: str) -> None:
    done = subprocess.run([_tool("python"), "manage.py", *arguments], cwd=HOME, env=environment)
    if done.returncode:
        raise ClusterError(f"{arguments[0]} failed.")


def _child(environment: dict[str, str], name: str, *arguments: str) -> subprocess.Popen:
    # A session of its own: Ctrl-C reaches us alone, and we stop the rest in order. What they have to
    # report comes on standard error; standard output is ours.
    return subprocess.Popen(
        [_tool(name), *arguments], cwd=HOME, env=environment, start_new_session=True,
        stdout=subprocess.DEVNULL,
    )  # fmt: skip


def _wait_for(host: str, port: int, children: list[subprocess.Popen]) -> None:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        if any(child.poll() is not None for child in children):
            raise ClusterError("The web server or the worker did not start.")
        try:
            socket.create_connection(("127.0.0.1" if host == "0.0.0.0" else host, port), 1).close()
            return
        except OSError:
            time.sleep(0.1)
    raise ClusterError("The web server did not answer within a minute.")


def _test(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / f"test-{os.getpid()}", throwaway=True)
    checks = [
        ("ruff", ["ruff", "check", "."]),
        ("format", ["ruff", "format", "--check", "--quiet", "."]),
        ("layers", ["lint-imports"]),
    ]
    broken = []
    if not options.labels:
        for name, (tool, *arguments) in checks:
            done = subprocess.run([_tool(tool), *arguments], cwd=HOME)
            if done.returncode:
                broken.append(name)
    media = tempfile.mkdtemp(prefix="chorograph-media-")
    try:
        cluster.start()
        environment = {
            **_environment(cluster), "CHOROGRAPH_BROKEN_CHECKS": ",".join(broken),
            "CHOROGRAPH_MEDIA": media,
        }  # fmt: skip
        labels = options.labels or ["chorograph_core", "studio", "launcher"]
        return subprocess.run(
            [_tool("python"), "manage.py", "test", "--parallel=2", "--verbosity=1", *labels],
            cwd=HOME, env=environment,
        ).returncode  # fmt: skip
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        cluster.stop()
        shutil.rmtree(media, ignore_errors=True)


def _bench(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / f"bench-{os.getpid()}", throwaway=True)
    try:
        cluster.start()
        return subprocess.run(
            [_tool("python"), "-m", "bench", *options.labels], cwd=HOME, env=_environment(cluster)
        ).returncode
    finally:
        cluster.stop()


def _backup(options: argparse.Namespace) -> int:
    return _with_database(lambda cluster: save(cluster, MEDIA, options.file))


def _restore(options: argparse.Namespace) -> int:
    if not options.file.is_file():
        print(f"There is no file {options.file}.", file=sys.stderr)
        return 2
    return _with_database(lambda cluster: bring_back(cluster, MEDIA, options.file))


def _with_database(work) -> int:
    cluster = Cluster(LOCAL / "postgres")
    cluster.start()
    try:
        return work(cluster)
    finally:
        cluster.stop()


if __name__ == "__main__":
    sys.exit(main())
