"""What a file is, by its first bytes. Names and extensions are never asked."""

from __future__ import annotations

import struct

READ = (
    *("JPEG", "PNG", "TIFF", "WebP", "AVIF", "GIF", "HEIC", "JPEG XL", "JPEG 2000"),
    *("OpenRaster", "layered", "SVG", "PDF", "camera raw"),
)
"""The kinds that are read."""

UNKNOWN = "an unknown kind of data"

HEAD = 4096
"""How many first bytes `sniff` wants to see."""

_DNG_VERSION, _SUB_IFDS, _PHOTOMETRIC, _SUBFILE = 50706, 330, 262, 254
_SENSOR = 32803


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
    """Whether the first TIFF directory is that of a raw file: it carries the DNGVersion tag (DNG specification, tag
    50706), holds sensor values itself, or is a small preview with further directories below it (TIFF/EP).
    """
    order = "<" if head[:2] == b"II" else ">"
    try:
        (offset,) = struct.unpack_from(order + "I", head, 4)
        (count,) = struct.unpack_from(order + "H", head, offset)
        rows = [struct.unpack_from(order + "HHIH", head, offset + 2 + 12 * i) for i in range(count)]
    except struct.error:
        return False
    tags = {tag: value for tag, _, _, value in rows}
    preview = tags.get(_SUBFILE, 0) & 1 == 1 and _SUB_IFDS in tags
    return _DNG_VERSION in tags or tags.get(_PHOTOMETRIC) == _SENSOR or preview


def _sniff_iso_media(head: bytes) -> str:
    brands = head[8:64]
    if b"avif" in brands or b"avis" in brands:
        return "AVIF"
    if any(brand in brands for brand in (b"heic", b"heix", b"mif1", b"hevc")):
        return "HEIC"
    return "a film or sound file"


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
