"""What the documents tell people to type works when it is typed."""

from __future__ import annotations

import os
import re
import shlex
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

from django.core.management import CommandError, call_command
from django.test import TestCase

from server.project.conf import PROJECT
from server.studios.models import Member, Root, Studio

DOCUMENTS = [PROJECT / "README.md", PROJECT / "CONTRIBUTING.md", *sorted((PROJECT / "docs").glob("*.md"))]
FENCED = re.compile(r"^```\w*\n(.*?)^```", re.MULTILINE | re.DOTALL)


def commands(start: str) -> list[list[str]]:
    """The commands in code blocks that begin so, split as a shell splits them, without what stands behind a #."""
    lines = [line for path in DOCUMENTS for block in FENCED.findall(path.read_text()) for line in block.splitlines()]
    return [shlex.split(line, comments=True) for line in lines if line.startswith(start)]


class Typed(TestCase):
    def test_the_core_s_commands(self) -> None:
        found = commands("./upper-tray core")
        self.assertGreater(len(found), 4)
        for words in found:
            with self.subTest(" ".join(words)), tempfile.TemporaryDirectory() as out:
                given = [str(Path(out)) if word.startswith("var/") else word for word in words[2:]]
                given = ["60" if word == "2000" else word for word in given]  # the same command, a little of it
                given = [each for word in given for each in (sorted(self.globbed(word)) or [word])]
                done = subprocess.run(
                    [sys.executable, "-m", "tray_core", *given], cwd=PROJECT, capture_output=True, check=False
                )
                # Some of the demo's photos are damaged on purpose.
                self.assertIn(done.returncode, (0, 1), done.stderr[-500:])
                self.assertTrue(done.stdout.strip())

    def globbed(self, word: str) -> list[str]:
        return [str(path) for path in PROJECT.glob(word)] if "*" in word else []

    def test_the_managing_commands(self) -> None:
        found = commands("./upper-tray manage")
        self.assertGreater(len(found), 2)
        with mock.patch.dict(os.environ, UPPER_TRAY_PASSWORD="brass-escapement"):
            for words in found:
                call_command(*words[2:], stdout=mock.Mock())
        self.assertEqual(Member.objects.get().user.get_username(), "ada")
        self.assertEqual(Root.objects.get().folder, (PROJECT / "demo" / "photos").resolve())
        self.assertEqual(Studio.objects.get().quota, 500_000_000_000)

    def test_a_password_without_a_terminal_is_asked_for_in_words(self) -> None:
        plain = {name: value for name, value in os.environ.items() if name != "UPPER_TRAY_PASSWORD"}
        with mock.patch.dict(os.environ, plain, clear=True), mock.patch("sys.stdin") as terminal:
            terminal.isatty.return_value = False
            with self.assertRaisesRegex(CommandError, "Set UPPER_TRAY_PASSWORD"):
                call_command("add_person", "My studio", "brin")
        self.assertFalse(Studio.objects.exists())

    def test_links_between_documents_lead_somewhere(self) -> None:
        for path in DOCUMENTS:
            for target in re.findall(r"\]\(([^)#\s]+)[^)]*\)", path.read_text()):
                if not target.startswith("http"):
                    with self.subTest(f"{path.name}: {target}"):
                        self.assertTrue((path.parent / target).exists())
