"""What the core may import, and what it offers."""

from __future__ import annotations

import ast
import subprocess
import sys
import unittest
from pathlib import Path

import tray_core

ROOT = Path(__file__).parents[2]
LAYERS = (
    *(
        "errors",
        "limits",
        "apart",
        "tone",
        "outline",
        "photo",
        "recipe",
        "outlets",
        "words",
        "markup",
        "marks",
        "plan",
        "fingerprint",
    ),
    *(
        "pixels",
        "readers",
        "tracing",
        "weight",
        "coders",
        "receipt",
        "intake",
        "rehearsal",
        "line",
        "looks",
        "batch",
        "fuzz",
        "command",
    ),
)
"""From the ground up: what stands further on may need what stands before it."""


def needed(folder: str) -> set[str]:
    """The core's folders and single modules that the files of one of them name, wherever in them."""
    here = ROOT / "tray_core" / folder
    found: set[str] = set()
    for path in here.rglob("*.py") if here.is_dir() else (here.with_suffix(".py"),):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("tray_core."):
                found.add(node.module.split(".")[1])
    return found - {folder}


class Bounds(unittest.TestCase):
    def test_core_knows_neither_django_nor_the_server(self) -> None:
        code = (
            "import sys, pkgutil, importlib, tray_core\n"
            "for m in pkgutil.walk_packages(tray_core.__path__, 'tray_core.'):\n"
            "    if '.tests' not in m.name and not m.name.endswith('__main__'): importlib.import_module(m.name)\n"
            "print(sorted(n for n in sys.modules if n.split('.')[0] in ('django', 'server', 'psycopg', 'ninja')))"
        )
        done = subprocess.run([sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.strip(), "[]")

    def test_folders_need_only_those_below(self) -> None:
        own = {
            path.stem
            for path in (ROOT / "tray_core").iterdir()
            if path.suffix == ".py" or (path / "__init__.py").exists()
        } - {"__init__", "__main__"}
        self.assertEqual(own - {"tests"}, set(LAYERS))
        for place, folder in enumerate(LAYERS):
            with self.subTest(folder=folder):
                self.assertLessEqual(needed(folder), set(LAYERS[:place]))

    def test_planning_loads_no_imaging_library(self) -> None:
        code = "import sys, tray_core; print([n for n in ('cv2', 'pyvips', 'simplejpeg') if n in sys.modules])"
        done = subprocess.run([sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.strip(), "[]")

    def test_public_names_are_there(self) -> None:
        self.assertEqual(tray_core.__all__, sorted(tray_core.__all__))
        for name in tray_core.__all__:
            self.assertTrue(getattr(tray_core, name).__doc__ or name == "DEFAULT_LIMITS", name)
