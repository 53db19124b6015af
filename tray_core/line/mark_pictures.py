"""Mark pictures: a PNG, an SVG or any other picture that is laid over renditions, at its final size."""

from __future__ import annotations

import functools
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from tray_core.coders import encode
from tray_core.errors import RecipeError, TrayError
from tray_core.line.resize import resize
from tray_core.marks.fonts import mark_file
from tray_core.marks.text import Mask
from tray_core.photo import DEFAULT_LIMITS, read_bytes
from tray_core.photo.facts import read_facts
from tray_core.photo.profile_files import NAMED
from tray_core.photo.profiles import SRGB
from tray_core.pixels.color import Target, convert, to_8, to_16, to_rgb_channels, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture, Pixels, Pixels8
from tray_core.recipe.file import PngFile

FIELD = "finish.marks.picture"


def mark_picture(name: str, width: float, room: tuple[float, float]) -> Pixels8:
    """The mark `name` as sRGB with alpha, height x width x 4, so many pixels wide or smaller where the room is less.

    Drawings are drawn at this size. RecipeError where the file is missing or cannot be read.
    """
    path = mark_file(name, FIELD)
    return _at_size(path, path.stat().st_mtime_ns, round(width, 2), (round(room[0]), round(room[1])))


@functools.lru_cache(maxsize=24)
def _at_size(path: Path, changed: int, width: float, room: tuple[int, int]) -> Pixels8:
    try:
        data = read_bytes(path, DEFAULT_LIMITS)
        facts = read_facts(path, DEFAULT_LIMITS, data)
        scale = min(width / facts.width, room[0] / facts.width, room[1] / facts.height)
        size = max(1, round(facts.width * scale)), max(1, round(facts.height * scale))
        made = to_8(to_srgb(resize(to_rgb_channels(decode(facts, data, size)), *size)))
    except RecipeError:
        raise
    except TrayError as error:
        raise RecipeError(
            FIELD,
            expected=f"a picture in {path.name}",
            found=f"none that can be used ({error})",
            remedy="Add another file of the mark.",
        ) from error
    if made.alpha:
        return np.ascontiguousarray(made.pixels)
    return np.dstack([made.pixels, np.full(made.pixels.shape[:2], 255, np.uint8)])


def shown_mark(path: Path, edge: int = 160) -> bytes:
    """A mark picture as a PNG for screens, `edge` pixels long at most. RecipeError where it cannot be read."""
    made = _at_size(path, path.stat().st_mtime_ns, float(edge), (edge, edge))
    return encode(Picture(made, "RGB", True, None), PngFile(format="png", effort=1))


def turned(mark: Pixels8, angle: float) -> Pixels8:
    """A mark turned by degrees clockwise, close around what is left of it."""
    if not angle:
        return mark
    # By premultiplied values: what is clear has no color that could show at an edge.
    whole = Image.fromarray(mark, "RGBA").convert("RGBa")
    made = whole.rotate(-angle, Image.Resampling.BICUBIC, expand=True).convert("RGBA")
    return np.asarray(made.crop(made.getchannel("A").getbbox()))


def in_space_of(mark: Pixels8, picture: Picture) -> tuple[Mask, Pixels]:
    """The coverage of a mark, and its colors in the space and the dtype of `picture`, height x width x channels."""
    icc = picture.icc or (NAMED["grey"] if picture.space == "grey" else SRGB)
    colors = convert(Picture(np.ascontiguousarray(mark[..., :3]), "RGB", False, None), Target(icc, picture.space))
    colors = to_16(colors) if picture.pixels.dtype == np.uint16 else to_8(replace(colors, icc=None))
    found = colors.pixels if colors.pixels.ndim == 3 else colors.pixels[..., None]
    return np.ascontiguousarray(mark[..., 3]), found
