"""The cut-out station: the photo's object without its plain ground, by its outline."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.file import KEEPS_ALPHA, File
from tray_core.recipe.frame import BoundsFrame, Frame, KeepFrame, StretchFrame, check_color

PATHS = ("tiff", "jpeg", "pdf")
"""Formats that may carry the outline: as a clipping path, or, for JPEG, as path data in its XMP."""


def _ground(text: str) -> str:
    return text if text in ("keep", "clear") else check_color(text, "keep, clear, or ")


Ground = Annotated[
    str,
    AfterValidator(_ground),
    Field(description='What takes the ground’s place: "clear", a color such as "#ffffff", or "keep" for itself.'),
]


class Shadow(Station):
    """A soft shadow of the object on its new ground, in % of the object's longer edge.

    strength: how dark, in %. blur: how soft. across, down: where it falls.
    """

    strength: Annotated[int, Field(ge=1, le=100)] = 35
    blur: Annotated[float, Field(ge=0, le=20)] = 3.0
    across: Annotated[float, Field(ge=-50, le=50)] = 0.0
    down: Annotated[float, Field(ge=-50, le=50)] = 2.0


class Cutout(Station):
    """The object alone, by its outline, which belongs to the photo.

    ground: of the rendition. fit: the frame lies around the object, so that its box fills what the margin leaves, or so
    that all objects have one area, as far as the box leaves room; or it lies as elsewhere. margin: in % of the shorter
    edge. path: the name of the outline that goes into the file, for layouts; "" for none. svg: whether it is put beside
    the file, too.
    """

    ground: Ground = "clear"
    fit: Literal["no", "box", "area"] = "no"
    margin: Annotated[float, Field(ge=0, le=40)] = 8.0
    shadow: Shadow | None = None
    path: Annotated[str, Field(max_length=60)] = ""
    svg: bool = False

    @property
    def cuts(self) -> bool:
        """Whether the ground goes."""
        return self.ground != "keep"


def check_cutout(cutout: Cutout, frame: Frame | None, file: File) -> None:
    """Conflict where the other stations leave no room for what the cut-out asks."""
    if cutout.ground == "clear" and file.format not in KEEPS_ALPHA:
        raise Conflict(
            "cutout.ground",
            expected=f"a color, since {file.format.upper()} holds no transparency",
            found="clear",
            remedy="Choose a color, or PNG, WebP, AVIF or TIFF.",
        )
    if cutout.shadow is not None and not cutout.cuts:
        raise Conflict(
            "cutout.shadow",
            expected="a new ground, since the old one has its shadows",
            found="a shadow on the photo's own ground",
            remedy="Leave the shadow out, or choose another ground.",
        )
    if cutout.path and file.format not in PATHS:
        raise Conflict(
            "cutout.path",
            expected=f"no path in the file, since {file.format.upper()} has no place for one",
            found=repr(cutout.path),
            remedy="Leave it out, have it put beside the file as SVG, or choose TIFF, JPEG or PDF.",
        )
    if cutout.fit == "no":
        return
    split = frame is not None and frame.split != (1, 1)
    if split or isinstance(frame, StretchFrame | BoundsFrame):
        what = "panels" if split else "a stretched frame" if isinstance(frame, StretchFrame) else "bounds"
        raise Conflict(
            "cutout.fit",
            expected="a frame that keeps, crops or pads to one picture",
            found=what,
            remedy="Choose another frame, or let the frame lie as elsewhere.",
        )
    if cutout.fit == "area" and (frame is None or isinstance(frame, KeepFrame)):
        raise Conflict(
            "cutout.fit",
            expected="a shape, in which all objects have one area",
            found="no shape",
            remedy="Let the frame crop or pad to a shape, or fit by the box.",
        )
