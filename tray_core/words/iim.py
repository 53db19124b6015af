"""IPTC-IIM: records of data sets (IPTC Information Interchange Model 4.2), and the resources that hold them in JPEG."""

from __future__ import annotations

import struct
from collections.abc import Mapping, Sequence

from tray_core.words.exif import Broken, decoded

TITLE, KEYWORDS, CREATOR, CITY, SUBLOCATION, REGION, COUNTRY = 5, 25, 80, 90, 92, 95, 101
HEADLINE, CREDIT, RIGHTS, CONTACT, DESCRIPTION = 105, 110, 116, 118, 120
"""Data sets of the application record, by their numbers."""

LONGEST = {TITLE: 64, KEYWORDS: 64, CREATOR: 32, SUBLOCATION: 32, CREDIT: 32, RIGHTS: 128, CONTACT: 128}
"""Bytes that the standard allows in what is written here; more than that reads well nowhere."""

_MOST_TEXT = 2000
_UTF8 = b"\x1b%G"
_MARK, _ENVELOPE, _APPLICATION = 0x1C, 1, 2
_RESOURCE, _IIM_RESOURCE = b"8BIM", 0x0404
_MOST_SETS = 5000


def read_iim(data: bytes) -> dict[int, list[str]]:
    """The texts of the application record by the number of their data set; Broken where it is none."""
    found: dict[int, list[bytes]] = {}
    at, sets, utf8 = 0, 0, False
    while at + 5 <= len(data) and data[at] == _MARK:
        record, number, size = struct.unpack_from(">BBH", data, at + 1)
        at += 5
        if size & 0x8000:  # the length has a length of its own
            size, at = _long_size(data, at, size & 0x7FFF)
        sets += 1
        if sets > _MOST_SETS or at + size > len(data):
            raise Broken("ends too early" if sets <= _MOST_SETS else "never ends")
        if record == _ENVELOPE and number == 90:
            utf8 = data[at : at + size] == _UTF8
        elif record == _APPLICATION:
            found.setdefault(number, []).append(data[at : at + size])
        at += size
    if not sets and data.strip(b"\0"):
        raise Broken("does not begin as IPTC does")
    text = (lambda raw: raw.decode("utf-8", "replace")) if utf8 else decoded
    return {number: [text(raw) for raw in raws] for number, raws in found.items()}


def _long_size(data: bytes, at: int, width: int) -> tuple[int, int]:
    if not 1 <= width <= 8 or at + width > len(data):
        raise Broken("ends too early")
    return int.from_bytes(data[at : at + width], "big"), at + width


def write_iim(sets: Mapping[int, Sequence[str]]) -> bytes:
    """An application record in UTF-8, which says so; texts are cut to what the standard allows, between letters."""
    made = _set(_ENVELOPE, 90, _UTF8) + _set(_APPLICATION, 0, b"\0\4")
    for number, texts in sorted(sets.items()):
        made += b"".join(_set(_APPLICATION, number, _cut(text, number)) for text in texts if text)
    return made


def _cut(text: str, number: int) -> bytes:
    return text.encode()[: LONGEST.get(number, _MOST_TEXT)].decode("utf-8", "ignore").encode()


def _set(record: int, number: int, value: bytes) -> bytes:
    return struct.pack(">BBBH", _MARK, record, number, len(value)) + value


def iim_of_resources(data: bytes) -> bytes | None:
    """The records among the resources of a JPEG's APP13, which begin with 8BIM each; None without any."""
    at = 0
    while at + 12 <= len(data) and data[at : at + 4] == _RESOURCE:
        (number,) = struct.unpack_from(">H", data, at + 4)
        named = data[at + 6] + 1
        at += 6 + named + named % 2
        if at + 4 > len(data):
            return None
        (size,) = struct.unpack_from(">I", data, at)
        at += 4
        if number == _IIM_RESOURCE:
            return data[at : at + size]
        at += size + size % 2
    return None


def as_resource(records: bytes) -> bytes:
    """The records as the one resource that a JPEG's APP13 holds of them."""
    head = _RESOURCE + struct.pack(">HHI", _IIM_RESOURCE, 0, len(records))
    return head + records + b"\0" * (len(records) % 2)
