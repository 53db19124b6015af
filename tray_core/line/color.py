"""Color conversion between ICC profiles, at 16 bits a channel, and the flattening of transparency."""

from __future__ import annotations

import functools

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray

from tray_core.errors import LineError
from tray_core.line.picture import Picture, Pixels, Pixels16
from tray_core.photo.profiles import ASSUMED_CMYK, SRGB, read_profile, same_color, tone_curves

_RELATIVE_COLORIMETRIC = 1
_BLACK_POINT_COMPENSATION = 0x2000
_NO_OPTIMIZATION = 0x0100
_LINEAR_STEPS = 2**18 - 1


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
    pixels as they are. A picture without a profile is sRGB already, CMYK without one is taken for a
    common offset print. A profile that does not fit its values is a LineError.
    """
    if not needs_conversion(picture):
        return to_rgb_channels(Picture(picture.pixels, picture.space, picture.alpha, SRGB))
    source = picture.icc if picture.icc is not None else ASSUMED_CMYK.read_bytes()
    facts = read_profile(source)
    if facts is None or facts.space != picture.space:
        raise LineError(
            "color profile",
            expected=f"a profile for {picture.space} values",
            found=f"one for {facts.space} values" if facts else "something else",
            remedy="Convert the photo to RGB, or embed the right profile, and try again.",
        )
    wide = to_16(picture)
    color = np.ascontiguousarray(wide.pixels[..., :3]) if picture.alpha else np.ascontiguousarray(wide.pixels)
    try:
        made = _by_tables(color, source) if facts.colorants is None else _by_matrix(color, source, facts.colorants)
    except (RuntimeError, ValueError, np.linalg.LinAlgError) as error:
        raise LineError(
            "color profile",
            expected="a profile that can be used",
            found=f"a damaged one ({error})",
            remedy="Embed a good profile in the photo.",
        ) from error
    if picture.alpha:
        made = np.concatenate([made, wide.pixels[..., 3:]], axis=2)
    return Picture(made, "RGB", picture.alpha, SRGB)


def _by_tables(color: Pixels, source: bytes) -> Pixels16:
    """Profiles with look-up tables (CMYK, grey, some scanners): littleCMS, without its own shortcuts.

    Its usual optimization folds the whole conversion into a coarse grid, which is off by whole 8-bit
    levels in the darks.
    """
    made: Pixels16 = imagecodecs.cms_transform(
        color,
        source,
        SRGB,
        colorspace={3: "rgb", 4: "cmyk"}[color.shape[2]] if color.ndim == 3 else "gray",
        outcolorspace="rgb",
        intent=_RELATIVE_COLORIMETRIC,
        flags=_BLACK_POINT_COMPENSATION | _NO_OPTIMIZATION,
    )
    return made


def _by_matrix(color: Pixels16, source: bytes, colorants: NDArray[np.float64]) -> Pixels16:
    """Matrix profiles: curve, 3 x 3 matrix, inverse curve, by tables (ICC.1:2022, Annex F.3).

    Both spaces have their black at zero, so that black-point compensation has nothing to do.
    Within 0.05 of an 8-bit level of the same computation in double precision.
    """
    target = read_profile(SRGB)
    assert target is not None and target.colorants is not None
    curves = tone_curves(source, 65536)
    linear = np.empty(color.shape, np.float32)
    for channel in range(3):
        np.take(curves[channel], color[..., channel], out=linear[..., channel])
    matrix = (np.linalg.inv(target.colorants) @ colorants) * _LINEAR_STEPS
    linear = cv2.transform(linear, matrix.astype(np.float32))  # type: ignore[assignment]
    np.clip(linear, 0, _LINEAR_STEPS, out=linear)
    linear += 0.5
    return np.take(_encoding_table(), linear.astype(np.int32))


@functools.lru_cache(maxsize=1)
def _encoding_table() -> Pixels16:
    """sRGB's curve the other way: from linear, in _LINEAR_STEPS, to encoded 16-bit values."""
    encoded = np.linspace(0, 1, 65536)
    (curve, _, _) = tone_curves(SRGB, 65536)
    made = np.interp(np.linspace(0, 1, _LINEAR_STEPS + 1), curve.astype(np.float64), encoded)
    return np.rint(made * 65535).astype(np.uint16)
