"""What a photo's tone says: plain numbers, each with a neutral value that changes nothing."""

from __future__ import annotations

import itertools
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from tray_core.errors import RecipeError

Percent = Annotated[int, Field(ge=-100, le=100)]
Amount = Annotated[int, Field(ge=0, le=100)]
Balance = Literal["shot", "daylight", "shade", "lamp"]
Share = Annotated[float, Field(ge=0, le=1)]
Point = Annotated[tuple[Share, Share], Field(strict=False)]
MOST_POINTS = 16


class Development(NamedTuple):
    """What of a tone is done while camera raw is developed. All of its light up to `HEADROOM` times white is kept."""

    balance: Balance = "shot"
    noise: int = 0
    color_noise: int = 0


HEADROOM = 4.0
"""How much lighter than white, in linear light, what a development keeps may be: two EV, more than cameras have."""


class Tone(BaseModel):
    """Light and color of one photo.

    exposure: EV, a factor of 2 in linear light each. temperature: towards blue or amber; tint: towards green or
    magenta. contrast: around middle grey. light, dark: the light and the dark tones alone, lighter or darker. white,
    black: where the ends lie; above 0 they come closer, and more is lost there. curve: points (in, out) of encoded
    lightness between the ends, which stay. local: contrast of what is smaller than a fiftieth of the photo, without
    rims at edges. saturation: of all colors. muted: of muted colors alone, those of skin spared. recover: how softly
    what is lighter than white ends there, instead of being cut off. vignette: lighter towards the corners, or darker.
    mirror: left is right. balance, noise, color_noise: of camera raw alone, whose light it was taken in and how much
    its grain and its colored spots are smoothed; other photos have no use for them.
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
    recover: Amount = 0
    vignette: Percent = 0
    mirror: bool = False
    balance: Balance = "shot"
    noise: Amount = 0
    color_noise: Amount = 0

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

    @property
    def graded(self) -> bool:
        """Whether it changes light or color of any photo, and not only how one is developed or mirrored."""
        return any(getattr(self, name) != _NEUTRAL_VALUES[name] for name in _GRADING)

    @property
    def development(self) -> Development:
        """How camera raw is developed for it."""
        return Development(self.balance, self.noise, self.color_noise)

    def to_json(self) -> dict[str, Any]:
        """Plain values without those that are neutral."""
        values = self.model_dump(mode="json")
        return {name: value for name, value in values.items() if getattr(self, name) != _NEUTRAL_VALUES[name]}


NEUTRAL = Tone()
_NEUTRAL_VALUES = NEUTRAL.model_dump()
_GRADING = set(Tone.model_fields) - {"mirror", *Development._fields}


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
