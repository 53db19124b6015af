"""The treatment of an upload: cut, made smaller, saved anew, in this order and always the same way."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from PIL import Image

from tray_core.coders import encode
from tray_core.intake.facts import file_facts
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.outlets.geometry import cut_size, fitted
from tray_core.outlets.sheet import Intake
from tray_core.pixels.color import flatten, to_8, to_rgb_channels, to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import File, JpegFile, PngFile, WebpFile

_FILTERS = {"lanczos": Image.Resampling.LANCZOS, "bicubic": Image.Resampling.BICUBIC}


@dataclass(frozen=True, slots=True)
class Served:
    """What the outlet's pages show. format: jpeg, png or webp. untouched: whether it is the file that was sent."""

    data: bytes
    format: str
    width: int
    height: int
    untouched: bool = False


def treat(data: bytes, intake: Intake, name: str = "the file", limits: Limits = DEFAULT_LIMITS) -> Served:
    """The one file that `data`, a finished picture of any kind, becomes.

    PhotoError where it cannot be read. Works on 8-bit gamma-encoded values, as services do: that is what dulls fine
    texture, and not to be mended here.
    """
    facts, photo = file_facts(name, data, limits)
    picture = decode(photo, data, (photo.width, photo.height), limits=limits)
    cut = cut_to(picture, intake.crop)
    width, height = fitted(cut.size, intake.largest)
    saved = _saved(facts.format, intake)
    if intake.untouched and saved == facts.format and (width, height) == picture.size:
        return Served(data, saved, width, height, untouched=True)
    made = _resampled(_colored(cut, intake, saved), (width, height), intake)
    return Served(encode(made, _file(saved, intake)), saved, width, height)


def copies_of(data: bytes, intake: Intake, name: str = "the file", limits: Limits = DEFAULT_LIMITS) -> list[Served]:
    """What pages with several widths choose from, narrowest first: each made of what `treat` would have to save.

    One as wide as the whole stands for all that would be wider.
    """
    facts, photo = file_facts(name, data, limits)
    picture = decode(photo, data, (photo.width, photo.height), limits=limits)
    saved = _saved(facts.format, intake)
    whole = _colored(cut_to(picture, intake.crop), intake, saved)
    most = fitted(whole.size, intake.largest)
    made = []
    for width in sorted({min(each, most[0]) for each in intake.copies} or {most[0]}):
        size = (width, max(1, round(whole.size[1] * width / whole.size[0])))
        made.append(Served(encode(_resampled(whole, size, intake), _file(saved, intake)), saved, *size))
    return made


def cut_to(picture: Picture, shape: str | None) -> Picture:
    """The middle of a picture in another shape; the same one for None."""
    if shape is None:
        return picture
    (width, height), (wide, high) = picture.size, cut_size(picture.size, shape)
    left, top = (width - wide) // 2, (height - high) // 2
    return replace(picture, pixels=picture.pixels[top : top + high, left : left + wide], extent=None)


def _saved(format: str, intake: Intake) -> str:
    if intake.format != "same":
        return intake.format
    return format if format in ("jpeg", "png", "webp") else "jpeg"


def _colored(picture: Picture, intake: Intake, saved: str) -> Picture:
    """In 8 bits, with its colors as the outlet takes them."""
    if intake.profile == "srgb" or picture.space == "CMYK":
        picture = to_srgb(picture)
    picture = to_rgb_channels(to_8(picture))
    if picture.alpha and saved == "jpeg":
        picture = flatten(picture)
    return picture if intake.profile == "keep" else replace(picture, icc=None)


def _resampled(picture: Picture, size: tuple[int, int], intake: Intake) -> Picture:
    if picture.size == size:
        return picture
    pixels = np.ascontiguousarray(picture.pixels)
    if intake.resampling == "bilinear":
        return replace(picture, pixels=cv2.resize(pixels, size, interpolation=cv2.INTER_LINEAR), extent=None)
    # Pillow's filters widen with the scale, and take clear parts into account.
    image = Image.fromarray(pixels).resize(size, _FILTERS[intake.resampling])
    return replace(picture, pixels=np.asarray(image), extent=None)


def _file(saved: str, intake: Intake) -> File:
    if saved == "png":
        return PngFile(format="png")
    if saved == "webp":
        return WebpFile(format="webp", quality=intake.quality)
    return JpegFile(format="jpeg", quality=intake.quality, chroma=intake.chroma, progressive=True)
