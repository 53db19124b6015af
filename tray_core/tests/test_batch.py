"""Worker processes: a photo that brings one down fails alone."""

from __future__ import annotations

import multiprocessing
import os
import unittest

from tray_core.batch import Task, Workers
from tray_core.photo import read_facts
from tray_core.plan import plan_all
from tray_core.tests.samples import PHOTOS, FolderCase, recipe


class Deadly(Task):
    """A task that ends any worker that looks at it, as a crash in a decoder would."""

    def __getattribute__(self, name: str) -> object:
        if name == "path" and multiprocessing.parent_process() is not None:
            os._exit(9)
        return super().__getattribute__(name)


class Crash(FolderCase):
    def test_the_others_are_made(self) -> None:
        names = ["QM4_0117.jpg", "QM4_0118.jpg", "QM4_0121.jpg", "QM4_0123.jpg"]
        paths = [PHOTOS / "shop-stock" / name for name in names]
        plans = plan_all(map(read_facts, paths), [recipe(size={"by": "width", "pixels": 80})])
        tasks = [Task(path, tuple(row), self.folder) for path, row in zip(paths, plans, strict=True)]
        tasks[1] = Deadly(paths[1], tasks[1].plans, self.folder)
        with Workers(2) as workers:
            outcomes = list(workers.make(tasks))
        self.assertEqual(sorted(o.status for o in outcomes), ["failed", "made", "made", "made"])
        (failed,) = (o for o in outcomes if o.status == "failed")
        self.assertIn("brought its worker process down", str(failed.error))
        made = {path.name for path in self.folder.iterdir()}
        self.assertEqual(made, {"QM4_0117.jpg", "QM4_0121.jpg", "QM4_0123.jpg"})


if __name__ == "__main__":
    unittest.main()
