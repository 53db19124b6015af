"""Django's test runner, with a closing line that any program can read, over the core's tests as well.

Several of them, each with a database and a folder of its own, share one list of tests: UPPER_TRAY_TEST_CLAIMS names a
folder in which whoever makes a class's file first runs that class, and notes there how many seconds it took.
"""

from __future__ import annotations

import itertools
import os
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner
from django.test.utils import iter_test_cases

DEFAULT = ("tray_core", "server")
LONGEST = (
    *("test_faults", "test_schema", "test_browser_access", "test_browser_out_and_in", "test_browser_shapes"),
    *("test_every_kind", "test_command", "test_shapes", "test_weight"),
)
"""Begun first, so that nobody waits for them at the end."""


class Shared(unittest.TestSuite):
    """The classes of a suite that nobody else has begun, claimed when they are."""

    _cleanup = False

    def __init__(self, tests: Iterator[unittest.TestCase], claims: Path) -> None:
        super().__init__()
        groups = [(kind, list(group)) for kind, group in itertools.groupby(tests, type)]
        self._groups = sorted(groups, key=lambda group: not group[0].__module__.endswith(LONGEST))
        self._claims = claims

    def __iter__(self) -> Iterator[unittest.TestCase]:
        for kind, tests in self._groups:
            claim = self._claims / f"{kind.__module__}.{kind.__qualname__}"
            try:
                claim.touch(exist_ok=False)
            except FileExistsError:
                continue
            start = time.monotonic()
            yield from tests
            claim.write_text(f"{time.monotonic() - start:.0f}\n")


class Runner(DiscoverRunner):
    """Runs the core's and the server's tests when no label is given."""

    def build_suite(self, test_labels: Any = None, **kwargs: Any) -> unittest.TestSuite:
        labels = [label for label in test_labels or () if label]
        return super().build_suite(labels or DEFAULT, **kwargs)

    def setup_test_environment(self, **kwargs: Any) -> None:
        super().setup_test_environment(**kwargs)
        os.fsync = lambda fd: None  # as for the database: what is thrown away need not outlive a power cut
        # Each test signs somebody in; hashing as slowly as the product does would take a second of each.
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

    def run_suite(self, suite: unittest.TestSuite, **kwargs: Any) -> Any:
        if claims := os.environ.get("UPPER_TRAY_TEST_CLAIMS"):
            suite = Shared(iter_test_cases(suite), Path(claims))
        return super().run_suite(suite, **kwargs)

    def suite_result(self, suite: unittest.TestSuite, result: unittest.TestResult, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
