"""Write docs/walkthrough.md: the whole job by keyboard alone, with what a screen reader is told at each step.

python scripts/write_walkthrough.py ADDRESS. ADDRESS: as a fresh demo printed it, and not used before.
"""

from __future__ import annotations

import re
import sys
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

DOCUMENT = Path(__file__).parent.parent / "docs" / "walkthrough.md"
FLAGS = ["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]
HEAD = """# The whole job by keyboard, as a screen reader hears it

From a folder to finished files with no mouse. Below each step stand the keys, and the part of the page that matters
then, as the browser hands it to assistive software. `python scripts/write_walkthrough.py ADDRESS` drives a fresh demo
through these steps and writes this page; what could not be reached by keyboard would stop it.
"""


@dataclass(frozen=True)
class Step:
    """keys: pressed one after the other. there: what must be on the page then. seen: the part that is written down.

    lines: how many of its lines, at most.
    """

    title: str
    text: str
    keys: tuple[str, ...]
    there: str
    seen: str
    lines: int


def tabs_to(page: Page, label: str, most: int = 60) -> tuple[str, ...]:
    """Press Tab until what has the focus is called `label`; the presses."""
    name = "(document.activeElement.ariaLabel ?? document.activeElement.labels?.[0]?.textContent ?? '') + ' ' +"
    for press in range(1, most):
        page.keyboard.press("Tab")
        if label in page.evaluate(
            f"document.activeElement === document.body ? '' : {name} document.activeElement.textContent"
        ):
            return (f"Tab ({press} times)" if press > 1 else "Tab",)
    raise SystemExit(f"Tab does not lead to {label!r}")


STEPS = (
    Step(
        "The board",
        "Photos stand in rows, recipes in columns. The grid says how many rows and columns there are; a cell says "
        "the file's name, the recipe, what is odd about it, its state, its pixels and its weight. "
        "Arrows go from cell to cell.",
        ("ArrowDown", "ArrowRight"),
        "[data-cell]:focus",
        "[role=grid] [role=row]:has([data-cell]:focus)",
        14,
    ),
    Step(
        "A close look at one cell",
        "*I* opens it, Esc closes it, and the focus is on the cell again.",
        ("i",),
        ".bx--modal.is-visible",
        ".bx--modal.is-visible [role=dialog]",
        30,
    ),
    Step(
        "The list of those that wait for your crop",
        "*L* opens the first of them on the bench. Arrows move the frame, plus and minus zoom, *R* turns it; "
        "where the frame is, is said when it moved. Enter keeps it and opens the next.",
        ("Escape", "l"),
        "[data-frame]",
        "main",
        52,
    ),
    Step(
        "The frame, moved",
        "The numbers follow, and so does the grid of its neighbors.",
        ("Shift+ArrowDown", "Shift+ArrowDown"),
        "[data-frame]",
        "main [role=group][aria-label='The photo with its frame']",
        8,
    ),
    Step(
        "Kept, and the next one",
        "The count goes up. *S* would skip one.",
        ("Enter",),
        "text=1 of",
        "main h1, main [role=status]",
        6,
    ),
    Step(
        "Choosing some",
        "Back on the board, Shift with the arrows chooses; the foot says how many, and what may be done with them.",
        ("Escape", "Shift+ArrowRight", "Shift+ArrowDown"),
        "text=chosen",
        "footer",
        14,
    ),
    Step(
        "Making them",
        "*M* makes what is chosen. It says what it started; the head tells how it goes.",
        ("m",),
        "a.corner",
        "[role=region][aria-label=Notices], a.corner",
        8,
    ),
)


READ = (
    (
        "The files that were made",
        "Tab leads to *Runs* and to the newest of them. Each line says name, recipe, folder, state, pixels and weight.",
        ("Runs", "Autumn rehang"),
        "[data-rendition]",
        "main",
        44,
    ),
    (
        "A recipe",
        "The sentence's phrases and the stations are buttons; the station that is open has its fields "
        "under its heading.",
        ("Recipes", "Gridwick"),
        ".sentence",
        "main",
        70,
    ),
)


def enter(page: Page, key: str) -> str:
    """Press Enter where that is the key, and wait for the page that it opens."""
    if key == "Enter":
        page.keyboard.press(key)
        page.wait_for_timeout(1200)
    return key


def tree(page: Page, seen: str, lines: int) -> str:
    """What assistive software is given of the parts that match, shortened to `lines`."""
    parts = [part.aria_snapshot() for part in page.locator(seen).all() if part.is_visible()]
    told = [line for part in parts for line in part.splitlines() if "/url:" not in line]
    cut = [line if len(line) < 150 else f"{line[:147]}…" for line in told[:lines]]
    return "\n".join(cut + (["  …"] if len(told) > lines else []))


def walk(page: Page) -> list[str]:
    """Every step, done and written down."""
    page.locator("[data-cell]").nth(20).wait_for()
    page.get_by_text(re.compile("reading")).first.wait_for(state="detached", timeout=120_000)
    page.locator("footer", has_text="91 renditions").wait_for()
    page.get_by_text("-object.jpg").first.wait_for(state="attached")
    written = []
    for number, step in enumerate(STEPS, 1):
        for key in step.keys:
            page.keyboard.press(key)
            page.wait_for_timeout(500)
        page.locator(step.there).first.wait_for()
        page.wait_for_timeout(700)
        written.append(told(number, step.title, step.text, step.keys, tree(page, step.seen, step.lines)))
    page.locator("[data-cell][data-state=done]").first.wait_for(timeout=60_000)
    for number, (title, text, labels, there, seen, lines) in enumerate(READ, len(STEPS) + 1):
        keys = [key for label in labels for key in (*tabs_to(page, label), "Enter") if enter(page, key)]
        page.locator(there).first.wait_for()
        page.wait_for_timeout(900)
        written.append(told(number, title, text, tuple(keys), tree(page, seen, lines)))
    return written


def told(number: int, title: str, text: str, keys: tuple[str, ...], heard: str) -> str:
    """One step as a part of the document."""
    pressed = " ".join(f"<kbd>{key.replace('Arrow', '')}</kbd>" for key in keys)
    return f"## {number}. {title}\n\n{text}\n\n{pressed}\n\n```yaml\n{heard}\n```\n"


def main() -> None:
    """Open Debian's Chromium at 1280 x 800 and do the job."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.add_init_script("localStorage.setItem('upper-tray.first-steps', 'left')")
        page.goto(sys.argv[1])
        DOCUMENT.write_text(HEAD + "\n" + "\n".join(walk(page)))
        browser.close()


if __name__ == "__main__":
    main()
