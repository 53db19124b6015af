"""Files that are bad on purpose: bombs, references to other files, scripts, profiles that lie."""

from __future__ import annotations

import base64
import io
import struct
import zipfile
import zlib

import numpy as np

from tray_core.fuzz.corpus import open_raster, pdf, saved, scene, svg
from tray_core.photo.profile_files import NAMED


def _lying_icc(random: np.random.Generator) -> bytes:
    """A profile whose tags lie about their places and sizes."""
    icc = bytearray(NAMED["adobe-rgb"])
    for _ in range(3):
        at = int(random.integers(128, len(icc) - 4))
        struct.pack_into(">I", icc, at, int(random.choice([0, 1, 0x7FFFFFFF, 0xFFFFFFFF, 65535])))
    return bytes(icc)


def chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def black_png(edge: int, behind: bytes = b"") -> bytes:
    """A black PNG of one bit a pixel. behind: chunks after its pixels."""
    coder = zlib.compressobj(9)
    row = bytes(edge // 8 + 2)
    pixels = b"".join(coder.compress(row) for _ in range(edge)) + coder.flush()
    head = chunk(b"IHDR", struct.pack(">IIBBBBB", edge, edge, 1, 0, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + head + chunk(b"IDAT", pixels) + behind + chunk(b"IEND", b"")


def raster_of(merged: bytes) -> bytes:
    """A layered file with this flattened picture, packed."""
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


def png_bomb(width: int, height: int) -> bytes:
    """A PNG that says it is huge, with a stream of zeros that is."""
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    body = zlib.compress(bytes(2_000_000), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


def many_scans(edge: int = 4_000, scans: int = 200) -> bytes:
    """A small progressive JPEG, nearly empty, whose last scan comes again and again: each costs its whole surface."""
    data = saved("JPEG", np.full((edge, edge, 3), 128, np.uint8), quality=30, progressive=True)
    last = data.rindex(b"\xff\xda")
    return data[:-2] + data[last:-2] * scans + data[-2:]


def hostile_files(seed: int = 1) -> dict[str, bytes]:
    """Files that are bad on purpose, by name: bombs, references to other files, scripts, profiles that lie."""
    random = np.random.default_rng(seed)
    bombs = "".join(f"<!ENTITY e{i} '{f'&e{i - 1};' * 10 if i else 'ha' * 50}'>" for i in range(10))
    outside = "<image xlink:href='file:///etc/passwd' width='90' height='60'/><image xlink:href='http://127.0.0.1:9/a.png' width='9' height='9'/>"  # noqa: E501
    nested = "<g>" * 20_000
    large = black_png(60_000)
    script = "/OpenAction<</S/JavaScript/JS(while\\(true\\){})>>"
    return {
        "png-bomb": png_bomb(60_000, 60_000),
        "png-short": png_bomb(4_000, 4_000),
        "png-black": large,
        "open-raster-bomb": raster_of(png_bomb(40_000, 40_000)),
        "open-raster-black": raster_of(large),
        "svg-black": drawing(large),
        "open-raster-empty": open_raster(scene())[:-60],
        "svg-entities": svg("<text>&e9;</text>", f"<!DOCTYPE svg [{bombs}]>"),
        "svg-outside": svg(outside),
        "svg-entity-outside": svg("<text>&x;</text>", "<!DOCTYPE svg [<!ENTITY x SYSTEM 'file:///etc/passwd'>]>"),
        "svg-nested": svg(nested),
        "svg-huge": svg().replace(b"width='90' height='60'", b"width='9e9' height='9e9'", 1),
        "svg-filter": svg(
            "<filter id='f'><feGaussianBlur stdDeviation='9999'/></filter>"
            "<rect filter='url(#f)' width='90' height='60'/>" * 20
        ),
        "pdf-nested": nested_page(),
        "jpeg-many-scans": many_scans(),
        "pdf-script": pdf(script),
        "pdf-loop": pdf().replace(b"/Kids[3 0 R]", b"/Kids[2 0 R]"),
        "pdf-huge": pdf().replace(b"[0 0 90 60]", b"[0 0 9e9 9e9]"),
        **{f"jpeg-lying-profile-{i}": saved("JPEG", scene(), icc_profile=_lying_icc(random)) for i in range(6)},
        "jpeg-noise": b"\xff\xd8\xff\xe0" + random.bytes(3000),
        "noise": random.bytes(5000),
    }
