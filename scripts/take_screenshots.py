"""Take the pictures of docs/screenshots from a running demo: python scripts/take_screenshots.py ADDRESS.

ADDRESS: as the demo printed it, and not used before. Begin with a fresh demo, so that nothing is made yet.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
FLAGS = ["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]
PICTURES = "[...document.querySelectorAll('[data-cell] img, figure img')].every(i => i.complete && i.naturalWidth)"


def shoot(page: Page, name: str) -> None:
    """One picture, once all pictures on the page are there."""
    page.wait_for_function(PICTURES)
    page.wait_for_timeout(600)
    page.screenshot(path=FOLDER / f"{name}.png")


def tour(page: Page, base: str) -> None:
    """The main views, in the order of the work."""
    tray = f"{base}/trays/{_tray(page, 'Autumn rehang', base)}"
    page.goto(tray)
    page.locator("[data-cell]").first.wait_for()
    page.get_by_role("columnheader", name="Gridwick").hover()
    page.get_by_role("link", name="Change Gridwick").click()
    page.get_by_label("Compare two").check(force=True)
    page.wait_for_timeout(1500)
    shoot(page, "recipe")
    page.locator("[data-station=finish] button.closed").click()
    page.get_by_role("radio", name="Marks").check(force=True)
    page.get_by_role("button", name="Add a text").click()
    page.wait_for_timeout(1500)
    shoot(page, "finish")
    page.get_by_role("button", name="Undo").click()
    photo, recipe = _first_cell(page, tray)
    page.goto(f"{tray}/bench/{photo}/{recipe}/tone")
    page.locator("figure[data-exact=yes] img").wait_for()
    page.keyboard.press("p")
    page.wait_for_timeout(1500)
    shoot(page, "tone")
    page.keyboard.press("Control+z")
    _close_looks(page, base)
    page.goto(f"{base}/recipes")
    page.get_by_role("button", name="New recipe").click()
    page.locator(".starter").nth(9).wait_for()
    shoot(page, "recipes")
    page.goto(tray)
    page.locator("[data-cell]").first.wait_for()
    page.keyboard.press("l")
    for _ in range(2):
        page.locator("[data-frame]").wait_for()
        page.wait_for_timeout(400)
        page.keyboard.press("Enter")
        page.wait_for_timeout(700)
    page.locator("[data-frame]").wait_for()
    page.wait_for_timeout(900)
    shoot(page, "bench")
    page.keyboard.press("Escape")
    page.locator("[data-cell]").first.wait_for()
    page.wait_for_function(PICTURES)
    page.get_by_role("button", name="Make ").click()
    page.locator("[data-state=done]").nth(8).wait_for()
    shoot(page, "board")
    page.locator("a.corner").click()
    page.locator("[data-rendition]").first.wait_for()
    page.wait_for_timeout(2500)
    shoot(page, "run")
    page.wait_for_timeout(8000)
    _outline(page, base)
    page.goto(f"{base}/trays/{_tray(page, 'Mixed sources', base)}")
    page.locator("[data-cell]").first.wait_for()
    page.get_by_role("button", name="Make ").click()
    page.wait_for_timeout(1500)
    page.goto(f"{base}/runs")
    page.locator("[data-run]").first.wait_for()
    page.wait_for_timeout(1500)
    shoot(page, "runs")
    _handed(page)
    _outlets(page, base)
    _words(page, base, tray)


def _first_cell(page: Page, tray: str) -> tuple[str, str]:
    """The numbers of the first photo and the first recipe on a board."""
    page.goto(tray)
    page.locator("[data-cell]").first.wait_for()
    board = page.request.get(tray.replace("/trays/", "/api/trays/") + "/board").json()
    return board["photos"][0], board["recipes"][0]["id"]


ALTS = (
    "Sunlit workbench under a shelf of clocks and gear wheels",
    "Gilt table clock beside a silver singing bird",
    "Long green wall with framed plates, gears and a long-case clock",
    "Tall clock beside an arched doorway in morning light",
)


def _words(page: Page, base: str, tray: str) -> None:
    """The sheet, a recipe that names files by titles, the questions of its next run; and the dark room."""
    recipes = page.request.get(f"{base}/api/recipes").json()
    titled = next(recipe for recipe in recipes if recipe["title"] == "Object page")
    token = next(each["value"] for each in page.context.cookies() if each["name"] == "csrftoken")
    name = {"pattern": "{title}", "letters": "ascii", "case": "lower", "spaces": "-"}
    place = {"to": "output", "subfolder": "museum-site/objects", "taken": "ask"}
    headers = {"X-CSRFToken": token, "Referer": base}

    def keep(version: int, **stations: object) -> None:
        content = {**titled["content"], **stations}
        page.request.put(
            f"{base}/api/recipes/{titled['id']}", data={"content": content, "version": version}, headers=headers
        )

    keep(titled["version"], name=name)
    page.goto(f"{tray}/words")
    page.locator('[data-spot="0:1"]').click()
    page.get_by_label("Names of").select_option(label="as Object page names it")
    page.locator('[data-spot="0:1"]').click()
    for text in ALTS:
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    page.locator('[data-spot="6:0"]').click()
    page.keyboard.press("Delete")
    page.get_by_text("no title yet").first.wait_for()
    page.wait_for_timeout(1500)
    shoot(page, "words")
    page.goto(tray)
    page.locator("[data-cell]").first.wait_for()
    page.wait_for_timeout(1500)
    page.get_by_role("button", name="Make ").click()
    page.wait_for_timeout(9000)
    keep(titled["version"] + 1, name=name, place=place, file={"format": "jpeg", "quality": 76})
    page.goto(tray)
    page.locator("[data-cell]").first.wait_for()
    page.wait_for_timeout(2500)
    page.get_by_role("button", name="Make ").click()
    page.wait_for_timeout(9000)
    page.goto(f"{base}/questions")
    page.locator("article").first.wait_for()
    page.wait_for_timeout(2500)
    shoot(page, "questions")
    page.goto(f"{base}/recipes/{titled['id']}")
    page.locator("[data-station=name] button.closed").click()
    page.wait_for_timeout(1500)
    page.evaluate("localStorage.setItem('upper-tray.room', 'dark')")
    page.goto(tray)
    page.locator("[data-cell]").first.wait_for()
    page.wait_for_timeout(2500)
    shoot(page, "dark")


def _close_looks(page: Page, base: str) -> None:
    """Sharpness and weight of one cell each."""
    recipes = page.request.get(f"{base}/api/recipes").json()
    journal = next(recipe["id"] for recipe in recipes if recipe["title"] == "Journal column")
    for name, photo, look in (
        ("Autumn rehang", "2031-10-14_01_repair-bench.jpg", "sharpness"),
        ("Autumn rehang", "2031-10-17_08_dial-detail.jpg", "weight"),
    ):
        tray = _tray(page, name, base)
        photos = page.request.get(f"{base}/api/trays/{tray}/board").json()["photos"]
        token = next(each["value"] for each in page.context.cookies() if each["name"] == "csrftoken")
        asked = {"data": {"photos": photos}, "headers": {"X-CSRFToken": token, "Referer": base}}
        rows = page.request.post(f"{base}/api/trays/{tray}/rows", **asked).json()
        number = next(row["photo"]["id"] for row in rows if row["photo"]["name"] == photo)
        page.goto(f"{base}/trays/{tray}/bench/{number}/{journal}/{look}")
        page.locator("[data-exact=yes]").first.wait_for()
        if look == "weight":
            page.get_by_role("application").focus()
            for key in ("Shift+ArrowLeft", "Shift+ArrowLeft", "Shift+ArrowLeft", "Enter"):
                page.keyboard.press(key)
            page.wait_for_timeout(3500)
        page.wait_for_timeout(1500)
        shoot(page, look)


def _handed(page: Page) -> None:
    """A run handed over: to a phone, to a client, to an account."""
    page.locator("[data-run] .name a").last.click()
    page.get_by_role("button", name="Hand over…").wait_for()
    for way in ("picking up", "choosing"):
        page.get_by_role("button", name="Hand over…").click()
        page.get_by_role("radio", name=way).check(force=True)
        page.get_by_role("button", name="Make the link").click()
        address = page.get_by_label("Address", exact=True).input_value()
        page.get_by_role("button", name="Done").click()
        size = {"width": 390, "height": 844} if way == "picking up" else {"width": 1280, "height": 800}
        browser = page.context.browser
        assert browser is not None
        guest = browser.new_page(viewport=size)
        guest.goto(address)
        if way == "choosing":
            guest.get_by_label("Your name").fill("Odile")
            guest.get_by_role("button", name="Look at the pictures").click()
            guest.locator(".thing").nth(1).click()
            guest.keyboard.press("y")
            guest.locator("main img").click(position={"x": 420, "y": 260})
            guest.locator("textarea").fill("The plate is what the page is about: please keep all of it")
            guest.get_by_role("button", name="Send").click()
        guest.locator("main img").first.wait_for()
        guest.wait_for_timeout(3000)
        guest.screenshot(path=FOLDER / f"{'pick-up' if way == 'picking up' else 'proof-room'}.png")
        guest.close()
    page.get_by_role("button", name="Hand over…").click()
    page.get_by_role("radio", name="an account").check(force=True)
    page.get_by_label("Account", exact=True).select_option(label="Gridwick (stand-in)")
    page.get_by_role("button", name="Send", exact=True).click()
    page.wait_for_timeout(12000)
    page.get_by_role("link", name="Gridwick (stand-in)").click()
    page.locator("td.there").first.wait_for()
    shoot(page, "deliveries")


def _outlets(page: Page, base: str) -> None:
    """A sheet with a file that was checked, and a rehearsal."""
    sheets = page.request.get(f"{base}/api/outlets").json()
    outlet = next(each for each in sheets if each["name"] == "Dailyloom")
    page.goto(f"{base}/outlets/{outlet['id']}")
    page.get_by_role("link", name="Rehearse Dailyloom").wait_for()
    demo = FOLDER.parents[1] / "demo" / "photos"
    files = page.get_by_label("Check files").locator("input[type=file]")
    files.set_input_files([demo / "autumn-rehang" / "2031-10-15_03_gallery-wall-panorama.jpg"])
    page.locator("td").first.wait_for()
    page.wait_for_timeout(5000)
    shoot(page, "outlet")
    recipe = outlet["recipes"][0]["id"]
    tray = _tray(page, "Autumn rehang", base)
    photos = page.request.get(f"{base}/api/trays/{tray}/board").json()["photos"]
    page.goto(f"{base}/trays/{tray}")
    page.locator("[data-cell]").first.wait_for()
    page.goto(f"{base}/outlets/{outlet['id']}/rehearsal?recipe={recipe}&use=Post&photo={photos[2]}")
    page.get_by_text("rehearsed in").wait_for(timeout=60_000)
    page.get_by_role("button", name="Go through all").click()
    page.get_by_text("to go").wait_for()
    page.get_by_text("to go").wait_for(state="detached", timeout=180_000)
    shoot(page, "rehearsal")


def _outline(page: Page, base: str) -> None:
    """The outline of a bird from the shop, with one of its points chosen."""
    tray = _tray(page, "Shop stock", base)
    page.goto(f"{base}/trays/{tray}")
    page.locator("[data-cell]").first.wait_for()
    photos = page.request.get(f"{base}/api/trays/{tray}/board").json()["photos"]
    recipe = page.request.get(f"{base}/api/recipes").json()[0]["id"]
    page.goto(f"{base}/trays/{tray}/bench/{photos[1]}/{recipe}/outline")
    page.locator("[data-point]").first.wait_for()
    page.keyboard.press("n")
    page.wait_for_timeout(2500)
    shoot(page, "outline")


def _tray(page: Page, name: str, base: str) -> int:
    trays = page.request.get(f"{base}/api/trays").json()
    return int(next(tray["id"] for tray in trays if tray["name"] == name))


def main() -> None:
    """Open Debian's Chromium at 1280 x 800 and go round."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.add_init_script("localStorage.setItem('upper-tray.first-steps', 'left')")
        page.goto(sys.argv[1])
        page.locator("[data-cell]").first.wait_for()
        tour(page, re.sub(r"(?<=\d)/.*", "", page.url))
        browser.close()


if __name__ == "__main__":
    main()
