"""What a file is, by its first bytes. Names and extensions are never asked."""

from __future__ import annotations

import struct

READ = (
    *("JPEG", "PNG", "TIFF", "WebP", "AVIF", "GIF", "BMP", "HEIC", "JPEG XL", "JPEG 2000"),
    *("OpenRaster", "layered", "SVG", "PDF", "camera raw"),
)
"""The kinds that are read."""

UNKNOWN = "an unknown kind of data"

HEAD = 4096
"""How many first bytes `sniff` wants to see."""

FILM = "a film or sound file"

_DNG_VERSION, _SUB_IFDS, _PHOTOMETRIC, _SUBFILE, _COMPRESSION, _MAKE = 50706, 330, 262, 254, 259, 271
_SENSOR = 32803
_LONG = 4
_PLAIN_COMPRESSIONS = (1, 2, 3, 4, 5, 7, 8, 32773, 32946, 34712, 34887, 34925, 34933, 34934, 50000, 50001, 50002)
"""Those that pictures have. Makers' files begin with a JPEG of the old kind (6), or with one of their own."""


def sniff(head: bytes) -> str:
    """Name the kind of content that begins with `head` (up to HEAD bytes).

    Returns one of READ, or a plain name for something that is known but not read ("a PDF document"),
    or "an unknown kind of data". Signatures are those of the formats' own standards.
    """
    if head.startswith(b"\xff\xd8\xff"):
        return "JPEG"
    if head.startswith(b"\x89PNG\r\n\x1a\n"):
        return "PNG"
    if head[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return "camera raw" if _is_raw(head) else "TIFF"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "WebP"
    if head[4:8] == b"ftyp":
        return _sniff_iso_media(head)
    if head[:6] in (b"GIF87a", b"GIF89a"):
        return "GIF"
    if head[:2] == b"BM" and head[6:10] == bytes(4):
        return "BMP"
    if head[:4] == b"8BPS":
        return "layered"
    if head.startswith(b"%PDF-"):
        return "PDF"
    if head[:4] == b"PK\x03\x04":
        return "OpenRaster" if b"mimetypeimage/openraster" in head[:128] else "a zip archive"
    if head.startswith((b"\xff\x0a", b"\0\0\0\x0cJXL ")):
        return "JPEG XL"
    if head.startswith((b"\0\0\0\x0cjP  ", b"\xff\x4f\xff\x51")):
        return "JPEG 2000"
    return _sniff_text(head)


def _is_raw(head: bytes) -> bool:
    """Whether the first TIFF directory is that of a raw file beyond doubt: it carries the DNGVersion tag (DNG
    specification, tag 50706), or holds sensor values itself.
    """
    tags = _first_directory(head)
    return _DNG_VERSION in tags or tags.get(_PHOTOMETRIC) == _SENSOR


def _first_directory(head: bytes) -> dict[int, int]:
    """The tags of the first directory of a TIFF with the numbers in them; empty where the bytes end before it."""
    order = "<" if head[:2] == b"II" else ">"
    try:
        (offset,) = struct.unpack_from(order + "I", head, 4)
        (count,) = struct.unpack_from(order + "H", head, offset)
        rows = []
        for i in range(count):
            tag, kind, _, value = struct.unpack_from(order + "HHIH", head, offset + 2 + 12 * i)
            if kind == _LONG:
                (value,) = struct.unpack_from(order + "I", head, offset + 10 + 12 * i)
            rows.append((tag, value))
    except struct.error:
        return {}
    return dict(rows)


def may_be_raw(kind: str, data: bytes) -> bool:
    """Whether what `sniff` took for `kind` is to be shown to the raw library, which knows many makers' files.

    Those are built like a TIFF of a camera that begins with a preview, like films, or like nothing else. All other
    TIFFs are not shown to it: it would take plain pictures of 16 bits for sensor values. data: the whole file.
    """
    if kind != "TIFF":
        return kind in (UNKNOWN, FILM)
    if data[2:4] in (b"+\0", b"\0+"):
        return False
    tags = _first_directory(data)
    preview = tags.get(_SUBFILE, 0) & 1 == 1 or _SUB_IFDS in tags
    return _MAKE in tags and (preview or tags.get(_COMPRESSION, 1) not in _PLAIN_COMPRESSIONS)


def _sniff_iso_media(head: bytes) -> str:
    brands = head[8:64]
    if b"avif" in brands or b"avis" in brands:
        return "AVIF"
    if any(brand in brands for brand in (b"heic", b"heix", b"mif1", b"hevc")):
        return "HEIC"
    return FILM


def _sniff_text(head: bytes) -> str:
    try:
        text = head.decode("utf-8").lstrip("\ufeff \t\r\n")
    except UnicodeDecodeError as error:
        if error.start < len(head) - 4 or not head:
            return UNKNOWN
        text = head[: error.start].decode("utf-8").lstrip("\ufeff \t\r\n")
    if "<svg" in text:
        return "SVG"
    if text and all(c.isprintable() or c in "\r\n\t" for c in text):
        return "plain text"
    return UNKNOWN
