"""Every kind of file, small and as large as cameras make them: it can be read, and always to the same pixels."""

from __future__ import annotations

import hashlib
import unittest
from pathlib import Path

from tray_core.batch import Workers, tasks_of
from tray_core.fuzz.corpus import sound_files
from tray_core.photo import read_facts
from tray_core.pixels.decode import decode
from tray_core.plan import plan_all
from tray_core.tests.samples import FolderCase, recipe

PAGES = ("svg", "pdf")


class Large(unittest.TestCase):
    def test_twelve_megapixels_of_every_kind(self) -> None:
        for name, data in sound_files(4032, 3024).items():
            with self.subTest(name):
                facts = read_facts(name, data=data)
                if name not in PAGES:
                    self.assertEqual((facts.width, facts.height), (4032, 3024))
                picture = decode(facts, data, (facts.width, facts.height))
                within = 1 if name in PAGES else 0  # a page's size is rounded up; its extent says so
                self.assertLessEqual(abs(picture.size[0] - facts.width), within)
                self.assertGreater(float(picture.pixels.std()), 5)


class SameBytes(FolderCase):
    def test_alone_together_and_by_one_or_two_workers(self) -> None:
        """The same photo and recipe give the same file, whatever is made beside it and whoever makes it."""
        paths = [self.write(f"{name}.dat", data) for name, data in sound_files(130, 87).items()]
        recipes = [
            recipe("small", size={"by": "width", "pixels": 60}),
            recipe("whole", size=None, file={"format": "png"}),
            recipe("webp", size={"by": "width", "pixels": 90}, file={"format": "webp"}),
        ]
        facts = [read_facts(path) for path in paths]

        def made(name: str, pool: Workers, *chosen: int) -> dict[str, str]:
            rows = list(plan_all(facts, [recipes[i] for i in chosen]))
            found = {}
            for outcome in pool.make(tasks_of(rows, self.folder / name)):
                self.assertIsNone(outcome.error, outcome.error)
                assert outcome.path is not None
                key = f"{Path(outcome.plan.photo).name} {outcome.plan.recipe.title}"
                found[key] = hashlib.sha256(outcome.path.read_bytes()).hexdigest()
            return found

        with Workers(1) as one:
            together = made("one", one, 0, 1, 2)
        self.assertEqual(len(together), 3 * len(paths))
        with Workers(2) as two:
            self.assertEqual(made("two", two, 0, 1, 2), together)
            for i in range(3):
                alone = made(f"alone-{i}", two, i)
                self.assertEqual(alone, {key: together[key] for key in alone})


if __name__ == "__main__":
    unittest.main()
