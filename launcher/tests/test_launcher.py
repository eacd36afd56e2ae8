"""The private cluster and the closing line of a test run."""

import io
import os
import subprocess
import tarfile
import tempfile
import uuid
from pathlib import Path
from types import SimpleNamespace
from unittest import TestCase, mock

import psycopg

from launcher.__main__ import HOME
from launcher.cluster import Cluster, ClusterError, free_port, pipe_tool
from launcher.saving import bring_back, save


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

    def test_free_ports_are_free(self):
        self.assertNotEqual(free_port(), 0)


class ClosingLineTests(TestCase):
    def result(self, broken="", **values):
        from studio.testing import Runner

        runner = Runner(verbosity=0)
        counts = {
            "failures": [],
            "errors": [],
            "unexpectedSuccesses": [],
            "skipped": [],
            "testsRun": 0,
        }
        with mock.patch.dict(os.environ, {"CHOROGRAPH_BROKEN_CHECKS": broken}):
            bad = runner.suite_result(None, SimpleNamespace(**{**counts, **values}))
        return bad, runner.closing_line

    def test_it_counts(self):
        found = self.result(testsRun=9, skipped=[1], failures=[1, 2])
        self.assertEqual(found, (2, "6 passed, 2 failed, 1 skipped"))

    def test_a_broken_check_fails_the_run(self):
        self.assertEqual(self.result("layers", testsRun=3), (1, "3 passed, 1 failed, 0 skipped"))

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
        for word in ("start", "test", "plan", "draw", "bench", "backup", "restore"):
            self.assertIn(word, shown.stdout)
        self.assertEqual(self.run_command("fly").returncode, 2)

    def test_files_are_named_from_where_the_person_is(self):
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "job.json").write_text("{}")
            done = self.run_command("plan", "job.json", where=folder)
        self.assertEqual(done.returncode, 2)
        self.assertIn("job.json: format", done.stderr)

    def test_backup_and_restore_bring_everything_back(self):
        with tempfile.TemporaryDirectory() as folder:
            cluster = Cluster(Path(folder) / "postgres")
            media = Path(folder, "media")
            photo = media / "1" / str(uuid.UUID(int=1)) / f"{uuid.UUID(int=2)}.jpg"
            photo.parent.mkdir(parents=True)
            photo.write_bytes(b"a picture")
            cluster.start()
            try:
                with psycopg.connect(cluster.address) as link:
                    link.execute("create table kept as select generate_series(1, 5) as n")
                file = Path(folder, "saved")
                self.assertEqual(save(cluster, media, file), 0)
                self.assertEqual(file.stat().st_mode & 0o077, 0)
                with psycopg.connect(cluster.address) as link:
                    link.execute("delete from kept")
                photo.unlink()
                with tarfile.open(file, "a") as tar:
                    # What does not look like a photograph stays in the tar.
                    sly = tarfile.TarInfo("media/../../sly.jpg")
                    sly.size = 3
                    tar.addfile(sly, io.BytesIO(b"sly"))
                self.assertEqual(bring_back(cluster, media, file), 0)
                self.assertEqual(photo.read_bytes(), b"a picture")
                self.assertFalse(list(Path(folder).rglob("sly.jpg")))
                with psycopg.connect(cluster.address) as link:
                    self.assertEqual(link.execute("select sum(n) from kept").fetchone(), (15,))
                # A bare dump, as earlier versions wrote it, is taken too.
                dump = Path(folder, "dump")
                pipe_tool(cluster, "pg_dump", ["--format=custom", f"--file={dump}"])
                self.assertEqual(bring_back(cluster, media, dump), 0)
                self.assertTrue(photo.exists())
                torn = Path(folder, "torn")
                torn.write_bytes(file.read_bytes()[:2000])
                self.assertNotEqual(bring_back(cluster, media, torn), 0)
                self.assertTrue(photo.exists())
            finally:
                cluster.stop()
