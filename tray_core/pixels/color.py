"""Color conversion between ICC profiles, at 16 bits a channel, and the flattening of transparency."""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace
from types import ModuleType
from typing import Any

import cv2
import imagecodecs
import numpy as np
from numpy.typing import NDArray

from tray_core.errors import LineError
from tray_core.photo.profile_files import NAMED, profile_file
from tray_core.photo.profiles import ASSUMED_CMYK, SRGB, exact_curves, read_profile, same_color, tone_curves
from tray_core.pixels.picture import Picture, Pixels, Pixels8, Pixels16
from tray_core.recipe.stations import Color

_INTENTS = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 3}
_BLACK_POINT_COMPENSATION = 0x2000
_NO_OPTIMIZATION = 0x0100
_LINEAR_STEPS = 2**18 - 1
_LCMS = {"RGB": "rgb", "grey": "gray", "CMYK": "cmyk"}


@dataclass(frozen=True, slots=True)
class Target:
    """The space that pictures are converted to: its profile, RGB, grey or CMYK, and how colors are taken over."""

    icc: bytes
    space: str = "RGB"
    intent: str = "relative"
    black_point: bool = True


TO_SRGB = Target(SRGB)
_WORKING = Target(NAMED["adobe-rgb"])


def target_of(color: Color | None) -> Target | None:
    """Where a color station leads; None for the photo's own space. RecipeError when its profile file is missing."""
    if color is None or color.profile == "own":
        return None
    icc = NAMED.get(color.profile) or profile_file(color.icc or "")
    facts = read_profile(icc)
    assert facts is not None, "checked when it was found"
    return Target(icc, facts.space, color.intent, color.black_point)


def needs_conversion(picture: Picture, target: Target = TO_SRGB) -> bool:
    """Whether turning `picture` into `target` changes any value, other than making three channels of one."""
    if picture.space == "CMYK" or target.space == "CMYK":
        return picture.space != target.space or picture.icc != target.icc
    if target.space == "grey":
        return picture.space != "grey" or picture.icc not in (None, target.icc) or target.icc != NAMED["grey"]
    return not same_color(picture.icc or SRGB, target.icc)


def to_16(picture: Picture) -> Picture:
    """The same picture in 16 bits a channel; exact, since 65535 = 255 * 257."""
    if picture.pixels.dtype == np.uint16:
        return picture
    made = np.empty(picture.pixels.shape, np.uint16)
    _compiled().widened(np.ascontiguousarray(picture.pixels).reshape(-1), made.reshape(-1))
    return replace(picture, pixels=made)


def through_tables(picture: Picture, tables: Pixels16) -> Picture:
    """A picture of 8 or 16 bits with its red, green and blue, or grey, looked up in tables, in 16 bits; alpha stays.

    tables: 3 x 65536. Grey takes the second.
    """
    pixels = np.ascontiguousarray(picture.pixels)
    made = np.empty(pixels.shape, np.uint16)
    fitting = np.ascontiguousarray(tables[:, ::257]) if pixels.dtype == np.uint8 else tables
    channels = pixels.shape[2] if pixels.ndim == 3 else 1
    _compiled().by_tables(pixels.reshape(-1), channels, fitting, made.reshape(-1))
    return replace(picture, pixels=made)


def _compiled() -> ModuleType:
    # Here, since Numba takes two seconds that planning need not wait for.
    from tray_core.pixels import values

    return values


def to_8(picture: Picture, dither: bool = False) -> Picture:
    """The same picture in 8 bits a channel: rounded to nearest, or dithered by less than a level.

    The pattern is fixed, so that the same picture gives the same values: interleaved gradient noise (Jimenez,
    SIGGRAPH 2014, course on advances in real-time rendering).
    """
    if picture.pixels.dtype == np.uint8:
        return picture
    values = np.ascontiguousarray(picture.pixels)
    made = np.empty(values.shape, np.uint8)
    if dither:
        channels = values.shape[2] if values.ndim == 3 else 1
        rows = len(values), -1
        room = np.empty(values.shape[1], np.float64)
        _compiled().dithered(values.reshape(rows), channels, channels - picture.alpha, room, made.reshape(rows))
    else:
        _compiled().narrowed(values.reshape(-1), made.reshape(-1))
    return replace(picture, pixels=made)


def to_rgb_channels(picture: Picture) -> Picture:
    """A grey picture as three equal channels; others as they are."""
    if picture.space != "grey":
        return picture
    return Picture(np.repeat(picture.pixels[..., None], 3, axis=2), "RGB", False, picture.icc)


def rgb_of(color: str) -> tuple[int, int, int] | None:
    """A color such as #ffffff in 8-bit values; None where it is named otherwise."""
    return (int(color[1:3], 16), int(color[3:5], 16), int(color[5:7], 16)) if color.startswith("#") else None


def color_in(rgb: tuple[int, int, int], space: str, icc: bytes | None) -> NDArray[np.float64]:
    """An sRGB color (8-bit values) as values on [0, 1] of a space with the profile `icc`, sRGB or grey without."""
    one = Picture(np.array([[rgb]], np.uint8), "RGB", False, None)
    if space == "grey" and icc is None:
        icc = NAMED["grey"]
    if icc is not None:
        one = convert(one, Target(icc, space))
    found: NDArray[np.float64] = np.atleast_1d(one.pixels[0, 0]) / np.iinfo(one.pixels.dtype).max
    return found


def flatten(picture: Picture, matte: tuple[int, int, int] = (255, 255, 255)) -> Picture:
    """Lay a transparent picture on `matte`, an sRGB color in 8-bit values."""
    if not picture.alpha:
        return picture
    top = np.float32(np.iinfo(picture.pixels.dtype).max)
    cover = picture.pixels[..., 3:].astype(np.float32) / top
    ground = color_in(matte, picture.space, picture.icc).astype(np.float32) * top
    made = np.rint(picture.pixels[..., :3] * cover + ground * (1 - cover)).astype(picture.pixels.dtype)
    return Picture(made, picture.space, False, picture.icc)


def to_srgb(picture: Picture) -> Picture:
    """Convert a picture to sRGB, relative colorimetric with black-point compensation."""
    return convert(picture, TO_SRGB)


def to_working(picture: Picture) -> Picture:
    """Inks as a wide RGB space, where they have luminance; other pictures as they are."""
    return convert(picture, _WORKING) if picture.space == "CMYK" else picture


def convert(picture: Picture, target: Target) -> Picture:
    """Convert a picture to the space of `target`.

    Returns 16 bits a channel where anything had to be computed, otherwise the pixels as they are. A picture without
    a profile is sRGB already, CMYK without one is taken for a common offset print. A profile that does not fit its
    values, or cannot be used, is a LineError. Alpha is kept for RGB targets and must be flattened before others.
    """
    if not needs_conversion(picture, target):
        found = picture if target.space != "RGB" else to_rgb_channels(picture)
        return replace(found, icc=target.icc)
    if picture.space == "grey" and picture.icc is None:
        picture = replace(to_rgb_channels(picture), icc=SRGB)
    source = picture.icc or (ASSUMED_CMYK.read_bytes() if picture.space == "CMYK" else SRGB)
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
    goal = read_profile(target.icc)
    both = facts.colorants is not None and goal is not None and goal.colorants is not None
    try:
        # All intents but the absolute one are the same between matrix profiles.
        if both and target.intent != "absolute":
            made = _by_matrix(color, source, target.icc)
        else:
            made = _by_tables(color, source, picture.space, target)
    except (RuntimeError, ValueError, np.linalg.LinAlgError) as error:
        raise LineError(
            "color profile",
            expected="a profile that can be used",
            found="a damaged one",
            remedy="Embed a good profile in the photo, or choose another color space.",
        ) from error
    if picture.alpha and target.space == "RGB":
        made = np.concatenate([made, wide.pixels[..., 3:]], axis=2)
    return Picture(made, target.space, picture.alpha and target.space == "RGB", target.icc)


def _by_tables(color: Pixels, source: bytes, space: str, target: Target) -> Pixels16:
    """Profiles with look-up tables (CMYK, grey, some scanners): littleCMS, without its own shortcuts.

    Its usual optimization folds the whole conversion into a coarse grid, which is off by whole 8-bit
    levels in the darks.
    """
    compensated = target.black_point and target.intent != "absolute"
    made: Pixels16 = imagecodecs.cms_transform(
        color,
        source,
        target.icc,
        colorspace=_LCMS[space],
        outcolorspace=_LCMS[target.space],
        intent=_INTENTS[target.intent],
        flags=_NO_OPTIMIZATION | (_BLACK_POINT_COMPENSATION if compensated else 0),
    )
    return made


def linear_matrix(source: bytes, target: bytes) -> NDArray[np.float64]:
    """From linear values of one matrix profile to those of another: 3 x 3, on [0, 1], not clipped."""
    one, other = read_profile(source), read_profile(target)
    assert one is not None and other is not None and one.colorants is not None and other.colorants is not None
    return np.asarray(np.linalg.inv(other.colorants) @ one.colorants, np.float64)


def _by_matrix(color: Pixels16, source: bytes, target: bytes) -> Pixels16:
    """Matrix profiles: curve, 3 x 3 matrix, inverse curve, by tables (ICC.1:2022, Annex F.3).

    Such spaces have their black at zero, so that black-point compensation has nothing to do.
    Within 0.05 of an 8-bit level of the same computation in double precision.
    """
    matrix = (linear_matrix(source, target) * _LINEAR_STEPS).astype(np.float32)
    made = np.empty(color.shape, np.uint16)
    tables = _decoding_curves(source), matrix, _encoding_tables(target), _encoding_tables(target, 256)
    _compiled().by_matrix(np.ascontiguousarray(color).reshape(-1), *tables, made.reshape(-1))
    return made


def _one_if_alike(curves: NDArray[Any]) -> NDArray[Any]:
    """A third of what the caches must hold, where all three curves are the same."""
    return curves[:1] if np.array_equal(curves[0], curves[1]) and np.array_equal(curves[0], curves[2]) else curves


@functools.lru_cache(maxsize=4)
def _decoding_curves(source: bytes) -> NDArray[np.float32]:
    return _one_if_alike(np.stack([np.asarray(curve, np.float32) for curve in tone_curves(source, 65536)]))


@functools.lru_cache(maxsize=8)
def _encoding_tables(target: bytes, finer: int = 1) -> Pixels16:
    """A profile's curves the other way, from linear in _LINEAR_STEPS to encoded 16-bit values; one if all are alike.

    finer: only this part of the range, its first, in as many steps.
    """
    curves = _one_if_alike(exact_curves(target, 65536))
    encoded = np.linspace(0, 65535, 65536)
    steps = np.linspace(0, 1 / finer, _LINEAR_STEPS + 1)
    return np.stack([np.rint(np.interp(steps, curve, encoded)) for curve in curves]).astype(np.uint16)


def beyond_gamut(picture: Picture, target: Target) -> Pixels8:
    """Where `picture` has colors that `target` cannot hold: 255 there, 0 elsewhere, height x width.

    Between matrix profiles a color is beyond when any of its linear values leaves [0, 1] by more than half a
    percent; elsewhere when a way there and back moves it by more than 6 percent of the range.
    """
    if not needs_conversion(picture, target):
        return np.zeros(picture.pixels.shape[:2], np.uint8)
    if picture.alpha:
        picture = flatten(picture)
    source = picture.icc or (ASSUMED_CMYK.read_bytes() if picture.space == "CMYK" else SRGB)
    one, other = read_profile(source), read_profile(target.icc)
    if one is not None and other is not None and one.colorants is not None and other.colorants is not None:
        values = to_16(to_rgb_channels(picture)).pixels
        curves = tone_curves(source, 65536)
        linear = np.stack([np.take(curves[i], values[..., i]) for i in range(3)], axis=-1)
        moved = np.asarray(cv2.transform(linear, linear_matrix(source, target.icc).astype(np.float32)))
        beyond = (moved.min(axis=2) < -0.005) | (moved.max(axis=2) > 1.005)
    else:
        wide = to_16(convert(picture, _WORKING))
        back = convert(convert(wide, target), replace(_WORKING, black_point=target.black_point))
        moved = np.abs(wide.pixels.astype(np.int32) - back.pixels.astype(np.int32)).max(axis=2)
        beyond = moved > 0.06 * 65535
    return np.where(beyond, 255, 0).astype(np.uint8)
