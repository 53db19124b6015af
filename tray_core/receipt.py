"""The receipt: what a finished file says of itself, read back by a decoder that did not write it.

Files are read back from the disk, by copies of the decoders other than those whose libraries wrote them wherever
there are two.
"""

from __future__ import annotations

import contextlib
import hashlib
import io
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pypdf
import pypdfium2
from PIL import Image
from PIL.TiffImagePlugin import TiffImageFile

from tray_core.errors import LineError
from tray_core.photo.profile_files import NAMED, profile_file
from tray_core.photo.profiles import profile_name, read_profile
from tray_core.photo.words import NAMES, Words, text_of
from tray_core.plan.planning import Plan
from tray_core.recipe.file import HAS_GREY, HAS_PROFILE, Lossy
from tray_core.recipe.stations import Color
from tray_core.words import read_words
from tray_core.words.carried import kept_of

_TELL_PPI = ("JPEG", "PNG", "TIFF", "PDF")


@dataclass(frozen=True, kw_only=True, slots=True)
class Receipt:
    """As read from the file. width, height in pixels; profile by name, None without. ppi: the tag, None without.
    metadata: none, rights or all, by the words in the file. quality, score: that the coder found for it, where it had
    to look for them.

    differences: sentences, one for each way in which the file is not what was planned.
    notes:       sentences on how it was made that its owner should know.
    """

    width: int
    height: int
    bytes: int
    format: str
    profile: str | None
    mode: str
    ppi: int | None
    bits: int
    metadata: str
    sha256: str
    quality: int | None = None
    score: float | None = None
    differences: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class _Read:
    """What a decoder found in a finished file."""

    kind: str
    size: tuple[int, int]
    icc: bytes | None
    ppi: int | None
    mode: str
    bits: int


def read_receipt(path: Path, plan: Plan, notes: tuple[str, ...] = ()) -> Receipt:
    """Open the finished file at `path`, decode all of it, and compare it with `plan`.

    LineError when it cannot be opened or decoded at all.
    """
    try:
        data = path.read_bytes()
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            found = _read_page(data) if data.startswith(b"%PDF") else _read_picture(data)
    except Exception as error:  # the one boundary to foreign decoders, which raise anything
        raise LineError(
            str(path),
            expected="a finished file that opens",
            found="one that does not" if not isinstance(error, OSError) else (error.strerror or "an error").lower(),
            remedy="Make it again; if it happens twice, check the disk.",
        ) from error
    said = read_words(data, "WebP" if found.kind == "WEBP" else found.kind).words
    return Receipt(
        width=found.size[0],
        height=found.size[1],
        bytes=len(data),
        format=found.kind,
        profile=profile_name(found.icc),
        mode=found.mode,
        ppi=found.ppi,
        bits=found.bits,
        metadata=kept_of(said),
        sha256=hashlib.sha256(data).hexdigest(),
        differences=(*_differences(found, plan, len(data)), *_other_words(said, plan)),
        notes=notes,
    )


def _read_picture(data: bytes) -> _Read:
    with Image.open(io.BytesIO(data)) as image:
        kind, size, mode = image.format or "?", image.size, image.mode
        icc = image.info.get("icc_profile")
        ppi = round(image.info["dpi"][0]) if "dpi" in image.info and kind != "GIF" else None
        bits = 8
        if kind == "PNG":
            bits = max(8, data[24])
        elif isinstance(image, TiffImageFile):
            bits = max(image.tag_v2.get(258, (8,)))
            ppi = ppi if 282 in image.tag_v2 else None
        # All entropy-coded data is read and checked; the inverse transform is done small, and of lightness only.
        image.draft("L", (max(1, size[0] // 8), max(1, size[1] // 8)))
        image.load()
        return _Read(kind, size, icc, ppi, mode, bits)


def _read_page(data: bytes) -> _Read:
    """The picture on the page of a PDF; its ppi follows from the page's size."""
    page: Any = pypdf.PdfReader(io.BytesIO(data)).pages[0]
    (shown,) = (each.get_object() for each in page["/Resources"]["/XObject"].values())
    size = int(shown["/Width"]), int(shown["/Height"])
    space, icc = shown["/ColorSpace"], None
    if isinstance(space, pypdf.generic.ArrayObject) and space[0] == "/ICCBased":
        icc = space[1].get_object().get_data()
        space = {b"GRAY": "/DeviceGray", b"CMYK": "/DeviceCMYK"}.get(icc[16:20], "/DeviceRGB")
    mode = {"/DeviceGray": "L", "/DeviceRGB": "RGB", "/DeviceCMYK": "CMYK"}.get(space, "?")
    with contextlib.closing(pypdfium2.PdfDocument(data)) as document:
        (picture,) = document[0].get_objects(filter=[pypdfium2.raw.FPDF_PAGEOBJ_IMAGE])
        picture.get_bitmap()  # all of it is read and decoded
    return _Read("PDF", size, icc, round(72 * size[0] / float(page.mediabox.width)), mode, shown["/BitsPerComponent"])


def _differences(found: _Read, plan: Plan, size: int) -> Iterator[str]:
    recipe, color = plan.recipe, plan.recipe.color
    if found.size != (plan.width, plan.height):
        yield f"planned {plan.width} × {plan.height}, the file has {found.size[0]} × {found.size[1]}"
    if found.kind.lower() != plan.format:
        yield f"planned {plan.format.upper()}, the file is {found.kind}"
    if color is not None and found.kind != "GIF":
        wanted, profile = _profile_wanted(color, plan.format), profile_name(found.icc)
        if wanted != profile and not (color.profile == "own" and color.embed):
            yield f"planned {wanted or 'no profile'}, the file says {profile or 'nothing'}"
        if found.bits != color.bits:
            yield f"planned {color.bits} bits a channel, the file has {found.bits}"
    ppi = recipe.size.ppi if recipe.size else None
    if ppi is not None and found.kind in _TELL_PPI and found.ppi != ppi:
        yield f"planned {ppi} ppi, the file says {found.ppi or 'nothing'}"
    limit = recipe.coded.under_kb if isinstance(recipe.coded, Lossy) else None
    if limit is not None and size > limit * 1000:
        yield f"planned at most {limit} kB, the file has {size / 1000:.1f} kB"


def _other_words(said: Words, plan: Plan) -> Iterator[str]:
    """Words that are not in the file as they were to be."""
    wanted = plan.words or Words()
    for name in NAMES if plan.format in HAS_PROFILE else ():
        planned, found = text_of(getattr(wanted, name)), text_of(getattr(said, name))
        # A contact comes back in the order of its fields.
        if sorted(planned.split(", ")) != sorted(found.split(", ")):
            yield f"planned the {name} “{_short(planned)}”, the file says “{_short(found)}”"


def _short(text: str) -> str:
    return text if len(text) <= 60 else f"{text[:58]}…"


def _profile_wanted(color: Color, format: str) -> str | None:
    if not color.embed or color.profile == "own":
        return None
    icc = NAMED.get(color.profile) or profile_file(color.icc or "")
    facts = read_profile(icc)
    grey = facts is not None and facts.space == "grey"
    return "sRGB" if grey and format not in HAS_GREY else profile_name(icc)
