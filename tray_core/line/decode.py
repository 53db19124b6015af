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
import tifffile
from numpy.typing import NDArray
from PIL import Image

from tray_core.errors import PhotoError, UnknownFormat
from tray_core.line.picture import Picture
from tray_core.photo.facts import PhotoFacts, damaged
from tray_core.photo.jpeg_end import END, ends_early

_HARMLESS = ("extraneous bytes", "Invalid SOS parameters", "Unknown Adobe color transform")
_ROTATIONS = {3: cv2.ROTATE_180, 6: cv2.ROTATE_90_CLOCKWISE, 8: cv2.ROTATE_90_COUNTERCLOCKWISE}


MARGIN = 11 / 8
"""How much larger than the rendition a picture that was averaged down must be.

Averages leave frequencies near their own limit weaker than Lanczos does. With this margin the result
of one to three halvings stays within 45 dB PSNR of Lanczos-3 on the whole picture, measured on the
demo's photographs; without it, it can be 38 dB.
"""


def covers(size: tuple[int, int], wanted: tuple[float, float]) -> bool:
    """Whether a picture of `size`, averaged down, is large enough for a rendition of `wanted` pixels."""
    return all(have >= want * MARGIN for have, want in zip(size, wanted, strict=True))


def jpeg_scale(stored: tuple[int, int], wanted: tuple[int, int]) -> int:
    """The divisor (1, 2, 4 or 8) of the smallest scaled decoding that still covers `wanted`, with the margin.

    stored, wanted: (width, height) in stored orientation. Only the powers of two are used: their
    inverse transforms are vectorized in libjpeg-turbo, so that 4/8 costs less time than 3/8 and
    leaves the resampling more to work with.
    """
    for divisor in (8, 4, 2):
        if covers((-(-stored[0] // divisor), -(-stored[1] // divisor)), wanted):
            return divisor
    return 1


def decode(facts: PhotoFacts, data: bytes, wanted: tuple[int, int]) -> Picture:
    """Decode the photo `data` with the facts read from it.

    wanted: (width, height) of the largest rendition, upright; the picture returned is at least that
    large, or the photo's full size. Raises DamagedPhoto when not the whole picture can be read.
    """
    if facts.orientation >= 5:
        wanted = (wanted[1], wanted[0])
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # decoders' remarks on metadata; damage raises
            match facts.format:
                case "JPEG":
                    picture = _decode_jpeg(facts, data, wanted)
                case "PNG":
                    picture = _from_array(imagecodecs.png_decode(data), facts.icc)
                case "TIFF":
                    picture = _decode_tiff(facts, data)
                case "WebP" | "AVIF" | "GIF":
                    picture = _decode_pillow(data, facts.icc)
                case other:
                    raise UnknownFormat(facts.path, expected="a format that is read", found=other, remedy="Convert it.")
    except PhotoError:
        raise
    except Exception as error:  # the one boundary to foreign decoders, which raise anything
        raise damaged(facts.path, facts.format, str(error)) from error
    return _upright(picture, facts.orientation)


def _decode_jpeg(facts: PhotoFacts, data: bytes, wanted: tuple[int, int]) -> Picture:
    if facts.ends_early:
        if ends_early(data)[1]:
            # A progressive file may lack whole scans without any decoder noticing.
            raise ValueError("the file ends before its last scan")
        # With an end marker put behind it, data that hold the whole picture decode without complaint.
        data += END
    if facts.mode == "CMYK":
        return _decode_pillow(data, facts.icc)
    divisor = jpeg_scale(facts.stored_size, wanted)
    width, height = (-(-edge // divisor) for edge in facts.stored_size)
    space = "GRAY" if facts.mode == "grey" else "RGB"
    limits = {"min_width": width, "min_height": height} if divisor > 1 else {}
    try:
        pixels = simplejpeg.decode_jpeg(data, space, strict=True, **limits)
    except ValueError as error:
        if not any(remark in str(error) for remark in _HARMLESS):
            raise
        pixels = simplejpeg.decode_jpeg(data, space, strict=False, **limits)
    picture = _from_array(pixels, facts.icc)
    exact = (facts.stored_size[0] / divisor, facts.stored_size[1] / divisor)
    return picture if exact == picture.size else replace(picture, extent=(0, 0, *exact))


def _decode_tiff(facts: PhotoFacts, data: bytes) -> Picture:
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page = file.pages.first
        pixels: NDArray[Any] = page.asarray(maxworkers=1)
        photometric = getattr(page.photometric, "name", "RGB")
        if pixels.ndim == 3 and page.planarconfig == 2:
            pixels = np.moveaxis(pixels, 0, -1)
        if photometric == "PALETTE":
            if page.colormap is None:
                raise ValueError("a palette picture without its palette")
            pixels = page.colormap.T[pixels]
        elif photometric == "MINISWHITE":
            pixels = np.iinfo(pixels.dtype).max - pixels if pixels.dtype.kind == "u" else ~pixels
        if pixels.dtype == np.bool_:
            pixels = pixels.astype(np.uint8) * 255
        if pixels.dtype.kind == "f":
            pixels = np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * 65535).astype(np.uint16)
        if pixels.dtype not in (np.uint8, np.uint16):
            raise ValueError(f"{pixels.dtype} values, of which only 8 and 16 bits and floats are read")
        channels = 1 if pixels.ndim == 2 else pixels.shape[2]
        color = {"SEPARATED": 4, "MINISBLACK": 1, "MINISWHITE": 1}.get(photometric, 3)
        if photometric == "SEPARATED" and channels < 4:
            raise ValueError(f"{channels} inks, of which only four are read")
        keep = color + 1 if facts.alpha and channels > color else color
        if channels > keep:
            pixels = pixels[..., :keep]
        if keep == 1 and pixels.ndim == 3:
            pixels = pixels[..., 0]
        if photometric == "SEPARATED":
            return Picture(np.ascontiguousarray(pixels[..., :4]), "CMYK", False, facts.icc)
    return _from_array(np.ascontiguousarray(pixels), facts.icc)


def _decode_pillow(data: bytes, icc: bytes | None) -> Picture:
    with Image.open(io.BytesIO(data)) as image:
        if image.mode == "CMYK":
            return Picture(np.asarray(image), "CMYK", False, icc)
        alpha = "A" in image.getbands() or "transparency" in image.info
        grey = image.mode in ("L", "LA", "1") and not alpha
        return _from_array(np.asarray(image.convert("L" if grey else "RGBA" if alpha else "RGB")), icc)


def _from_array(pixels: NDArray[Any], icc: bytes | None) -> Picture:
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
