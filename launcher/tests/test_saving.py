"""Backups: whole or refused, restored in one step or not at all."""

import io
import json
import os
import subprocess
import sys
import tarfile
import tempfile
import time
import uuid
from pathlib import Path
from unittest import TestCase, mock

import psycopg

from chorograph_core.tests import long
from launcher import saving
from launcher.cluster import FRESH, Cluster, pipe_tool
from launcher.saving import MANIFEST, bring_back, media_folder, save, tidy_media

TABLES = "".join(
    f"create table {name} as select generate_series(1, {count}) as n;"
    for name, count in (("django_migrations", 3), ("accounts_studio", 1), ("jobs_job", 5),
                        ("jobs_revision", 9))
)  # fmt: skip


class SavingTests(TestCase):
    def setUp(self):
        kept = tempfile.TemporaryDirectory()
        self.addCleanup(kept.cleanup)
        self.home = Path(kept.name)
        self.cluster = Cluster(self.home / "postgres", throwaway=True)
        self.cluster.start()
        self.addCleanup(self.cluster.stop)
        self.media = self.home / "media"
        for number in range(3):
            photo = self.media / "1" / str(uuid.UUID(int=1)) / f"{uuid.UUID(int=number)}.jpg"
            photo.parent.mkdir(parents=True, exist_ok=True)
            photo.write_bytes(b"picture %d" % number)
        with psycopg.connect(self.cluster.address) as link:
            link.execute(TABLES)
        self.file = self.home / "saved"
        with mock.patch("builtins.print"):
            self.assertEqual(save(self.cluster, self.media, self.file), 0)

    def jobs(self) -> int:
        with psycopg.connect(self.cluster.address) as link:
            return link.execute("select count(*) from jobs_job").fetchone()[0]

    def photos(self) -> list[bytes]:
        folder = media_folder(self.cluster, self.home)
        return sorted(p.read_bytes() for p in folder.glob("*/*/*.jpg"))

    def change(self):
        """What happens after the backup: a job goes, a photograph comes."""
        with psycopg.connect(self.cluster.address) as link:
            link.execute("delete from jobs_job where n = 1")
        folder = media_folder(self.cluster, self.home) / "1" / str(uuid.UUID(int=1))
        (folder / f"{uuid.UUID(int=77)}.jpg").write_bytes(b"later")

    def restore(self, file=None) -> int:
        with mock.patch("builtins.print") as said:
            status = bring_back(self.cluster, self.home, file or self.file)
        self.said = " ".join(str(call.args[0]) for call in said.call_args_list)
        return status

    def refused(self, file: Path):
        """Refused, and everything is as it was."""
        self.assertNotEqual(self.restore(file), 0)
        self.assertIn("Nothing was changed", self.said)
        self.assertEqual((self.jobs(), len(self.photos())), (4, 4))
        self.assertEqual([p.name for p in self.home.glob("media*")], ["media"])

    def test_everything_comes_back_and_what_came_later_is_gone(self):
        self.assertEqual(self.file.stat().st_mode & 0o077, 0)
        self.change()
        self.assertEqual(self.restore(), 0)
        self.assertEqual(
            (self.jobs(), self.photos()), (5, [b"picture 0", b"picture 1", b"picture 2"])
        )
        self.assertNotEqual(media_folder(self.cluster, self.home).name, "media")
        self.assertEqual(len(list(self.home.glob("media*"))), 1)
        # And once more, from a backup of what was restored.
        with mock.patch("builtins.print"):
            save(self.cluster, media_folder(self.cluster, self.home), self.file)
        self.change()
        self.assertEqual(self.restore(), 0)
        self.assertEqual((self.jobs(), len(self.photos())), (5, 3))

    def test_a_backup_cut_anywhere_is_refused(self):
        self.change()
        data = self.file.read_bytes()
        with tarfile.open(self.file) as tar:
            edges = [member.offset for member in tar.getmembers()][1:]
        for cut in (*edges, *(edge + 512 for edge in edges), len(data) // 2, 100, 0):
            torn = self.home / "torn"
            torn.write_bytes(data[:cut])
            with self.subTest(cut):
                self.refused(torn)

    def test_a_flipped_byte_is_noticed_wherever_it_is(self):
        self.change()
        data = bytearray(self.file.read_bytes())
        with tarfile.open(self.file) as tar:
            spots = [(m.name, m.offset_data + m.size // 2) for m in tar.getmembers()]
        for name, spot in spots:
            damaged = bytearray(data)
            damaged[spot] ^= 1
            (self.home / "damaged").write_bytes(damaged)
            with self.subTest(name):
                self.refused(self.home / "damaged")

    def altered(self, change) -> Path:
        """A tar like the backup, its manifest changed and fitting."""
        goal = self.home / "altered"
        with tarfile.open(self.file) as tar, tarfile.open(goal, "w") as out:
            for member in tar.getmembers():
                data = tar.extractfile(member).read()
                if member.name == MANIFEST:
                    manifest = json.loads(data)
                    change(manifest)
                    data = json.dumps(manifest).encode()
                    member.size = len(data)
                out.addfile(member, io.BytesIO(data))
        return goal

    def test_what_is_none_of_ours_is_refused(self):
        self.change()
        self.refused(self.altered(lambda m: m.update(what="holiday pictures")))
        self.refused(self.altered(lambda m: m["files"].update({"../../sly": m["files"].pop(
            next(n for n in m["files"] if n.endswith("jpg")))})))  # fmt: skip
        self.refused(self.altered(lambda m: m["files"].update({f"media/1/{uuid.UUID(int=1)}/"
            f"{uuid.UUID(int=9)}.jpg": {"size": 3, "sha256": "0"}})))  # fmt: skip
        # The dump of some other database, with a manifest that fits it.
        other = Cluster(self.home / "other", throwaway=True)
        other.start()
        self.addCleanup(other.stop)
        with psycopg.connect(other.address) as link:
            link.execute("create table recipes as select 1 as n")
        with mock.patch("builtins.print"):
            save(other, self.home / "none", self.home / "unrelated")
        self.refused(self.home / "unrelated")
        bare = self.home / "bare"
        pipe_tool(self.cluster, "pg_dump", ["--format=custom", f"--file={bare}"])
        self.refused(bare)

    @long
    def test_killed_at_any_moment_it_leaves_the_old_or_the_new_state_whole(self):
        """A process that restores is killed after ever more milliseconds."""
        script = (
            "import sys; from pathlib import Path; from launcher.cluster import Cluster;"
            "from launcher.saving import bring_back; home = Path(sys.argv[1]);"
            "c = Cluster(home / 'postgres'); c.attach(); sys.exit(bring_back(c, home, home / 'saved'))"
        )
        seen = set()
        for wait in (0.25, 0.35, 0.45, 0.6, 0.8, 1.2):
            with mock.patch("builtins.print"):
                save(self.cluster, media_folder(self.cluster, self.home), self.file)
            saved = (self.jobs(), len(self.photos()))
            self.change()
            before = (self.jobs(), len(self.photos()))
            child = subprocess.Popen(
                [sys.executable, "-c", script, str(self.home)], env={**os.environ},
                stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
            )  # fmt: skip
            time.sleep(wait)
            child.kill()
            child.wait()
            after = (self.jobs(), len(self.photos()))
            self.assertIn(after, (before, saved))
            seen.add(after == before)
            # The next start puts away what is left of it.
            tidy_media(media_folder(self.cluster, self.home))
            self.assertEqual(len(list(self.home.glob("media*"))), 1)
            self.assertEqual((self.jobs(), len(self.photos())), after)
            with psycopg.connect(self.cluster.address) as link:
                # As before for the next round.
                link.execute("insert into jobs_job select 1 where not exists "
                             "(select 1 from jobs_job where n = 1)")  # fmt: skip
        self.assertIn(True, seen)

    def test_a_start_after_a_restore_that_broke_off_finds_the_old_state(self):
        broken = mock.patch.object(saving, "_exchange", side_effect=KeyboardInterrupt)
        with broken, self.assertRaises(KeyboardInterrupt):
            self.restore()
        names = "select datname from pg_database"
        with psycopg.connect(self.cluster.address) as link:
            self.assertIn((FRESH,), link.execute(names).fetchall())
        self.cluster.throwaway = False
        self.cluster.stop()
        self.cluster.start()
        self.cluster.throwaway = True
        with psycopg.connect(self.cluster.address) as link:
            self.assertNotIn((FRESH,), link.execute(names).fetchall())
        self.assertEqual((self.jobs(), len(self.photos())), (5, 3))
