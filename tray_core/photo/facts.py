"""What a photo file says of itself, read from its header alone."""

from __future__ import annotations

import datetime as dt
import io
import os
import stat
import warnings
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from PIL import Image

from tray_core.apart.client import ask
from tray_core.errors import EmptyPhoto, PhotoError, PhotoGone, PhotoTooLarge, UnknownFormat
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.outline import Traced
from tray_core.photo.damage import SAVE_ANEW, Wrong, damaged
from tray_core.photo.interest import Interest
from tray_core.photo.jpeg_parts import ends_early, jpeg_profile
from tray_core.photo.opening import open_photo
from tray_core.photo.png_parts import png_exif, png_profile
from tray_core.photo.profile_check import profile_problem
from tray_core.photo.profiles import profile_name
from tray_core.photo.sniff import HEAD, READ, may_be_raw, sniff
from tray_core.photo.words import NO_WORDS, Words
from tray_core.tone import NEUTRAL, NO_LOOKS, Look, Tone

# The product has its own limit, told in its own words, for every decoder alike.
Image.MAX_IMAGE_PIXELS = None

HERE = ("JPEG", "PNG")
"""Formats that are read in this process; the others have one of their own (`tray_core.apart`)."""

_GREY_AS_COLOR = ("WebP", "AVIF", "HEIC")
"""Formats whose grey pictures are told as three channels, and may have a profile for one."""

_MOST_SCANS = 300
_TURNED = (5, 6, 7, 8)
_EXIF_IFD, _ORIENTATION, _TAKEN, _CHANGED, _ICC_TAG = 0x8769, 274, 36867, 306, 34675
_MODES = {"L": "grey", "LA": "grey", "1": "grey", "I;16": "grey", "P": "palette", "PA": "palette"}


_Bytes = bytes  # PhotoFacts has a field of the type's name


@dataclass(frozen=True, kw_only=True, slots=True)
class PhotoFacts:
    """One photo, as the plan needs to know it.

    width, height: upright, in pixels (the EXIF orientation applied).
    orientation:   1 to 8 as in EXIF; 5 to 8 mean that stored width and height are swapped.
    depth:         bits a channel. mode: RGB, grey, CMYK or palette. profile: its name or None.
    icc:           the embedded profile's bytes. bad_profile: why it is not used, as the end of "its profile …".
    taken:         the moment of exposure, without a zone.
    ends_early:    a JPEG without its end marker; it may or may not decode whole.
    interest:      what in it must be seen, where its pixels were looked at.
    words:         what it says, where somebody read it (`tray_core.words`), with what a person typed above it.
    unread:        sentences on what of its metadata could not be read.
    beside:        whether files may be put into a subfolder of its own folder.
    tone:          the light and color that a person gave it. looks: others of it, for some recipes.
    outline:       the edge of its object, where it was found or drawn.
    """

    path: str
    format: str
    width: int
    height: int
    orientation: int = 1
    depth: int = 8
    mode: str = "RGB"
    alpha: bool = False
    profile: str | None = None
    bytes: int = 0
    taken: dt.datetime | None = None
    modified: dt.datetime | None = None
    icc: _Bytes | None = field(default=None, repr=False)
    bad_profile: str = ""
    ends_early: bool = False
    interest: Interest | None = None
    words: Words = NO_WORDS
    unread: tuple[str, ...] = ()
    beside: bool = True
    tone: Tone = NEUTRAL
    looks: tuple[Look, ...] = NO_LOOKS
    outline: Traced | None = None

    @property
    def stored_size(self) -> tuple[int, int]:
        """(width, height) as the pixels lie in the file."""
        turned = self.orientation in _TURNED
        return (self.height, self.width) if turned else (self.width, self.height)

    @property
    def shape(self) -> str:
        """landscape, portrait or square."""
        if self.width == self.height:
            return "square"
        return "landscape" if self.width > self.height else "portrait"


def read_bytes(path: Path, limits: Limits = DEFAULT_LIMITS) -> bytes:
    """The whole of a photo file, opened read-only; PhotoGone, EmptyPhoto or PhotoTooLarge otherwise."""
    try:
        with open(open_photo(path, limits.beneath), "rb") as file:
            info = os.fstat(file.fileno())
            if not stat.S_ISREG(info.st_mode):
                raise PhotoGone(str(path), expected="a file", found="something else", remedy="Choose a picture file.")
            if info.st_size > limits.bytes:
                raise PhotoTooLarge(
                    str(path),
                    expected=f"at most {limits.bytes:,} bytes",
                    found=f"{info.st_size:,} bytes",
                    remedy="Use a smaller file, or raise the limit.",
                )
            data = file.read()
    except OSError as error:
        raise PhotoGone(
            str(path),
            expected="a file that can be read",
            found=(error.strerror or "an error").lower(),
            remedy="Bring the file or its folder back, or check its permissions, then try again.",
        ) from error
    if not data:
        raise EmptyPhoto(
            str(path),
            expected="a picture",
            found="an empty file (0 bytes)",
            remedy="Copy the file again from the camera or its backup.",
        )
    return data


def read_facts(path: Path | str, limits: Limits = DEFAULT_LIMITS, data: bytes | None = None) -> PhotoFacts:
    """Read the header of the photo at `path` (or of `data`, its content, where that is at hand).

    Raises a PhotoError that names the file: PhotoGone, EmptyPhoto, UnknownFormat, DamagedPhoto or
    PhotoTooLarge. Pixels are not decoded.
    """
    path = Path(path)
    if data is None:
        data = read_bytes(path, limits)
    kind = sniff(data[:HEAD])
    if may_be_raw(kind, data) and ask("facts", "camera raw?", str(path), data, limits).head["facts"]["raw"]:
        kind = "camera raw"
    if kind not in READ:
        raise UnknownFormat(
            str(path),
            expected="a picture, drawing, page or raw file that can be read",
            found=kind,
            remedy="Save it as JPEG, PNG or TIFF, or take the file out of the tray.",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # odd metadata is no reason to refuse the pixels
            facts = _read_here(path, data, kind) if kind in HERE else _read_apart(path, data, kind, limits)
    except PhotoError:
        raise
    except Exception as error:  # the one boundary to foreign header readers, which raise anything
        raise damaged(str(path), kind, error) from error
    if facts.width * facts.height > limits.pixels:
        raise PhotoTooLarge(
            str(path),
            expected=f"at most {limits.pixels / 1e6:g} megapixels",
            found=f"{facts.width} x {facts.height} ({facts.width * facts.height / 1e6:.0f} megapixels)",
            remedy="Save a smaller copy, or raise the limit.",
        )
    return facts


def _taken(text: object) -> dt.datetime | None:
    try:
        return dt.datetime.strptime(str(text).strip("\0 ")[:19], "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return None


def _modified(path: Path) -> dt.datetime | None:
    try:
        return dt.datetime.fromtimestamp(path.stat().st_mtime)
    except OSError:
        return None


def _fitting(icc: bytes | None, mode: str, kind: str) -> tuple[bytes | None, str]:
    """The profile if it can be used for values of `mode`; otherwise None and why not."""
    if icc is None:
        return None, ""
    space = "RGB" if mode == "palette" else mode
    problem = profile_problem(icc, space)
    if problem is not None and kind in _GREY_AS_COLOR and profile_problem(icc, "grey") is None:
        problem = None
    return (icc, "") if problem is None else (None, problem)


def _facts(path: Path, data: bytes, kind: str, found: dict[str, Any], icc: bytes | None) -> PhotoFacts:
    turn = found.get("orientation")
    turn = turn if isinstance(turn, int) and 1 <= turn <= 8 else 1
    width, height = found["width"], found["height"]
    mode = found.get("mode", "RGB")
    icc, bad = _fitting(icc or None, mode, kind)
    return PhotoFacts(
        path=str(path),
        format=kind,
        width=height if turn in _TURNED else width,
        height=width if turn in _TURNED else height,
        orientation=turn,
        depth=found.get("depth", 8),
        mode=mode,
        alpha=found.get("alpha", False),
        taken=_taken(found.get("taken")),
        bytes=len(data),
        modified=_modified(path),
        icc=icc,
        profile=profile_name(icc),
        bad_profile=bad,
        ends_early=kind == "JPEG" and ends_early(data)[0],
    )


def _read_here(path: Path, data: bytes, kind: str) -> PhotoFacts:
    """JPEG and PNG, which nearly all photos are: their headers are short and their readers sturdy."""
    with Image.open(io.BytesIO(data), formats=("JPEG", "PNG")) as image:
        found, icc = facts_of_image(image, data)
        progressive = "progressive" in image.info
    if kind == "PNG":
        found["depth"] = data[24]
        return _facts(path, data, kind, found, icc or png_profile(data))
    if progressive and (scans := data.count(b"\xff\xda")) > _MOST_SCANS:
        words = f"one of {scans} scans, where real pictures have a dozen"
        raise Wrong(expected="a progressive JPEG of usual make", found=words, remedy=SAVE_ANEW)
    return _facts(path, data, kind, found, jpeg_profile(data))


def _read_apart(path: Path, data: bytes, kind: str, limits: Limits) -> PhotoFacts:
    answer = ask("facts", kind, str(path), data, limits)
    return _facts(path, data, kind, answer.head["facts"], bytes(answer.parts[0]))


def facts_of_image(image: Image.Image, data: bytes = b"") -> tuple[dict[str, Any], bytes | None]:
    """What Pillow says of a picture that it opened, as stored, and its profile. data: of a PNG, the file.

    No pixel is decoded: what a header declares may be any size.
    """
    if image.format == "PNG" and "exif" not in image.info and (found_exif := png_exif(data)):
        image.info["exif"] = b"Exif\0\0" + found_exif
    # Not a PNG's own way to it, which decodes all pixels to get at what stands behind them.
    exif = Image.Image.getexif(image)
    found = {
        "width": image.width,
        "height": image.height,
        "orientation": exif.get(_ORIENTATION),
        "mode": _MODES.get(image.mode, "CMYK" if image.mode in ("CMYK", "YCCK") else "RGB"),
        "alpha": "A" in image.getbands() or "transparency" in image.info,
        "depth": 16 if image.mode.startswith("I;16") else 8,
        "taken": plain(exif.get_ifd(_EXIF_IFD).get(_TAKEN) or exif.get(_CHANGED)),
    }
    return found, image.info.get("icc_profile") or None


def plain(value: object) -> int | str | None:
    """A value of a header that can travel between processes; what is neither a number nor a text says nothing."""
    return int(value) if isinstance(value, int) else value if isinstance(value, str) else None
