"""What was computed of a tray is given back under the same mark only, and forgotten in time."""

from __future__ import annotations

import unittest

from server.trays.kept import MOST, Kept


class Keeping(unittest.TestCase):
    def test_only_under_the_mark_it_was_computed_under(self) -> None:
        kept: Kept[str] = Kept()
        self.assertIsNone(kept.get(1, "a"))
        kept.keep(1, "a", "first")
        self.assertEqual((kept.get(1, "a"), kept.get(1, "b"), kept.has(1), kept.has(2)), ("first", None, True, False))
        kept.keep(1, "b", "second")
        self.assertEqual((kept.get(1, "a"), kept.get(1, "b")), (None, "second"))

    def test_the_oldest_tray_is_forgotten(self) -> None:
        kept: Kept[int] = Kept()
        for tray in range(MOST):
            kept.keep(tray, "a", tray)
        kept.keep(0, "b", 0)  # used again, so that the second is the oldest now
        kept.keep(MOST, "a", MOST)
        self.assertEqual([tray for tray in range(MOST + 1) if not kept.has(tray)], [1])
