"""One rendition through the stations: from a decoded photo to the picture that goes to the coder."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from tray_core.line.cutting import covered, with_shadow, without_ground
from tray_core.line.finishing import finish
from tray_core.line.framing import Source, shown_part, size_needed
from tray_core.line.ground import lay_on_ground
from tray_core.line.sharpen import sharpen
from tray_core.outline import Traced
from tray_core.photo.facts import PhotoFacts
from tray_core.pixels.color import (
    TO_SRGB,
    Target,
    convert,
    flatten,
    needs_conversion,
    rgb_of,
    target_of,
    to_8,
    to_16,
    to_working,
)
from tray_core.pixels.decode import decode, development_of
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.pixels.scale import standard_size
from tray_core.plan.layout import Layout
from tray_core.plan.planning import Plan
from tray_core.recipe.file import HAS_GREY, HAS_PROFILE, KEEPS_ALPHA
from tray_core.recipe.model import Recipe
from tray_core.recipe.stations import Color
from tray_core.tone import NEUTRAL, Tone


def work(
    source: Source,
    recipe: Recipe,
    layout: Layout,
    strength: int | None = None,
    tone: Tone = NEUTRAL,
    outline: Traced | None = None,
) -> Picture:
    """Take a decoded photo through the stations of `recipe` to the whole canvas of `layout`, ready to be encoded.

    strength: of the sharpening, instead of the recipe's own. tone, outline: the photo's. Where the source is wider than
    the result (16 bits, another color space, linear light, corrections, a tone) all stations work in 16 bits, and only
    the last step reduces them. Padding, borders and marks are laid beside and over the finished picture: they have the
    colors asked for, and no sharpened rim.
    RecipeError when the recipe's profile file is missing, LineError for colors that mean nothing.
    """
    picture, mask = resized(source, recipe, layout, tone, outline)
    deep = source.picture.pixels.dtype != np.uint8 or source.tones(tone)
    return finished(picture, mask, recipe, layout, strength, deep)


def resized(
    source: Source, recipe: Recipe, layout: Layout, tone: Tone = NEUTRAL, outline: Traced | None = None
) -> tuple[Picture, Pixels8 | None]:
    """The first half of `work`: up to the pixels of the rendition, with the mask of what of them is shown: what lies
    inside the photo, and in its object where that is cut out.
    """
    size = recipe.size
    picture, mask = shown_part(source, layout, size is not None and size.light == "linear", recipe.prep, tone)
    if recipe.cutout is None or not recipe.cutout.cuts or outline is None:
        return picture, mask
    cover = covered(layout, outline)
    return without_ground(picture, cover), cover if mask is None else np.minimum(cover, mask)


def finished(
    picture: Picture,
    mask: Pixels8 | None,
    recipe: Recipe,
    layout: Layout,
    strength: int | None = None,
    deep: bool = False,
) -> Picture:
    """The second half of `work`. deep: whether the photo has more than 8 bits, which are dithered when reduced."""
    color, goal = recipe.color or Color(), goal_of(recipe, picture)
    if picture.alpha and recipe.file.format not in KEEPS_ALPHA:
        picture = flatten(picture, matte_of(recipe))
    if goal is not None and needs_conversion(picture, goal):
        picture = to_16(picture)
    if recipe.sharpen is not None and (recipe.sharpen.strength if strength is None else strength):
        picture = sharpen(to_working(picture), recipe.sharpen, strength)
    if goal is not None:
        if picture.alpha and goal.space != "RGB":
            picture = flatten(picture, matte_of(recipe))
        picture = convert(picture, goal)
        if picture.space == "grey" and recipe.file.format not in HAS_GREY:
            picture = convert(picture, TO_SRGB)
    if color.bits == 8:
        corrected = recipe.prep is not None and recipe.prep.corrects
        picture = to_8(picture, dither=color.dither and (deep or corrected))
    else:
        picture = to_16(picture)
    if layout.padded or mask is not None:
        transparent = recipe.file.format in KEEPS_ALPHA and picture.space != "CMYK"
        picture = lay_on_ground(picture, layout, mask, transparent=transparent)
    if recipe.cutout is not None and recipe.cutout.shadow is not None and mask is not None:
        picture = with_shadow(picture, layout, mask, recipe.cutout.shadow)
    if layout.turn:
        picture = replace(picture, pixels=np.rot90(picture.pixels, -(layout.turn // 90)))
    return finish(picture, recipe, layout) if recipe.finish is not None else picture


def goal_of(recipe: Recipe, picture: Picture) -> Target | None:
    """The space that `recipe` takes a photo like `picture` to; None where it keeps its own."""
    # Inks have no luminance to sharpen, and no browser shows them: they stay only where inks are asked for. What a
    # file without a profile holds is taken for sRGB.
    if recipe.file.format not in HAS_PROFILE:
        return TO_SRGB
    return target_of(recipe.color) or (TO_SRGB if picture.space == "CMYK" else None)


def matte_of(recipe: Recipe) -> tuple[int, int, int]:
    """The color behind transparent parts, as 8-bit sRGB values: the new ground of a cut-out, or else the matte."""
    ground = rgb_of(recipe.cutout.ground) if recipe.cutout is not None else None
    return ground or rgb_of((recipe.color or Color()).matte) or (255, 255, 255)


def part_of(canvas: Picture, plan: Plan) -> Picture:
    """The panel of the finished rendition that `plan` is of; the whole without panels."""
    if plan.panel is None:
        return canvas
    left, top, width, height = plan.layout.panel(plan.panel)
    return replace(canvas, pixels=canvas.pixels[top : top + height, left : left + width])


def size_wanted(facts: PhotoFacts, recipe: Recipe, layout: Layout) -> tuple[int, int]:
    """(width, height) that `decode` is asked for, for a rendition: one of two, whatever else is made beside it.

    A photo is decoded at its standard scale, or whole where a rendition needs more than that: so the same photo
    and recipe give the same bytes, alone or with others. Linear light and first-pass sharpening start from the whole
    picture: what was averaged in gamma-encoded values cannot be undone.
    """
    size, prep = recipe.size, recipe.prep
    whole = (size is not None and size.light == "linear") or (prep is not None and prep.sharpen is not None)
    needed = size_needed(layout)
    standard = standard_size(facts)
    if whole or any(want > have for want, have in zip(needed, standard, strict=True)):
        return facts.width, facts.height
    return standard


def decoded_for(facts: PhotoFacts, data: bytes, recipe: Recipe, layout: Layout, tone: Tone = NEUTRAL) -> Source:
    """The photo decoded as a rendition needs it, camera raw developed for its tone."""
    wanted = size_wanted(facts, recipe, layout)
    development = development_of(facts, tone)
    return Source(decode(facts, data, wanted, development), (facts.width, facts.height), development is not None)
