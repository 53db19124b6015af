"""An outlet's rule sheet as a plain JSON file: its uses with their rules, its intake, the words that it takes."""

from __future__ import annotations

import datetime as dt
import json
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, ValidationError, model_validator

from tray_core.errors import RecipeError
from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.file import Quality
from tray_core.recipe.outlet import Edge, Pair, Rules, Shape, Title
from tray_core.recipe.reading import problem_of

FORMAT = "upper-tray/outlet"
VERSION = 1
MOST_USES = 20


def _date(text: str) -> str:
    if text:
        try:
            dt.date.fromisoformat(text)
        except ValueError:
            raise ValueError(f"{text!r}; write the day as 2031-10-14") from None
    return text


class Intake(Station):
    """What an outlet does to an upload, in this order.

    crop: the shape that its middle is cut to, where the rules crop. largest: the box that it is made to fit; smaller
    pictures keep their size. resampling: lanczos or bicubic, as a good resizer does it; bilinear, which reads only four
    pixels, and so aliases. format: what it saves; same keeps JPEG, PNG, WebP. untouched: whether a file is served as it
    was sent where it is small enough already and has the format. profile: drop leaves values as they are, srgb converts
    them. metadata: strip, or keep (of what is saved anew, nothing can be kept). copies: widths for pages that offer
    several.
    """

    largest: Pair | None = None
    crop: Shape | None = None
    resampling: Literal["lanczos", "bicubic", "bilinear"] = "bicubic"
    format: Literal["jpeg", "webp", "same"] = "jpeg"
    quality: Quality = 75
    chroma: Literal["420", "444"] = "420"
    untouched: bool = False
    profile: Literal["drop", "srgb", "keep"] = "srgb"
    metadata: Literal["strip", "keep"] = "strip"
    copies: Annotated[tuple[Edge, ...], Field(strict=False, max_length=8)] = ()


class Use(Station):
    """One kind of picture that the outlet takes: post, cover, story.

    shown: the pixels of the screen that it is seen with, width and height at most. page: where it is seen.
    """

    use: Title
    rules: Rules = Rules()
    intake: Intake = Intake()
    shown: Pair | None = None
    page: Literal["grid", "feed", "story", "article"] = "feed"

    @model_validator(mode="after")
    def _crops(self) -> Use:
        if self.intake.crop and self.rules.outside == "refused" and not (self.rules.narrowest or self.rules.widest):
            raise Conflict(
                "rules.outside",
                expected="cropped, since the intake crops",
                found="refused",
                remedy="Choose cropped, or let the intake crop nothing.",
                inner=True,
            )
        return self

    @property
    def seen(self) -> tuple[int, int] | None:
        """The box of pixels that people see it in."""
        return self.shown or self.rules.best or self.intake.largest


class WordRules(Station):
    """The longest words that an outlet takes, in characters; keywords: how many. 0 for none at all."""

    title: Annotated[int, Field(ge=0, le=10_000)] | None = None
    description: Annotated[int, Field(ge=0, le=100_000)] | None = None
    alt: Annotated[int, Field(ge=0, le=10_000)] | None = None
    keywords: Annotated[int, Field(ge=0, le=1_000)] | None = None


class Outlet(Station):
    """An outlet's rule sheet, version 1. checked: the day on which somebody looked whether it is still true."""

    format: Literal["upper-tray/outlet"]
    version: Literal[1]
    name: Title
    checked: Annotated[str, AfterValidator(_date)] = ""
    notes: Annotated[str, Field(max_length=2000)] = ""
    uses: Annotated[tuple[Use, ...], Field(strict=False, min_length=1, max_length=MOST_USES)]
    words: WordRules = WordRules()

    @model_validator(mode="after")
    def _names_once(self) -> Outlet:
        names = [use.use.casefold() for use in self.uses]
        twice = next((use.use for use in self.uses if names.count(use.use.casefold()) > 1), None)
        if twice is not None:
            found = f"{twice!r} twice"
            raise Conflict("uses", expected="each use once", found=found, remedy="Rename one of them.")
        return self

    def use(self, name: str) -> Use | None:
        """The use of that name; None where there is none."""
        return next((use for use in self.uses if use.use == name), None)

    def to_json(self) -> dict[str, Any]:
        """Plain JSON without what is as usual."""
        made = self.model_dump(mode="json", exclude_defaults=True)
        return {"format": FORMAT, "version": VERSION, **made}


def check_outlet(data: Any, source: str = "") -> Outlet:
    """The outlet of plain JSON values; RecipeError names the first wrong field by its path."""
    lead = f"{source}: " if source else ""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        found = repr(data.get("format")) if isinstance(data, dict) else f"a {type(data).__name__}"
        remedy = "Is this the sheet of an outlet?"
        raise RecipeError(f"{lead}format", expected=f"{FORMAT!r}", found=found, remedy=remedy)
    if isinstance(version := data.get("version"), int) and version > VERSION:
        remedy = "The sheet was written by a newer version of the product; update this one."
        raise RecipeError(f"{lead}version", expected=f"at most {VERSION}", found=str(version), remedy=remedy)
    try:
        return Outlet.model_validate(data)
    except ValidationError as error:
        raise problem_of(lead, error.errors()[0]) from error


def read_outlet_file(path: Path | str) -> Outlet:
    """Read and check the sheet at `path`; RecipeError names file and JSON path."""
    try:
        data = json.loads(Path(path).read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as error:
        found = (error.strerror or "an error").lower() if isinstance(error, OSError) else "no JSON"
        raise RecipeError(
            str(path), expected="the sheet of an outlet", found=found, remedy="Check the path and the file."
        ) from error
    return check_outlet(data, str(path))


def outlet_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of an outlet's sheet."""
    schema = Outlet.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "Upper Tray outlet"}
