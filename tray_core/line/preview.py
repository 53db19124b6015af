"""Small pictures for screens: working copies of photos, and what a recipe makes of them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from tray_core.coders import encode
from tray_core.fingerprint import content_digest
from tray_core.limits import Limits
from tray_core.line.framing import Source, size_needed
from tray_core.line.interest import interest_of
from tray_core.line.probes import weighed
from tray_core.line.resize import resize
from tray_core.line.working import work
from tray_core.outline import NO_OUTLINE, traced
from tray_core.photo.facts import PhotoFacts, read_bytes, read_facts
from tray_core.photo.interest import Interest
from tray_core.pixels.color import flatten, to_8, to_16, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.plan.geometry import target_size
from tray_core.plan.layout import Layout
from tray_core.plan.planning import Plan
from tray_core.plan.weight import COPY_EDGES, Detail
from tray_core.recipe.file import AvifFile, File, GifFile, JpegFile, PdfFile, PngFile, WebpFile
from tray_core.recipe.size import BoxSize
from tray_core.tone import Development
from tray_core.tracing import LARGEST, Found, find_outline, plain_ground
from tray_core.weight.score import decoded, seen

_LOOK = 85
"""The quality that stands for one that is searched for."""

WORKING_EDGES = COPY_EDGES
"""The long edges of a photo's working copies in pixels: one to judge a crop by, one for many cells at once."""


@dataclass(frozen=True, slots=True)
class Looked:
    """A photo's working copies, those of `WORKING_EDGES`, and what its pixels say.

    copies: in sRGB, upright; JPEGs at quality 92, or PNGs where there is transparency. interest: what in
    it must be seen. detail: what they weigh. found: the outline of the object, where it lies on a
    plain ground.
    """

    copies: tuple[bytes, bytes]
    interest: Interest
    detail: Detail
    found: Found


def look_at(facts: PhotoFacts, data: bytes) -> Looked:
    """Decode the whole photo `data`, so that damage shows here: raises DamagedPhoto, or LineError for colors that
    mean nothing.
    """
    large = _working_copy(facts, data)
    small = resize(large, *_copy_size(facts, WORKING_EDGES[1]))
    kept = [PngFile(format="png") if each.alpha else JpegFile(format="jpeg", quality=92) for each in (large, small)]
    one, other = (encode(each, file) for each, file in zip((large, small), kept, strict=True))
    pixels = seen(large)
    found = trace(facts, data) if plain_ground(pixels) else Found(NO_OUTLINE)
    return Looked((one, other), interest_of(pixels), weighed(large, small), found)


def trace(facts: PhotoFacts, data: bytes) -> Found:
    """The outline of the object in the photo `data`, found in as many pixels as that needs.

    Raises DamagedPhoto or LineError as `look_at` does.
    """
    return find_outline(traced_pixels(facts, data))


def traced_pixels(facts: PhotoFacts, data: bytes) -> Pixels8:
    """The photo `data` as outlines are looked for in it: height x width x 3 in sRGB."""
    return seen(_copy(facts, data, LARGEST))


def read_outline(facts: PhotoFacts, data: bytes) -> PhotoFacts:
    """`facts` with the photo's outline in them, where one is found."""
    found = trace(facts, data).outline
    return replace(facts, outline=traced(found, (facts.width, facts.height)))


def read_interest(facts: PhotoFacts, data: bytes) -> PhotoFacts:
    """`facts` with the photo's interest in them; raises DamagedPhoto or LineError as `look_at` does."""
    # By way of the same copy as elsewhere: the same photo has the same interest to the last digit.
    return replace(facts, interest=interest_of(seen(_working_copy(facts, data))))


def _copy_size(facts: PhotoFacts, edge: int) -> tuple[int, int]:
    return target_size(facts.width, facts.height, BoxSize(by="box", width=edge, height=edge))


def _working_copy(facts: PhotoFacts, data: bytes) -> Picture:
    """The photo in sRGB, 8 bits, upright, its long edge that of the larger working copy."""
    return _copy(facts, data, WORKING_EDGES[0])


def _copy(facts: PhotoFacts, data: bytes, edge: int) -> Picture:
    size = _copy_size(facts, edge)
    picture = decode(facts, data, size)
    if picture.space == "CMYK" or facts.profile not in (None, "sRGB"):
        picture = to_16(picture)
    return to_8(to_srgb(resize(picture, *size)))


def seen_at(layout: Layout, copy: tuple[int, int], edge: int) -> Layout:
    """The layout of the same rendition made from a working copy of `copy` pixels, `edge` pixels long at most."""
    scale = min(1.0, edge / max(layout.outer))
    across, down = copy[0] / layout.source[0], copy[1] / layout.source[1]
    left, top, width, height = layout.rect
    rect = (left * across, top * down, width * across, height * down)
    return replace(layout.scaled(scale), source=copy, rect=rect, seen=scale)


def copy_wanted(layout: Layout, edge: int) -> int:
    """Which working copy (its long edge) shows a rendition well at `edge` pixels: the smallest that need not be
    enlarged, or the largest there is.
    """
    needed = max(size_needed(layout)) * min(1.0, edge / max(layout.outer))
    return next((size for size in sorted(WORKING_EDGES) if size >= needed), WORKING_EDGES[0])


def developed_copies(file: Path, development: Development, limits: Limits) -> tuple[str, tuple[bytes, bytes]]:
    """The digest of a raw photo's content, and its working copies with all of its light, as it is developed for a tone.

    16 bits, PNG, those of `WORKING_EDGES`. PhotoError where it cannot be read.
    """
    data = read_bytes(file, limits)
    facts = read_facts(file, limits, data)
    size = _copy_size(facts, WORKING_EDGES[0])
    large = resize(decode(facts, data, size, development), *size)
    small = resize(large, *_copy_size(facts, WORKING_EDGES[1]))
    copies = (encode(each, PngFile(format="png", effort=1)) for each in (large, small))
    return content_digest(data), (next(copies), next(copies))


def preview(copy: bytes, plan: Plan, edge: int, developed: bool = False) -> bytes:
    """What `plan` makes of a photo, at thumbnail size: shape, sharpening, color, format and quality.

    copy: a working copy of the photo. developed: whether it is one of `developed_copies`. edge: the long edge wanted;
    the planned size where that is less. Panels are shown as the one picture that they are cut from. A JPEG or PNG in
    sRGB, whatever the rendition's own format: lossy formats are shown as they look, at their quality or a usual one
    where it is searched for.
    """
    facts = read_facts("working copy", data=copy)
    layout = seen_at(plan.layout, (facts.width, facts.height), edge)
    source = Source(decode(facts, copy, (facts.width, facts.height)), (facts.width, facts.height), developed)
    return shown_as_file(work(source, plan.recipe, layout, plan.strength, plan.tone, plan.outline), plan.recipe.coded)


def shown_as_file(made: Picture, file: File) -> bytes:
    """A finished picture as a browser can show it, with what its format and quality do to it."""
    if made.space == "CMYK" or made.pixels.dtype != np.uint8:
        made = to_8(to_srgb(made) if made.space == "CMYK" else made)
    match file:
        case JpegFile() | PdfFile():
            usual = JpegFile(format="jpeg", quality=_LOOK if file.searched else file.quality)
            return encode(flatten(made), usual)
        case PngFile(colors=int()) | GifFile():
            return encode(decoded(encode(made, file)), PngFile(format="png", effort=1))
        case WebpFile() | AvifFile() if not getattr(file, "lossless", False):
            look = file.model_copy(update={"effort": 1})
            made = replace(decoded(encode(made, look, quality=_LOOK if file.searched else None)), icc=made.icc)
    # What is lossless looks like lossless; a screen gets it faster this way.
    lossless = PngFile(format="png", effort=1) if made.alpha else JpegFile(format="jpeg", quality=95)
    return encode(made, lossless)
