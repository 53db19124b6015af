"""PNG, whole and with a palette; TIFF; GIF."""

from __future__ import annotations

import io
import struct
import zlib

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from tray_core.pixels.color import to_rgb_channels
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import GifFile, PngFile, TiffFile

_SMALL = 640
"""Long edge of the copy in which a palette is looked for: what is rarer needs no color of its own."""


_SAMPLE = 20_000


def encode_png(picture: Picture, file: PngFile, ppi: int | None) -> bytes:
    """A grey, RGB or RGBA picture of 8 or 16 bits."""
    if file.colors is not None and picture.pixels.dtype == np.uint8:
        made = io.BytesIO()
        few = _with_clear_palette(picture, file.colors) if picture.alpha else _with_palette(picture, file.colors, True)
        few.save(made, "PNG", compress_level=max(1, file.effort))
        data = made.getvalue()
    else:
        data = bytes(imagecodecs.png_encode(np.ascontiguousarray(picture.pixels), level=file.effort))
    return _with_chunks(data, picture.icc, ppi)


def _with_palette(picture: Picture, colors: int, dither: bool) -> Image.Image:
    """Median cut (Heckbert, 1982), then error diffusion (Floyd and Steinberg, 1976); grey or RGB."""
    image = Image.fromarray(np.ascontiguousarray(to_rgb_channels(picture).pixels))
    small = image.copy()
    small.thumbnail((_SMALL, _SMALL), Image.Resampling.NEAREST)
    palette = small.quantize(colors, Image.Quantize.MEDIANCUT)
    return image.quantize(palette=palette, dither=Image.Dither.FLOYDSTEINBERG if dither else Image.Dither.NONE)


def _with_clear_palette(picture: Picture, colors: int) -> Image.Image:
    """An RGBA picture in `colors` of which one is fully clear, an eighth at most half-clear, and the others opaque.

    What was fully clear or opaque stays exactly that.
    """
    alpha = picture.pixels[..., 3]
    half = (alpha > 0) & (alpha < 255)
    some = max(1, colors // 8) if half.any() and colors > 3 else 0
    opaque = Picture(np.ascontiguousarray(picture.pixels[..., :3]), "RGB", False, None)
    solid = _with_palette(opaque, max(2, colors - 1 - some), dither=True)
    table = np.array(solid.getpalette() or [], np.uint8).reshape(-1, 3)[: max(2, colors - 1 - some)]
    rows = [np.array([[0, 0, 0, 0]], np.uint8), np.insert(table, 3, 255, axis=1)]
    values = np.where(alpha < (1 if some else 128), 0, np.asarray(solid) + np.uint8(1)).astype(np.uint8)
    if some:
        found, index = _half_clear(picture.pixels[half], some)
        values[half] = index + 1 + len(table)
        rows.append(found)
    made = Image.fromarray(values, "P")
    made.putpalette(np.concatenate(rows).tobytes(), "RGBA")
    return made


def _half_clear(pixels: NDArray[np.uint8], count: int) -> tuple[NDArray[np.uint8], NDArray[np.intp]]:
    """At most `count` colors with alpha for pixels x 4 values, by median cut, and the nearest one's number for each.

    Compared as they are seen: colors count by their alpha.
    """

    def seen(rgba: NDArray[np.uint8]) -> NDArray[np.float32]:
        cover = rgba[:, 3:].astype(np.float32)
        return np.concatenate([rgba[:, :3] * (cover / 255), cover], axis=1)

    boxes = [pixels[:: max(1, len(pixels) // _SAMPLE)]]
    while len(boxes) < count:
        spans = [np.ptp(seen(box), axis=0) for box in boxes]
        widest = max(range(len(boxes)), key=lambda i: float(spans[i].max()) * len(boxes[i]) ** 0.5)
        box, span = boxes[widest], spans[widest]
        if span.max() == 0:
            break
        order = seen(box)[:, span.argmax()].argsort(kind="stable")
        boxes[widest : widest + 1] = [box[order[: len(box) // 2]], box[order[len(box) // 2 :]]]
    found = np.rint([box.mean(axis=0) for box in boxes]).astype(np.uint8)
    goals = seen(found)
    nearest = [
        ((seen(part)[:, None] - goals) ** 2).sum(axis=2).argmin(axis=1)
        for part in np.array_split(pixels, len(pixels) // _SAMPLE + 1)
    ]
    return found, np.concatenate(nearest)


def _chunk(name: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))


def _with_chunks(data: bytes, icc: bytes | None, ppi: int | None) -> bytes:
    """Put iCCP and pHYs behind IHDR (PNG specification, 11.3.2.3 and 11.3.4.3); pHYs counts pixels a meter."""
    made = _chunk(b"iCCP", b"ICC profile\0\0" + zlib.compress(icc, 9)) if icc is not None else b""
    if ppi is not None:
        meter = round(ppi / 0.0254)
        made += _chunk(b"pHYs", struct.pack(">IIB", meter, meter, 1))
    return data[:33] + made + data[33:]


def encode_tiff(picture: Picture, file: TiffFile, ppi: int | None) -> bytes:
    """A grey, RGB, RGBA or CMYK picture of 8 or 16 bits, its lines differenced before they are compressed."""
    made = io.BytesIO()
    photometric = {"grey": "minisblack", "RGB": "rgb", "CMYK": "separated"}[picture.space]
    packed = file.compression != "none"
    tifffile.imwrite(
        made,
        np.ascontiguousarray(picture.pixels),
        photometric=photometric,
        extrasamples=["unassalpha"] if picture.alpha else None,
        # The number that the standard's supplement gave to deflate; its older one is obsolete.
        compression={"deflate": "adobe_deflate"}.get(file.compression, file.compression) if packed else None,
        predictor=True if packed else None,
        iccprofile=picture.icc,
        resolution=(ppi, ppi) if ppi else None,
        resolutionunit="inch" if ppi else None,
        rowsperstrip=max(1, (1 << 20) // max(1, picture.pixels.nbytes // picture.size[1])),
        metadata=None,
        software=False,
        maxworkers=1,
    )
    return made.getvalue()


def encode_gif(picture: Picture, file: GifFile) -> bytes:
    """A grey, RGB or RGBA picture of 8 bits; what is less than half opaque becomes transparent."""
    made = io.BytesIO()
    if not picture.alpha:
        _with_palette(picture, file.colors, file.dither).save(made, "GIF", optimize=True)
        return made.getvalue()
    color = Picture(np.ascontiguousarray(picture.pixels[..., :3]), "RGB", False, None)
    image = _with_palette(color, max(2, file.colors - 1), file.dither)
    clear = len(image.getpalette() or []) // 3
    values = np.asarray(image).copy()
    clear = min(clear, 255)
    values[picture.pixels[..., 3] < 128] = clear
    indexed = Image.fromarray(values, "P")
    indexed.putpalette([*(image.getpalette() or [])[: 3 * clear], 255, 255, 255])
    indexed.save(made, "GIF", optimize=False, transparency=clear)
    return made.getvalue()
