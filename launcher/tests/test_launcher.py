"""The private cluster and the closing line of a test run."""

import io
import json
import os
import subprocess
import tempfile
import threading
import time
from pathlib import Path
from types import SimpleNamespace
from unittest import TestCase, mock

import psycopg

from launcher.__main__ import HOME
from launcher.cluster import Cluster, ClusterError, free_port, secret_in
from launcher.processes import Identity, RunFile, group_alive, identity_of, stop_groups
from launcher.supervising import Part, Supervisor


class ClusterTests(TestCase):
    def test_it_starts_keeps_its_data_and_stops(self):
        with tempfile.TemporaryDirectory() as folder:
            home = Path(folder) / "closed"
            home.mkdir(mode=0o700)
            cluster = Cluster(home / "postgres")
            cluster.start()
            with psycopg.connect(cluster.address) as link:
                link.execute("create table kept as select 7 as n")
            with self.assertRaises(ClusterError):
                Cluster(home / "postgres").start()
            cluster.stop()
            again = Cluster(home / "postgres")
            again.start()
            try:
                with psycopg.connect(again.address) as link:
                    self.assertEqual(link.execute("select n from kept").fetchone(), (7,))
                with self.assertRaises(psycopg.OperationalError):
                    wrong = again.address.replace(again.password, "wrong")
                    psycopg.connect(wrong).close()
                self.assertEqual((home / "postgres" / "password").stat().st_mode & 0o077, 0)
            finally:
                again.stop()

    def test_what_a_crash_leaves_behind_is_healed(self):
        with tempfile.TemporaryDirectory() as folder:
            cluster = Cluster(Path(folder) / "postgres")
            cluster.start()
            cluster.process.kill()
            cluster.process.wait()
            note = cluster.data / "postmaster.pid"
            # The number of the dead server has gone to somebody else: here, to ourselves.
            lines = note.read_text().split("\n")
            note.write_text("\n".join([str(os.getpid()), *lines[1:]]))
            (cluster.folder / "password").write_text("")
            again = Cluster(Path(folder) / "postgres")
            again.start()
            try:
                self.assertTrue(again.password)
                psycopg.connect(again.address).close()
                # A launcher that was killed leaves a server; the next one finds and stops it.
                other = Cluster(Path(folder) / "postgres")
                self.assertTrue(other.attach())
                psycopg.connect(other.address).close()
                self.assertTrue(other.stop_other())
                again.process.wait(timeout=20)
                self.assertFalse(again.running)
                self.assertFalse(other.attach())
            finally:
                again.stop()

    def test_an_empty_secret_is_made_anew_and_kept(self):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder, "secret-key")
            file.write_text("")
            made = secret_in(file, 48)
            self.assertGreater(len(made), 40)
            self.assertEqual(secret_in(file, 48), made)
            self.assertEqual(file.stat().st_mode & 0o077, 0)

    def test_free_ports_are_free(self):
        self.assertNotEqual(free_port(), 0)


class ProcessTests(TestCase):
    def test_a_process_is_known_by_when_it_began(self):
        own = identity_of(os.getpid())
        self.assertTrue(own.alive)
        self.assertFalse(Identity(own.pid, own.began - 1).alive)
        self.assertIsNone(identity_of(2**22 + 5))

    def test_a_group_is_stopped_with_all_its_members(self):
        # A leader that ignores the signal, and a child of its that holds on as well.
        stubborn = "trap '' TERM; sleep 60 & echo ready; wait; sleep 60"
        with subprocess.Popen(["bash", "-c", stubborn], start_new_session=True,
                              stdout=subprocess.PIPE, text=True) as leader:  # fmt: skip
            self.assertEqual(leader.stdout.readline(), "ready\n")
            stop_groups([identity_of(leader.pid)], patience=0.3)
            self.assertIsNotNone(leader.wait(5))
            # Whoever inherits the child takes its remains away in its own time.
            deadline = time.monotonic() + 20
            while group_alive(leader.pid) and time.monotonic() < deadline:
                time.sleep(0.05)
            self.assertFalse(group_alive(leader.pid))

    def test_the_run_file_says_who_runs(self):
        with tempfile.TemporaryDirectory() as folder:
            file = RunFile(Path(folder, "run.json"))
            self.assertIsNone(file.read())
            file.write("http://127.0.0.1:8000/", [Identity(1, 2)])
            launcher, address, children = file.read()
            self.assertTrue(launcher.alive)
            self.assertEqual((address, children), ("http://127.0.0.1:8000/", [Identity(1, 2)]))
            file.path.write_text("{")
            self.assertIsNone(file.read())

    def test_a_part_that_stops_is_started_again_and_a_dead_database_too(self):
        with tempfile.TemporaryDirectory() as folder:
            cluster = Cluster(Path(folder) / "postgres", throwaway=True)
            cluster.start()
            started = []

            def start():
                started.append(subprocess.Popen(["sleep", "60"], start_new_session=True))
                return started[-1]

            noted = []
            supervisor = Supervisor(cluster, [Part("sleeper", start)], noted.append)
            with mock.patch("sys.stderr", new=io.StringIO()):
                try:
                    supervisor.start()
                    started[0].kill()
                    started[0].wait()
                    port = cluster.port
                    cluster.process.kill()
                    cluster.process.wait()
                    deadline = time.monotonic() + 20
                    while time.monotonic() < deadline and (len(started) < 2 or not cluster.running):
                        supervisor.look()
                        time.sleep(0.05)
                    self.assertEqual((len(started), cluster.running, cluster.port), (2, True, port))
                    psycopg.connect(cluster.address).close()
                    self.assertEqual(noted[-1], [identity_of(started[-1].pid)])
                finally:
                    supervisor.stop()
                    cluster.stop()
            self.assertIsNotNone(started[-1].poll())


class ClosingLineTests(TestCase):
    def result(self, *names, **values):
        broken = {"broken": names, "told": ["what it says" for _ in names]}
        from studio.testing import Runner

        runner = Runner(verbosity=0)
        counts = {
            "failures": [],
            "errors": [],
            "unexpectedSuccesses": [],
            "skipped": [],
            "testsRun": 0,
        }
        with tempfile.TemporaryDirectory() as folder, mock.patch("sys.stderr"):
            written, found = Path(folder) / "written.json", Path(folder) / "found.json"
            written.write_text(json.dumps(broken))
            # They may take longer than the tests.
            threading.Timer(0.3, written.rename, [found]).start()
            with mock.patch.dict(os.environ, {"CHOROGRAPH_CHECKS": str(found)}):
                bad = runner.suite_result(None, SimpleNamespace(**{**counts, **values}))
        return bad, runner.closing_line

    def test_it_counts(self):
        found = self.result(testsRun=9, skipped=[1], failures=[1, 2])
        self.assertEqual(found, (2, "6 passed, 2 failed, 1 skipped"))

    def test_a_broken_check_fails_the_run(self):
        self.assertEqual(self.result("layers", testsRun=3), (1, "3 passed, 1 failed, 0 skipped"))

    def test_a_check_that_cannot_be_run_is_broken(self):
        from launcher import checking

        with tempfile.TemporaryDirectory() as folder:
            into = Path(folder) / "found.json"
            with mock.patch.object(checking, "CHECKS", (("types", ["no-such-command"]),)):
                checking.run(into)
            names, told = checking.found(into)
        self.assertEqual(names, ["types"])
        self.assertIn("no-such-command", told[0])

    def test_checks_that_never_end_are_broken(self):
        from launcher.checking import CHECKS, found

        names, told = found(Path("/nowhere/found.json"), 0.1)
        self.assertEqual(len(names), len(CHECKS))
        self.assertIn("did not come to an end", told[0])

    def test_a_run_of_nothing_fails(self):
        self.assertEqual(self.result()[0], 1)


class CommandTests(TestCase):
    """The bash command itself, where it can be asked without installing anything."""

    def run_command(self, *arguments, where=None):
        return subprocess.run(
            [str(HOME / "chorograph"), *arguments],
            capture_output=True,
            text=True,
            cwd=where or HOME,
        )

    def test_it_says_what_it_can_do(self):
        shown = self.run_command("help")
        self.assertEqual(shown.returncode, 0)
        for word in ("start", "stop", "test", "plan", "draw", "bench", "backup", "restore"):
            self.assertIn(word, shown.stdout)
        self.assertEqual(self.run_command("fly").returncode, 2)

    def test_files_are_named_from_where_the_person_is(self):
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "job.json").write_text("{}")
            done = self.run_command("plan", "job.json", where=folder)
        self.assertEqual(done.returncode, 2)
        self.assertIn("job.json: format", done.stderr)
