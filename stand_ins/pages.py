"""The stand-in platform's pages: a square grid, a feed, stories that fill a phone, an article at three widths."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from html import escape
from typing import Any

from tray_core.outlets import Outlet, Use

Post = Mapping[str, Any]

_STYLE = """
body { margin: 0; background: #ececea; color: #1d1d1c; font: 15px/1.5 sans-serif; }
main { max-width: 1080px; margin: 0 auto; padding: 24px; }
a { color: #08544b; }
img { display: block; max-width: 100%; height: auto; background: #cfcfcd; }
.grid { display: grid; grid-template-columns: repeat(3, 1fr); gap: 4px; max-width: 936px; }
.grid img { width: 100%; aspect-ratio: 1; object-fit: cover; }
.feed { max-width: 600px; margin: 0 auto; display: grid; gap: 32px; }
.story { display: flex; gap: 16px; flex-wrap: wrap; }
.story figure { position: relative; width: 300px; height: 533px; margin: 0; background: #1d1d1c; overflow: hidden; }
.story img { width: 100%; height: 100%; object-fit: contain; }
.covered { position: absolute; background: rgb(0 0 0 / 0.35); color: #fff; font-size: 12px; padding: 4px 8px; }
.article article { max-width: 720px; margin: 0 auto 48px; }
.article p.text { background: #d9d9d6; height: 10px; border-radius: 5px; margin: 12px 0; }
figcaption { padding: 6px 0; }
.words { color: #50504d; }
"""


def _page(title: str, body: str) -> str:
    head = f"<title>{escape(title)}</title><style>{_STYLE}</style>"
    meta = '<meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">'
    return f'<!doctype html><html lang="en"><head>{meta}{head}</head><body><main>{body}</main></body></html>'


def front_page(outlets: Iterable[Outlet], posts: list[dict[str, Any]]) -> str:
    """All outlets with their uses, and how many pictures were published there."""
    lines = []
    for outlet in outlets:
        for use in outlet.uses:
            count = sum((post["outlet"], post["use"]) == (outlet.name, use.use) for post in posts)
            address = escape(f"/{outlet.name}/{use.use}")
            lines.append(f'<li><a href="{address}">{escape(outlet.name)}, {escape(use.use)}</a>: {count}</li>')
    about = "<p>A stand-in: it treats uploads as a platform would, and shows what people would see.</p>"
    return _page("Stand-in platform", f"<h1>Stand-in platform</h1>{about}<ul>{''.join(lines)}</ul>")


def use_page(outlet: Outlet, use: Use, posts: list[dict[str, Any]]) -> str:
    """The pictures of one use, where people see them."""
    shown = "".join(_shown(use, post) for post in posts) or "<p>Nothing is published here yet.</p>"
    head = f'<p><a href="/">All</a></p><h1>{escape(outlet.name)}</h1>'
    return _page(f"{outlet.name}, {use.use}", f'{head}<div class="{use.page}">{shown}</div>')


def _at_widths(post: Post, image: str, alt: str) -> str:
    """The picture as pages of several widths choose it; the one file where there are no copies."""
    text = '<p class="text"></p>' * 2
    if not post["copies"]:
        return f"<figure>{image}</figure>{text}"
    return "".join(
        f'<figure style="width: {width}px; max-width: 100%"><img src="/pictures/{post["id"]}/{width}" width="{width}" '
        f'height="{height}" alt="{alt}"><figcaption>on a page {width} pixels wide</figcaption></figure>{text}'
        for width, height in post["copies"]
    )


def _shown(use: Use, post: Post) -> str:
    words = post["words"]
    alt = escape(str(words.get("alt") or words.get("title") or ""))
    size = f'width="{post["width"]}" height="{post["height"]}"'
    copies = ", ".join(f"/pictures/{post['id']}/{width} {width}w" for width, _ in post["copies"])
    chosen = f' srcset="{copies}" sizes="(max-width: 600px) 100vw, 720px"' if copies else ""
    image = f'<img id="{post["id"]}" src="/pictures/{post["id"]}"{chosen} {size} alt="{alt}">'
    title = f"<figcaption>{escape(str(words.get('title', '')))}</figcaption>" if words.get("title") else ""
    if use.page == "grid":
        return image
    if use.page == "story":
        covered = "".join(
            f'<span class="covered" style="left: {each.x:.1%}; top: {each.y:.1%}; width: {each.width:.1%}; '
            f'height: {each.height:.1%}">{escape(each.by)}</span>'
            for each in use.rules.covered
        )
        return f"<figure>{image}{covered}</figure>"
    if use.page == "article":
        return (
            f"<article><h2>{escape(str(words.get('title') or 'Untitled'))}</h2>{_at_widths(post, image, alt)}</article>"
        )
    said = f'<p class="words">{escape(str(words.get("description", "")))}</p>' if words.get("description") else ""
    return f"<figure>{image}{title}{said}</figure>"
