"""Django's test runner, with a closing line that any program can read, over the core's tests as well."""

from __future__ import annotations

import unittest
from typing import Any

from django.test.runner import DiscoverRunner

DEFAULT = ("tray_core", "server")


class Runner(DiscoverRunner):
    """Runs the core's and the server's tests when no label is given."""

    def build_suite(self, test_labels: Any = None, **kwargs: Any) -> unittest.TestSuite:
        labels = [label for label in test_labels or () if label]
        return super().build_suite(labels or DEFAULT, **kwargs)

    def suite_result(self, suite: unittest.TestSuite, result: unittest.TestResult, **kwargs: Any) -> int:
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
        return super().suite_result(suite, result, **kwargs)
