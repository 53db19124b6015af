"""The recipe: one kind of rendition, as an ordered line of stations."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.cutout import Cutout, check_cutout
from tray_core.recipe.file import KEEPS_16_BITS, File, Lossy
from tray_core.recipe.finish import Finish, check_finish
from tray_core.recipe.frame import BoundsFrame, Frame, KeepFrame
from tray_core.recipe.metadata import Metadata
from tray_core.recipe.name import Name
from tray_core.recipe.outlet import ForOutlet
from tray_core.recipe.place import Place
from tray_core.recipe.size import ExactSize, Size
from tray_core.recipe.stations import Color, Prep, Sharpen

FORMAT = "upper-tray/recipe"
VERSION = 1

_USUAL: tuple[tuple[str, str, Any], ...] = (
    *(("frame", "fill", "#ffffff"), ("size", "light", "gamma")),
    *(("place", "sidecars", []), ("place", "afterwards", [])),
)
"""Values that a recipe file is easier to read without."""

_SHORT = ("prep", "cutout", "sharpen", "finish", "color", "file", "name")
"""Stations of which only what differs from the usual is written,"""

_SAID = ("ground", "strength", "profile", "format", "quality", "pattern")
"""and these, that people look for."""

StationName = Literal["prep", "cutout", "frame", "size", "sharpen", "finish", "color", "file", "name", "place"]


_FIRST, _LAST = ("way", "by", "format"), ("enlarge", "light", "ppi", "minimum", "fill", "panels")


def _ordered(station: dict[str, Any]) -> dict[str, Any]:
    """A station's keys as one reads them: its kind, its values, and then what modifies them."""
    return dict(sorted(station.items(), key=lambda item: (item[0] in _LAST) - (item[0] in _FIRST)))


def _shortened(station: Station, values: dict[str, Any], said: set[str]) -> dict[str, Any]:
    """`values` of a station without those that are as usual, but for those named in `said`."""
    usual = {name: field.default for name, field in type(station).model_fields.items()}
    usual = {name: list(value) if isinstance(value, tuple) else value for name, value in usual.items()}
    return {key: value for key, value in values.items() if key in said or usual.get(key) != value}


def _finish_json(finish: Finish, values: dict[str, Any]) -> dict[str, Any]:
    """The borders, marks and stamp that there are, each without what is as usual."""
    made: dict[str, Any] = {}
    for name, said in (("borders", {"width", "color"}), ("marks", {"text", "picture", "at"})):
        if name in values:
            pairs = zip(getattr(finish, name), values[name], strict=True)
            made[name] = [
                _shortened(each, plain, said - ({"color"} if plain.get("blur") else set())) for each, plain in pairs
            ]
    if finish.proof is not None:
        made["proof"] = _shortened(finish.proof, values["proof"], {"text"})
    return made


def _quality_is_found(file: File) -> bool:
    return getattr(file, "lossless", False) or (isinstance(file, Lossy) and file.searched)


class Recipe(Station):
    """A recipe file, version 1.

    Stations that are left out do nothing; file, name and place are always there. A recipe without a
    title takes the name of its file.
    """

    format: Literal["upper-tray/recipe"]
    version: Literal[1]
    title: Annotated[str, Field(max_length=80, description="What people call the recipe.")] = ""
    shelf: Annotated[str, Field(max_length=60, description="The group that the recipe stands in.")] = ""
    note: Annotated[str, Field(max_length=500, description="What people should know of it.")] = ""
    parts: Annotated[
        dict[StationName, Annotated[str, Field(min_length=1, max_length=60)]],
        Field(description="Stations that follow a part which several recipes share, with its name."),
    ] = {}
    outlet: Annotated[ForOutlet | None, Field(description="The outlet and use that it is for, with its rules.")] = None
    prep: Prep | None = None
    cutout: Cutout | None = None
    frame: Frame | None = None
    size: Size | None = None
    sharpen: Sharpen | None = None
    finish: Finish | None = None
    color: Color | None = None
    file: File
    name: Name
    place: Place

    @property
    def metadata(self) -> Metadata | None:
        """What of the photo's words goes into its file; None where the format has no place for any."""
        return getattr(self.file, "metadata", None)

    @property
    def coded(self) -> File:
        """The file station as it codes: a proof has no more quality than it says."""
        most = self.finish.proof.quality if self.finish is not None and self.finish.proof is not None else "any"
        if most == "any" or not isinstance(self.file, Lossy) or getattr(self.file, "lossless", False):
            return self.file
        if self.file.searched:
            return self.file.model_copy(update={"quality": most, "under_kb": None, "looks": None})
        return self.file.model_copy(update={"quality": min(most, self.file.quality)})

    def __hash__(self) -> int:
        # By what decides the renditions; the mapping of parts cannot be hashed and need not be.
        stations = (self.prep, self.cutout, self.frame, self.size, self.sharpen, self.finish, self.color, self.file)
        return hash((self.title, *stations, self.name, self.place))

    @model_validator(mode="after")
    def _stations_agree(self) -> Recipe:
        frame, exact = self.frame, isinstance(self.size, ExactSize)
        if exact and (frame is None or isinstance(frame, KeepFrame | BoundsFrame)):
            raise Conflict(
                "size.by",
                expected="a size that keeps the shape of the picture",
                found="exact pixels without a shape",
                remedy="Let the frame crop, pad or stretch, or choose another measure.",
            )
        shape = getattr(frame, "shape", "")
        if exact and shape is not None:
            raise Conflict(
                "frame.shape",
                expected="no shape, since the size gives exact pixels",
                found=repr(shape),
                remedy="Leave the shape out, or choose another measure of size.",
            )
        if not exact and shape is None:
            raise Conflict(
                "frame.shape",
                expected="a ratio or exact pixels",
                found="nothing",
                remedy="Write for example 3:2 or 1920x640, or let the size give exact pixels.",
            )
        if isinstance(frame, BoundsFrame) and frame.order > 0:
            raise Conflict(
                "frame.widest",
                expected=f"a shape at least as wide as {frame.narrowest}",
                found=repr(frame.widest),
                remedy="Exchange the two.",
            )
        if self.finish is not None:
            check_finish(self.finish, shaped=bool(shape) or exact)
        if self.cutout is not None and self.file.format != "same":
            check_cutout(self.cutout, frame, self.file)
        if self.color is not None and self.color.bits == 16 and self.file.format not in KEEPS_16_BITS:
            raise Conflict(
                "color.bits",
                expected=f"8, since {self.file.format.upper()} holds no more",
                found="16",
                remedy="Write 8, or choose PNG or TIFF.",
            )
        if self.file.format == "same":
            for station in ("prep", "cutout", "frame", "size", "sharpen", "finish", "color"):
                if getattr(self, station) is not None:
                    raise Conflict(
                        station,
                        expected="nothing, since the file stays as it is",
                        found=f"a {station} station",
                        remedy="Leave it out, or choose a format.",
                    )
        missing = [name for name in self.parts if getattr(self, name) is None]
        if missing:
            raise Conflict(
                f"parts.{missing[0]}",
                expected="the station that follows the part",
                found=f"no {missing[0]} station",
                remedy="Write the station too, or take it out of the parts.",
            )
        return self

    def to_json(self) -> dict[str, Any]:
        """The plain JSON of this recipe, without the stations that do nothing and the texts that say nothing."""
        made = self.model_dump(mode="json", exclude_none=True)
        for station, key, usual in _USUAL:
            if made.get(station, {}).get(key) == usual:
                del made[station][key]
        for name in _SHORT:
            if name in made:
                said = set(_SAID) - ({"quality"} if _quality_is_found(self.file) else set())
                made[name] = _shortened(getattr(self, name), made[name], said)
        if self.cutout is not None and self.cutout.shadow is not None:
            made["cutout"]["shadow"] = _shortened(self.cutout.shadow, made["cutout"]["shadow"], {"strength"})
        if self.finish is not None:
            made["finish"] |= _finish_json(self.finish, made["finish"])
        if (metadata := made["file"].get("metadata")) is not None:
            made["file"]["metadata"] = {key: value for key, value in metadata.items() if value or key == "keep"}
        if self.outlet is not None:
            made["outlet"] = self.outlet.model_dump(mode="json", exclude_defaults=True)
        found = {key: value for key, value in made.items() if value not in ("", {}) or key in ("title", *_SHORT)}
        return {key: _ordered(value) if isinstance(value, dict) else value for key, value in found.items()}


def recipe_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a recipe file."""
    schema = Recipe.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "Upper Tray recipe"}
