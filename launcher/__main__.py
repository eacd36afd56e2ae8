"""The commands behind ./chorograph that need a database."""

from __future__ import annotations

import argparse
import contextlib
import ctypes
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from launcher.cluster import Cluster, ClusterError, secret_in
from launcher.processes import RunFile, identity_of, stop_groups
from launcher.rights import dropping, hand_over
from launcher.saving import bring_back, media_folder, save, tidy_media
from launcher.supervising import LOOK, Part, Supervisor

HOME = Path(__file__).resolve().parent.parent
LOCAL = HOME / ".local"
READYING = ("python", "-m", "chorograph_core.route.readying")
"""Compiles what searches for routes, for all processes that come after."""


def main() -> int:
    """Run one command and return its exit status."""
    parser = argparse.ArgumentParser(prog="chorograph")
    commands = parser.add_subparsers(dest="command", required=True)
    starting = commands.add_parser("start")
    starting.add_argument("--port", type=int, default=0)
    starting.add_argument("--host", default="127.0.0.1")
    starting.add_argument("--no-demo", action="store_true")
    for name in ("test", "bench"):
        some = commands.add_parser(name)
        some.add_argument("labels", nargs="*")
        some.add_argument("--quick", action="store_true")
    commands.choices["test"].add_argument("--full", action="store_true")
    commands.add_parser("stop")
    rehearsing = commands.add_parser("rehearse")
    rehearsing.add_argument("rest", nargs=argparse.REMAINDER)
    for name in ("password", "password-alone"):
        commands.add_parser(name).add_argument("name")
    for name in ("backup", "restore"):
        commands.add_parser(name).add_argument("file", type=Path)
    options = parser.parse_args()
    # A shell that starts us in the background leaves Ctrl-C ignored; we want it heard.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))
    try:
        return globals()[f"_{options.command.replace('-', '_')}"](options)
    except ClusterError as error:
        print(error, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


def _start(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / "postgres")
    run_file = RunFile(LOCAL / "run.json")
    _heal(cluster, run_file)
    supervisor: Supervisor | None = None
    readying: subprocess.Popen | None = None
    try:
        port = _web_port(options.host, options.port)
        cluster.start()
        media = media_folder(cluster, LOCAL)
        tidy_media(media)
        environment = _environment(cluster, options.host, media)
        _django(environment, "migrate", "--verbosity=0")
        environment["CHOROGRAPH_STATIC"] = str(LOCAL / "static")
        _django(environment, "collectstatic", "--noinput", "--clear", "--verbosity=0")
        if not options.no_demo:
            _django(environment, "load_demo")
        shown = "127.0.0.1" if options.host in ("0.0.0.0", "") else options.host
        address = f"http://{shown}:{port}/"
        rights = dropping(HOME, _tool("python"))
        hand_over(media, rights)
        if rights:
            environment["HOME"] = environment["XDG_CACHE_HOME"] = str(LOCAL / "cache")
            hand_over(LOCAL / "cache", rights)
        environment["CHOROGRAPH_CACHE"] = str(LOCAL / "cache" / "derived")
        # Beside everything else: who asks for a plan before it is through waits no longer than without it.
        readying = _child(environment, rights, *READYING)
        supervisor = Supervisor(cluster, _parts(environment, options.host, port, rights),
                                lambda children: run_file.write(address, children))  # fmt: skip
        supervisor.start()
        _wait_for(options.host, port, supervisor)
        print(f"\nChorograph is at {address}")
        if not options.no_demo:
            print("Sign in as rosalind with the password linen-and-thread (demo studio).")
        else:
            print("Its first page asks for the name of your studio and a password.")
        print("Ctrl-C stops it, or ./chorograph stop.", flush=True)
        while True:
            time.sleep(LOOK)
            supervisor.look()
    except KeyboardInterrupt:
        print("\nStopping.")
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        if supervisor is not None:
            supervisor.stop()
        if readying is not None:
            readying.kill()
            readying.wait()
        cluster.stop()
        noted = run_file.read()
        if noted is not None and noted[0] == identity_of(os.getpid()):
            run_file.clear()


def _heal(cluster: Cluster, run_file: RunFile) -> None:
    """Refuse to run twice; stop what a launcher that was killed left behind."""
    noted = run_file.read()
    if noted is not None and noted[0].alive and noted[0].pid != os.getpid():
        raise ClusterError(f"Chorograph is already running at {noted[1]}")
    if noted is not None:
        stop_groups(noted[2])
    if cluster.stop_other():
        print("A database left running by an earlier start was stopped.", file=sys.stderr)
    run_file.clear()


def _parts(environment: dict[str, str], host: str, port: int, rights: list[str]) -> list[Part]:
    """Web server and workers: one for plans and paper, one for drawings that take long to read."""

    def child(name: str, *arguments: str) -> subprocess.Popen:
        return _child(environment, rights, name, *arguments)

    worker = ("python", "manage.py", "procrastinate", "worker")
    return [
        Part("web server", lambda: child(
            "gunicorn", "studio.wsgi", "--bind", f"{host}:{port}", "--workers=2",
            "--threads=12", "--preload", "--timeout=120", "--graceful-timeout=5", "--no-control-socket",
            "--error-logfile=-", "--log-level=warning")),
        Part("worker", lambda: child(*worker, "--queues=plans", "--name=plans")),
        Part("reader", lambda: child(*worker, "--queues=readings", "--name=readings")),
    ]  # fmt: skip


def _stop(options: argparse.Namespace) -> int:
    """Stop the application that was started from this folder, and whatever is left of it."""
    run_file, cluster = RunFile(LOCAL / "run.json"), Cluster(LOCAL / "postgres")
    noted = run_file.read()
    running = noted is not None and noted[0].alive
    if noted is not None and running:
        with contextlib.suppress(ProcessLookupError):
            os.kill(noted[0].pid, signal.SIGTERM)
        deadline = time.monotonic() + 30
        while noted[0].alive and time.monotonic() < deadline:
            time.sleep(0.1)
        if noted[0].alive:
            with contextlib.suppress(ProcessLookupError):
                os.kill(noted[0].pid, signal.SIGKILL)
    if noted is not None:
        stop_groups(noted[2])
    left = cluster.stop_other()
    run_file.clear()
    print("Stopped." if running or left else "Chorograph is not running from this folder.")
    return 0


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


def _environment(
    cluster: Cluster, host: str = "127.0.0.1", media: Path | None = None
) -> dict[str, str]:
    return {
        **os.environ,
        "DATABASE_URL": cluster.address,
        "CHOROGRAPH_SECRET": secret_in(LOCAL / "secret-key", 48),
        "CHOROGRAPH_HOSTS": os.environ.get("CHOROGRAPH_HOSTS", "") or ",".join(_names_of(host)),
        "CHOROGRAPH_MEDIA": str(media or LOCAL / "media"),
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        # One thread for each sum: workers share the cores.
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
        "PYTHONUNBUFFERED": "1",
    }


def _names_of(host: str) -> list[str]:
    """What browsers may call this machine: as it was told to listen, or on a network of its own by each of
    its addresses and its name."""
    if host not in ("0.0.0.0", "::", ""):
        return [host]
    name = socket.gethostname()
    found = subprocess.run(
        ["hostname", "-I"], capture_output=True, text=True, check=False
    ).stdout.split()
    return [name, f"{name}.local", *(f"[{each}]" if ":" in each else each for each in found)]


def _tool(name: str) -> str:
    return str(HOME / ".venv" / "bin" / name)


def _django(environment: dict[str, str], *arguments: str) -> None:
    done = subprocess.run([_tool("python"), "manage.py", *arguments], cwd=HOME, env=environment)
    if done.returncode:
        raise ClusterError(f"{arguments[0]} failed.")


def _child(
    environment: dict[str, str], rights: list[str], name: str, *arguments: str
) -> subprocess.Popen:
    # A session of its own: Ctrl-C reaches us alone, and we stop the rest in order. What they have to
    # report comes on standard error; standard output is ours.
    return subprocess.Popen(
        [*rights, _tool(name), *arguments], cwd=HOME, env=environment, start_new_session=True,
        stdout=subprocess.DEVNULL, preexec_fn=_die_with_parent,
    )  # fmt: skip


def _die_with_parent() -> None:
    """Ask the kernel to stop this process when the launcher is gone, however it went (Linux)."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(1, signal.SIGTERM)


def _wait_for(host: str, port: int, supervisor: Supervisor) -> None:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        if any(part.process is not None and not part.running for part in supervisor.parts):
            raise ClusterError("The web server or a worker did not start.")
        try:
            socket.create_connection(("127.0.0.1" if host == "0.0.0.0" else host, port), 1).close()
            return
        except OSError:
            time.sleep(0.1)
    raise ClusterError("The web server did not answer within a minute.")


def _test(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / f"test-{os.getpid()}", throwaway=True)
    media = tempfile.mkdtemp(prefix="chorograph-media-")
    found = Path(tempfile.mkdtemp(prefix="chorograph-checks-")) / "found.json"
    checks = None
    if not options.labels:
        checks = subprocess.Popen([_tool("python"), "-m", "launcher.checking", str(found)], cwd=HOME,
                                  preexec_fn=_die_with_parent)  # fmt: skip
    try:
        # Once, not by every process at the same time.
        readying = subprocess.Popen([_tool(READYING[0]), *READYING[1:]], cwd=HOME)
        cluster.start()
        readying.wait()
        environment = {**_environment(cluster), "CHOROGRAPH_MEDIA": media}
        if checks is not None:
            environment["CHOROGRAPH_CHECKS"] = str(found)
        labels = options.labels or ["chorograph_core", "studio", "launcher"]
        # What reckons keeps two cores busy; without what takes long, more of it waits for a browser.
        processes = 2
        if options.quick:
            labels = [*(options.labels or ["chorograph_core", "studio"]), "--exclude-tag=browser",
                      "--exclude-tag=long"]  # fmt: skip
            environment["CHOROGRAPH_FEWER"] = "8"
        elif not options.labels and not options.full:
            labels.append("--exclude-tag=long")
            environment["CHOROGRAPH_FEWER"], processes = "2", 3
        return subprocess.run(
            [_tool("python"), "manage.py", "test", f"--parallel={processes}", "--verbosity=1",
             *labels],
            cwd=HOME, env=environment,
        ).returncode  # fmt: skip
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        cluster.stop()
        if checks is not None:
            checks.kill()
            checks.wait()
        for folder in (media, found.parent):
            shutil.rmtree(folder, ignore_errors=True)


def _bench(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / f"bench-{os.getpid()}", throwaway=True)
    try:
        cluster.start()
        return subprocess.run(
            [_tool("python"), "-m", "bench", *options.labels], cwd=HOME, env=_environment(cluster)
        ).returncode
    finally:
        cluster.stop()


def _rehearse(options: argparse.Namespace) -> int:
    """Let the simulated machine stitch a job, beside the running application or without it."""
    return _managed("rehearse", *options.rest)


def _managed(*arguments: str) -> int:
    """Run a command of the application on its database, beside the running application or without it."""
    cluster = Cluster(LOCAL / "postgres")
    running = cluster.attach()
    if not running:
        cluster.start()
    try:
        return subprocess.run(
            [_tool("python"), "manage.py", *arguments], cwd=HOME, env=_environment(cluster)
        ).returncode
    finally:
        if not running:
            cluster.stop()


def _password(options: argparse.Namespace) -> int:
    """Give somebody a new password, typed twice."""
    return _managed("changepassword", options.name)


def _password_alone(options: argparse.Namespace) -> int:
    """Take the code besides the password away from somebody who has lost it."""
    return _managed("password_alone", options.name)


def _backup(options: argparse.Namespace) -> int:
    cluster = Cluster(LOCAL / "postgres")
    if cluster.attach():
        # Saved beside the running application.
        return save(cluster, media_folder(cluster, LOCAL), options.file)
    cluster.start()
    try:
        return save(cluster, media_folder(cluster, LOCAL), options.file)
    finally:
        cluster.stop()


def _restore(options: argparse.Namespace) -> int:
    if not options.file.is_file():
        print(f"There is no file {options.file}.", file=sys.stderr)
        return 2
    noted = RunFile(LOCAL / "run.json").read()
    if noted is not None and noted[0].alive:
        print("Chorograph is running: stop it first, with ./chorograph stop.", file=sys.stderr)
        return 2
    cluster = Cluster(LOCAL / "postgres")
    cluster.stop_other()
    cluster.start()
    try:
        return bring_back(cluster, LOCAL, options.file)
    finally:
        cluster.stop()


if __name__ == "__main__":
    sys.exit(main())
