"""The line: one photo and all the renditions wanted of it, decoded once."""

from __future__ import annotations

import contextlib
import functools
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

from tray_core.coders import Encoded
from tray_core.errors import LineError, PhotoChanged, PhotoError, RecipeError, TrayError
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.renditions import Renditions
from tray_core.line.same import same_receipt
from tray_core.line.sidecars import put_sidecars
from tray_core.line.write import Claims, FileId, put
from tray_core.photo.facts import PhotoFacts, read_bytes, read_facts
from tray_core.photo.profiles import profile_name
from tray_core.pixels.color import TO_SRGB, target_of
from tray_core.plan.cautions import no_profile, taken_for
from tray_core.plan.planning import Plan
from tray_core.receipt import Receipt, read_receipt
from tray_core.recipe.file import HAS_PROFILE, KEEPS_ALPHA, Lossy
from tray_core.recipe.model import Recipe
from tray_core.recipe.stations import Color

NOT_REACHED = "could not be reached"
"""Stands in the note of a receipt whose file does not look as was asked for."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Outcome:
    """What became of one planned rendition.

    number: the plan's place among those given. path: of the file made, or of the older one that was kept (skipped), or
    that has its name (asking). receipt: when made. error: when failed.
    """

    plan: Plan
    number: int
    status: Literal["made", "failed", "skipped", "asking"]
    path: Path | None = None
    receipt: Receipt | None = None
    error: TrayError | None = None


def make_renditions(
    path: Path | str,
    plans: Sequence[Plan],
    folders: Sequence[Path],
    *,
    originals: Collection[FileId] = (),
    limits: Limits = DEFAULT_LIMITS,
    claims: Callable[[int], Claims] = lambda number: Claims(),
    stopped: Callable[[], bool] = lambda: False,
    ready: Callable[[int], Encoded | None] = lambda number: None,
) -> Iterator[Outcome]:
    """Make every planned rendition of the photo at `path`, largest first, then as given, each into its folder.

    plans, folders: in step; a folder is where the plan's own subfolder begins. originals: files that
    must not be replaced. claims: the claims of each rendition, by its number among `plans`. stopped: asked before
    every rendition; once it says yes, the rest is left undone and not yielded. ready: a rendition's bytes, by its
    number, where `encode_ahead` made them before; these come first.
    Yields an Outcome each; an error in one rendition leaves the others alone, an error in the photo
    fails them all. Nothing is raised for bad input.
    """
    try:
        data = read_bytes(Path(path), limits)
        facts = read_facts(path, limits, data)
        _check_unchanged(facts, plans)
        ahead = {number: made for number in range(len(plans)) if (made := ready(number)) is not None}
        rest = [number for number in range(len(plans)) if number not in ahead]
        renditions = Renditions(facts, data)
        renditions.prepare([plans[number] for number in rest])
    except PhotoError as error:
        for number, plan in enumerate(plans):
            yield Outcome(plan=plan, number=number, status="failed", error=error)
        return
    del data
    for number in (*ahead, *(rest[i] for i in renditions.order)):
        if stopped():
            return
        made = ahead.pop(number, None)
        yield _make(facts, renditions, number, plans[number], folders[number], originals, claims(number), made)


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
        renditions = Renditions(facts, data)
        renditions.prepare(plans)
    except PhotoError:
        return
    del data
    for number in renditions.order:
        if stopped():
            return
        with contextlib.suppress(TrayError, MemoryError):
            yield plans[number], renditions.encoded(number)


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
    renditions: Renditions,
    number: int,
    plan: Plan,
    folder: Path,
    originals: Collection[FileId],
    claims: Claims,
    ahead: Encoded | None,
) -> Outcome:
    recipe = plan.recipe
    outcome = functools.partial(Outcome, plan=plan, number=number)
    try:
        made = ahead or renditions.encoded(number)
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
            asks = recipe.place.taken == "ask"
            return outcome(status="asking" if asks else "skipped", path=folder / plan.path)
        same = plan.format == "same"
        receipt = same_receipt(path, facts, data) if same else read_receipt(path, plan, _notes(facts, recipe, made))
        if made.score is not None:
            receipt = replace(receipt, quality=made.quality, score=round(made.score, 1))
        put_sidecars(path, plan, facts, receipt, originals)
        return outcome(status="made", path=path, receipt=receipt)
    except (LineError, RecipeError) as error:
        named = LineError(
            f"{facts.path}: {error.subject}", expected=error.expected, found=error.found, remedy=error.remedy
        )
        return outcome(status="failed", error=named)
    except TrayError as error:
        return outcome(status="failed", error=error)
    except MemoryError:
        short = TrayError(
            facts.path,
            expected="enough memory",
            found="too little of it",
            remedy="Close other programs, or use fewer workers.",
        )
        return outcome(status="failed", error=short)


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
        ground = recipe.cutout.ground if recipe.cutout is not None and recipe.cutout.cuts else color.matte
        notes.append(f"Transparent parts lie on {'white' if ground == '#ffffff' else ground}.")
    if made.quality is not None and isinstance(recipe.coded, Lossy) and recipe.coded.searched:
        notes.append(f"Quality {made.quality} was found for it{_why(recipe.coded, made)}.")
    return tuple(notes)


def _why(file: Lossy, made: Encoded) -> str:
    if file.under_kb is not None:
        return f", the best of {made.tries} tries under {file.under_kb} kB"
    assert made.score is not None
    short = "" if file.looks is None or made.score >= file.looks else f"; {file.looks} {NOT_REACHED}"
    return f": a score of {made.score:.1f}{short}"
