"""What a plan warns of; each caution says what to do about it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from tray_core.marks.text import fitted, room_for
from tray_core.outlets.checking import FileFacts, breaches
from tray_core.outline import Traced
from tray_core.photo.facts import PhotoFacts
from tray_core.plan.layout import Layout
from tray_core.plan.naming import Field, Stem, words_lacking
from tray_core.recipe.finish import Finish, TextMark
from tray_core.recipe.model import Recipe

MOST_CUT = 0.335
"""A crop that cuts away more of a photo than a third, in whole per cent, gets a caution."""

Code = Literal[
    "eye",
    "outline",
    "cuts",
    "enlarged",
    "smaller",
    "minimum",
    "same-name",
    "no-profile",
    "no-date",
    "no-word",
    "unread",
    "slow-name",
    "not-beside",
    "ends-early",
    "own-color",
    "looks",
    "limit",
    "lost",
    "no-letter",
    "no-mark-word",
    "mark-smaller",
    "outlet",
]


@dataclass(frozen=True, slots=True)
class Caution:
    """code: a stable word for programs. label: two words. text: a sentence that says what to do about it."""

    code: Code
    label: str
    text: str


def percent(share: float) -> str:
    """A share as whole per cent."""
    return f"{round(100 * share)} %"


def layout_cautions(
    layout: Layout, recipe: Recipe, width: int, height: int, outline: Traced | None = None
) -> Iterator[Caution]:
    """What the shape and size of one rendition warn of. width, height: of one panel, in pixels."""
    if recipe.cutout is not None and (outline is None or not outline.sure):
        why = "No outline of an object was found" if outline is None else "The outline is not certain"
        yield Caution("outline", "check the outline", f"{why}; open it, look at the outline and keep it.")
    if layout.asks:
        crops_itself = getattr(recipe.frame, "anchor", "") == "interest"
        why = "No crop of this shape keeps its subject whole" if crops_itself else "No crop chosen yet"
        yield Caution("eye", "place the crop", f"{why}; open it and place the crop.")
    if layout.cut > MOST_CUT and not layout.framing:
        cut = percent(layout.cut)
        yield Caution("cuts", f"crop cuts {cut}", f"The crop cuts away {cut} of the photo; look at it, or pad instead.")
    if layout.scale > 1.0001:
        scale = percent(layout.scale)
        yield Caution("enlarged", f"enlarged {scale}", f"It is enlarged to {scale}; use a larger original if you can.")
    # Compared in whole pixels' terms: half a pixel of rounding is no enlargement.
    elif layout.wanted > max(1.0, layout.scale) * 1.0001:
        yield Caution(
            "smaller",
            "own size",
            f"It would have to be enlarged to {percent(layout.wanted)}, and stays smaller; "
            "use a larger original if you can.",
        )
    least = recipe.size.minimum if recipe.size else None
    if least is not None and (width < least.width or height < least.height):
        yield Caution(
            "minimum",
            "too small",
            f"The outlet takes nothing below {least.words}, and this is {width} × {height}; "
            "use a larger original, or show more of the photo.",
        )


def mark_cautions(layout: Layout, finish: Finish, fields: Mapping[str, Field]) -> Iterator[Caution]:
    """What the texts over one rendition warn of. layout: with these texts, in the order of `finish.texts`."""
    missing = {word for pattern in finish.texts for word in words_lacking(pattern, fields)}
    for word in sorted(missing):
        text = f"The photo has no {word} for the text over it; type one on the sheet, or write {{{word} or stem}}."
        yield Caution("no-mark-word", f"no {word}", text)
    texts = iter(layout.texts)
    for mark in finish.marks:
        if not isinstance(mark, TextMark) or not (said := next(texts)).strip():
            continue
        area = layout.outer if mark.over == "all" else layout.canvas
        fit = fitted(mark, said, room_for(mark, area), min(area))
        if fit.missing:
            shown = " ".join(fit.missing[:5])
            text = f"The font has no letter for {shown}, which stays empty; add a font that has it, and choose that."
            yield Caution("no-letter", "letters missing", text)
        if fit.smaller:
            text = f"The text over it is too long for its size and is written with {fit.size} px; shorten it."
            yield Caution("mark-smaller", "text made smaller", text)


def photo_cautions(facts: PhotoFacts, recipe: Recipe) -> Iterator[Caution]:
    """What the photo itself warns of."""
    if facts.profile is None and recipe.color is not None and facts.format not in ("SVG", "PDF"):
        text = f"The photo{no_profile(facts)} and is taken {taken_for(facts)}; check its colors."
        yield Caution("no-profile", "profile unusable" if facts.bad_profile else "no profile", text)
    if facts.mode == "CMYK" and recipe.color is None:
        text = "A CMYK photo is converted to sRGB all the same; browsers show no other colors right."
        yield Caution("own-color", "CMYK", text)
    if facts.taken is None and "{date" in recipe.name.pattern + recipe.place.subfolder:
        text = "The photo does not say when it was taken; the file's own date is used."
        yield Caution("no-date", "no date", text)
    if recipe.place.to == "beside" and not facts.beside:
        text = "Nothing may be put beside the photo: its folder is not marked as writable, or it was uploaded."
        yield Caution("not-beside", "cannot lie beside", f"{text} Choose the output folder.")
    if facts.ends_early:
        text = "The file ends early and may be damaged; copy it again from the camera."
        yield Caution("ends-early", "ends early", text)
    if facts.unread and ((recipe.metadata is not None and recipe.metadata.writes) or recipe.name.tells_words):
        yield Caution("unread", "words unread", " ".join(facts.unread))


def outlet_cautions(facts: PhotoFacts, recipe: Recipe, width: int, height: int) -> Iterator[Caution]:
    """Which rules of the outlet that `recipe` is for one rendition breaks. width, height: in pixels."""
    if recipe.outlet is None:
        return
    target, own = recipe.outlet, recipe.color is None or recipe.color.profile == "own"
    profile = facts.profile if own else recipe.color.profile if recipe.color else None
    file = FileFacts(
        format=facts.format.casefold() if recipe.file.format == "same" else recipe.file.format,
        width=width,
        height=height,
        bytes=facts.bytes if recipe.file.format == "same" else None,
        profile=profile,
        srgb=profile is None or "srgb" in profile.casefold() or profile == "grey",
    )
    for breach in breaches(target.outlet, target.rules, file):
        yield Caution("outlet", breach.label, breach.text)


def no_profile(facts: PhotoFacts) -> str:
    """What is with the profile of a photo that is read without one, to go on after "The photo"."""
    return f"’s color profile {facts.bad_profile}" if facts.bad_profile else " has no color profile"


def taken_for(facts: PhotoFacts) -> str:
    """What the values of a photo without a profile are taken for."""
    return "for a common offset print" if facts.mode == "CMYK" else "as sRGB"


def name_cautions(stem: Stem) -> Iterator[Caution]:
    """What a name warns of: words that the photo lacks, expressions that ran away."""
    for word in stem.missing:
        instead = "so its name is used" if word == "title" else "so nothing stands there"
        text = (
            f"The photo has no {word}, {instead}; type one on the sheet, or write {{{word} or stem}} into the pattern."
        )
        yield Caution("no-word", f"no {word}", text)
    if stem.slow:
        text = "An expression of the name takes too long on this photo and is left out; make it simpler."
        yield Caution("slow-name", "slow expression", text)


def same_name() -> Caution:
    """Two renditions would have got one name."""
    text = "Another rendition has this name already, so this one is numbered; add {n:03} or {stem} to the pattern."
    return Caution("same-name", "same name", text)
