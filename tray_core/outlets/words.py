"""The words of a photo as an outlet takes them: those that it takes, as long as it takes them."""

from __future__ import annotations

from typing import Any

from tray_core.outlets.sheet import WordRules
from tray_core.photo.words import Words

_SHORTENED = "…"


def words_for(rules: WordRules, words: Words) -> tuple[dict[str, Any], list[str]]:
    """(title, description, alt and keywords that go along, sentences on what was shortened or left out).

    Texts are cut between words. A limit of 0 means that the outlet takes none.
    """
    made: dict[str, Any] = {}
    notes: list[str] = []
    for name in ("title", "description", "alt"):
        text, most = getattr(words, name), getattr(rules, name)
        if not text or most == 0:
            continue
        made[name] = shortened(text, most) if most is not None else text
        if made[name] != text:
            notes.append(f"The {name} has {len(text)} characters and was shortened to {most}.")
    keywords, most = list(words.keywords), rules.keywords
    if keywords and most != 0:
        made["keywords"] = keywords if most is None else keywords[:most]
        if most is not None and len(keywords) > most:
            notes.append(f"Of {len(keywords)} keywords the first {most} went along.")
    return made, notes


def shortened(text: str, most: int) -> str:
    """At most `most` characters, cut between words where that leaves half of them."""
    if len(text) <= most:
        return text
    cut = text[: most - 1]
    at = cut.rfind(" ")
    return (cut[:at] if at > most // 2 else cut).rstrip(" ,;.") + _SHORTENED
