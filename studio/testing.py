"""The test runner: Django's, with one plain closing line that counts."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from django.test.runner import DiscoverRunner, ParallelTestSuite
from django.test.utils import override_settings

from launcher.checking import found


class InTurn(ParallelTestSuite):
    """Begins with what takes longest, so that no process is left alone with it at the end. What mostly waits,
    for a browser or a server, goes in turn with what reckons: neither core stands still."""

    def __init__(self, subsuites, *arguments, **named):
        waits = [suite for suite in subsuites if _waits(suite)]
        reckons = sorted(
            (suite for suite in subsuites if not _waits(suite)), key=_long, reverse=True
        )
        # As many of the one as of the other in any stretch, against how many there are.
        places = [
            ((k + 0.5) / len(each), suite)
            for each in (waits, reckons)
            for k, suite in enumerate(each)
        ]
        places.sort(key=lambda place: place[0])
        super().__init__([suite for _, suite in places], *arguments, **named)


def _waits(suite) -> bool:
    return any(
        "browser" in getattr(test, "tags", ()) or type(test).__module__.startswith("launcher")
        for test in suite
    )


def _long(suite) -> int:
    """How many tests of a class take long, and how many there are."""
    named = [getattr(type(test), test._testMethodName, None) for test in suite]
    return sum(1 + 10 * ("long" in getattr(test, "tags", ())) for test in named)


class Runner(DiscoverRunner):
    """Fails a run in which nothing ran, and one whose lint or layer checks were broken."""

    parallel_test_suite = InTurn

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
