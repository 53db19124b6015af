"""What a finished file from anywhere says of itself, as the rules of outlets need it."""

from __future__ import annotations

from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.outlets.checking import FileFacts
from tray_core.photo import read_facts
from tray_core.photo.facts import PhotoFacts
from tray_core.photo.profiles import profile_name
from tray_core.words.blocks import blocks_of
from tray_core.words.exif import Broken, read_exif
from tray_core.words.reading import read_blocks


def file_facts(name: str, data: bytes, limits: Limits = DEFAULT_LIMITS) -> tuple[FileFacts, PhotoFacts]:
    """The facts of a file's bytes; PhotoError where it is no picture that can be read. name: for the person."""
    facts = read_facts(name, limits, data)
    blocks = blocks_of(data, facts.format)
    words = read_blocks(blocks).words
    return (
        FileFacts(
            format=facts.format.casefold().replace(" ", "-"),
            width=facts.width,
            height=facts.height,
            bytes=len(data),
            profile=facts.profile,
            srgb=facts.icc is None or profile_name(facts.icc) == "sRGB",
            clear=facts.alpha,
            words=bool(words.to_json()),
            place=bool(words.place) or _tells_place(blocks.exif),
        ),
        facts,
    )


def _tells_place(exif: bytes | None) -> bool:
    """Whether there are coordinates."""
    try:
        return exif is not None and bool(read_exif(exif).place)
    except Broken:
        return False
