"""Profile files by name: the spaces that ship with the product, and ICC files of one's own."""

from __future__ import annotations

import functools
import os
from pathlib import Path, PurePosixPath

from tray_core.errors import RecipeError
from tray_core.photo.profile_check import profile_problem
from tray_core.photo.profiles import SRGB, read_profile

SHIPPED = Path(__file__).parent.parent / "profiles"

NAMED = {
    "srgb": SRGB,
    "display-p3": (SHIPPED / "Display-P3.icc").read_bytes(),
    "adobe-rgb": (SHIPPED / "Adobe-RGB-compatible.icc").read_bytes(),
    "grey": (SHIPPED / "Grey.icc").read_bytes(),
}
"""The spaces that recipes name."""

FOLDERS = "UPPER_TRAY_PROFILES"
"""The environment variable with the folders of one's own profiles, separated as paths are. A recipe names a file in
one of them, or in a folder right below: `press.icc`, `chemists/press.icc`.
"""

_SPACES = ("RGB", "grey", "CMYK")


def folders() -> tuple[Path, ...]:
    """Where profile files are looked for, the product's own last."""
    own = os.environ.get(FOLDERS, "")
    return (*(Path(each) for each in own.split(os.pathsep) if each), SHIPPED)


def profile_files(below: str = "") -> list[str]:
    """The names of all profile files that can be used, sorted; those of the named spaces are left out.

    below: the folder right below those of one's own that is looked into instead of these.
    """
    looked = [SHIPPED if folder == SHIPPED else folder / below for folder in folders()]
    found = {path.name for folder in looked if folder.is_dir() for path in folder.glob("*.ic[cm]")}
    return sorted(found - {"sRGB.icc", "Display-P3.icc", "Adobe-RGB-compatible.icc", "Grey.icc"})


def profile_file(name: str) -> bytes:
    """The profile file `name`; RecipeError names the field `color.icc` where it is missing or no such profile."""
    steps = PurePosixPath(name).parts
    if len(steps) <= 2 and ".." not in steps and not name.startswith("/"):
        for path in (*(folder / name for folder in folders()), SHIPPED / steps[-1]):
            if path.is_file():
                return checked_profile(_content(path, path.stat().st_mtime_ns), steps[-1])
    raise RecipeError(
        "color.icc",
        expected=f"a profile file named {steps[-1]}",
        found="none of that name",
        remedy="Add the file to the profiles, or choose another.",
    )


def checked_profile(data: bytes, name: str) -> bytes:
    """`data` itself, if it is a profile that a rendition can be converted to; RecipeError otherwise."""
    facts = read_profile(data)
    if facts is None:
        found = "no ICC profile"
    elif facts.space not in _SPACES:
        found = f"one for {facts.space} values"
    elif (problem := profile_problem(data, facts.space, target=True)) is not None:
        found = f"one that {problem}"
    else:
        return data
    expected = f"an RGB, grey or CMYK profile in {name} that pictures can be converted to"
    raise RecipeError("color.icc", expected=expected, found=found, remedy="Choose another profile file.")


@functools.lru_cache(maxsize=32)
def _content(path: Path, changed: int) -> bytes:
    return path.read_bytes()
