"""A picture element with its sources (HTML Living Standard, 4.8), from finished files."""

from __future__ import annotations

import html
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote

_TYPES = {"avif": "image/avif", "webp": "image/webp", "jpeg": "image/jpeg", "png": "image/png", "gif": "image/gif"}
_ORDER = ("avif", "webp", "jpeg", "png", "gif")
"""Browsers take the first source that they can read, so the lightest formats come first."""


@dataclass(frozen=True, kw_only=True, slots=True)
class Piece:
    """One finished file. path: from the folder of the page, with slashes. width, height in pixels.

    format: jpeg, png, webp, avif or gif; files of others are left out of markup. alt: what is to be seen. photo: which
    picture it is of. media: a media condition, such as (max-width: 600px), of a crop for such screens; "" for all.
    """

    photo: str
    path: str
    format: str
    width: int
    height: int
    alt: str = ""
    title: str = ""
    media: str = ""


@dataclass(frozen=True, slots=True)
class Drawn:
    """One photo's picture. sources: (media, type, (path, width) by width) in the order in which they are to stand."""

    photo: str
    sources: tuple[tuple[str, str, tuple[tuple[str, int], ...]], ...]
    fallback: Piece
    sizes: str


def pictures(pieces: Iterable[Piece], sizes: str) -> list[Drawn]:
    """One picture for each photo, in the order of their first files. sizes: of the sizes attribute, "" for none.

    The fallback, which old browsers and readers of the page take, is the widest JPEG or PNG; else the widest file.
    """
    by_photo: dict[str, list[Piece]] = {}
    for piece in pieces:
        if piece.format in _TYPES:
            by_photo.setdefault(piece.photo, []).append(piece)
    return [_drawn(photo, found, sizes.strip()) for photo, found in by_photo.items()]


def _drawn(photo: str, pieces: Sequence[Piece], sizes: str) -> Drawn:
    plain = [piece for piece in pieces if not piece.media] or list(pieces)
    known = [piece for piece in plain if piece.format in ("jpeg", "png")] or plain
    fallback = max(known, key=lambda piece: (piece.width, piece.format == "jpeg"))
    sources = []
    # Those of a condition come before those of none, which would be taken always.
    for media in sorted({piece.media for piece in pieces}, key=lambda each: (each == "", each)):
        for kind in _ORDER:
            files = {p.width: p.path for p in pieces if p.media == media and p.format == kind}
            if files:
                sources.append((media, _TYPES[kind], tuple((path, width) for width, path in sorted(files.items()))))
    return Drawn(photo, tuple(sources), fallback, sizes)


def _srcset(files: Sequence[tuple[str, int]]) -> str:
    return ", ".join(f"{quote(path)} {width}w" for path, width in files)


def _element(drawn: Drawn, indent: str) -> str:
    def attribute(name: str, value: str) -> str:
        return f' {name}="{html.escape(value)}"' if value else ""

    sizes = attribute("sizes", drawn.sizes)
    lines = [f"{indent}<picture>"]
    for media, kind, files in drawn.sources:
        lines.append(
            f'{indent}  <source{attribute("media", media)} type="{kind}" srcset="{html.escape(_srcset(files))}"{sizes}>'
        )
    last = drawn.fallback
    lines.append(
        f'{indent}  <img src="{html.escape(quote(last.path))}" width="{last.width}" height="{last.height}" '
        f'alt="{html.escape(last.alt)}"{attribute("title", last.title)} loading="lazy" decoding="async">'
    )
    return "\n".join([*lines, f"{indent}</picture>"])


def as_html(drawn: Sequence[Drawn], title: str, *, page: bool = False) -> str:
    """The elements, one after the other; with `page`, a page that shows them in any browser, without a server."""
    if not page:
        return "\n".join(_element(each, "") for each in drawn) + "\n"
    figures = "\n".join(_figure(each) for each in drawn)
    return _PAGE.format(title=html.escape(title), figures=figures)


def _figure(drawn: Drawn) -> str:
    caption = f"      <figcaption>{html.escape(_caption(drawn))}</figcaption>"
    return f"    <figure>\n{_element(drawn, '      ')}\n{caption}\n    </figure>"


def _caption(drawn: Drawn) -> str:
    return drawn.fallback.title or drawn.fallback.alt or drawn.photo


_PAGE = """<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8">
    <meta name="generator" content="Upper Tray">
    <meta name="viewport" content="width=device-width">
    <title>{title}</title>
    <style>
      body {{ background: #cfcfcd; color: #1d1d1c; font: 14px/1.4 sans-serif; margin: 24px; }}
      main {{ display: grid; gap: 24px; grid-template-columns: repeat(auto-fit, minmax(280px, 1fr)); }}
      figure {{ margin: 0; }}
      img {{ max-width: 100%; height: auto; display: block; }}
      figcaption {{ margin-top: 6px; }}
    </style>
  </head>
  <body>
    <h1>{title}</h1>
    <main>
{figures}
    </main>
  </body>
</html>
"""


def as_json(drawn: Sequence[Drawn]) -> list[dict[str, Any]]:
    """The same for a site generator: a plain object for each picture."""
    return [
        {
            "photo": each.photo,
            "alt": each.fallback.alt,
            "title": each.fallback.title,
            "sizes": each.sizes,
            "sources": [
                {"media": media, "type": kind, "files": [{"path": path, "width": width} for path, width in files]}
                for media, kind, files in each.sources
            ],
            "fallback": {"path": each.fallback.path, "width": each.fallback.width, "height": each.fallback.height},
        }
        for each in drawn
    ]
