"""What an outlet would refuse, change or spoil of a file, and what would meet its rules."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from tray_core.outlets.geometry import cut_size, fitted
from tray_core.outlets.sheet import Intake
from tray_core.recipe.outlet import Rules, ratio_of

Kind = Literal["refuses", "changes", "spoils"]

FORMATS = {
    "jpeg": "JPEG",
    "png": "PNG",
    "webp": "WebP",
    "avif": "AVIF",
    "gif": "GIF",
    "tiff": "TIFF",
    "pdf": "PDF",
}
_KEEPS_CLEAR = ("same", "webp")
_NEAR = 0.985
"""A ratio or a size this close to a rule keeps it: renditions have whole pixels."""


@dataclass(frozen=True, slots=True)
class FileFacts:
    """A finished file, or one that is planned. format: as recipes name it. profile: its name, None without one; srgb:
    whether its values are those of sRGB. bytes: None where nobody knows yet.
    """

    format: str
    width: int
    height: int
    bytes: int | None = None
    profile: str | None = None
    srgb: bool = True
    clear: bool = False
    words: bool = False
    place: bool = False


@dataclass(frozen=True, slots=True)
class Breach:
    """kind: what the outlet does to the file. label: two words. text: what was expected, what was found, what to do."""

    kind: Kind
    label: str
    text: str


def breaches(name: str, rules: Rules, file: FileFacts, intake: Intake | None = None) -> Iterator[Breach]:
    """What is wrong with a file for one use of the outlet called `name`; what comes first weighs most.

    intake: what happens to an upload, where that is to be told too.
    """
    yield from _refused(name, rules, file)
    ratio = file.width / file.height
    low = ratio_of(rules.narrowest) if rules.narrowest else 0.0
    high = ratio_of(rules.widest) if rules.widest else 1e9
    if not low * _NEAR <= ratio <= high / _NEAR:
        narrow = ratio < low
        shape = f"from {rules.narrowest} to {rules.widest}" if rules.narrowest and rules.widest else "another shape"
        if rules.narrowest == rules.widest:
            shape = f"{rules.narrowest}"
        elif not rules.narrowest or not rules.widest:
            shape = f"{'at least' if narrow else 'at most'} {rules.narrowest if narrow else rules.widest}"
        found = f"{'narrower' if narrow else 'wider'}, {file.width} × {file.height}"
        if rules.outside == "cropped":
            text = f"{name} shows {shape} and cuts the rest away; this is {found}. Crop it yourself, as you want it."
            yield Breach("changes", f"cut by {name}", text)
        else:
            text = f"{name} takes {shape}, and this is {found}; crop or pad it to that shape."
            yield Breach("refuses", "wrong shape", text)
    if rules.best and file.width < rules.best[0] * _NEAR and file.height < rules.best[1] * _NEAR:
        best = f"{rules.best[0]} × {rules.best[1]}"
        text = (
            f"{name} shows up to {best}, and this is {file.width} × {file.height}; it will look soft. Use more pixels."
        )
        yield Breach("spoils", "looks soft", text)
    if (rules.color == "srgb" or (intake and intake.profile == "drop")) and not file.srgb:
        text = f"{name} takes all colors for sRGB, and this has {file.profile}; they turn dull. Convert it to sRGB."
        yield Breach("spoils", "dull colors", text)
    if intake is not None:
        yield from _treated(name, intake, file)


def _refused(name: str, rules: Rules, file: FileFacts) -> Iterator[Breach]:
    if file.format not in rules.formats:
        taken = " or ".join(FORMATS[each] for each in rules.formats)
        found = FORMATS.get(file.format, file.format)
        yield Breach("refuses", f"no {found}", f"{name} takes {taken}, and this is {found}; save it as {taken}.")
    size = f"{file.width} × {file.height}"
    if rules.least and (file.width < rules.least[0] or file.height < rules.least[1]):
        least = f"{rules.least[0]} × {rules.least[1]}"
        text = f"{name} takes nothing below {least}, and this is {size}; use a larger original, or show more of it."
        yield Breach("refuses", "too small", text)
    if rules.most and (file.width > rules.most[0] or file.height > rules.most[1]):
        most = f"{rules.most[0]} × {rules.most[1]}"
        yield Breach("refuses", "too large", f"{name} takes nothing above {most}, and this is {size}; make it smaller.")
    if rules.kilobytes and file.bytes is not None and file.bytes > rules.kilobytes * 1000:
        found = f"{-(-file.bytes // 1000):,} kB"
        text = f"{name} takes {rules.kilobytes:,} kB at most, and this is {found}; set a limit in the file station."
        yield Breach("refuses", "too heavy", text)


def _treated(name: str, intake: Intake, file: FileFacts) -> Iterator[Breach]:
    """What becomes of a file that is taken."""
    cut = cut_size((file.width, file.height), intake.crop)
    size = fitted(cut, intake.largest)
    smaller = size != cut
    saved = file.format if intake.format == "same" else intake.format
    anew = smaller or cut != (file.width, file.height) or saved != file.format or not intake.untouched
    if smaller:
        text = f"{name} makes it {size[0]} × {size[1]}, {_AVERAGES[intake.resampling]}."
        yield Breach("changes", "made smaller", text)
    if anew and saved != "png":
        text = f"{name} saves it anew as {FORMATS[saved]} of quality {intake.quality}"
        fine = ", colors at half the resolution" if intake.chroma == "420" and saved == "jpeg" else ""
        yield Breach("changes", "saved anew", f"{text}{fine}.")
    if file.clear and anew and saved not in _KEEPS_CLEAR and saved != "png":
        text = f"{name} lays clear parts on white; put the ground that you want behind them."
        yield Breach("changes", "no clear parts", text)
    if file.words and intake.metadata == "strip":
        text = f"{name} removes the words in it: title, creator and rights. Type them there."
        yield Breach("changes", "words removed", text)
    if file.place and intake.metadata == "keep":
        text = f"{name} keeps where it was taken, for all to read; remove the place in the file station."
        yield Breach("spoils", "place public", text)


_AVERAGES = {
    "lanczos": "with good resampling",
    "bicubic": "with usual resampling",
    "bilinear": "with coarse resampling, so that fine lines flicker",
}
