"""The test runner: Django's, with one plain closing line that counts."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from django.test.runner import DiscoverRunner
from django.test.utils import override_settings

from launcher.checking import found


class Runner(DiscoverRunner):
    """Fails a run in which nothing ran, and one whose lint or layer checks were broken."""

    def setup_test_environment(self, **kwargs):
        """Passwords of people made for a test are hashed quickly: a real hash takes half a second."""
        super().setup_test_environment(**kwargs)
        self.quick = override_settings(
            PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"]
        )
        self.quick.enable()

    def teardown_test_environment(self, **kwargs):
        """As it was."""
        self.quick.disable()
        super().teardown_test_environment(**kwargs)

    def suite_result(self, suite, result, **kwargs):
        """Print the closing line; return how many things went wrong."""
        beside = os.environ.get("CHOROGRAPH_CHECKS")
        broken, told = found(Path(beside)) if beside else ([], [])
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        bad += len(broken)
        skipped = len(result.skipped)
        passed = max(0, result.testsRun - skipped - (bad - len(broken)))
        if not result.testsRun:
            print("No test ran.", file=sys.stderr)
            bad += 1
        print(*told, sep="\n", end="", file=sys.stderr)
        for name in broken:
            print(f"The check “{name}” found faults; see above.", file=sys.stderr)
        self.closing_line = f"{passed} passed, {bad} failed, {skipped} skipped"
        return bad

    def run_tests(self, test_labels, **kwargs):
        """Run, and end with the closing line."""
        self.closing_line = "0 passed, 1 failed, 0 skipped"
        try:
            return super().run_tests(test_labels, **kwargs)
        finally:
            sys.stderr.flush()
            print(self.closing_line, flush=True)
