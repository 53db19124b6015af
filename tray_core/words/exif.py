"""Exif: directories of tags in the structure of TIFF (CIPA DC-008, TIFF 6.0), read and written."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from dataclasses import dataclass, field

DESCRIPTION, ORIENTATION, ARTIST, COPYRIGHT = 270, 274, 315, 33432
WIDE_TITLE, WIDE_COMMENT, WIDE_CREATOR, WIDE_KEYWORDS, USER_COMMENT = 40091, 40092, 40093, 40094, 37510
VERSION, COLOR_SPACE, PIXELS_ACROSS, PIXELS_DOWN = 36864, 40961, 40962, 40963
PHOTO_DIRECTORY, PLACE_DIRECTORY = 0x8769, 0x8825
XMP, IIM = 700, 33723

ASCII, SHORT, LONG, BYTE, UNDEFINED = 2, 3, 4, 1, 7
_SIZES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4}
_MOST_TAGS = 1000
_MOST_BYTES = 4_000_000


class Broken(ValueError):
    """A block of metadata that cannot be read; the text says why, to go on after "the Exif"."""


@dataclass(frozen=True, slots=True)
class Entry:
    """One tag's value. kind: its type's number in TIFF. raw: the values, in the byte order of the file. at: where they
    stand in it, 0 where nobody read them from one.
    """

    kind: int
    count: int
    raw: bytes
    at: int = 0


Directory = dict[int, Entry]


@dataclass(slots=True)
class Exif:
    """order: "<" or ">", as `struct` has it. image: the first directory; photo: Exif's own; place: GPS.

    following: where the directory of the next picture is; 0 for none.
    """

    order: str = "<"
    following: int = 0
    image: Directory = field(default_factory=dict)
    photo: Directory = field(default_factory=dict)
    place: Directory = field(default_factory=dict)


def read_exif(data: bytes) -> Exif:
    """Read `data`, which begins with a TIFF header; a whole TIFF file too. Broken where it cannot be.

    Tags whose values lie outside, or are of an unknown type, are passed over, as readers do.
    """
    orders = {b"II": "<", b"MM": ">"}
    order = orders.get(data[:2])
    if order is None or len(data) < 8:
        raise Broken("does not begin as Exif does")
    (first,) = struct.unpack_from(order + "I", data, 4)
    exif = Exif(order, image=_directory(data, order, first))
    if first + 2 <= len(data):
        (count,) = struct.unpack_from(order + "H", data, first)
        if (behind := first + 2 + 12 * count) + 4 <= len(data):
            (exif.following,) = struct.unpack_from(order + "I", data, behind)
    seen = {first}
    for tag, found in ((PHOTO_DIRECTORY, exif.photo), (PLACE_DIRECTORY, exif.place)):
        pointer = exif.image.get(tag)
        if pointer is None or pointer.kind not in (LONG, 13) or pointer.count != 1:
            continue
        (at,) = struct.unpack(order + "I", pointer.raw)
        if at in seen:
            raise Broken("leads back to itself")
        seen.add(at)
        found.update(_directory(data, order, at))
    return exif


def _directory(data: bytes, order: str, at: int) -> Directory:
    if at + 2 > len(data):
        raise Broken("ends too early")
    (count,) = struct.unpack_from(order + "H", data, at)
    if count > _MOST_TAGS:
        raise Broken(f"says it has {count:,} tags")
    found: Directory = {}
    for place in range(at + 2, at + 2 + 12 * count, 12):
        if place + 12 > len(data):
            if not found:
                raise Broken("ends too early")
            break
        tag, kind, length = struct.unpack_from(order + "HHI", data, place)
        size = _SIZES.get(kind, 0) * length
        start = place + 8 if size <= 4 else int(struct.unpack_from(order + "I", data, place + 8)[0])
        if 0 < size <= _MOST_BYTES and start + size <= len(data):
            found.setdefault(tag, Entry(kind, length, data[start : start + size], start))
    return found


def text(value: str) -> Entry:
    """A text as a tag's value; UTF-8, which readers of today expect where ASCII does not do."""
    raw = value.encode() + b"\0"
    return Entry(ASCII, len(raw), raw)


def number(order: str, value: int, kind: int = SHORT) -> Entry:
    """A whole number as a tag's value, short or long."""
    return Entry(kind, 1, struct.pack(order + ("H" if kind == SHORT else "I"), value))


def write_exif(exif: Exif) -> bytes:
    """The block with its TIFF header. Nothing but the three directories is written: no thumbnail, no more pictures."""
    head = (b"II*\0" if exif.order == "<" else b"MM\0*") + struct.pack(exif.order + "I", 8)
    return head + write_directories(exif, 8)


def write_directories(exif: Exif, at: int) -> bytes:
    """The three directories as they stand from byte `at` of a file on."""
    image = {tag: entry for tag, entry in exif.image.items() if tag not in (PHOTO_DIRECTORY, PLACE_DIRECTORY)}
    more = [(tag, found) for tag, found in ((PHOTO_DIRECTORY, exif.photo), (PLACE_DIRECTORY, exif.place)) if found]
    for tag, _ in more:
        image[tag] = Entry(LONG, 1, bytes(4))
    place = at + _length(image)
    behind = b""
    for tag, found in more:
        image[tag] = number(exif.order, place + len(behind), LONG)
        behind += _written(exif.order, found, place + len(behind), 0)
    return _written(exif.order, image, at, 0) + behind


def _length(entries: Mapping[int, Entry]) -> int:
    return 6 + 12 * len(entries) + sum(len(e.raw) + len(e.raw) % 2 for e in entries.values() if len(e.raw) > 4)


def _written(order: str, entries: Mapping[int, Entry], at: int, following: int) -> bytes:
    body, behind = struct.pack(order + "H", len(entries)), b""
    values = at + 6 + 12 * len(entries)
    for tag, entry in sorted(entries.items()):
        inside = entry.raw.ljust(4, b"\0")
        if len(entry.raw) > 4:
            inside = struct.pack(order + "I", values + len(behind))
            behind += entry.raw + b"\0" * (len(entry.raw) % 2)
        body += struct.pack(order + "HHI", tag, entry.kind, entry.count) + inside
    return body + struct.pack(order + "I", following) + behind


_CHARSETS = {b"ASCII\0\0\0": "utf-8", b"UNICODE\0": "utf-16", b"JIS\0\0\0\0\0": "iso2022_jp"}


def as_text(entry: Entry | None) -> str:
    """The text of a tag, "" without one."""
    if entry is None or entry.kind not in (ASCII, BYTE, UNDEFINED):
        return ""
    return decoded(entry.raw.split(b"\0", 1)[0])


def as_wide_text(entry: Entry | None) -> str:
    """The text of one of the tags that hold UTF-16, always with the low byte first."""
    return entry.raw.decode("utf-16-le", "replace").split("\0", 1)[0] if entry is not None else ""


def as_comment(entry: Entry | None, order: str) -> str:
    """The text of a comment, which names its own characters in its first eight bytes."""
    if entry is None:
        return ""
    charset, raw = _CHARSETS.get(entry.raw[:8]), entry.raw[8:]
    if charset == "utf-16":
        charset = "utf-16" if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-16-le" if order == "<" else "utf-16-be"
        return raw.decode(charset, "replace").split("\0", 1)[0]
    raw = raw.split(b"\0", 1)[0] if charset != "iso2022_jp" else raw
    return raw.decode(charset, "replace") if charset == "iso2022_jp" else decoded(raw)


def decoded(raw: bytes) -> str:
    """Bytes of no declared characters as text: UTF-8, or else Windows' western letters, which fit any bytes."""
    try:
        return raw.decode()
    except UnicodeDecodeError:
        return raw.decode("cp1252", "replace")
