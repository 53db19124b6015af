"""Variants of a recipe that are worth trying at an outlet: other sizes, formats, qualities, strengths, colors."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from tray_core.outlets.checking import FORMATS
from tray_core.outlets.sheet import Use
from tray_core.recipe import Recipe, check_recipe
from tray_core.recipe.base import MAX_PIXELS, Station
from tray_core.recipe.frame import parse_pixels
from tray_core.recipe.outlet import Accepted

_GROWS = ("pixels", "width", "height")
_MOST = 8
"""Times the recipe's own pixels beyond which nothing is worth sending."""


class Variant(Station):
    """What differs from the recipe. scale: times its own pixels. chroma: of JPEG and AVIF. strength: of sharpening,
    null as the recipe has it.
    """

    scale: Annotated[float, Field(ge=0.1, le=_MOST)] = 1.0
    format: Accepted = "jpeg"
    quality: Annotated[int, Field(ge=1, le=100)] = 85
    chroma: Literal["auto", "444", "420"] = "auto"
    strength: Annotated[int, Field(ge=0, le=200)] | None = None
    profile: Literal["srgb", "display-p3"] | None = None

    def words(self, width: int) -> tuple[str, str]:
        """What it is, and how it differs, for people. width: as it came out."""
        lossless = self.format in ("png", "tiff", "gif")
        what = f"{width} wide, {FORMATS[self.format]}" + ("" if lossless else f" {self.quality}")
        more = {"444": ["fine color"], "420": ["coarse color"]}.get(self.chroma, [])
        if self.strength is not None:
            more.append(f"sharpened {self.strength} %" if self.strength else "not sharpened")
        if self.profile == "display-p3":
            more.append("Display P3")
        size = {1.0: "native size", 2.0: "twice the size"}.get(self.scale, f"{self.scale:.2g} times the size")
        return what, ", ".join([size, *more]) if self.scale != 1 or not more else ", ".join(more)


def variant_recipe(recipe: Recipe, variant: Variant) -> Recipe:
    """The recipe that makes a variant, with all that the variant says nothing of as it was."""
    plain = recipe.to_json()
    scaled(plain, variant.scale)
    file = plain["file"] if plain["file"]["format"] == variant.format else {}
    kept = {name: value for name, value in file.items() if name in ("metadata", "progressive", "effort")}
    if "metadata" in plain["file"] and variant.format != "gif":
        kept["metadata"] = plain["file"]["metadata"]
    plain["file"] = {"format": variant.format, **kept}
    if variant.format in ("jpeg", "webp", "avif", "pdf"):
        plain["file"]["quality"] = variant.quality
    if variant.format in ("jpeg", "avif") and variant.chroma != "auto":
        plain["file"]["chroma"] = variant.chroma
    if variant.strength is not None:
        plain["sharpen"] = {**(plain.get("sharpen") or {}), "strength": variant.strength}
        plain.get("parts", {}).pop("sharpen", None)
    if variant.profile is not None:
        plain["color"] = {**(plain.get("color") or {}), "profile": variant.profile}
        plain["color"].pop("icc", None)
        plain.get("parts", {}).pop("color", None)
    for name in ("file", *(("size",) if variant.scale != 1 else ())):
        plain.get("parts", {}).pop(name, None)
    return check_recipe(plain)


def scaled(plain: dict[str, Any], scale: float) -> None:
    """Multiply the pixels that a recipe's plain values ask for, in place; shares of the photo's own stay."""
    size, frame = plain.get("size"), plain.get("frame")
    if scale == 1:
        return
    if size:
        for values in (size, *(size[name] for name in ("portrait", "square") if name in size)):
            for name in _GROWS:
                if name in values:
                    values[name] = _edge(values[name] * scale)
            if "megapixels" in values:
                values["megapixels"] = min(300.0, values["megapixels"] * scale**2)
        if "widths" in size:
            size["widths"] = sorted({_edge(each * scale) for each in size["widths"]})
    if frame and frame.get("shape") and (pixels := parse_pixels(frame["shape"])):
        frame["shape"] = f"{_edge(pixels[0] * scale)}x{_edge(pixels[1] * scale)}"


def _edge(pixels: float) -> int:
    return max(1, min(MAX_PIXELS, round(pixels)))


def usual_variants(use: Use, native: tuple[int, int], photo: tuple[int, int]) -> list[Variant]:
    """Up to twelve that people ask about, of those that the use takes. native: pixels as the recipe makes them. photo:
    the most that the photo can give of this shape.
    """
    formats = use.rules.formats
    lossy = next((each for each in ("jpeg", "webp", "avif") if each in formats), None)
    most = min(_limit(use.rules.most, native), _limit(photo, native), float(_MOST))
    sizes = [1.0]
    if most >= 1.95:
        sizes.append(2.0)
    cap = min(most, _limit(use.intake.largest, native)) if use.intake.largest else most
    if cap > 1.1 and all(abs(cap - each) > 0.15 * each for each in sizes):
        sizes.append(round(cap, 3))
    made: list[Variant] = []
    if lossy is not None:
        first = {"jpeg": 85, "webp": 85, "avif": 70}[lossy]
        made += [Variant(scale=size, format=lossy, quality=first) for size in sizes]
        made += [Variant(scale=size, format=lossy, quality=min(100, first + 10)) for size in sizes]
        made.append(Variant(format=lossy, quality=first, strength=160))
        if lossy == "jpeg":
            made.append(Variant(scale=sizes[-1], format=lossy, quality=80, chroma="444"))
    if "png" in formats:
        made += [Variant(scale=size, format="png") for size in sizes[:2]]
    if "webp" in formats and lossy != "webp":
        made.append(Variant(format="webp", quality=90))
    if lossy is not None and use.rules.color == "any":
        made.append(Variant(format=lossy, quality=90, profile="display-p3"))
    return made[:12]


def _limit(box: tuple[int, int] | None, native: tuple[int, int]) -> float:
    return float(_MOST) if box is None else min(box[0] / native[0], box[1] / native[1])
