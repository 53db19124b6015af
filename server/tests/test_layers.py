"""No circle among the server's modules: whoever reads one need not have read another that reads it."""

from __future__ import annotations

import ast
from graphlib import CycleError, TopologicalSorter
from pathlib import Path
from unittest import TestCase

from server.conf import PROJECT


def imported(path: Path) -> set[str]:
    """The server's modules that a file names, wherever in it, but for what only types need."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("server"):
            inner = {f"{node.module}.{each.name}" for each in node.names}
            modules = {each for each in inner if (PROJECT / each.replace(".", "/")).with_suffix(".py").exists()}
            found |= modules or {node.module}
    return found


class Layers(TestCase):
    def test_no_module_needs_itself(self) -> None:
        files = [path for path in (PROJECT / "server").rglob("*.py") if not {"tests", "migrations"} & set(path.parts)]
        names = {str(path.relative_to(PROJECT).with_suffix("")).replace("/", "."): path for path in files}
        graph = {name: imported(path) & set(names) - {name} for name, path in names.items()}
        try:
            TopologicalSorter(graph).prepare()
        except CycleError as error:
            self.fail(" needs ".join(error.args[1]))
