"""What trials are made on: studios with people and jobs, and the processes that serve them."""

from __future__ import annotations

import contextlib
import http.client
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlencode

from bench.server import HOME
from launcher.cluster import Cluster, free_port

STUDIOS, PEOPLE = 10, 50
WEB, THREADS = 2, 12
"""Processes and threads as `./chorograph start` has them."""
SECRET = "0123456789abcdefghijABCDEFGHIJ01"
"""What a browser sends in its cookie and in its form against forged requests."""


@dataclass(frozen=True)
class Person:
    """Somebody who is signed in: her cookie, and the jobs of her studio."""

    cookie: str
    jobs: tuple[str, ...]


@dataclass
class Answer:
    """What came back: status, how long it took in seconds, how many bytes, and the first of them."""

    status: int
    seconds: float
    size: int
    text: str = ""


@dataclass
class World:
    """Everything that runs."""

    cluster: Cluster
    media: Path
    port: int
    people: list[Person] = field(default_factory=list)
    web: subprocess.Popen | None = None
    workers: list[subprocess.Popen] = field(default_factory=list)

    def ask(
        self, person: Person, path: str, sent: dict | None = None, whole: bool = False
    ) -> Answer:
        """One request, as a browser sends it. A server that does not answer is a status of 0."""
        body = None if sent is None else urlencode(sent).encode()
        return self._asked(person, path, body, "application/x-www-form-urlencoded", whole)

    def send(self, person: Person, path: str, field_name: str, data: bytes) -> Answer:
        """A form with one file."""
        edge = "a-line-that-is-in-no-file"
        head = (f'--{edge}\r\nContent-Disposition: form-data; name="{field_name}"; filename="a.json"\r\n'
                "Content-Type: application/json\r\n\r\n")  # fmt: skip
        body = head.encode() + data + f"\r\n--{edge}--\r\n".encode()
        return self._asked(person, path, body, f"multipart/form-data; boundary={edge}", False)

    def _asked(
        self, person: Person, path: str, body: bytes | None, kind: str, whole: bool
    ) -> Answer:
        head = {"Cookie": f"{person.cookie}; {_csrf()}={SECRET}", "Accept-Encoding": "gzip"}
        if body is not None:
            head |= {"Content-Type": kind, "X-CSRFToken": SECRET}
        began = time.perf_counter()
        try:
            link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
            with contextlib.closing(link):
                if whole:
                    head["Accept-Encoding"] = "identity"
                link.request("GET" if body is None else "POST", path, body, head)
                answer = link.getresponse()
                data = answer.read()
                status = answer.status
        except (OSError, http.client.HTTPException):
            return Answer(0, time.perf_counter() - began, 0)
        took = time.perf_counter() - began
        return Answer(status, took, len(data), data.decode(errors="replace") if whole else "")

    def start(self) -> None:
        """Web server and workers, as `./chorograph start` has them."""
        os.environ["CHOROGRAPH_MEDIA"] = str(self.media)
        os.environ["CHOROGRAPH_CACHE"] = str(self.media.parent / "derived")
        self.web = subprocess.Popen(
            [str(HOME / ".venv/bin/gunicorn"), "studio.wsgi", "--bind", f"127.0.0.1:{self.port}",
             f"--workers={WEB}", f"--threads={THREADS}", "--preload", "--timeout=120", "--no-control-socket",
             "--log-level=critical"], cwd=HOME, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        command = [sys.executable, "manage.py", "procrastinate", "worker"]
        self.workers = [
            subprocess.Popen([*command, f"--queues={queue}"], cwd=HOME, stderr=subprocess.DEVNULL,
                             stdout=subprocess.DEVNULL)
            for queue in ("plans", "readings")
        ]  # fmt: skip
        self.answers()

    def answers(self, patience: float = 60.0) -> float:
        """Seconds until somebody is answered again."""
        began = time.perf_counter()
        while time.perf_counter() - began < patience:
            if self.people and self.ask(self.people[0], "/jobs/").status == 200:
                return time.perf_counter() - began
            time.sleep(0.2)
        raise AssertionError("nobody is answered any more")

    def web_processes(self) -> list[int]:
        """Numbers of the processes that answer."""
        assert self.web is not None
        listing = Path(f"/proc/{self.web.pid}/task/{self.web.pid}/children").read_text()
        return [int(each) for each in listing.split()]

    def megabytes(self) -> float:
        """Resident memory of the largest web process."""
        sizes = []
        for number in self.web_processes():
            for line in Path(f"/proc/{number}/status").read_text().splitlines():
                if line.startswith("VmRSS"):
                    sizes.append(int(line.split()[1]) / 1024)
        return max(sizes, default=0.0)

    def stop(self) -> None:
        """All of it."""
        for each in filter(None, [self.web, *self.workers]):
            each.send_signal(signal.SIGTERM)
        for each in filter(None, [self.web, *self.workers]):
            try:
                each.wait(15)
            except subprocess.TimeoutExpired:
                each.kill()


def _csrf() -> str:
    from django.conf import settings

    return settings.CSRF_COOKIE_NAME


@contextlib.contextmanager
def world() -> Iterator[World]:
    """Ten studios of five people, each with the demo's sampler and a small top, served on loopback."""
    with tempfile.TemporaryDirectory() as folder:
        # Not one to be thrown away: that would write nothing through, and what is killed would lose it.
        cluster = Cluster(Path(folder) / "postgres")
        cluster.start()
        here: World | None = None
        try:
            os.environ["DATABASE_URL"] = cluster.address
            manage = [sys.executable, "manage.py"]
            subprocess.run([*manage, "migrate", "--verbosity=0"], cwd=HOME, check=True)
            subprocess.run([*manage, "load_demo"], cwd=HOME, check=True)
            import django

            django.setup()
            here = World(cluster, Path(folder) / "media", free_port(), _people())
            here.start()
            yield here
        finally:
            if here is not None:
                here.stop()
            cluster.stop()


def _people() -> list[Person]:
    from django.conf import settings
    from django.contrib.auth import (
        BACKEND_SESSION_KEY,
        HASH_SESSION_KEY,
        SESSION_KEY,
        get_user_model,
    )

    from chorograph_core.tests.shapes import designed, small_top
    from studio.accounts.models import Membership, Studio
    from studio.accounts.sessions import SessionStore
    from studio.jobs.models import Job
    from studio.jobs.revisions import core_job, create_job
    from studio.routes.planning import ask_for_plan, carry_out
    from studio.shelf.starting import stock

    sampler = core_job(Job.objects.select_related("head").get(title="Kelp Road Sampler"))
    found = []
    for number in range(STUDIOS):
        studio = Studio.objects.create(name=f"Trial {number}")
        stock(studio)
        jobs = [create_job(studio, None, core, "made for a trial")
                for core in (sampler, designed(small_top(2, 2)))]  # fmt: skip
        if number == 0:
            plan = ask_for_plan(jobs[0])
            carry_out(plan, first_answer=False)
        for k in range(PEOPLE // STUDIOS):
            person = get_user_model().objects.create_user(f"trial-{number}-{k}")
            Membership.objects.create(studio=studio, person=person)
            session = SessionStore()
            session[SESSION_KEY] = str(person.pk)
            session[BACKEND_SESSION_KEY] = "django.contrib.auth.backends.ModelBackend"
            session[HASH_SESSION_KEY] = person.get_session_auth_hash()
            session.create()
            cookie = f"{settings.SESSION_COOKIE_NAME}={session.session_key}"
            found.append(Person(cookie, tuple(str(job.pk) for job in jobs)))
    return found
