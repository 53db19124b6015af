"""The order of the server's folders, and no circle among its modules: whoever reads one need not have read another
that reads it.
"""

from __future__ import annotations

import ast
import os
import subprocess
import sys
from graphlib import CycleError, TopologicalSorter
from pathlib import Path
from unittest import TestCase

from server.project.conf import PROJECT

LAYERS = (
    "project.conf",  # and no other of project/: that knows all folders
    "http",
    "queue",
    "live",
    "studios",
    "photos",
    "recipes",
    "trays",
    "framings",
    "runs",
    "guests",
    "board",
    "sheet",
    "looks",
    "outlets",
    "deliveries",
    "inlets",
    "storage",
    "demo",
    "project",
)
"""From the ground up: a module needs what is below it, or beside it in its folder."""


def imported(path: Path) -> set[str]:
    """The server's modules that a file names, wherever in it, but for what only types need."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("server"):
            inner = {f"{node.module}.{each.name}" for each in node.names}
            modules = {each for each in inner if (PROJECT / each.replace(".", "/")).with_suffix(".py").exists()}
            found |= modules or {node.module}
    return found


def layer(module: str) -> int:
    """How far up a module stands."""
    name = module.removeprefix("server.")
    return LAYERS.index(name if name in LAYERS else name.split(".")[0])


class Layers(TestCase):
    def setUp(self) -> None:
        files = [path for path in (PROJECT / "server").rglob("*.py") if not {"tests", "migrations"} & set(path.parts)]
        names = {str(path.relative_to(PROJECT).with_suffix("")).replace("/", "."): path for path in files}
        self.graph = {name: imported(path) & set(names) - {name} for name, path in names.items()}

    def test_no_module_needs_itself(self) -> None:
        try:
            TopologicalSorter(self.graph).prepare()
        except CycleError as error:
            self.fail(" needs ".join(error.args[1]))

    def test_a_process_starts_without_what_only_some_need(self) -> None:
        """Every process of the product loads the apps: what takes long is loaded where it is used."""
        heavy = ("numba", "cv2", "pyvips", "paramiko", "minio", "httpx", "watchfiles", "segno")
        code = f"import sys, django; django.setup(); print([name for name in {heavy} if name in sys.modules])"
        told = {**os.environ, "DJANGO_SETTINGS_MODULE": "server.project.settings"}
        done = subprocess.run([sys.executable, "-c", code], cwd=PROJECT, env=told, capture_output=True, text=True)
        self.assertEqual(done.stdout.strip(), "[]", done.stderr)

    def test_folders_need_only_those_below(self) -> None:
        modules = [name for name in self.graph if name.count(".") > 1]
        self.assertGreater(len(modules), 60)
        wrong = [f"{one} needs {other}" for one in modules for other in self.graph[one] if layer(other) > layer(one)]
        self.assertEqual(wrong, [])
