"""Where formats keep Exif, XMP and IPTC. Nothing is decoded; lengths that lie lead nowhere."""

from __future__ import annotations

import re
import struct
import zlib
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass

from tray_core.photo.jpeg_parts import parts
from tray_core.photo.png_parts import chunks
from tray_core.words.exif import IIM, XMP, Broken, read_exif
from tray_core.words.iim import iim_of_resources

XMP_LEAD, XMP_MORE_LEAD = b"http://ns.adobe.com/xap/1.0/\0", b"http://ns.adobe.com/xmp/extension/\0"
EXIF_LEAD, RESOURCES_LEAD = b"Exif\0\0", b"Photoshop 3.0\0"
PNG_XMP = b"XML:com.adobe.xmp\0"
_XMP_UUID = bytes.fromhex("be7acfcb97a942e89c71999491e3afac")
_PACKET = re.compile(rb"<x:x[am]pmeta\b.*?</x:x[am]pmeta>", re.DOTALL)
_LONGEST = 16_000_000


@dataclass(frozen=True, slots=True)
class Blocks:
    """A file's blocks as they stand in it. exif: from its TIFF header on; for TIFF and raw, the whole file.

    xmp: the packet, and behind it the one that holds what did not fit into it. unread: sentences on what is damaged.
    """

    exif: bytes | None = None
    xmp: tuple[bytes, ...] = ()
    iim: bytes | None = None
    unread: tuple[str, ...] = ()


def blocks_of(data: bytes, kind: str) -> Blocks:
    """The blocks in the file `data`. kind: as `tray_core.photo.sniff` names it. Raises nothing."""
    try:
        match kind:
            case "JPEG":
                return _of_jpeg(data)
            case "PNG":
                return _of_png(data)
            case "WebP":
                return _of_webp(data)
            case "TIFF" | "camera raw" if data[:2] in (b"II", b"MM"):
                return _of_tiff(data)
            case "AVIF" | "HEIC":
                return _of_items(data)
            case "JPEG XL" | "JPEG 2000":
                return _of_boxes(data)
            case _:
                found = _PACKET.search(data)
                return Blocks(xmp=(found.group(),) if found and len(found.group()) <= _LONGEST else ())
    except (struct.error, IndexError, ValueError, zlib.error) as error:
        return Blocks(unread=(f"What the file says of itself is damaged ({error}).",))


def _of_jpeg(data: bytes) -> Blocks:
    exif = xmp = None
    resources = b""
    more: dict[int, bytes] = {}
    for marker, start, stop in parts(data):
        if marker not in (0xE1, 0xED):
            continue
        body = data[start + 4 : stop]
        if marker == 0xE1 and body.startswith(EXIF_LEAD) and exif is None:
            exif = body[len(EXIF_LEAD) :]
        elif marker == 0xE1 and body.startswith(XMP_LEAD) and xmp is None:
            xmp = body[len(XMP_LEAD) :]
        elif marker == 0xE1 and body.startswith(XMP_MORE_LEAD) and len(body) > len(XMP_MORE_LEAD) + 40:
            # What does not fit one part: a digest, the whole's length, this piece's place in it.
            (place,) = struct.unpack_from(">I", body, len(XMP_MORE_LEAD) + 36)
            more[place] = body[len(XMP_MORE_LEAD) + 40 :]
        elif marker == 0xED and body.startswith(RESOURCES_LEAD):
            resources += body[len(RESOURCES_LEAD) :]
    packets = (xmp, b"".join(more[place] for place in sorted(more)))
    return Blocks(exif, _there(*packets), iim_of_resources(resources))


def _there(*packets: bytes | None) -> tuple[bytes, ...]:
    return tuple(packet for packet in packets if packet)


def _of_png(data: bytes) -> Blocks:
    exif = xmp = iim = None
    for name, start, stop in chunks(data):
        body = data[start + 8 : stop - 4] if name in (b"eXIf", b"iTXt", b"zTXt") else b""
        if name == b"eXIf":
            exif = body.removeprefix(EXIF_LEAD)
        elif name == b"iTXt" and body.startswith(PNG_XMP):
            packed, rest = body[len(PNG_XMP)], body[len(PNG_XMP) + 2 :]
            xmp = rest.split(b"\0", 2)[2]
            xmp = _unpacked(xmp) if packed else xmp
        elif name == b"zTXt" and body.startswith(b"Raw profile type iptc\0"):
            # Hexadecimal digits behind a name and a length, as writers without a place for IPTC have it.
            digits = b"".join(_unpacked(body[23:]).split()[2:])
            block = bytes.fromhex(digits.decode("ascii", "replace"))
            iim = iim_of_resources(block) or block
    return Blocks(exif, _there(xmp), iim)


def _unpacked(data: bytes) -> bytes:
    return zlib.decompressobj().decompress(data, _LONGEST)


def webp_chunks(data: bytes) -> Iterator[tuple[bytes, int, int]]:
    """(name, start, stop) of each chunk's body, without its padding."""
    at = 12
    while at + 8 <= len(data):
        name, size = struct.unpack_from("<4sI", data, at)
        yield name, at + 8, min(at + 8 + size, len(data))
        at += 8 + size + size % 2


def _of_webp(data: bytes) -> Blocks:
    found = {name: data[start:stop] for name, start, stop in webp_chunks(data) if name in (b"EXIF", b"XMP ")}
    exif = found.get(b"EXIF")
    return Blocks(exif.removeprefix(EXIF_LEAD) if exif else None, _there(found.get(b"XMP ")))


def _of_tiff(data: bytes) -> Blocks:
    with suppress(Broken):
        image = read_exif(data).image
        packet, records = image.get(XMP), image.get(IIM)
        iim = records.raw if records else None
        if iim is not None and records is not None and records.kind == 4 and data[:2] == b"II" and iim[:1] != b"\x1c":
            # Written as numbers of four bytes by writers that took them for such.
            iim = b"".join(iim[i : i + 4][::-1] for i in range(0, len(iim), 4))
        return Blocks(data, _there(packet.raw if packet else None), iim)
    return Blocks(data)


def _boxes(data: bytes, at: int, end: int) -> Iterator[tuple[bytes, int, int]]:
    """(name, start, stop) of each box's body (ISO/IEC 14496-12, 4.2)."""
    while at + 8 <= end:
        size, name = struct.unpack_from(">I4s", data, at)
        start = at + 8
        if size == 1 and at + 16 <= end:
            (size,) = struct.unpack_from(">Q", data, start)
            start += 8
        stop = end if size == 0 else at + size
        if stop > end or stop < start:
            return
        yield name, start, stop
        at = stop


def _of_boxes(data: bytes) -> Blocks:
    """JPEG XL and JPEG 2000 hold their blocks in boxes of their own."""
    exif = xmp = None
    for name, start, stop in _boxes(data, 0, len(data)):
        if name == b"Exif" and stop - start > 4:
            exif = data[start + 4 + struct.unpack_from(">I", data, start)[0] : stop]
        elif name == b"xml " and xmp is None:
            xmp = data[start:stop]
        elif name == b"uuid" and data[start : start + 16] == _XMP_UUID:
            xmp = data[start + 16 : stop]
    return Blocks(exif, _there(xmp))


def _of_items(data: bytes) -> Blocks:
    """HEIF and its kin hold them as items, of which a table says where they lie (ISO/IEC 23008-12, annex A)."""
    meta = next(((start, stop) for name, start, stop in _boxes(data, 0, len(data)) if name == b"meta"), None)
    if meta is None:
        return Blocks()
    boxes = {name: (start, stop) for name, start, stop in _boxes(data, meta[0] + 4, meta[1])}
    if b"iinf" not in boxes or b"iloc" not in boxes:
        return Blocks()
    kinds = _item_kinds(data, *boxes[b"iinf"])
    exif = xmp = None
    for item, start, size in _item_places(data, *boxes[b"iloc"], boxes.get(b"idat", (0, 0))[0]):
        body = data[start : start + size] if 0 < size <= _LONGEST and start + size <= len(data) else b""
        if kinds.get(item) == b"Exif" and len(body) > 4:
            exif = body[4 + struct.unpack_from(">I", body)[0] :].removeprefix(EXIF_LEAD)
        elif kinds.get(item) == b"application/rdf+xml" and body:
            xmp = body
    return Blocks(exif, _there(xmp))


def _item_kinds(data: bytes, start: int, stop: int) -> dict[int, bytes]:
    at = start + (6 if data[start] == 0 else 8)
    found: dict[int, bytes] = {}
    for name, begin, end in _boxes(data, at, stop):
        if name != b"infe" or data[begin] not in (2, 3):
            continue
        wide = data[begin] == 3
        item, _, kind = struct.unpack_from(">IH4s" if wide else ">HH4s", data, begin + 4)
        rest = data[begin + (14 if wide else 12) : end].split(b"\0")
        found[item] = rest[1] if kind == b"mime" and len(rest) > 1 else kind
    return found


def _item_places(data: bytes, start: int, stop: int, inside: int) -> Iterator[tuple[int, int, int]]:
    """(item, start, size) of each item that is in one piece. inside: where the box of small items begins."""
    version, sizes = data[start], struct.unpack_from(">H", data, start + 4)[0]
    widths = [sizes >> 12, sizes >> 8 & 15, sizes >> 4 & 15, sizes & 15 if version else 0]
    at = start + 6
    number = 4 if version == 2 else 2
    count = int.from_bytes(data[at : at + number], "big")
    at += number

    def take(width: int) -> int:
        nonlocal at
        if at + width > stop:
            raise ValueError("its table of items ends early")
        at += width
        return int.from_bytes(data[at - width : at], "big")

    for _ in range(min(count, 10_000)):
        item = take(number)
        way = take(2) & 15 if version else 0
        take(2)
        base = take(widths[2])
        pieces = []
        for _ in range(take(2)):
            take(widths[3])
            pieces.append((take(widths[0]), take(widths[1])))
        if len(pieces) == 1 and way in (0, 1):
            yield item, base + pieces[0][0] + (inside if way else 0), pieces[0][1]
