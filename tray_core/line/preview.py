"""Small pictures for screens: working copies of photos, and what a recipe makes of them."""

from __future__ import annotations

from tray_core.line.color import to_8, to_16, to_srgb
from tray_core.line.decode import decode
from tray_core.line.encode import encode
from tray_core.line.line import work
from tray_core.line.resize import Pyramid, resize
from tray_core.photo.facts import PhotoFacts, read_facts
from tray_core.plan.geometry import target_size
from tray_core.plan.planning import Plan
from tray_core.recipe.stations import BoxSize, JpegFile, PngFile

WORKING_EDGE = 960
"""The long edge of a working copy in pixels."""


def working_copy(facts: PhotoFacts, data: bytes, edge: int = WORKING_EDGE) -> bytes:
    """A small sRGB copy of the photo `data`, upright: JPEG at quality 92, or PNG with transparency.

    Decodes the whole photo, so that damage shows here: raises DamagedPhoto, or LineError for colors
    that mean nothing.
    """
    width, height = target_size(facts.width, facts.height, BoxSize(by="box", width=edge, height=edge))
    picture = decode(facts, data, (width, height))
    if picture.space == "CMYK" or facts.profile not in (None, "sRGB"):
        picture = to_16(picture)
    picture = to_8(to_srgb(resize(picture, width, height)))
    return encode(picture, PngFile(format="png") if picture.alpha else JpegFile(format="jpeg", quality=92))


def preview(copy: bytes, plan: Plan, edge: int) -> bytes:
    """What `plan` makes of a photo, at thumbnail size: shape, sharpening, color, format and quality.

    copy: the photo's working copy. edge: the long edge wanted; the planned size where that is less.
    """
    width, height = target_size(plan.width, plan.height, BoxSize(by="box", width=edge, height=edge))
    facts = read_facts("working copy", data=copy)
    made = work(Pyramid(decode(facts, copy, (width, height)), facts.width), plan.recipe, width, height)
    if isinstance(plan.recipe.file, PngFile) and not made.alpha:
        # Lossless looks like lossless; a screen gets it faster this way.
        return encode(made, JpegFile(format="jpeg", quality=95))
    return encode(made, plan.recipe.file)
