"""The line: one photo and all the renditions wanted of it, decoded once."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np

from tray_core.errors import LineError, PhotoChanged, PhotoError, TrayError
from tray_core.line.color import flatten, needs_conversion, to_8, to_16, to_srgb
from tray_core.line.decode import decode
from tray_core.line.encode import encode
from tray_core.line.framing import Source, shown_part, size_needed
from tray_core.line.ground import lay_on_ground
from tray_core.line.picture import Picture
from tray_core.line.sharpen import sharpen
from tray_core.line.write import Claims, FileId, put
from tray_core.photo.facts import PhotoFacts, read_bytes, read_facts
from tray_core.photo.limits import DEFAULT_LIMITS, Limits
from tray_core.plan.layout import Layout
from tray_core.plan.planning import Plan
from tray_core.receipt import Receipt, read_receipt
from tray_core.recipe.model import Recipe


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


def work(source: Source, recipe: Recipe, layout: Layout) -> Picture:
    """Take a decoded photo through the stations of `recipe` to the whole canvas of `layout`, 8 bits a channel.

    Where the source is wider than the result (16 bits, another color space, linear light) all stations work
    in 16 bits, and only the last step reduces them. Padding is laid beside the finished picture: it has the
    color asked for, and no sharpened rim.
    """
    size = recipe.size
    picture, mask = shown_part(source, layout, linear=size is not None and size.light == "linear")
    # Only CMYK has no luminance to sharpen and no browser that shows it, so it is always converted.
    if needs_conversion(picture) and (recipe.color is not None or picture.space == "CMYK"):
        picture = to_16(picture)
    if picture.alpha and recipe.file.format == "jpeg":
        picture = flatten(picture)
    if picture.space == "CMYK":
        picture = to_srgb(picture)
    if recipe.sharpen is not None:
        picture = sharpen(picture, recipe.sharpen.strength)
    if recipe.color is not None:
        picture = to_srgb(picture)
    picture = to_8(picture)
    if layout.padded:
        picture = lay_on_ground(picture, layout, mask, transparent=recipe.file.format == "png")
    if layout.turn:
        quarters = layout.turn // 90
        picture = Picture(np.rot90(picture.pixels, -quarters), picture.space, picture.alpha, picture.icc)
    return picture


def part_of(canvas: Picture, plan: Plan) -> Picture:
    """The panel of the finished canvas that `plan` is of; the whole without panels."""
    if plan.panel is None:
        return canvas
    left, top, width, height = plan.layout.panel(plan.panel)
    pixels = canvas.pixels[top : top + height, left : left + width]
    return Picture(pixels, canvas.space, canvas.alpha, canvas.icc)


def decoded_for(facts: PhotoFacts, data: bytes, wanted: Sequence[tuple[Layout, Recipe]]) -> Source:
    """Decode a photo once, as large as the largest of these renditions needs it.

    Linear light needs the whole picture: what was averaged in gamma-encoded values cannot be undone.
    """
    sizes = [
        (facts.width, facts.height) if recipe.size and recipe.size.light == "linear" else size_needed(layout)
        for layout, recipe in wanted
    ]
    largest = max(size[0] for size in sizes), max(size[1] for size in sizes)
    return Source(decode(facts, data, largest), (facts.width, facts.height))


def make_renditions(
    path: Path | str,
    plans: Sequence[Plan],
    folders: Sequence[Path],
    *,
    originals: Collection[FileId] = (),
    limits: Limits = DEFAULT_LIMITS,
    claims: Callable[[Plan], Claims] = lambda plan: Claims(),
    stopped: Callable[[], bool] = lambda: False,
) -> Iterator[Outcome]:
    """Make every planned rendition of the photo at `path`, largest first, each into its folder.

    plans, folders: in step; a folder is where the plan's own subfolder begins. originals: files that
    must not be replaced. claims: the claims of each rendition. stopped: asked before every
    rendition; once it says yes, the rest is left undone and not yielded.
    Yields an Outcome each; an error in one rendition leaves the others alone, an error in the photo
    fails them all. Nothing is raised for bad input.
    """
    try:
        data = read_bytes(Path(path), limits)
        facts = read_facts(path, limits, data)
        _check_unchanged(facts, plans)
        canvases = _Canvases(decoded_for(facts, data, [(plan.layout, plan.recipe) for plan in plans]))
    except PhotoError as error:
        yield from (Outcome(plan=plan, status="failed", error=error) for plan in plans)
        return
    del data
    for plan, folder in sorted(zip(plans, folders, strict=True), key=_order):
        if stopped():
            return
        yield _make(facts, canvases, plan, folder, originals, claims(plan))


def _order(pair: tuple[Plan, Path]) -> tuple[int, int, int]:
    """Largest first; panels of one picture together."""
    plan = pair[0]
    return -plan.layout.canvas[0] * plan.layout.canvas[1], id(plan.recipe), plan.part


class _Canvases:
    """The finished canvas that was made last, kept for the other panels of it."""

    def __init__(self, source: Source) -> None:
        self._source = source
        self._last: tuple[Recipe, Layout, Picture] | None = None

    def of(self, plan: Plan) -> Picture:
        """The canvas that `plan` is a part of."""
        if self._last is None or self._last[0] is not plan.recipe or self._last[1] != plan.layout:
            self._last = None  # two at once would be twice the memory
            made = work(self._source, plan.recipe, plan.layout)
            if plan.panel is None:
                return made
            self._last = plan.recipe, plan.layout, made
        return self._last[2]


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
) -> Outcome:
    recipe = plan.recipe
    try:
        data = encode(part_of(canvases.of(plan), plan), recipe.file, recipe.size.ppi if recipe.size else None)
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
        receipt = read_receipt(path, plan, _notes(facts, recipe))
        return Outcome(plan=plan, status="made", path=path, receipt=receipt)
    except LineError as error:
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


def _notes(facts: PhotoFacts, recipe: Recipe) -> tuple[str, ...]:
    notes = []
    if facts.profile is None and facts.mode == "CMYK":
        notes.append("The photo has no color profile; its inks were taken for a common offset print.")
    elif facts.profile is None:
        notes.append("The photo has no color profile and was taken as sRGB.")
    elif recipe.color is not None and facts.profile != "sRGB":
        notes.append(f"Converted from {facts.profile} to sRGB.")
    if facts.depth > 8:
        notes.append(f"Reduced from {facts.depth} to 8 bits a channel.")
    if facts.alpha and recipe.file.format == "jpeg":
        notes.append("Transparent parts lie on white.")
    return tuple(notes)
