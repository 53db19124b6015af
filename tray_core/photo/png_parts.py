"""The chunks of a PNG file before its pixels (PNG specification, third edition): its colors, and its still picture."""

from __future__ import annotations

import struct
from collections.abc import Iterator

from tray_core.photo.profile_making import coded_profile, gamma_profile
from tray_core.photo.profiles import SRGB

_SIGNATURE = 8
_PICTURE = (b"IHDR", b"PLTE", b"tRNS", b"IDAT", b"IEND")


def chunks(data: bytes) -> Iterator[tuple[bytes, int, int]]:
    """(name, start, stop) of each chunk, from its length to its checksum; the last one may be cut off."""
    at = _SIGNATURE
    while at + 8 <= len(data):
        size, name = struct.unpack_from(">I4s", data, at)
        yield name, at, min(at + 12 + size, len(data))
        at += 12 + size


def png_profile(data: bytes) -> bytes | None:
    """What the chunks of a PNG without a profile say of its colors: cICP, sRGB, or gAMA with cHRM; None for nothing."""
    found: dict[bytes, bytes] = {}
    for name, start, stop in chunks(data):
        if name == b"IDAT":
            break
        found.setdefault(name, data[start + 8 : stop - 4])
    if len(found.get(b"cICP", b"")) == 4:
        return coded_profile(found[b"cICP"][0], found[b"cICP"][1])
    if b"sRGB" in found or len(found.get(b"gAMA", b"")) != 4:
        return SRGB if b"sRGB" in found else None
    (hundred_thousandths,) = struct.unpack(">I", found[b"gAMA"])
    chroma = struct.unpack(">8I", found[b"cHRM"]) if len(found.get(b"cHRM", b"")) == 32 else None
    return gamma_profile(hundred_thousandths, chroma)


def png_exif(data: bytes) -> bytes | None:
    """The Exif of a PNG, wherever in the file it stands; None without."""
    return next((data[start + 8 : stop - 4] for name, start, stop in chunks(data) if name == b"eXIf"), None)


def still(data: bytes) -> bytes:
    """The same picture without what decoders may stumble over beside it: animation, text, profiles, whatever is not
    needed for its pixels.
    """
    return data[:_SIGNATURE] + b"".join(data[start:stop] for name, start, stop in chunks(data) if name in _PICTURE)
