"""What a file is, by its first bytes. Names and extensions are never asked."""

from __future__ import annotations

import struct

READ = ("JPEG", "PNG", "TIFF", "WebP", "AVIF", "GIF")
"""The formats that are read."""

HEAD = 4096
"""How many first bytes `sniff` wants to see."""

_DNG_VERSION = 50706


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
        return "a camera raw file (DNG)" if _is_dng(head) else "TIFF"
    if head[:4] == b"RIFF" and head[8:12] == b"WEBP":
        return "WebP"
    if head[4:8] == b"ftyp":
        return _sniff_iso_media(head)
    if head[:6] in (b"GIF87a", b"GIF89a"):
        return "GIF"
    if head.startswith(b"%PDF-"):
        return "a PDF document"
    if head[:4] == b"PK\x03\x04":
        return "a layered OpenRaster picture" if b"image/openraster" in head[:128] else "a zip archive"
    if head.startswith((b"\xff\x0a", b"\0\0\0\x0cJXL ")):
        return "a JPEG XL picture"
    if head.startswith(b"\0\0\0\x0cjP  "):
        return "a JPEG 2000 picture"
    return _sniff_text(head)


def _is_dng(head: bytes) -> bool:
    """Whether the first TIFF directory carries the DNGVersion tag (DNG specification, tag 50706)."""
    order = "<" if head[:2] == b"II" else ">"
    try:
        (offset,) = struct.unpack_from(order + "I", head, 4)
        (count,) = struct.unpack_from(order + "H", head, offset)
        tags = (struct.unpack_from(order + "H", head, offset + 2 + 12 * i)[0] for i in range(count))
        return _DNG_VERSION in tags
    except struct.error:
        return False


def _sniff_iso_media(head: bytes) -> str:
    brands = head[8:64]
    if b"avif" in brands or b"avis" in brands:
        return "AVIF"
    if any(brand in brands for brand in (b"heic", b"heix", b"mif1", b"hevc")):
        return "an HEIC picture"
    return "a film or sound file"


def _sniff_text(head: bytes) -> str:
    try:
        text = head.decode("utf-8").lstrip("\ufeff \t\r\n")
    except UnicodeDecodeError as error:
        if error.start < len(head) - 4 or not head:
            return "an unknown kind of data"
        text = head[: error.start].decode("utf-8").lstrip("\ufeff \t\r\n")
    if "<svg" in text:
        return "an SVG drawing"
    if text and all(c.isprintable() or c in "\r\n\t" for c in text):
        return "plain text"
    return "an unknown kind of data"
