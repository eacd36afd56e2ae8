"""Who serves when the launcher was started as root."""

import os
import stat
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase, skipUnless
from unittest.mock import patch

from launcher.rights import SERVES, dropping, hand_over


class RightsTests(TestCase):
    def test_who_cannot_start_another_process_cannot_serve(self):
        gone = f"import sys; sys.executable = '/nowhere/python'; exec({SERVES!r})"
        for code, works in ((SERVES, True), (gone, False)):
            done = subprocess.run([sys.executable, "-c", code], capture_output=True, check=False)
            self.assertEqual(done.returncode == 0, works, done.stderr)

    @skipUnless(os.getuid() == 0, "only root has rights to give up")
    def test_where_another_user_cannot_serve_root_does_without_powers(self):
        with tempfile.TemporaryDirectory() as folder, patch("sys.stderr"):
            os.chmod(folder, 0o755)
            for code, user in ((0, True), (1, False)):
                python = Path(folder) / f"python{code}"
                python.write_text(f"#!/bin/sh\nexit {code}\n")
                python.chmod(python.stat().st_mode | stat.S_IXUSR | stat.S_IXGRP | stat.S_IXOTH)
                prefix = dropping(Path(folder), str(python))
                self.assertEqual(any(each.startswith("--reuid") for each in prefix), user)
                self.assertIn("--bounding-set=-all", prefix)

    @skipUnless(os.getuid() == 0, "only root has rights to give up")
    def test_what_another_user_wrote_is_handed_over_and_back(self):
        with tempfile.TemporaryDirectory() as folder:
            kept = Path(folder) / "cache" / "kept"
            kept.parent.mkdir()
            kept.touch()
            for prefix, root in ((["setpriv", "--reuid=33"], False), (["setpriv"], True)):
                hand_over(Path(folder), prefix)
                self.assertEqual(kept.stat().st_uid == 0, root)
