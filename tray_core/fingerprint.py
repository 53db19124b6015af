"""Fingerprints: what decides the pixels and bytes of a rendition."""

from __future__ import annotations

import contextlib
import functools
import hashlib

from tray_core.errors import RecipeError
from tray_core.marks.fonts import mark_file
from tray_core.photo.profile_files import profile_file
from tray_core.plan.planning import Plan
from tray_core.recipe.model import Recipe

ENGINE = "7"
"""Raised whenever the same recipe would make other bytes."""


def fingerprint(content: str, plan: Plan) -> str:
    """What decides the pixels and bytes of a rendition: same fingerprint, nothing to do.

    content: the digest of the photo's bytes. Name and place are left out: they decide where the
    rendition lies, not what it is. Frame and size count by the geometry that comes of them.
    """
    words = f"\n{plan.words.to_json()}" if plan.words is not None else ""
    text = f"{ENGINE}\n{content}\n{plan.layout.pixels_key()}\n{plan.panel}\n{plan.strength}\n{_made_by(plan.recipe)}"
    text += words
    if not plan.tone.neutral:
        text += f"\n{plan.tone.to_json()}"
    if plan.outline is not None:
        text += f"\n{plan.outline.digest}"
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


@functools.lru_cache(maxsize=1024)
def _made_by(recipe: Recipe) -> str:
    made_by = recipe.model_dump_json(include={"prep", "sharpen", "color", "file"})
    if recipe.metadata is None:
        # As it was said before there was any: what was made then is up to date.
        made_by = made_by.replace('"metadata":null,', "").replace(',"metadata":null', "")
    if recipe.cutout is not None:
        made_by += recipe.cutout.model_dump_json(exclude={"fit", "margin", "svg"})
    if recipe.finish is not None:
        made_by += recipe.finish.model_dump_json(exclude={"grow"})
        for name in (*recipe.finish.pictures, *recipe.finish.fonts):
            with contextlib.suppress(RecipeError):
                made_by += content_digest(mark_file(name, "finish.marks").read_bytes())
    size = recipe.size
    profile = ""
    if recipe.color is not None and recipe.color.icc is not None:
        with contextlib.suppress(RecipeError):  # missing: nothing can be made, so nothing is up to date
            profile = content_digest(profile_file(recipe.color.icc))
    return f"{made_by} {profile} {size.light if size else 'gamma'} {size.ppi if size else None}"


def content_digest(data: bytes) -> str:
    """The digest of a photo's bytes."""
    return hashlib.blake2b(data, digest_size=16).hexdigest()
