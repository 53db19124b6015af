"""The words of a photo from all places where its file may say them.

One order of precedence, word by word: the sidecar beside the file, then XMP, IPTC and Exif inside it. The first that
has a word has it.
"""

from __future__ import annotations

import os
import re
import stat
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from tray_core.photo.facts import PhotoFacts
from tray_core.photo.opening import open_photo
from tray_core.photo.words import LISTS, NAMES, Words, clean_list, clean_text
from tray_core.words import exif as exif_tags
from tray_core.words import iim as iim_sets
from tray_core.words import xmp as xmp_trees
from tray_core.words.blocks import Blocks, blocks_of
from tray_core.words.exif import Broken, Exif, as_comment, as_text, as_wide_text, read_exif
from tray_core.words.iim import read_iim
from tray_core.words.xmp import Properties, face_names, in_usual_language, read_packets, texts

_CAMERAS_OWN = re.compile(r"[A-Z0-9 ,.-]*DIGITAL (?:STILL )?CAMERA")
_CONTACT = (
    "CiAdrExtadr",
    "CiAdrPcode",
    "CiAdrCity",
    "CiAdrRegion",
    "CiAdrCtry",
    "CiTelWork",
    "CiEmailWork",
    "CiUrlWork",
)
_PLACE = ("Iptc4xmpCore:Location", "photoshop:City", "photoshop:State", "photoshop:Country")
_MADE_AT = ("Sublocation", "City", "ProvinceState", "CountryName")


@dataclass(frozen=True, slots=True)
class Said:
    """The words with where each comes from: sidecar, xmp, iptc or exif. unread: sentences on what could not be read."""

    words: Words = field(default_factory=Words)
    origin: Mapping[str, str] = field(default_factory=dict)
    unread: tuple[str, ...] = ()


def sidecar_paths(path: Path) -> tuple[Path, Path]:
    """Where the XMP beside a photo may be; the first that is there counts."""
    return path.with_suffix(".xmp"), path.with_name(f"{path.name}.xmp")


def sidecar_bytes(path: Path, beneath: Path | None = None) -> bytes | None:
    """The XMP file beside a photo, `name.xmp` or `name.jpg.xmp`; None where there is none that can be opened.

    beneath: the folder that both must lie in.
    """
    for beside in sidecar_paths(path):
        with suppress(OSError), open(open_photo(beside, beneath), "rb") as file:
            info = os.fstat(file.fileno())
            if stat.S_ISREG(info.st_mode) and info.st_size <= xmp_trees.LONGEST:
                return file.read()
    return None


def read_words(data: bytes, kind: str, sidecar: bytes | None = None) -> Said:
    """What the file `data` says, and the XMP beside it. kind: as `tray_core.photo.sniff` names it.

    Raises nothing: what cannot be read is named, and the rest is read.
    """
    return read_blocks(blocks_of(data, kind), sidecar)


def read_blocks(blocks: Blocks, sidecar: bytes | None = None) -> Said:
    """The same from blocks that are at hand."""
    unread = list(blocks.unread)

    def tried(name: str, read: Callable[[], dict[str, Any]]) -> dict[str, Any]:
        try:
            return read()
        except Broken as error:
            unread.append(f"{name} {error}; what it says is not used.")
            return {}

    sources = {
        "sidecar": tried("The XMP beside the photo", lambda: _of_xmp(read_packets((sidecar,))) if sidecar else {}),
        "xmp": tried("The photo’s XMP", lambda: _of_xmp(read_packets(blocks.xmp)) if blocks.xmp else {}),
        "iptc": tried("The photo’s IPTC", lambda: _of_iim(read_iim(blocks.iim)) if blocks.iim else {}),
        "exif": tried("The photo’s Exif", lambda: _of_exif(read_exif(blocks.exif)) if blocks.exif else {}),
    }
    words: dict[str, Any] = {}
    origin: dict[str, str] = {}
    for name in NAMES:
        for source, found in sources.items():
            if not (value := found.get(name)):
                continue
            if value := _parted(value) if name in LISTS else clean_text(value):
                words[name], origin[name] = value, source
                break
    return Said(Words(**words), origin, tuple(unread))


def _joined(values: list[str]) -> str:
    """Texts behind each other, each once."""
    return ", ".join(dict.fromkeys(value.strip() for value in values if value.strip()))


def words_of_xmp(found: Properties) -> dict[str, Any]:
    """The words that properties say, cleaned, by their names; all of them, "" and () where there is none."""
    said = _of_xmp(found)
    return {name: _parted(said[name]) if name in LISTS else clean_text(said[name]) for name in NAMES}


def _parted(texts: Sequence[str]) -> tuple[str, ...]:
    """The entries of a list; some writers put all of them into one, with semicolons between."""
    return clean_list([part for text in texts for part in text.split(";")])


def _of_xmp(found: Properties) -> dict[str, Any]:
    contact = next(xmp_trees.parts(found.get("Iptc4xmpCore:CreatorContactInfo")), {})
    made_at = next(xmp_trees.parts(found.get("Iptc4xmpExt:LocationCreated")), {})
    place = _joined([in_usual_language(found.get(name)) for name in _PLACE])
    return {
        "title": in_usual_language(found.get("dc:title")) or in_usual_language(found.get("photoshop:Headline")),
        "alt": in_usual_language(found.get("Iptc4xmpCore:AltTextAccessibility")),
        "description": in_usual_language(found.get("dc:description")),
        "keywords": texts(found.get("dc:subject")),
        "creator": _joined(texts(found.get("dc:creator"))),
        "credit": in_usual_language(found.get("photoshop:Credit")),
        "rights": in_usual_language(found.get("dc:rights")),
        "usage": in_usual_language(found.get("xmpRights:UsageTerms")),
        "contact": _joined([contact.get(f"Iptc4xmpCore:{name}", "") for name in _CONTACT]),
        "place": place or _joined([made_at.get(f"Iptc4xmpExt:{name}", "") for name in _MADE_AT]),
        "people": [*texts(found.get("Iptc4xmpExt:PersonInImage")), *face_names(found.get("mwg-rs:Regions"))],
    }


def _of_iim(found: dict[int, list[str]]) -> dict[str, Any]:
    def one(*numbers: int) -> str:
        return next((text for number in numbers for text in found.get(number, ()) if text.strip()), "")

    place = (iim_sets.SUBLOCATION, iim_sets.CITY, iim_sets.REGION, iim_sets.COUNTRY)
    return {
        "title": one(iim_sets.TITLE, iim_sets.HEADLINE),
        "description": one(iim_sets.DESCRIPTION),
        "keywords": found.get(iim_sets.KEYWORDS, []),
        "creator": _joined(found.get(iim_sets.CREATOR, [])),
        "credit": one(iim_sets.CREDIT),
        "rights": one(iim_sets.RIGHTS),
        "contact": one(iim_sets.CONTACT),
        "place": _joined([one(number) for number in place]),
    }


def _of_exif(found: Exif) -> dict[str, Any]:
    image = found.image
    description = as_text(image.get(exif_tags.DESCRIPTION))
    if _CAMERAS_OWN.fullmatch(description.strip()):
        description = ""
    return {
        "title": as_wide_text(image.get(exif_tags.WIDE_TITLE)),
        "description": description
        or as_comment(found.photo.get(exif_tags.USER_COMMENT), found.order)
        or as_wide_text(image.get(exif_tags.WIDE_COMMENT)),
        "keywords": as_wide_text(image.get(exif_tags.WIDE_KEYWORDS)).split(";"),
        "creator": as_text(image.get(exif_tags.ARTIST)) or as_wide_text(image.get(exif_tags.WIDE_CREATOR)),
        "rights": as_text(image.get(exif_tags.COPYRIGHT)),
    }


def with_words(facts: PhotoFacts, data: bytes, beneath: Path | None = None) -> PhotoFacts:
    """`facts` with the words of the photo, whose content is `data`, and of the XMP beside it."""
    said = read_words(data, facts.format, sidecar_bytes(Path(facts.path), beneath))
    return replace(facts, words=said.words, unread=said.unread)
