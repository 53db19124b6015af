"""Fingerprints: what decides the pixels and bytes of a rendition."""

from __future__ import annotations

import hashlib

from tray_core.recipe.model import Recipe

ENGINE = "1"
"""Raised whenever the same recipe would make other bytes."""


def fingerprint(content: str, recipe: Recipe) -> str:
    """What decides the pixels and bytes of a rendition: same fingerprint, nothing to do.

    content: the digest of the photo's bytes. Name and place are left out: they decide where the
    rendition lies, not what it is.
    """
    made_by = recipe.model_dump_json(include={"size", "sharpen", "color", "file"})
    return hashlib.blake2b(f"{ENGINE}\n{content}\n{made_by}".encode(), digest_size=16).hexdigest()


def content_digest(data: bytes) -> str:
    """The digest of a photo's bytes."""
    return hashlib.blake2b(data, digest_size=16).hexdigest()
