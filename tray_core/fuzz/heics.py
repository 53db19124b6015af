"""HEIC files of any size: a grid of one small coded tile, as phones build theirs (ISO/IEC 23008-12, 6.6.2.3)."""

from __future__ import annotations

import struct
from pathlib import Path

_TILE = Path(__file__).parent / "tile.heic"
_EDGE = 512


def _box(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I4s", 8 + len(body), name) + body


def _full(name: bytes, body: bytes, version: int = 0, flags: int = 0) -> bytes:
    return _box(name, struct.pack(">I", version << 24 | flags) + body)


_COLORS = _box(b"colr", b"nclx" + struct.pack(">HHHB", 1, 13, 6, 0x80))


def _found(data: bytes, name: bytes) -> bytes:
    """A whole box, by its name."""
    at = data.index(name) - 4
    (size,) = struct.unpack_from(">I", data, at)
    return data[at : at + size]


def heic_file(width: int, height: int) -> bytes:
    """width x height pixels of one coded picture, waves with grain, repeated side by side."""
    tile = _TILE.read_bytes()
    columns, rows = -(-width // _EDGE), -(-height // _EDGE)
    tiles = range(2, 2 + columns * rows)
    coded = _found(tile, b"mdat")[8:]
    grid = struct.pack(">BBBBHH", 0, 0, rows - 1, columns - 1, width, height)

    def size(wide: int, high: int) -> bytes:
        return _full(b"ispe", struct.pack(">II", wide, high))

    properties = _box(b"ipco", _found(tile, b"hvcC") + _COLORS + size(_EDGE, _EDGE) + size(width, height))
    uses = [(1, (2, 4)), *((item, (0x81, 2, 3)) for item in tiles)]
    links = b"".join(struct.pack(">HB", item, len(which)) + bytes(which) for item, which in uses)
    kinds = [(1, b"grid"), *((item, b"hvc1") for item in tiles)]
    entries = b"".join(_full(b"infe", struct.pack(">HH4sB", item, 0, kind, 0), version=2) for item, kind in kinds)
    refers = struct.pack(f">HH{len(tiles)}H", 1, len(tiles), *tiles)

    def meta(start: int) -> bytes:
        places = [(1, start, len(grid)), *((item, start + len(grid), len(coded)) for item in tiles)]
        rows = b"".join(struct.pack(">HHHII", item, 0, 1, at, many) for item, at, many in places)
        return _full(
            b"meta",
            _full(b"hdlr", struct.pack(">I4s12xB", 0, b"pict", 0))
            + _full(b"pitm", struct.pack(">H", 1))
            + _full(b"iloc", struct.pack(">BBH", 0x44, 0, len(places)) + rows)
            + _full(b"iinf", struct.pack(">H", len(kinds)) + entries)
            + _full(b"iref", _box(b"dimg", refers))
            + _box(b"iprp", properties + _full(b"ipma", struct.pack(">I", len(uses)) + links)),
        )

    head = _box(b"ftyp", b"heic\0\0\0\0mif1heic")
    return head + meta(len(head) + len(meta(0)) + 8) + _box(b"mdat", grid + coded)
