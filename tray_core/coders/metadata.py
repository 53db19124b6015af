"""Putting what a rendition says of itself into its file, beside the coded picture, which stays as it is."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator

from tray_core.errors import LineError
from tray_core.photo.jpeg_parts import parts
from tray_core.photo.png_parts import chunks
from tray_core.words import exif as tags
from tray_core.words.blocks import (
    EXIF_LEAD,
    PNG_XMP,
    RESOURCES_LEAD,
    XMP_LEAD,
    XMP_MORE_LEAD,
    webp_chunks,
)
from tray_core.words.carried import Carried
from tray_core.words.exif import Exif, read_exif, write_directories
from tray_core.words.iim import as_resource

BESIDE = ("JPEG", "PNG", "WebP", "TIFF")
"""Kinds of files whose metadata can be written anew beside their pictures."""

_TIFF_OLD = frozenset((270, 315, 700, 33432, 33723, 34377, 37724, 40091, 40092, 40093, 40094, 40095))
_WIPED = frozenset((270, 271, 272, 305, 306, 316))
_PNG_TEXT = (b"eXIf", b"iTXt", b"tEXt", b"zTXt", b"tIME")
_EXIF_FLAG, _XMP_FLAG, _ICC_FLAG, _ALPHA_FLAG, _MOVES_FLAG = 0x08, 0x04, 0x20, 0x10, 0x02


def with_metadata(data: bytes, kind: str, said: Carried | None) -> bytes:
    """The file `data` of one of `BESIDE`, freshly coded, with what it is to say."""
    if said is None:
        return data
    match kind:
        case "JPEG":
            return _into_jpeg(data, said)
        case "PNG":
            return data[:33] + _png_texts(said) + data[33:]
        case "WebP":
            return _into_webp(data, said)
        case _:
            return _into_tiff(data, said)


def with_other_metadata(data: bytes, kind: str, said: Carried | None) -> bytes:
    """A photo's file with nothing but this said in it; the picture's data are the same, byte by byte.

    LineError for kinds whose metadata cannot be written beside their pictures, and for TIFF of several pages.
    """
    match kind:
        case "JPEG":
            bare = _bare_jpeg(data)
        case "PNG":
            bare = data[:8] + b"".join(data[a:b] for name, a, b in chunks(data) if name not in _PNG_TEXT)
        case "WebP":
            bare = _riff([(n, data[a:b]) for n, a, b in webp_chunks(data) if n not in (b"EXIF", b"XMP ")])
            bare = _with_flags(bare, 0, _EXIF_FLAG | _XMP_FLAG)
        case "TIFF":
            bare = _bare_tiff(data)
        case _:
            raise LineError(
                "file.metadata",
                expected="a JPEG, PNG, WebP or TIFF, whose metadata can be written anew",
                found=f"a photo that is {kind}",
                remedy="Leave the metadata as it is for this photo, or save it in another format.",
            )
    return with_metadata(bare, kind, said)


def _segment(marker: int, body: bytes) -> bytes:
    return struct.pack(">BBH", 0xFF, marker, len(body) + 2) + body


def _into_jpeg(data: bytes, said: Carried) -> bytes:
    """Behind the JFIF header, which has to be the first."""
    made = _segment(0xE1, EXIF_LEAD + said.exif) if said.exif else b""
    made += _segment(0xE1, XMP_LEAD + said.xmp) if said.xmp else b""
    if said.iim and len(said.iim) < 65_000:
        made += _segment(0xED, RESOURCES_LEAD + as_resource(said.iim))
    end = 4 + struct.unpack_from(">H", data, 4)[0] if data[2:4] == b"\xff\xe0" else 2
    return data[:end] + made + data[end:]


def _bare_jpeg(data: bytes) -> bytes:
    """Without metadata, comments, previews and whatever stands behind the picture."""
    kept = [data[:2]]
    for marker, start, stop in parts(data):
        body = data[start + 4 : start + 4 + max(len(EXIF_LEAD), len(XMP_MORE_LEAD))]
        if marker in (0xE1, 0xED, 0xFE) or (marker == 0xE2 and body.startswith(b"MPF\0")):
            continue
        kept.append(data[start : _end_of_picture(data, start) if marker == 0xDA else stop])
    return b"".join(kept)


def _end_of_picture(data: bytes, at: int) -> int:
    """Behind the end marker of the picture whose first scan begins at `at`."""
    while (at := data.find(b"\xff", at)) >= 0 and at + 1 < len(data):
        marker = data[at + 1]
        if marker == 0xD9:
            return at + 2
        if marker in (0x00, 0xFF) or 0xD0 <= marker <= 0xD7:
            at += 1 if marker == 0xFF else 2
            continue
        at += 2 + (struct.unpack_from(">H", data, at + 2)[0] if at + 4 <= len(data) else 2)
    return len(data)


def _png_texts(said: Carried) -> bytes:
    made = _chunk(b"eXIf", said.exif) if said.exif else b""
    return made + (_chunk(b"iTXt", PNG_XMP + bytes(4) + said.xmp) if said.xmp else b"")


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))


def _riff(chunks: list[tuple[bytes, bytes]]) -> bytes:
    body = b"".join(name + struct.pack("<I", len(part)) + part + b"\0" * (len(part) % 2) for name, part in chunks)
    return b"RIFF" + struct.pack("<I", len(body) + 4) + b"WEBP" + body


def _into_webp(data: bytes, said: Carried) -> bytes:
    """Exif and XMP stand behind the picture, and the extended header, which may have to be made, says so."""
    found = [(name, data[start:stop]) for name, start, stop in webp_chunks(data)]
    more = [(name, block) for name, block in ((b"EXIF", said.exif), (b"XMP ", said.xmp)) if block]
    if found[0][0] != b"VP8X":
        found.insert(0, (b"VP8X", _extended(found)))
    flags = (_EXIF_FLAG if said.exif else 0) | (_XMP_FLAG if said.xmp else 0)
    return _with_flags(_riff([*found, *more]), flags, 0)


def _extended(chunks: list[tuple[bytes, bytes]]) -> bytes:
    """The extended header of a picture in the simple layout (RFC 9649, 2.7)."""
    name, body = chunks[0]
    if name == b"VP8L":
        bits = int.from_bytes(body[1:5], "little")
        width, height, alpha = (bits & 0x3FFF) + 1, (bits >> 14 & 0x3FFF) + 1, bits >> 28 & 1
    else:
        width, height = (each & 0x3FFF for each in struct.unpack_from("<HH", body, 6))
        alpha = 0
    flags = bytes((_ALPHA_FLAG if alpha else 0, 0, 0, 0))
    return flags + (width - 1).to_bytes(3, "little") + (height - 1).to_bytes(3, "little")


def _with_flags(data: bytes, on: int, off: int) -> bytes:
    if data[12:16] != b"VP8X":
        return data
    return data[:20] + bytes((data[20] & ~off | on,)) + data[21:]


def _into_tiff(data: bytes, said: Carried) -> bytes:
    """A new first directory behind the file, with what the old one has; the old one's place is left."""
    old = read_exif(data)
    new = read_exif(said.exif) if said.exif else Exif(old.order)
    image = {tag: entry for tag, entry in old.image.items() if tag not in _TIFF_OLD}
    if new.order != old.order:
        new = _turned(new, old.order)
    image |= new.image
    if said.xmp:
        image[tags.XMP] = tags.Entry(tags.BYTE, len(said.xmp), said.xmp)
    if said.iim:
        image[tags.IIM] = tags.Entry(tags.UNDEFINED, len(said.iim), said.iim)
    made = data + b"\0" * (len(data) % 2)
    directories = write_directories(Exif(old.order, image=image, photo=new.photo, place=new.place), len(made))
    return made[:4] + struct.pack(old.order + "I", len(made)) + made[8:] + directories


_NUMBER = {3: 2, 4: 4, 8: 2, 9: 4, 11: 4, 5: 4, 10: 4, 12: 8}
"""Bytes of one number of a type; fractions are two numbers."""


def _turned(exif: Exif, order: str) -> Exif:
    """The same values in the other byte order."""

    def entries(found: tags.Directory) -> tags.Directory:
        return {
            tag: tags.Entry(e.kind, e.count, b"".join(_swapped(e.raw, _NUMBER.get(e.kind, 1))))
            for tag, e in found.items()
        }

    return Exif(order, image=entries(exif.image), photo=entries(exif.photo), place=entries(exif.place))


def _swapped(raw: bytes, size: int) -> Iterator[bytes]:
    return (raw[at : at + size][::-1] for at in range(0, len(raw), size))


def _bare_tiff(data: bytes) -> bytes:
    """With what it said overwritten by zeros, since its values may stand anywhere."""
    found = read_exif(data)
    if found.following or 330 in found.image:
        raise LineError(
            "file.metadata",
            expected="a TIFF of one picture, whose metadata can be written anew",
            found="one of several",
            remedy="Leave the metadata as it is for this photo, or save it as one picture.",
        )
    made = bytearray(data)
    gone = {tag: entry for tag, entry in found.image.items() if tag in _TIFF_OLD | _WIPED}
    for entry in (*gone.values(), *found.photo.values(), *found.place.values()):
        made[entry.at : entry.at + len(entry.raw)] = bytes(len(entry.raw))
    image = {
        tag: entry
        for tag, entry in found.image.items()
        if tag not in gone and tag not in (tags.PHOTO_DIRECTORY, tags.PLACE_DIRECTORY)
    }
    made += b"\0" * (len(made) % 2)
    directories = write_directories(Exif(found.order, image=image), len(made))
    return bytes(made[:4]) + struct.pack(found.order + "I", len(made)) + bytes(made[8:]) + directories
