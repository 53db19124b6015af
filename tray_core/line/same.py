"""Renditions that are the photo's own file as it is, under another name, and perhaps with other words in it."""

from __future__ import annotations

import hashlib
from pathlib import Path

from tray_core.coders.metadata import with_other_metadata
from tray_core.line.saying import said_by
from tray_core.photo.facts import PhotoFacts
from tray_core.plan.planning import Plan
from tray_core.receipt import Receipt
from tray_core.words import Blocks, read_words
from tray_core.words.carried import kept_of


def same_file(facts: PhotoFacts, data: bytes, plan: Plan, source: Blocks) -> bytes:
    """The bytes of such a rendition. LineError where the photo's metadata cannot be written anew."""
    if plan.recipe.metadata is None:
        return data
    srgb = facts.profile in (None, "sRGB")
    said = said_by(plan, source, srgb=srgb, size=facts.stored_size, orientation=facts.orientation)
    return with_other_metadata(data, facts.format, said)


def same_receipt(path: Path, facts: PhotoFacts, wanted: bytes) -> Receipt:
    """What lies there now, compared byte by byte with what was to; pixels are as the photo says."""
    data = path.read_bytes()
    return Receipt(
        width=facts.width,
        height=facts.height,
        bytes=len(data),
        format=facts.format,
        profile=facts.profile,
        mode={"grey": "L", "palette": "P"}.get(facts.mode, facts.mode),
        ppi=None,
        bits=facts.depth,
        metadata=kept_of(read_words(data, facts.format).words),
        sha256=hashlib.sha256(data).hexdigest(),
        differences=() if data == wanted else ("planned the photo’s own bytes, the file has others",),
    )
