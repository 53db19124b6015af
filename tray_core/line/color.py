"""Color conversion between ICC profiles, at 16 bits a channel, and the flattening of transparency."""

from __future__ import annotations

import imagecodecs
import numpy as np

from tray_core.errors import LineError
from tray_core.line.picture import Picture, Pixels16
from tray_core.photo.profiles import SRGB, read_profile, same_color

_RELATIVE_COLORIMETRIC = 1
_BLACK_POINT_COMPENSATION = 0x2000
_SPACES = {"RGB": "rgb", "grey": "gray", "CMYK": "cmyk"}


def needs_conversion(picture: Picture) -> bool:
    """Whether turning `picture` into sRGB changes any value."""
    if picture.space == "CMYK":
        return True
    return picture.icc is not None and not same_color(picture.icc, SRGB)


def to_16(picture: Picture) -> Picture:
    """The same picture in 16 bits a channel; exact, since 65535 = 255 * 257."""
    if picture.pixels.dtype == np.uint16:
        return picture
    return Picture(picture.pixels.astype(np.uint16) * np.uint16(257), picture.space, picture.alpha, picture.icc)


def to_8(picture: Picture) -> Picture:
    """The same picture in 8 bits a channel, rounded to nearest."""
    if picture.pixels.dtype == np.uint8:
        return picture
    # (v + 128) // 257 is round(v / 257) for all 16-bit v, in integers.
    made = ((picture.pixels.astype(np.uint32) + 128) // 257).astype(np.uint8)
    return Picture(made, picture.space, picture.alpha, picture.icc)


def to_rgb_channels(picture: Picture) -> Picture:
    """A grey picture as three equal channels; others as they are."""
    if picture.space != "grey":
        return picture
    return Picture(np.repeat(picture.pixels[..., None], 3, axis=2), "RGB", False, picture.icc)


def flatten(picture: Picture, matte: tuple[int, int, int] = (255, 255, 255)) -> Picture:
    """Lay a transparent picture on `matte` (8-bit values in the picture's own space)."""
    if not picture.alpha:
        return picture
    top = np.float32(np.iinfo(picture.pixels.dtype).max)
    cover = picture.pixels[..., 3:].astype(np.float32) / top
    ground = np.array(matte, np.float32) * (top / np.float32(255))
    made = np.rint(picture.pixels[..., :3] * cover + ground * (1 - cover)).astype(picture.pixels.dtype)
    return Picture(made, picture.space, False, picture.icc)


def to_srgb(picture: Picture) -> Picture:
    """Convert a picture to sRGB, relative colorimetric with black-point compensation.

    Returns an RGB picture of 16 bits a channel where anything had to be computed, otherwise the
    pixels as they are. A picture without a profile is sRGB already; CMYK without a profile has no
    defined color and is a LineError.
    """
    if not needs_conversion(picture):
        return to_rgb_channels(Picture(picture.pixels, picture.space, picture.alpha, SRGB))
    source = picture.icc
    facts = read_profile(source) if source else None
    if source is None or facts is None or facts.space != picture.space:
        raise LineError(
            "color profile",
            expected=f"a profile for {picture.space} values",
            found=f"one for {facts.space} values" if facts else "none",
            remedy="Convert the photo to RGB, or embed the right profile, and try again.",
        )
    wide = to_16(picture)
    color = np.ascontiguousarray(wide.pixels[..., :3]) if picture.alpha else np.ascontiguousarray(wide.pixels)
    try:
        made: Pixels16 = imagecodecs.cms_transform(
            color,
            source,
            SRGB,
            colorspace=_SPACES[picture.space],
            outcolorspace="rgb",
            intent=_RELATIVE_COLORIMETRIC,
            flags=_BLACK_POINT_COMPENSATION,
        )
    except (RuntimeError, ValueError) as error:
        raise LineError(
            "color profile",
            expected="a profile that can be used",
            found=f"a damaged one ({error})",
            remedy="Embed a good profile in the photo.",
        ) from error
    if picture.alpha:
        made = np.concatenate([made, wide.pixels[..., 3:]], axis=2)
    return Picture(made, "RGB", picture.alpha, SRGB)
