"""What a photo's tone says: plain numbers, each with a neutral value that changes nothing."""

from __future__ import annotations

import itertools
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from tray_core.errors import RecipeError

Percent = Annotated[int, Field(ge=-100, le=100)]
Share = Annotated[float, Field(ge=0, le=1)]
Point = Annotated[tuple[Share, Share], Field(strict=False)]
MOST_POINTS = 16


class Tone(BaseModel):
    """Light and color of one photo.

    exposure: EV, a factor of 2 in linear light each. temperature: towards blue or amber; tint: towards green or
    magenta. contrast: around middle grey. light, dark: the light and the dark tones alone, lighter or darker. white,
    black: where the ends lie; above 0 they come closer, and more is lost there. curve: points (in, out) of encoded
    lightness between the ends, which stay. local: contrast of what is smaller than a fiftieth of the photo, without
    rims at edges. saturation: of all colors. muted: of muted colors alone, those of skin spared.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)

    exposure: Annotated[float, Field(ge=-5, le=5)] = 0.0
    temperature: Percent = 0
    tint: Percent = 0
    contrast: Percent = 0
    light: Percent = 0
    dark: Percent = 0
    white: Percent = 0
    black: Percent = 0
    curve: Annotated[tuple[Point, ...], Field(strict=False, max_length=MOST_POINTS)] = ()
    local: Percent = 0
    saturation: Percent = 0
    muted: Percent = 0

    @model_validator(mode="after")
    def _rises(self) -> Tone:
        for (x0, y0), (x1, y1) in itertools.pairwise(((0.0, 0.0), *self.curve, (1.0, 1.0))):
            if x1 <= x0 and (x0, x1) not in ((0.0, 0.0), (1.0, 1.0)):
                raise ValueError("curve points that do not follow each other; sort them from dark to light")
            if y1 < y0:
                raise ValueError("a curve that falls; lighter tones have to stay lighter")
        return self

    @property
    def neutral(self) -> bool:
        """Whether nothing is changed, bit for bit."""
        return self == NEUTRAL

    def to_json(self) -> dict[str, Any]:
        """Plain values without those that are neutral."""
        values = self.model_dump(mode="json")
        return {name: value for name, value in values.items() if value != _NEUTRAL_VALUES[name]}


NEUTRAL = Tone()
_NEUTRAL_VALUES = NEUTRAL.model_dump(mode="json")


def check_tone(data: Any, source: str = "tone") -> Tone:
    """The tone of plain JSON values; RecipeError names the first wrong field by its path."""
    try:
        if not isinstance(data, dict):
            kind = type(data).__name__
            raise RecipeError(source, expected="an object", found=kind, remedy="Write it as { ... }.")
        # A whole number is an exposure, too.
        whole = data | ({"exposure": float(data["exposure"])} if type(data.get("exposure")) is int else {})
        return Tone.model_validate(whole)
    except ValidationError as error:
        details = error.errors()[0]
        path = ".".join((source, *map(str, details["loc"])))
        if details["type"] == "extra_forbidden":
            known = ", ".join(Tone.model_fields)
            raise RecipeError(
                path,
                expected=f"one of {known}",
                found="an unknown key",
                remedy="Remove it; it may be from a newer version of the product.",
            ) from error
        expected = details["msg"][:1].lower() + details["msg"][1:]
        found = repr(details["input"])[:60]
        raise RecipeError(path, expected=expected, found=found, remedy="Correct the value.") from error


def tone_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a photo's tone."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Tone.model_json_schema(), "title": "Tone"}
