"""Decoders are shut in, and what a header declares is checked before any library touches pixels."""

from __future__ import annotations

import base64
import io
import json
import struct
import subprocess
import sys
import tempfile
import unittest
import zipfile
import zlib
from pathlib import Path

from PIL import Image

from tray_core import read_facts
from tray_core.errors import PhotoError, PhotoTooLarge
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


def chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def png(edge: int, behind: bytes = b"") -> bytes:
    """A black PNG of one bit a pixel. behind: chunks after its pixels."""
    coder = zlib.compressobj(9)
    row = bytes(edge // 8 + 2)
    pixels = b"".join(coder.compress(row) for _ in range(edge)) + coder.flush()
    head = chunk(b"IHDR", struct.pack(">IIBBBBB", edge, edge, 1, 0, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", pixels) + behind + chunk(b"IEND", b"")


def open_raster(merged: bytes) -> bytes:
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("mimetype", "image/openraster", zipfile.ZIP_STORED)
        file.writestr("mergedimage.png", merged)
        file.writestr("stack.xml", "<image/>")
    return made.getvalue()


def drawing(inner: bytes, kind: str = "png") -> bytes:
    picture = f"data:image/{kind};base64,{base64.b64encode(inner).decode()}"
    space = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f'<svg {space} width="9" height="9"><image width="9" height="9" xlink:href="{picture}"/></svg>'.encode()


def nested_page(levels: int = 7, times: int = 40) -> bytes:
    """A page whose form draws a form that draws a form, each many times, in groups of their own."""
    again = b"/X Do " * times
    objects = [
        b"<</Type/Catalog/Pages 2 0 R>>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 900 900]/Contents 4 0 R/Resources<</XObject<</X 5 0 R>>>>>>",
        b"<</Length %d>>stream\n%s\nendstream" % (len(again), again),
    ]
    for level in range(levels):
        inside = level < levels - 1
        drawn = again if inside else b"0 0 900 900 re f "
        more = b"/Resources<</XObject<</X %d 0 R>>>>" % (6 + level) if inside else b""
        form = b"<</Type/XObject/Subtype/Form/BBox[0 0 900 900]/Group<</S/Transparency>>"
        objects.append(b"%s%s/Length %d>>stream\n%s\nendstream" % (form, more, len(drawn), drawn))
    made, places = b"%PDF-1.4\n", []
    for number, each in enumerate(objects, 1):
        places.append(len(made))
        made += b"%d 0 obj\n%s\nendobj\n" % (number, each)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    end = b"trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % (len(objects) + 1, len(made))
    return made + b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1) + table + end


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
        large = png(40_000)
        self.assertLess(len(large), 300_000)
        self.refused("large.png", large)
        self.refused("large.ora", open_raster(large))

    def test_pictures_inside_drawings_count(self) -> None:
        self.refused("drawing.svg", drawing(png(20_000)))
        self.assertEqual(read_facts("drawing.svg", DEFAULT_LIMITS, drawing(png(200))).format, "SVG")

    def test_headers_are_read_without_pixels(self) -> None:
        """Even where so many are allowed: in less memory than they would take, and with what stands behind them."""
        exif = Image.Exif()
        exif[274] = 6
        data = png(40_000, chunk(b"eXIf", exif.tobytes()[6:]))
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
