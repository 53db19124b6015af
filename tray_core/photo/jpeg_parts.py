"""The parts of a JPEG file before its pixels (ITU-T T.81, annex B): its end marker, its profile, its header mended."""

from __future__ import annotations

import struct
from collections.abc import Iterator

END = b"\xff\xd9"
_SOI, _SOS, _APP0, _APP2, _APP14 = 0xD8, 0xDA, 0xE0, 0xE2, 0xEE
_FRAMES = frozenset(range(0xC0, 0xD0)) - {0xC4, 0xC8, 0xCC}
_PROGRESSIVE = (0xC2, 0xC6, 0xCA, 0xCE)
_NEEDED = frozenset((*range(0xC0, 0xD0), 0xDB, 0xDC, 0xDD, _APP0, _APP14))
"""Frames, tables, and what says how colors are stored."""

_ICC_LEAD = b"ICC_PROFILE\0"


def parts(data: bytes) -> Iterator[tuple[int, int, int]]:
    """(marker, start, stop) of each part up to the first scan, whose stop is the end of the data.

    Bytes between parts that belong to none are passed over, as all decoders do.
    """
    at = 2
    while (at := data.find(b"\xff", at)) >= 0 and at + 4 <= len(data):
        marker = data[at + 1]
        if marker in (0x00, 0x01, 0xFF) or 0xD0 <= marker <= 0xD9:
            at += 1
            continue
        if marker == _SOS:
            yield marker, at, len(data)
            return
        (length,) = struct.unpack_from(">H", data, at + 2)
        yield marker, at, min(at + 2 + length, len(data))
        at += 2 + max(2, length)


def ends_early(data: bytes) -> tuple[bool, bool]:
    """Return (no end marker behind the first scan, the file is progressive).

    `data` is a whole file. In entropy-coded data every 0xFF is followed by a stuffed zero or a
    restart marker, so an end marker found behind the start of the scan is a real one. An end marker
    before it belongs to an embedded preview and does not count.
    """
    progressive = False
    for marker, start, _ in parts(data):
        progressive |= marker in _PROGRESSIVE
        if marker == _SOS:
            return data.rfind(END, start) < 0, progressive
    return True, progressive


def scans(data: bytes) -> int:
    """How often a decoder goes over the whole picture: 1 for most files, a dozen for progressive ones."""
    components, progressive = 0, False
    for marker, start, stop in parts(data):
        if marker in _FRAMES and stop - start > 9:
            components, progressive = data[start + 9], marker in _PROGRESSIVE
        if marker == _SOS:
            if not progressive and data[start + 4 : start + 5] == bytes((components,)):
                return 1
            # Behind the first one, every 0xFF of the pixels is followed by something else.
            return data.count(bytes((0xFF, _SOS)), start)
    return 0


def jpeg_profile(data: bytes) -> bytes | None:
    """The profile in the APP2 parts (ICC.1:2022, annex B.4), in the order of their numbers; None without any.

    Of parts that stand there twice the first counts, and numbers may begin at 0, as some writers have it. Where
    some are missing, the profile says more bytes than it has.
    """
    found: dict[int, bytes] = {}
    for marker, start, stop in parts(data):
        # The scan is a part too, and nearly all of the file: it is not copied.
        body = data[start + 4 : stop] if marker == _APP2 else b""
        if body.startswith(_ICC_LEAD) and len(body) > len(_ICC_LEAD) + 2:
            found.setdefault(body[12], body[14:])
    return b"".join(found[number] for number in sorted(found)) or None


def mended(data: bytes) -> bytes:
    """The same picture without what decoders stumble over before its pixels: parts that they do not need, and bytes
    between parts. What is behind the start of the first scan stays as it is, damaged or not.
    """
    kept = [data[start:stop] for marker, start, stop in parts(data) if marker in _NEEDED or marker == _SOS]
    return data[:2] + b"".join(kept)
