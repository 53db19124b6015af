"""WebP and AVIF, by libwebp and libavif through Pillow; PDF around a JPEG."""

from __future__ import annotations

import io
import zlib

import numpy as np
import pyvips
from PIL import Image

from tray_core.coders.jpeg import encode_jpeg
from tray_core.outline import pdf_clip
from tray_core.photo.words import Words
from tray_core.pixels.color import to_rgb_channels
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import AvifFile, JpegFile, PdfFile, WebpFile
from tray_core.words.carried import Carried

_CHROMA = {"444": "4:4:4", "422": "4:2:2", "420": "4:2:0"}
_PAGE_PPI = 300
_AVIF_FINE_FROM = 55


def encode_webp(picture: Picture, file: WebpFile, quality: int) -> bytes:
    """A grey, RGB or RGBA picture of 8 bits. Quality in lossless files is effort for Pillow; ours says it.

    Color has half the resolution of lightness in every lossy WebP. Sharp conversion chooses its values so that
    edges between colors come out right all the same; it takes four times as long.
    """
    if file.sharp_color and not file.lossless and picture.space == "RGB":
        return _sharp_webp(picture, file, quality)
    made = io.BytesIO()
    image = Image.fromarray(np.ascontiguousarray(to_rgb_channels(picture).pixels))
    image.save(
        made,
        "WEBP",
        lossless=file.lossless,
        quality=70 if file.lossless else quality,
        method=file.effort,
        icc_profile=picture.icc,
        exact=False,
    )
    return made.getvalue()


def _sharp_webp(picture: Picture, file: WebpFile, quality: int) -> bytes:
    image = pyvips.Image.new_from_array(np.ascontiguousarray(picture.pixels), interpretation="srgb")
    if picture.icc is not None:
        image = image.copy()
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", picture.icc)
    made: bytes = image.webpsave_buffer(Q=quality, effort=file.effort, smart_subsample=True, keep="icc")
    return made


def encode_avif(picture: Picture, file: AvifFile, quality: int, said: Carried | None = None) -> bytes:
    """A grey, RGB or RGBA picture of 8 bits; grey has no colors in the file either."""
    made = io.BytesIO()
    image = Image.fromarray(np.ascontiguousarray(to_rgb_channels(picture).pixels))
    image.save(
        made,
        "AVIF",
        quality=quality,
        speed=10 - file.effort,
        subsampling="4:0:0" if picture.space == "grey" else _CHROMA[_avif_chroma(file.chroma, quality)],
        icc_profile=picture.icc,
        max_threads=1,
        exif=said.exif if said else b"",
        xmp=said.xmp if said else b"",
    )
    return made.getvalue()


def _avif_chroma(chroma: str, quality: int) -> str:
    """As asked for, or fine color from where it costs nothing: at equal score it is lighter there."""
    if chroma != "auto":
        return chroma
    return "444" if quality >= _AVIF_FINE_FROM else "420"


def encode_pdf(picture: Picture, file: PdfFile, quality: int, ppi: int | None, said: Carried | None = None) -> bytes:
    """One page, as large as the picture at `ppi`, with the picture as a JPEG and its profile (ISO 32000-1)."""
    space, channels = {"grey": ("Gray", 1), "RGB": ("RGB", 3), "CMYK": ("CMYK", 4)}[picture.space]
    jpeg = encode_jpeg(Picture(picture.pixels, picture.space, False, None), JpegFile(format="jpeg"), quality, None)
    width, height = picture.size
    wide, high = (72 * edge / (ppi or _PAGE_PPI) for edge in (width, height))
    color, profile = f"/Device{space}", b""
    if picture.icc is not None:
        packed = zlib.compress(picture.icc, 9)
        color = "[/ICCBased 6 0 R]"
        profile = f"<</N {channels}/Filter/FlateDecode/Length {len(packed)}>>".encode() + _stream(packed)
    # Inks are inverted in JPEG files; a page has to be told.
    invert = "/Decode[1 0 1 0 1 0 1 0]" if channels == 4 else ""
    shown = f"q {wide:.4f} 0 0 {high:.4f} 0 0 cm /P Do Q"
    if said is not None and said.path:
        shown = f"{pdf_clip(said.path, picture.size, (wide, high))}\n{shown} Q"
    about = f"/Width {width}/Height {height}/ColorSpace {color}/BitsPerComponent 8{invert}"
    about_file = b"/Metadata 7 0 R" if said else b""
    bodies = [
        b"<</Type/Catalog/Pages 2 0 R" + about_file + b">>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        f"<</Type/Page/Parent 2 0 R/MediaBox[0 0 {wide:.4f} {high:.4f}]"
        f"/Resources<</XObject<</P 5 0 R>>>>/Contents 4 0 R>>".encode(),
        f"<</Length {len(shown)}>>".encode() + _stream(shown.encode()),
        f"<</Type/XObject/Subtype/Image{about}/Filter/DCTDecode/Length {len(jpeg)}>>".encode() + _stream(jpeg),
        profile or b"null",
    ]
    if said is None:
        return _document(bodies if profile else bodies[:-1])
    packet = f"<</Type/Metadata/Subtype/XML/Length {len(said.xmp)}>>".encode() + _stream(said.xmp)
    return _document([*bodies, packet, _information(said.words)], information=8)


def _information(words: Words) -> bytes:
    """The document information dictionary (ISO 32000-1, 14.3.3); its texts are UTF-16 where they have to be."""
    told = {"Title": words.title, "Author": words.creator, "Subject": words.description}
    told["Keywords"] = ", ".join(words.keywords)
    made = (f"/{name}<{_utf16(text)}>" for name, text in told.items() if text)
    return f"<<{''.join(made)}>>".encode()


def _utf16(text: str) -> str:
    return ("\ufeff" + text).encode("utf-16-be").hex()


def _stream(data: bytes) -> bytes:
    return b"\nstream\n" + data + b"\nendstream"


def _document(bodies: list[bytes], information: int | None = None) -> bytes:
    made, places = b"%PDF-1.4\n%\xe2\xe3\xcf\xd3\n", []
    for number, body in enumerate(bodies, 1):
        places.append(len(made))
        made += f"{number} 0 obj\n".encode() + body + b"\nendobj\n"
    table = "".join(f"{place:010} 00000 n \n" for place in places)
    end = f"xref\n0 {len(bodies) + 1}\n0000000000 65535 f \n{table}"
    told = f"/Info {information} 0 R" if information else ""
    end += f"trailer\n<</Size {len(bodies) + 1}/Root 1 0 R{told}>>\nstartxref\n{len(made)}\n%%EOF\n"
    return made + end.encode()
