"""Who serves when the launcher was started as root."""

import os
import stat
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase, skipUnless
from unittest.mock import patch

from launcher.rights import SERVES, dropping


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
