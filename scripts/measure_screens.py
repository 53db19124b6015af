"""Measure what a person waits for, in the browser: python scripts/measure_screens.py ADDRESS [TRAY].

ADDRESS: as the demo printed it, and not used before. TRAY: the number of a large tray, as
`./upper-tray manage make_large_tray` made it. Prints milliseconds and megabytes; times are medians. Run it on an idle
machine.
"""

from __future__ import annotations

import functools
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, Response, sync_playwright

sys.path.insert(0, str(Path(__file__).parents[1]))

from bench.pictures import photo_like

FLAGS = ["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]
PICTURES = "[...document.querySelectorAll('[data-cell] img')].filter(i => i.complete && i.naturalWidth).length"

ALL_PICTURES = "[...document.querySelectorAll('[data-cell] img')].every(i => i.complete && i.naturalWidth)"
NO_GAPS = "document.querySelectorAll('[data-cell]').length >= 20 && !document.querySelector('.row .waiting')"
NUMBER = "wanted => document.querySelector('.foot b')?.textContent.includes(wanted)"


def _ms(start: float) -> float:
    return (time.perf_counter() - start) * 1000


def renderer_mb() -> float:
    """Resident memory of the largest renderer process."""
    found = 0.0
    for status in Path("/proc").glob("[0-9]*/status"):
        try:
            command = (status.parent / "cmdline").read_bytes()
            if b"--type=renderer" in command:
                lines = dict(line.split(":", 1) for line in status.read_text().splitlines() if ":" in line)
                found = max(found, int(lines["VmRSS"].split()[0]) / 1024)
        except OSError:
            continue
    return found


def large_tray(page: Page, address: str, tray: str) -> None:
    """First rows, scrolling, memory."""
    first: list[float] = []
    for _ in range(5):
        page.goto("about:blank")
        page.goto(f"{address}trays/{tray}", wait_until="load")
        start = time.perf_counter()
        page.locator("[data-cell]").first.wait_for()
        first.append(_ms(start))
    print(f"large tray: first rows after load     {statistics.median(first):8.0f} ms")
    start = time.perf_counter()
    page.wait_for_function(f"{PICTURES} >= 20")
    print(f"large tray: 20 pictures after that    {_ms(start):8.0f} ms")
    start = time.perf_counter()
    page.get_by_role("button", name="Make ").wait_for()
    print(f"large tray: sums after that           {_ms(start):8.0f} ms")
    scroller = "document.querySelector('.rows > div')"
    gaps = []
    for step in range(1, 31):
        page.evaluate(f"{scroller}.scrollTop = {step * 40_000}")
        start = time.perf_counter()
        page.wait_for_function(NO_GAPS)
        gaps.append(_ms(start))
    print(f"large tray: rows after a jump         {statistics.median(gaps):8.0f} ms, longest {max(gaps):.0f}")
    for _ in range(150):
        page.mouse.wheel(0, 900)
        page.wait_for_timeout(30)
    page.wait_for_timeout(1500)
    print(f"large tray: page memory               {renderer_mb():8.0f} MB")


NOTED = """window.presses = []; new PerformanceObserver(list => {
    const found = list.getEntries().filter(each => ['pointerdown', 'keydown', 'click'].includes(each.name));
    window.presses.push(...found.map(each => each.duration));
}).observe({type: 'event', durationThreshold: 16})"""


def presses(page: Page, address: str, tray: str) -> None:
    """From a press until the page is drawn with it: Event Timing, in steps of 8 ms; less than 16 counts as 16."""
    page.add_init_script(NOTED)
    page.goto(f"{address}trays/{tray}")
    page.locator("[data-cell] img").first.wait_for()
    page.wait_for_timeout(4000)
    spent: list[float] = []

    def noted(press: Callable[[], None]) -> None:
        page.evaluate("window.presses = []")
        press()
        page.wait_for_timeout(500)
        spent.append(max([16.0, *page.evaluate("window.presses")]))

    for _ in range(5):
        for number in (1, 2, 3):
            noted(page.locator("[data-cell]").nth(number).click)
        for key in ("ArrowDown", "ArrowRight", "ArrowUp", "ArrowLeft", "Control+a", "Escape", "+", "-", "i", "Escape"):
            noted(functools.partial(page.keyboard.press, key))
    slow = sorted(spent)[int(0.95 * len(spent))]
    print(f"presses until seen, tray {tray:<13} {statistics.median(spent):8.0f} ms, 95 of 100 {slow:.0f}")


def redraw(page: Page, address: str) -> None:
    """A changed recipe: until all visible cells show it."""
    page.set_viewport_size({"width": 1280, "height": 960})
    spent = []
    first = page.request.get(f"{address}api/trays").json()[0]["id"]
    for _ in range(5):
        page.goto(f"{address}trays/{first}")
        page.locator("[data-cell]").first.wait_for()
        page.wait_for_function(ALL_PICTURES)
        page.wait_for_timeout(3500)  # the page listens for changes by now
        cells = page.locator("[data-cell]").count()
        changed = page.evaluate(
            """async () => {
                const before = [...document.querySelectorAll('[data-cell] img')].map(i => i.src);
                const csrf = /csrftoken=([^;]+)/.exec(document.cookie)[1];
                const recipes = await (await fetch('/api/recipes')).json();
                for (const recipe of recipes.filter(r => !r.archived)) {
                    const strength = ((recipe.content.sharpen?.strength ?? 100) % 199) + 1;
                    const content = {...recipe.content, sharpen: {strength}};
                    await fetch('/api/recipes/' + recipe.id, {method: 'PUT', body: JSON.stringify({content}),
                        headers: {'Content-Type': 'application/json', 'X-CSRFToken': csrf}});
                }
                return before;
            }"""
        )
        start = time.perf_counter()
        page.wait_for_function(
            """before => { const now = [...document.querySelectorAll('[data-cell] img')];
                return now.length && now.every(i => !before.includes(i.src) && i.complete && i.naturalWidth); }""",
            arg=changed,
        )
        spent.append(_ms(start))
    print(f"board: {cells} cells drawn anew          {statistics.median(spent):8.0f} ms")
    page.set_viewport_size({"width": 1280, "height": 800})


def line(page: Page, address: str) -> None:
    """A change on the line: until its numbers and its picture are there."""
    page.goto(f"{address}recipes")
    page.locator("article a.open", has_text="Gridwick").click()
    page.locator("[data-station=size] button.closed").click()
    page.locator("figure img").first.wait_for()
    numbers, pictures = [], []
    for turn in range(20):
        width = 700 + 7 * turn
        seen = page.locator("[data-station=size] figure img").get_attribute("src")
        start = time.perf_counter()
        page.get_by_label("Pixels", exact=True).fill(str(width))
        page.wait_for_function(NUMBER, arg=str(width))
        numbers.append(_ms(start))
        page.wait_for_function(
            """before => { const image = document.querySelector('[data-station=size] figure img');
                return image && image.getAttribute('src') !== before && image.complete && image.naturalWidth; }""",
            arg=seen,
        )
        pictures.append(_ms(start))
        page.wait_for_timeout(700)
    print(f"line: numbers after a change          {statistics.median(numbers):8.0f} ms")
    print(f"line: pictures after a change         {statistics.median(pictures):8.0f} ms")


def _photos_of_24_megapixels(page: Page, address: str, count: int) -> tuple[int, int, list[int]]:
    """(tray, recipe, photos): made up, sent up, read."""
    page.goto(address)
    token = next(each["value"] for each in page.context.cookies() if each["name"] == "csrftoken")
    headers = {"X-CSRFToken": token, "Referer": address}
    tray = page.request.post(f"{address}api/trays", data={"name": "Measured"}, headers=headers).json()["id"]
    recipes = page.request.get(f"{address}api/recipes").json()
    recipe = next(each["id"] for each in recipes if each["title"] == "Object page")
    page.request.put(f"{address}api/trays/{tray}/recipes", data={"recipes": [recipe]}, headers=headers)
    for number in range(count):
        file = {"name": f"measured-{number}.jpg", "mimeType": "image/jpeg", "buffer": photo_like(number)}
        page.request.post(f"{address}api/trays/{tray}/uploads", multipart={"file": file}, headers=headers)
    while True:
        photos = page.request.get(f"{address}api/trays/{tray}/board").json()["photos"]
        rows = page.request.post(f"{address}api/trays/{tray}/rows", data={"photos": photos}, headers=headers).json()
        if len(rows) == count and all(row["cells"] for row in rows):
            return tray, recipe, photos
        time.sleep(0.5)


def close_looks(page: Page, address: str) -> None:
    """A change of sharpness until it is seen exactly; the weight screen's first points, and all of its curves."""
    tray, recipe, photos = _photos_of_24_megapixels(page, address, 6)
    first, whole, changed = [], [], []
    answers: list[float] = []

    def note(response: Response) -> None:
        if response.url.endswith("/points"):
            answers.append(time.perf_counter())

    page.on("response", note)
    for photo in photos:
        page.goto("about:blank")
        answers.clear()
        with page.expect_request(lambda request: "/closer/" in request.url):
            page.goto(f"{address}trays/{tray}/bench/{photo}/{recipe}/weight", wait_until="commit")
        start = time.perf_counter()
        page.locator("[data-exact=yes]").first.wait_for()
        page.wait_for_timeout(5000)
        first.append((answers[0] - start) * 1000)
        whole.append((answers[-1] - start) * 1000)
    page.remove_listener("response", note)
    page.goto(f"{address}trays/{tray}/bench/{photos[0]}/{recipe}/sharpness")
    page.locator("[data-exact=yes]").nth(1).wait_for()
    for turn in range(20):
        page.wait_for_timeout(400)
        start = time.perf_counter()
        page.get_by_label("Strength", exact=True).fill(str(40 + 5 * turn))
        page.locator("figure[data-exact=no]").first.wait_for()
        page.wait_for_function("document.querySelectorAll('figure[data-exact=yes]').length === 2")
        changed.append(_ms(start))
    print(f"weight: first points                  {statistics.median(first):8.0f} ms, longest {max(first):.0f}")
    print(f"weight: all curves                    {statistics.median(whole):8.0f} ms, longest {max(whole):.0f}")
    print(f"sharpness: a change, exactly          {statistics.median(changed):8.0f} ms, longest {max(changed):.0f}")


def main(arguments: list[str]) -> None:
    """Open Debian's Chromium and measure."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        page: Any = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(arguments[0])
        address = page.url
        first = str(page.request.get(f"{address}api/trays").json()[0]["id"])
        for tray in (first, *arguments[1:]):
            presses(page, address, tray)
        if len(arguments) > 1:
            large_tray(page, address, arguments[1])
        line(page, address)
        redraw(page, address)
        close_looks(page, address)
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1:])
