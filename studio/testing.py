"""The test runner: Django's, with one plain closing line that counts."""

from __future__ import annotations

import os
import sys

from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Fails a run in which nothing ran, and one whose lint or layer checks were broken."""

    def suite_result(self, suite, result, **kwargs):
        """Print the closing line; return how many things went wrong."""
        broken = [
            name for name in os.environ.get("CHOROGRAPH_BROKEN_CHECKS", "").split(",") if name
        ]
        bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        bad += len(broken)
        skipped = len(result.skipped)
        passed = max(0, result.testsRun - skipped - (bad - len(broken)))
        if not result.testsRun:
            print("No test ran.", file=sys.stderr)
            bad += 1
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
