"""What a rendition says of itself: Exif, XMP and IPTC of a photo's words, and its other facts where all are kept.

Nothing is copied that tells of another picture than the new one: sizes, turns, thumbnails, regions, development
settings, histories; nor a maker's own notes, which cannot be moved without breaking.
"""

from __future__ import annotations

import struct
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from dataclasses import dataclass

from tray_core.errors import LineError
from tray_core.photo.words import LISTS, NAMES, RIGHTS, Words
from tray_core.recipe.metadata import Metadata
from tray_core.words import exif as tags
from tray_core.words import iim
from tray_core.words.blocks import Blocks
from tray_core.words.exif import Broken, Directory, Exif, read_exif, write_exif
from tray_core.words.reading import words_of_xmp
from tray_core.words.xmp import SPACES, Properties, listed, plain, read_packets, structure, write_xmp

_ROOM = 64_000
"""Bytes of a block that fit one part of a JPEG."""

_OF_WORDS = frozenset((tags.DESCRIPTION, tags.ARTIST, tags.COPYRIGHT))
_IMAGE_CAMERA = frozenset((271, 272, 305))
_IMAGE_KEPT = frozenset((306, 18246, *_IMAGE_CAMERA))
"""Of the first directory: date, rating, make, model, program."""

_PHOTO_DATES = frozenset((36867, 36868, 36880, 36881, 36882, 37520, 37521, 37522))
_PHOTO_NEVER = frozenset((37500, 40960, 40961, 40962, 40963, 40965, 59932))
"""The maker's notes, what tells of the old picture, and padding."""
_PHOTO_PERSONAL = frozenset((37510, 42032, 42033, 42037))
"""A comment, the owner, serial numbers: they go out where nothing is left out."""

_OLD = frozenset(
    (
        *("exif:PixelXDimension", "exif:PixelYDimension", "exif:ColorSpace", "exif:NativeDigest", "exif:MakerNote"),
        *("photoshop:ICCProfile", "photoshop:ColorMode", "photoshop:History", "xmp:Thumbnails", "xmp:MetadataDate"),
        *("mwg-rs:Regions", "Iptc4xmpExt:ImageRegion"),
    )
)
_OLD_SPACES = ("tiff:", "{http://ns.adobe.com/camera-raw-settings/1.0/}", "{http://ns.adobe.com/xap/1.0/mm/}")
_PLACES = frozenset(
    (
        *("photoshop:City", "photoshop:State", "photoshop:Country", "Iptc4xmpCore:Location"),
        *("Iptc4xmpCore:CountryCode", "Iptc4xmpExt:LocationCreated", "Iptc4xmpExt:LocationShown"),
    )
)
_PEOPLE = frozenset(
    ("Iptc4xmpExt:PersonInImage", "Iptc4xmpExt:PersonInImageWDetails", "photoshop:CaptionWriter", "plus:ModelReleaseID")
)
_CAMERA_SPACES = ("exif:", "exifEX:", "aux:", "xmp:CreatorTool")

_PROPERTIES = {
    "title": ("dc:title", "Alt"),
    "alt": ("Iptc4xmpCore:AltTextAccessibility", "Alt"),
    "description": ("dc:description", "Alt"),
    "keywords": ("dc:subject", "Bag"),
    "creator": ("dc:creator", "Seq"),
    "credit": ("photoshop:Credit", ""),
    "rights": ("dc:rights", "Alt"),
    "usage": ("xmpRights:UsageTerms", "Alt"),
    "contact": ("Iptc4xmpCore:CreatorContactInfo", "structure"),
    "place": ("Iptc4xmpCore:Location", ""),
    "people": ("Iptc4xmpExt:PersonInImage", "Bag"),
}
"""Where XMP has each word, and in what kind of value."""

_SETS = {
    "title": iim.TITLE,
    "description": iim.DESCRIPTION,
    "keywords": iim.KEYWORDS,
    "creator": iim.CREATOR,
    "credit": iim.CREDIT,
    "rights": iim.RIGHTS,
    "contact": iim.CONTACT,
    "place": iim.SUBLOCATION,
}


@dataclass(frozen=True, slots=True)
class Carried:
    """Blocks as formats take them, b"" for none. exif: from its TIFF header on. words: that are in them. path: data of
    an outline, in pixels of the picture.
    """

    exif: bytes
    xmp: bytes
    iim: bytes
    words: Words
    path: str = ""


def carried(
    words: Words,
    metadata: Metadata,
    source: Blocks,
    size: tuple[int, int],
    *,
    srgb: bool,
    orientation: int | None = None,
    path: tuple[str, str] | None = None,
) -> Carried | None:
    """The blocks of a rendition of `size`; None where there is nothing to say.

    words: as the plan has them. source: of the photo; read only where all is kept. srgb: whether the new picture is in
    that space. orientation: of pixels that stay as they are; upright ones say nothing. path: an outline's name and
    data.
    """
    keep_all = metadata.keep == "all"
    exif = _exif_kept(source.exif, metadata) if keep_all and source.exif else Exif()
    found = _xmp_kept(source.xmp, metadata) if keep_all and source.xmp else {}
    drawn = dict([_drawn(*path)]) if path else {}
    if not (words.to_json() or exif.image or exif.photo or exif.place or found):
        return Carried(b"", write_xmp(drawn), b"", words, path[1]) if path else None
    for tag, text in (
        (tags.DESCRIPTION, words.description),
        (tags.ARTIST, words.creator),
        (tags.COPYRIGHT, words.rights),
    ):
        if text:
            exif.image[tag] = tags.text(text)
    order = exif.order
    if orientation is not None:
        exif.image[tags.ORIENTATION] = tags.number(order, orientation)
    exif.photo.setdefault(tags.VERSION, tags.Entry(tags.UNDEFINED, 4, b"0232"))
    exif.photo[tags.COLOR_SPACE] = tags.number(order, 1 if srgb else 0xFFFF)
    for tag, edge in ((tags.PIXELS_ACROSS, size[0]), (tags.PIXELS_DOWN, size[1])):
        exif.photo[tag] = tags.number(order, edge, tags.LONG)
    block = write_exif(exif)
    if len(block) > _ROOM:
        exif.photo = {tag: entry for tag, entry in exif.photo.items() if len(entry.raw) <= 64}
        block = write_exif(exif)
    own = dict(_properties(words))
    if found and words_of_xmp(found)["place"] != words.place:
        found = {name: element for name, element in found.items() if name not in _PLACES}
    new = {name: element for name, element in own.items() if not _says(found, name, words)}
    xmp = write_xmp(found | new | drawn)
    fits = len(xmp) <= _ROOM
    return Carried(block, xmp if fits else write_xmp(own | drawn), _records(words), words, path[1] if path else "")


def _drawn(name: str, data: str) -> tuple[str, ET.Element]:
    """An outline as a path of SVG among the properties."""
    if len(data) > _ROOM - 8000:
        raise LineError(
            "cutout.path",
            expected="an outline that fits into a file's metadata, 56 kB of path data at most",
            found=f"{len(data) / 1000:.0f} kB",
            remedy="Take points of the outline away, or have it put beside the file as SVG.",
        )
    return "svg:path", structure("svg:path", {"svg:id": name, "svg:fill-rule": "evenodd", "svg:d": data})


def _exif_kept(block: bytes, metadata: Metadata) -> Exif:
    """What of a photo's Exif goes out; nothing where it cannot be read."""
    try:
        found = read_exif(block)
    except (Broken, struct.error):
        return Exif()
    camera = "camera" not in metadata.leave_out
    image = {tag: e for tag, e in found.image.items() if tag in _IMAGE_KEPT and (camera or tag not in _IMAGE_CAMERA)}
    photo: Directory = {}
    for tag, entry in found.photo.items():
        if tag in _PHOTO_NEVER or (tag in _PHOTO_PERSONAL and metadata.leave_out):
            continue
        if camera or tag in _PHOTO_DATES:
            photo[tag] = entry
    return Exif(found.order, image=image, photo=photo, place={} if "place" in metadata.leave_out else found.place)


def _xmp_kept(packets: tuple[bytes, ...], metadata: Metadata) -> Properties:
    """What of a photo's XMP goes out; nothing where it cannot be read. What is left out is not searched for by words:
    only properties that the standards define go out then.
    """
    try:
        found = read_packets(packets)
    except Broken:
        return {}
    left_out = metadata.leave_out
    known = tuple(f"{prefix}:" for prefix in SPACES)

    def goes_out(name: str) -> bool:
        if name in _OLD or name.startswith(_OLD_SPACES) or (left_out and not name.startswith(known)):
            return False
        if "place" in left_out and (name in _PLACES or name.startswith("exif:GPS")):
            return False
        if "people" in left_out and name in _PEOPLE:
            return False
        return not ("camera" in left_out and name.startswith(_CAMERA_SPACES))

    kept = {name: element for name, element in found.items() if goes_out(name)}
    if left_out:  # the plan has taken out keywords that name what is left out, and an address may name its town
        for name in ("dc:subject", "Iptc4xmpCore:CreatorContactInfo"):
            kept.pop(name, None)
    return kept


def _says(found: Properties, name: str, words: Words) -> bool:
    """Whether the photo's own property says the word already, perhaps in several languages."""
    if name == "Iptc4xmpCore:Location" and not _PLACES.isdisjoint(found):
        return True  # the same place, from its town to its country
    if name not in found:
        return False
    word = next(word for word, (property_name, _) in _PROPERTIES.items() if property_name == name)
    return bool(words_of_xmp(found)[word] == getattr(words, word))


def _properties(words: Words) -> Iterator[tuple[str, ET.Element]]:
    for word in NAMES:
        value = getattr(words, word)
        if not value:
            continue
        name, kind = _PROPERTIES[word]
        if kind == "structure":
            yield name, structure(name, _contact(value))
        elif kind:
            yield name, listed(name, kind, value if word in LISTS else [value])
        else:
            yield name, plain(name, value)


def _contact(text: str) -> dict[str, str]:
    """A contact as the fields that its parts look like: mail, address on the web, telephone, and the rest."""
    found: dict[str, list[str]] = {}
    for part in (part.strip() for part in text.split(",")):
        digits = sum(letter.isdigit() for letter in part)
        phone = digits >= 5 and all(letter.isdigit() or letter in "+-()/ ." for letter in part)
        web = part.startswith(("http://", "https://", "www."))
        kind = "CiEmailWork" if "@" in part else "CiUrlWork" if web else "CiTelWork" if phone else "CiAdrExtadr"
        found.setdefault(f"Iptc4xmpCore:{kind}", []).append(part)
    return {name: ", ".join(parts) for name, parts in found.items()}


def _records(words: Words) -> bytes:
    found = {number: getattr(words, word) for word, number in _SETS.items() if getattr(words, word)}
    if not found:
        return b""
    return iim.write_iim({number: value if isinstance(value, tuple) else [value] for number, value in found.items()})


def xmp_of(words: Words) -> bytes:
    """A packet of XMP that says these words and nothing else."""
    return write_xmp(dict(_properties(words)))


def kept_of(words: Words) -> str:
    """none, rights or all: what the words of a finished file are."""
    found = words.to_json()
    return "none" if not found else "rights" if set(found) <= set(RIGHTS) else "all"
