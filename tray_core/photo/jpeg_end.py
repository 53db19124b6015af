"""Whether a JPEG file reaches its end marker (ITU-T T.81, Annex B)."""

from __future__ import annotations

import struct

END = b"\xff\xd9"
_PROGRESSIVE = (0xC2, 0xC6, 0xCA, 0xCE)


def ends_early(data: bytes) -> tuple[bool, bool]:
    """Return (no end marker behind the first scan, the file is progressive).

    `data` is a whole file. In entropy-coded data every 0xFF is followed by a stuffed zero or a
    restart marker, so an end marker found behind the start of the scan is a real one. An end marker
    before it belongs to an embedded preview and does not count.
    """
    position, progressive = 2, False
    while position + 4 <= len(data):
        if data[position] != 0xFF:
            return True, progressive
        marker = data[position + 1]
        if marker == 0xFF:
            position += 1
            continue
        if marker in _PROGRESSIVE:
            progressive = True
        if marker == 0xDA:
            return data.rfind(END, position) < 0, progressive
        (length,) = struct.unpack_from(">H", data, position + 2)
        position += 2 + length
    return True, progressive
