"""Decoders are shut in, and what a header declares is checked before any library touches pixels."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from PIL import Image

from tray_core import read_facts
from tray_core.errors import PhotoError, PhotoTooLarge
from tray_core.fuzz.hostile import black_png, chunk, drawing, nested_page, raster_of
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.preview import look_at
from tray_core.readers.sandbox import landlock_version

ROOT = Path(__file__).parents[2]

TRIED = """
import json, os, socket, subprocess, sys
from tray_core.readers import child
from tray_core.readers.sandbox import readable, shut_in
files, calls = shut_in(readable())
def said(work):
    try:
        work()
    except OSError as error:
        return type(error).__name__
    return "done"
print(json.dumps({
    "files": files, "calls": calls,
    "read": said(lambda: open(sys.argv[1]).read()),
    "list": said(lambda: os.listdir(os.path.dirname(sys.argv[1]))),
    "write": said(lambda: open(sys.argv[1] + ".x", "w")),
    "delete": said(lambda: os.remove(sys.argv[1])),
    "link": said(lambda: os.symlink(sys.argv[1], sys.argv[1] + ".l")),
    "others": said(lambda: open(f"/proc/{os.getppid()}/environ").read()),
    "socket": said(socket.socket),
    "program": said(lambda: subprocess.run(["/bin/true"], check=True)),
    "signal": said(lambda: os.kill(os.getppid(), 0)),
    "fonts": said(lambda: os.listdir("/usr")),
}))
"""


class ShutIn(unittest.TestCase):
    @unittest.skipUnless(landlock_version(), "this kernel has no Landlock")
    def test_nothing_but_computing_is_left(self) -> None:
        victim = Path(self.enterContext(tempfile.TemporaryDirectory())) / "secret.txt"
        victim.write_text("quiet")
        command = [sys.executable, "-c", TRIED, str(victim)]
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True)
        said = json.loads(done.stdout)
        self.assertEqual((said.pop("files"), said.pop("calls"), said.pop("fonts")), (True, True, "done"))
        self.assertEqual(set(said.values()), {"PermissionError"}, said)
        self.assertEqual([path.name for path in victim.parent.iterdir()], ["secret.txt"])


class Declared(unittest.TestCase):
    def refused(self, name: str, data: bytes) -> None:
        with self.assertRaises(PhotoTooLarge):
            read_facts(name, DEFAULT_LIMITS, data)

    def test_a_png_and_one_inside_a_layered_file(self) -> None:
        large = black_png(40_000)
        self.assertLess(len(large), 300_000)
        self.refused("large.png", large)
        self.refused("large.ora", raster_of(large))

    def test_pictures_inside_drawings_count(self) -> None:
        self.refused("drawing.svg", drawing(black_png(20_000)))
        self.assertEqual(read_facts("drawing.svg", DEFAULT_LIMITS, drawing(black_png(200))).format, "SVG")

    def test_headers_are_read_without_pixels(self) -> None:
        """Even where so many are allowed: in less memory than they would take, and with what stands behind them."""
        exif = Image.Exif()
        exif[274] = 6
        data = black_png(40_000, chunk(b"eXIf", exif.tobytes()[6:]))
        code = (
            "import resource, sys; from tray_core import read_facts; from tray_core.limits import Limits\n"
            "used = int(open('/proc/self/statm').read().split()[0]) * 4096 + (300 << 20)\n"
            "resource.setrlimit(resource.RLIMIT_AS, (used, used))\n"
            "print(read_facts('a.png', Limits(pixels=10**10), sys.stdin.buffer.read()).orientation)"
        )
        done = subprocess.run([sys.executable, "-c", code], cwd=ROOT, input=data, capture_output=True, check=False)
        self.assertEqual((done.stdout, done.returncode), (b"6\n", 0), done.stderr[-300:])

    def test_a_page_without_an_end_ends_with_a_reason(self) -> None:
        data = nested_page()
        with self.assertRaisesRegex(PhotoError, "nested.pdf: expected a PDF picture that can be decoded safely"):
            look_at(read_facts("nested.pdf", Limits(seconds=3), data), data)


if __name__ == "__main__":
    unittest.main()
