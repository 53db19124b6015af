"""The receipt: what a finished file says of itself, read back by a decoder that did not write it.

Files are written by libjpeg-turbo and libpng through imagecodecs and read back by Pillow's own
copies of the decoders, from the disk.
"""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass
from pathlib import Path

from PIL import Image

from tray_core.errors import LineError
from tray_core.photo.profiles import profile_name
from tray_core.plan.planning import Plan


@dataclass(frozen=True, kw_only=True, slots=True)
class Receipt:
    """As read from the file. width, height in pixels; profile by name, None without. ppi: the tag, None without.

    differences: sentences, one for each way in which the file is not what was planned.
    notes:       sentences on how it was made that its owner should know.
    """

    width: int
    height: int
    bytes: int
    format: str
    profile: str | None
    mode: str
    ppi: int | None
    sha256: str
    differences: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()


def read_receipt(path: Path, plan: Plan, notes: tuple[str, ...] = ()) -> Receipt:
    """Open the finished file at `path`, decode all of it, and compare it with `plan`.

    LineError when it cannot be opened or decoded at all.
    """
    try:
        data = path.read_bytes()
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            with Image.open(io.BytesIO(data)) as image:
                kind, size = image.format or "?", image.size
                icc = image.info.get("icc_profile")
                ppi = round(image.info["dpi"][0]) if "dpi" in image.info else None
                # All entropy-coded data is read and checked, while the inverse transform is done small.
                image.draft(image.mode, (max(1, size[0] // 8), max(1, size[1] // 8)))
                image.load()
                mode = image.mode
    except (OSError, SyntaxError, ValueError, Warning) as error:
        raise LineError(
            str(path),
            expected="a finished file that opens",
            found=str(error),
            remedy="Make it again; if it happens twice, check the disk.",
        ) from error
    profile = profile_name(icc)
    differences = []
    if size != (plan.width, plan.height):
        differences.append(f"planned {plan.width} × {plan.height}, the file has {size[0]} × {size[1]}")
    if kind.lower() != plan.format:
        differences.append(f"planned {plan.format.upper()}, the file is {kind}")
    if plan.recipe.color is not None and profile != "sRGB":
        differences.append(f"planned sRGB, the file says {profile or 'nothing'}")
    wanted = plan.recipe.size.ppi if plan.recipe.size else None
    if wanted is not None and ppi != wanted:
        differences.append(f"planned {wanted} ppi, the file says {ppi or 'nothing'}")
    return Receipt(
        width=size[0],
        height=size[1],
        bytes=len(data),
        format=kind,
        profile=profile,
        mode=mode,
        ppi=ppi,
        sha256=hashlib.sha256(data).hexdigest(),
        differences=tuple(differences),
        notes=notes,
    )
