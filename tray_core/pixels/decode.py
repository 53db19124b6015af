"""Decoding: from a file's bytes to an upright picture, no larger than what is wanted of it."""

from __future__ import annotations

import io
import warnings
from dataclasses import replace
from typing import Any

import cv2
import imagecodecs
import numpy as np
import simplejpeg
from numpy.typing import NDArray
from PIL import Image

from tray_core.apart.client import ask
from tray_core.errors import PhotoError
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.photo.damage import SAVE_ANEW, Wrong, damaged
from tray_core.photo.facts import PhotoFacts
from tray_core.photo.jpeg_parts import END, ends_early, mended, scans
from tray_core.photo.png_parts import still
from tray_core.photo.profiles import read_profile
from tray_core.pixels.color import TO_SRGB, convert, to_16
from tray_core.pixels.picture import Picture
from tray_core.pixels.scale import RAW, is_soft, jpeg_scale, scales, worth_trying
from tray_core.tone import Development, Tone

_HARMLESS = ("extraneous bytes", "Invalid SOS parameters", "Unknown Adobe color transform", "bad ICC marker")
_MOST_WORK = 4_000_000_000
"""Pixels times scans that a JPEG may ask for here: two seconds. A progressive one of 200 megapixels has half of it."""
_LARGE, _DENSE = 50_000_000, 0.02
"""Above so many pixels, a JPEG with fewer bytes a pixel is no photograph."""
_ROTATIONS = {3: cv2.ROTATE_180, 6: cv2.ROTATE_90_CLOCKWISE, 8: cv2.ROTATE_90_COUNTERCLOCKWISE}


def development_of(facts: PhotoFacts, tone: Tone) -> Development | None:
    """How a photo is developed for a tone: camera raw with all of its light, as soon as there is a tone at all."""
    if facts.format != RAW or not (tone.graded or tone.development != Development()):
        return None
    return tone.development


def decode(
    facts: PhotoFacts,
    data: bytes,
    wanted: tuple[int, int],
    development: Development | None = None,
    limits: Limits = DEFAULT_LIMITS,
) -> Picture:
    """Decode the photo `data` with the facts read from it.

    wanted: (width, height) of the largest rendition, upright; the picture returned is at least that
    large, or the photo's full size. development: of camera raw; linear light is divided by `HEADROOM` then, so that
    what is lighter than white is there. Raises DamagedPhoto when not the whole picture can be read.
    """
    if facts.orientation >= 5:
        wanted = (wanted[1], wanted[0])
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # decoders' remarks on metadata; damage raises
            match facts.format:
                case "JPEG" if not _laborious(facts, data):
                    picture = decode_jpeg(facts, data, wanted)
                case "PNG":
                    picture = from_array(imagecodecs.png_decode(still(data)), facts.icc)
                case _:
                    picture = _decode_apart(facts, data, wanted, development, limits)
    except PhotoError:
        raise
    except Exception as error:  # the one boundary to foreign decoders, which raise anything
        raise damaged(facts.path, facts.format, error) from error
    return _upright(_fitted(picture), facts.orientation)


def _fitted(picture: Picture) -> Picture:
    """A picture of three channels whose profile is for one: grey with alpha, and the grey of formats that have none."""
    if picture.icc is None or picture.space != "RGB":
        return picture
    profile = read_profile(picture.icc)
    if profile is None or profile.space != "grey":
        return picture
    pixels = picture.pixels
    if not (np.array_equal(pixels[..., 0], pixels[..., 1]) and np.array_equal(pixels[..., 1], pixels[..., 2])):
        return replace(picture, icc=None)
    grey = Picture(np.ascontiguousarray(pixels[..., 1]), "grey", False, picture.icc)
    if not picture.alpha:
        return grey
    wide = to_16(picture).pixels[..., 3:]
    return Picture(np.concatenate([convert(grey, TO_SRGB).pixels, wide], axis=2), "RGB", True, None)


def _laborious(facts: PhotoFacts, data: bytes) -> bool:
    """Whether a JPEG asks for more work than files of its kind do, and is left to a process whose time is limited."""
    pixels = facts.stored_size[0] * facts.stored_size[1]
    return scans(data) * pixels > _MOST_WORK or (pixels > _LARGE and len(data) < _DENSE * pixels)


def decode_jpeg(facts: PhotoFacts, data: bytes, wanted: tuple[int, int]) -> Picture:
    """A JPEG as it is stored, at the smallest scale that will do. Raises whatever the decoder does."""
    if facts.ends_early:
        if ends_early(data)[1]:
            # A progressive file may lack whole scans without any decoder noticing.
            raise EOFError
        # With an end marker put behind it, data that hold the whole picture decode without complaint.
        data += END
    if facts.mode == "CMYK":
        return from_pillow(data)
    divisor = jpeg_scale(facts.stored_size, wanted)
    if divisor == 1 and worth_trying(facts.stored_size, wanted, len(data)):
        half = _jpeg_at(facts, data, 2)
        if is_soft(half, wanted):
            return half
    return _jpeg_at(facts, data, divisor)


def _jpeg_at(facts: PhotoFacts, data: bytes, divisor: int) -> Picture:
    width, height = (-(-edge // divisor) for edge in facts.stored_size)
    space = "GRAY" if facts.mode == "grey" else "RGB"
    limits = {"min_width": width, "min_height": height} if divisor > 1 else {}
    picture = from_array(_strictly(data, space, limits), facts.icc)
    exact = (facts.stored_size[0] / divisor, facts.stored_size[1] / divisor)
    return picture if exact == picture.size else replace(picture, extent=(0, 0, *exact))


def _strictly(data: bytes, space: str, limits: dict[str, int]) -> NDArray[Any]:
    """Decoded so that damage raises, and what is harmless does not.

    Remarks on a header are errors even for the decoder that is not strict; so the header is mended first, and only
    remarks on what is left are let pass.
    """
    for mend, strict in ((False, True), (True, True), (True, False)):
        try:
            return np.asarray(simplejpeg.decode_jpeg(mended(data) if mend else data, space, strict=strict, **limits))
        except ValueError as error:
            if not strict or not any(remark in str(error) for remark in _HARMLESS):
                raise
    raise AssertionError("unreachable: the last one returns or raises")


def _decode_apart(
    facts: PhotoFacts, data: bytes, wanted: tuple[int, int], development: Development | None, limits: Limits
) -> Picture:
    more = {} if development is None else {"development": development}
    answer = ask("decode", facts.format, facts.path, data, limits, wanted=wanted, **more)
    head, (_, values) = answer.head, answer.parts
    pixels = np.frombuffer(values, head["dtype"]).reshape(head["shape"])
    extent = tuple(head["extent"]) if head["extent"] else None
    if not scales(facts) and pixels.shape[:2] != facts.stored_size[::-1]:
        expected = "a picture of {} x {}, as its header says".format(*facts.stored_size)
        raise Wrong(expected=expected, found=f"one of {pixels.shape[1]} x {pixels.shape[0]}", remedy=SAVE_ANEW)
    return Picture(pixels, head["space"], head["alpha"], facts.icc, extent)


def from_pillow(data: bytes) -> Picture:
    """Decode by Pillow; palettes and bilevel pictures become channels."""
    with Image.open(io.BytesIO(data)) as image:
        icc = image.info.get("icc_profile") or None
        if image.mode == "CMYK":
            # Without the marker that says so, inks in a JPEG are not inverted, as Pillow has it (ITU-T T.872, 6.5.3).
            inverted = image.format == "JPEG" and "adobe" not in image.info
            inks = np.asarray(image)
            return Picture(255 - inks if inverted else inks, "CMYK", False, icc)
        alpha = "A" in image.getbands() or "transparency" in image.info
        grey = image.mode in ("L", "LA", "1") and not alpha
        return from_array(np.asarray(image.convert("L" if grey else "RGBA" if alpha else "RGB")), icc)


def from_array(pixels: NDArray[Any], icc: bytes | None) -> Picture:
    """Decoded values, height x width or height x width x channels, as a picture."""
    if pixels.ndim == 2:
        return Picture(pixels, "grey", False, icc)
    channels = pixels.shape[2]
    if channels == 2:
        # Grey with alpha travels as RGB with alpha: one case fewer on the line.
        return Picture(np.ascontiguousarray(pixels[..., [0, 0, 0, 1]]), "RGB", True, icc)
    return Picture(pixels[..., 0] if channels == 1 else pixels, "grey" if channels == 1 else "RGB", channels == 4, icc)


def _upright(picture: Picture, orientation: int) -> Picture:
    """Apply an EXIF orientation (CIPA DC-008, tag 274)."""
    pixels = picture.pixels
    if orientation in (2, 4, 5, 7):
        # 2 and 4 mirror; 5 and 7 mirror along a diagonal, which is a transposition.
        match orientation:
            case 2:
                pixels = cv2.flip(pixels, 1)
            case 4:
                pixels = cv2.flip(pixels, 0)
            case 5:
                pixels = cv2.transpose(pixels)
            case 7:
                pixels = cv2.rotate(cv2.transpose(pixels), cv2.ROTATE_180)
    elif orientation in _ROTATIONS:
        pixels = cv2.rotate(pixels, _ROTATIONS[orientation])
    else:
        return picture
    return Picture(pixels, picture.space, picture.alpha, picture.icc, _upright_extent(picture, orientation))


def _upright_extent(picture: Picture, orientation: int) -> tuple[float, float, float, float] | None:
    """`picture.extent` after the same turns and mirrors."""
    if picture.extent is None:
        return None
    left, top, right, bottom = picture.extent
    width, height = picture.size
    if orientation >= 5:
        left, top, right, bottom, width, height = top, left, bottom, right, height, width
    if orientation in (2, 3, 6, 7):
        left, right = width - right, width - left
    if orientation in (3, 4, 7, 8):
        top, bottom = height - bottom, height - top
    return left, top, right, bottom
