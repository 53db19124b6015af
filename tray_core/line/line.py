"""The line: one photo and all the renditions wanted of it, decoded once."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np

from tray_core.coders import Encoded, coded
from tray_core.errors import LineError, PhotoChanged, PhotoError, RecipeError, TrayError
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.framing import Source, shown_part, size_needed
from tray_core.line.ground import lay_on_ground
from tray_core.line.sharpen import sharpen
from tray_core.line.write import Claims, FileId, put
from tray_core.photo.facts import PhotoFacts, read_bytes, read_facts
from tray_core.photo.profiles import profile_name
from tray_core.pixels.color import (
    TO_SRGB,
    Target,
    convert,
    flatten,
    needs_conversion,
    target_of,
    to_8,
    to_16,
    to_working,
)
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture, Pixels8
from tray_core.pixels.scale import scales, standard_size
from tray_core.plan.cautions import no_profile, taken_for
from tray_core.plan.layout import Layout
from tray_core.plan.planning import Plan
from tray_core.receipt import Receipt, read_receipt
from tray_core.recipe.file import HAS_GREY, HAS_PROFILE, KEEPS_ALPHA, Lossy
from tray_core.recipe.model import Recipe
from tray_core.recipe.stations import Color

NOT_REACHED = "could not be reached"
"""Stands in the note of a receipt whose file does not look as was asked for."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Outcome:
    """What became of one planned rendition.

    path: of the file made, or of the older one that was kept (skipped). receipt: when made. error: when failed.
    """

    plan: Plan
    status: Literal["made", "failed", "skipped"]
    path: Path | None = None
    receipt: Receipt | None = None
    error: TrayError | None = None


def work(source: Source, recipe: Recipe, layout: Layout, strength: int | None = None) -> Picture:
    """Take a decoded photo through the stations of `recipe` to the whole canvas of `layout`, ready to be encoded.

    strength: of the sharpening, instead of the recipe's own. Where the source is wider than the result (16 bits,
    another color space, linear light, corrections) all stations work in 16 bits, and only the last step reduces
    them. Padding is laid beside the finished picture: it has the color asked for, and no sharpened rim.
    RecipeError when the recipe's profile file is missing, LineError for colors that mean nothing.
    """
    picture, mask = resized(source, recipe, layout)
    return finished(picture, mask, recipe, layout, strength, deep=source.picture.pixels.dtype != np.uint8)


def resized(source: Source, recipe: Recipe, layout: Layout) -> tuple[Picture, Pixels8 | None]:
    """The first half of `work`: up to the pixels of the rendition, with the mask of what lies inside the photo."""
    size = recipe.size
    return shown_part(source, layout, size is not None and size.light == "linear", recipe.prep)


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
        picture = flatten(picture, matte_of(color))
    if goal is not None and needs_conversion(picture, goal):
        picture = to_16(picture)
    if recipe.sharpen is not None and (recipe.sharpen.strength if strength is None else strength):
        picture = sharpen(to_working(picture), recipe.sharpen, strength)
    if goal is not None:
        if picture.alpha and goal.space != "RGB":
            picture = flatten(picture, matte_of(color))
        picture = convert(picture, goal)
        if picture.space == "grey" and recipe.file.format not in HAS_GREY:
            picture = convert(picture, TO_SRGB)
    if color.bits == 8:
        corrected = recipe.prep is not None and recipe.prep.corrects
        picture = to_8(picture, dither=color.dither and (deep or corrected))
    else:
        picture = to_16(picture)
    if layout.padded:
        transparent = recipe.file.format in KEEPS_ALPHA and picture.space != "CMYK"
        picture = lay_on_ground(picture, layout, mask, transparent=transparent)
    if layout.turn:
        picture = replace(picture, pixels=np.rot90(picture.pixels, -(layout.turn // 90)))
    return picture


def goal_of(recipe: Recipe, picture: Picture) -> Target | None:
    """The space that `recipe` takes a photo like `picture` to; None where it keeps its own."""
    # Inks have no luminance to sharpen, and no browser shows them: they stay only where inks are asked for. What a
    # file without a profile holds is taken for sRGB.
    if recipe.file.format not in HAS_PROFILE:
        return TO_SRGB
    return target_of(recipe.color) or (TO_SRGB if picture.space == "CMYK" else None)


def matte_of(color: Color) -> tuple[int, int, int]:
    """The color behind transparent parts, as 8-bit sRGB values."""
    return int(color.matte[1:3], 16), int(color.matte[3:5], 16), int(color.matte[5:7], 16)


def part_of(canvas: Picture, plan: Plan) -> Picture:
    """The panel of the finished canvas that `plan` is of; the whole without panels."""
    if plan.panel is None:
        return canvas
    left, top, width, height = plan.layout.panel(plan.panel)
    return replace(canvas, pixels=canvas.pixels[top : top + height, left : left + width])


def encoded(canvas: Picture, plan: Plan) -> Encoded:
    """The bytes of the rendition that `plan` is, from its finished canvas."""
    recipe = plan.recipe
    picture = part_of(canvas, plan)
    if recipe.color is not None and not recipe.color.embed:
        picture = replace(picture, icc=None)
    return coded(picture, recipe.file, recipe.size.ppi if recipe.size else None)


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


def decoded_for(facts: PhotoFacts, data: bytes, recipe: Recipe, layout: Layout) -> Source:
    """The photo decoded as a rendition needs it."""
    wanted = size_wanted(facts, recipe, layout)
    return Source(decode(facts, data, wanted), (facts.width, facts.height))


def make_renditions(
    path: Path | str,
    plans: Sequence[Plan],
    folders: Sequence[Path],
    *,
    originals: Collection[FileId] = (),
    limits: Limits = DEFAULT_LIMITS,
    claims: Callable[[Plan], Claims] = lambda plan: Claims(),
    stopped: Callable[[], bool] = lambda: False,
    ready: Callable[[Plan], Encoded | None] = lambda plan: None,
) -> Iterator[Outcome]:
    """Make every planned rendition of the photo at `path`, largest first, then as given, each into its folder.

    plans, folders: in step; a folder is where the plan's own subfolder begins. originals: files that
    must not be replaced. claims: the claims of each rendition. stopped: asked before every
    rendition; once it says yes, the rest is left undone and not yielded. ready: a rendition's bytes, where
    `encode_ahead` made them before; these come first.
    Yields an Outcome each; an error in one rendition leaves the others alone, an error in the photo
    fails them all. Nothing is raised for bad input.
    """
    try:
        data = read_bytes(Path(path), limits)
        facts = read_facts(path, limits, data)
        _check_unchanged(facts, plans)
        ahead = {number: made for number, plan in enumerate(plans) if (made := ready(plan)) is not None}
        rest = [number for number in range(len(plans)) if number not in ahead]
        canvases = _Canvases(facts, data)
        canvases.prepare([plans[number] for number in rest])
    except PhotoError as error:
        yield from (Outcome(plan=plan, status="failed", error=error) for plan in plans)
        return
    del data
    for number in (*ahead, *(rest[i] for i in canvases.order)):
        if stopped():
            return
        plan = plans[number]
        yield _make(facts, canvases, plan, folders[number], originals, claims(plan), ahead.pop(number, None))


def encode_ahead(
    path: Path | str,
    plans: Sequence[Plan],
    *,
    limits: Limits = DEFAULT_LIMITS,
    stopped: Callable[[], bool] = lambda: False,
) -> Iterator[tuple[Plan, Encoded]]:
    """Encode planned renditions of the photo at `path` without writing them, largest first.

    What cannot be made is left out: whoever makes it for good will be told why. stopped: asked before each.
    """
    try:
        data = read_bytes(Path(path), limits)
        facts = read_facts(path, limits, data)
        _check_unchanged(facts, plans)
        canvases = _Canvases(facts, data)
        canvases.prepare(plans)
    except PhotoError:
        return
    del data
    for number in canvases.order:
        if stopped():
            return
        with contextlib.suppress(TrayError, MemoryError):
            yield plans[number], encoded(canvases.of(plans[number]), plans[number])


class _Canvases:
    """The canvases of one photo, made from one decoding at a time; the last is kept for its other panels."""

    def __init__(self, facts: PhotoFacts, data: bytes) -> None:
        self._facts = facts
        self._data: bytes | None = data
        self._wanted: dict[int, tuple[int, int]] = {}
        self._decoded: tuple[tuple[int, int], Source] | None = None
        self._last: tuple[Plan, Picture] | None = None
        self.order: list[int] = []

    def prepare(self, plans: Sequence[Plan]) -> None:
        """Decode for the largest of `plans`, and order them: what shares a decoding, then a canvas, together."""
        facts = self._facts
        self._wanted = {id(plan): size_wanted(facts, plan.recipe, plan.layout) for plan in plans}
        first = {id(plan.recipe): number for number, plan in reversed(list(enumerate(plans)))}

        def place(number: int) -> tuple[int, int, int, int]:
            plan = plans[number]
            canvas = plan.layout.canvas
            return -self._wanted[id(plan)][0], -canvas[0] * canvas[1], first[id(plan.recipe)], plan.part

        self.order = sorted(range(len(plans)), key=place)
        if plans:
            self._source(plans[self.order[0]])
            if not scales(facts) or len(set(self._wanted.values())) == 1:
                self._data = None  # nothing will be decoded again

    def _source(self, plan: Plan) -> Source:
        wanted = self._wanted[id(plan)]
        if self._decoded is None or (self._decoded[0] != wanted and self._data is not None):
            assert self._data is not None
            self._decoded = None  # two at once would be twice the memory
            whole = (self._facts.width, self._facts.height)
            self._decoded = wanted, Source(decode(self._facts, self._data, wanted), whole)
        return self._decoded[1]

    def of(self, plan: Plan) -> Picture:
        """The canvas that `plan` is a part of."""
        last = self._last[0] if self._last else None
        if last and last.recipe is plan.recipe and last.layout == plan.layout and last.strength == plan.strength:
            assert self._last is not None
            return self._last[1]
        self._last = None
        made = work(self._source(plan), plan.recipe, plan.layout, plan.strength)
        if plan.panel is not None:
            self._last = plan, made
        return made


def _check_unchanged(facts: PhotoFacts, plans: Sequence[Plan]) -> None:
    for plan in plans:
        if plan.layout.source != (facts.width, facts.height):
            raise PhotoChanged(
                facts.path,
                expected="the photo that was planned for, {} × {}".format(*plan.layout.source),
                found=f"one of {facts.width} × {facts.height}",
                remedy="Let the folder be read again, look at the board, then make it.",
            )


def _make(
    facts: PhotoFacts,
    canvases: _Canvases,
    plan: Plan,
    folder: Path,
    originals: Collection[FileId],
    claims: Claims,
    ahead: Encoded | None,
) -> Outcome:
    recipe = plan.recipe
    try:
        made = ahead or encoded(canvases.of(plan), plan)
        data = made.data
        path = put(
            data,
            folder / plan.folder,
            plan.name,
            recipe.place.taken,
            originals,
            claims,
        )
        if path is None:
            return Outcome(plan=plan, status="skipped", path=folder / plan.path)
        receipt = read_receipt(path, plan, _notes(facts, recipe, made))
        return Outcome(plan=plan, status="made", path=path, receipt=receipt)
    except (LineError, RecipeError) as error:
        named = LineError(
            f"{facts.path}: {error.subject}", expected=error.expected, found=error.found, remedy=error.remedy
        )
        return Outcome(plan=plan, status="failed", error=named)
    except TrayError as error:
        return Outcome(plan=plan, status="failed", error=error)
    except MemoryError:
        short = TrayError(
            facts.path,
            expected="enough memory",
            found="too little of it",
            remedy="Close other programs, or use fewer workers.",
        )
        return Outcome(plan=plan, status="failed", error=short)


def _notes(facts: PhotoFacts, recipe: Recipe, made: Encoded) -> tuple[str, ...]:
    notes = []
    color = recipe.color or Color()
    target = TO_SRGB if recipe.file.format not in HAS_PROFILE else target_of(recipe.color)
    if facts.profile is None:
        notes.append(f"The photo{no_profile(facts)} and was taken {taken_for(facts)}.")
    elif target is not None and facts.profile != (goal := profile_name(target.icc)):
        notes.append(f"Converted from {facts.profile} to {goal}.")
    if facts.depth > 8 and color.bits == 8:
        notes.append(f"Reduced from {facts.depth} to 8 bits a channel.")
    if facts.alpha and recipe.file.format not in KEEPS_ALPHA:
        notes.append(f"Transparent parts lie on {'white' if color.matte == '#ffffff' else color.matte}.")
    if made.quality is not None and isinstance(recipe.file, Lossy) and recipe.file.searched:
        notes.append(f"Quality {made.quality} was found for it{_why(recipe.file, made)}.")
    return tuple(notes)


def _why(file: Lossy, made: Encoded) -> str:
    if file.under_kb is not None:
        return f", the best of {made.tries} tries under {file.under_kb} kB"
    assert made.score is not None
    short = "" if file.looks is None or made.score >= file.looks else f"; {file.looks} {NOT_REACHED}"
    return f": a score of {made.score:.1f}{short}"
