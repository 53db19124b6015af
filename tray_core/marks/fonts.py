"""Fonts: those that ship with the product, and font files of one's own; which of them can write a text.

The families that ship are IBM Plex (SIL Open Font License 1.1, `fonts/LICENSE.txt`): Latin, Greek and Cyrillic, and in
the same design Arabic, Hebrew, Devanagari, Thai and Japanese. A text is written in the first font of its family that
has all of its letters, so that its letters go together.
"""

from __future__ import annotations

import functools
import io
import os
import unicodedata
from pathlib import Path, PurePosixPath

from fontTools.ttLib import TTFont, TTLibError
from PIL import ImageFont

from tray_core.errors import RecipeError

SHIPPED = Path(__file__).parent / "fonts"

FOLDERS = "UPPER_TRAY_MARKS"
"""The environment variable with the folders of one's own fonts and mark pictures, separated as paths are. A recipe
names a file in one of them, or in a folder right below: `ours.ttf`, `chemists/ours.ttf`.
"""

_SCRIPTS = ("IBMPlexSansArabic", "IBMPlexSansHebrew", "IBMPlexSansDevanagari", "IBMPlexSansThai", "IBMPlexSansJP")
FAMILIES = {"sans": ("IBMPlexSans", *_SCRIPTS), "serif": ("IBMPlexSerif", *_SCRIPTS)}
"""The fonts of each family that recipes name, the usual one first."""

_WEIGHTS = {"regular": ("Regular",), "bold": ("SemiBold", "Regular")}
_LARGEST = 30_000_000


def mark_file(name: str, field: str) -> Path:
    """The file of one's own called `name`; RecipeError names the field where there is none."""
    steps = PurePosixPath(name).parts
    if len(steps) <= 2 and ".." not in steps and not name.startswith("/"):
        for folder in (Path(each) for each in os.environ.get(FOLDERS, "").split(os.pathsep) if each):
            if (path := folder / name).is_file():
                return path
    raise RecipeError(
        field,
        expected=f"a file named {steps[-1] if steps else name}",
        found="none of that name",
        remedy="Add the file to the marks, or choose another.",
    )


def font_files(font: str, weight: str) -> tuple[Path, ...]:
    """The files of a family or of a font of one's own, the usual one first; RecipeError where there is none."""
    if font in FAMILIES:
        found = (
            next(path for end in _WEIGHTS[weight] if (path := SHIPPED / f"{name}-{end}.woff2").is_file())
            for name in FAMILIES[font]
        )
        return tuple(found)
    return (mark_file(font, "finish.marks.font"),)


def font_for(text: str, font: str, weight: str) -> tuple[Path, str]:
    """The font file that `text` is written with, and those of its characters that it has no letter for.

    The first of the family that has all of them; where none has, the one that lacks the fewest. RecipeError where a
    font file of one's own is missing or is none.
    """
    wanted = {ord(each) for each in text if not _unseen(each)}
    lacking = [(path, wanted - letters_of(path)) for path in font_files(font, weight)]
    path, missing = min(lacking, key=lambda each: len(each[1]))
    return path, "".join(map(chr, sorted(missing)))


def _unseen(character: str) -> bool:
    """Whether nothing is drawn for it: spaces, line ends, joiners, marks of direction."""
    return unicodedata.category(character) in ("Cc", "Cf", "Zs", "Zl", "Zp")


def letters_of(path: Path) -> frozenset[int]:
    """The code points that a font file has letters for; RecipeError where it is no font."""
    return _letters_of(path, path.stat().st_mtime_ns)


@functools.lru_cache(maxsize=64)
def _letters_of(path: Path, changed: int) -> frozenset[int]:
    problem = ""
    try:
        if path.stat().st_size > _LARGEST:
            problem = f"one of more than {_LARGEST // 1_000_000} MB"
        else:
            with TTFont(io.BytesIO(path.read_bytes()), lazy=True, fontNumber=0) as font:
                return frozenset(font.getBestCmap() or ())
    except (TTLibError, KeyError, ValueError, AssertionError, OSError, EOFError) as error:
        problem = f"none that can be read ({error or type(error).__name__})"
    raise RecipeError(
        "finish.marks.font",
        expected=f"a font of letters in {path.name} (TrueType, OpenType or WOFF2)",
        found=problem,
        remedy="Add another file of the font.",
    )


@functools.lru_cache(maxsize=256)
def loaded(path: Path, size: int) -> ImageFont.FreeTypeFont:
    """A font at a size in pixels, which shapes letters by their script (Raqm: HarfBuzz, FriBidi)."""
    try:
        return ImageFont.truetype(str(path), size, layout_engine=ImageFont.Layout.RAQM)
    except OSError as error:
        raise RecipeError(
            "finish.marks.font",
            expected=f"a font of letters in {path.name}",
            found=f"none that can be drawn ({error})",
            remedy="Add another file of the font.",
        ) from error
