"""Tests through the real interface: Debian's headless Chromium, uvicorn, and worker processes on the test database."""

from __future__ import annotations

import atexit
import json
import os
import socket
import threading
from typing import Any, ClassVar, Literal

import uvicorn
from playwright.sync_api import Browser, Page, Playwright, expect, sync_playwright

from server.photos.hands import hands
from server.project.conf import PROJECT
from server.tests.cases import StudioCase
from tray_core.line import get_ready

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


SEEN = "if (!localStorage.getItem('upper-tray.first-steps')) localStorage.setItem('upper-tray.first-steps', 'left')"
"""Not somebody's first visit: the tests of that begin with none of it."""


PATIENCE = 90_000
"""Milliseconds that a machine which is busy with other tests, too, may take; what comes sooner is seen sooner."""

expect.set_options(timeout=PATIENCE)

atexit.register(hands.close)
hands.close = hands.wake = lambda: None  # type: ignore[method-assign]  # all tests share them: they take seconds to start


class BrowserCase(StudioCase):
    """A page at 1280 x 800 in front of a server of its own; any error in the page's console fails the test."""

    playwright: ClassVar[Playwright]
    browser: ClassVar[Browser]
    asynchronous: ClassVar[str | None]
    motion: ClassVar[Literal["no-preference", "reduce"]] = "no-preference"

    @classmethod
    def setUpClass(cls) -> None:
        # Playwright keeps an event loop in this thread; Django must not mind.
        cls.asynchronous = os.environ.get("DJANGO_ALLOW_ASYNC_UNSAFE")
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        super().setUpClass()
        get_ready()  # as the server does at its start
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        cls.addClassCleanup(cls.browser.close)

    @classmethod
    def tearDownClass(cls) -> None:
        super().tearDownClass()
        if cls.asynchronous is None:
            del os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"]

    def setUp(self) -> None:
        super().setUp()
        listener = socket.socket()
        listener.bind(("127.0.0.1", 0))
        self.addCleanup(listener.close)
        self.address = f"http://localhost:{listener.getsockname()[1]}"
        from server.project.asgi import application

        settings = uvicorn.Config(application, log_level="error", lifespan="on", timeout_graceful_shutdown=1)
        self.server = uvicorn.Server(settings)
        thread = threading.Thread(target=self.server.run, kwargs={"sockets": [listener]}, daemon=True)
        thread.start()
        self.addCleanup(thread.join, 10)
        self.addCleanup(setattr, self.server, "should_exit", True)
        self.wait_for(lambda: self.server.started)
        self.errors: list[str] = []
        self.page = self.new_page()

    def new_page(self) -> Page:
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, accept_downloads=True, reduced_motion=self.motion
        )
        context.add_init_script(SEEN)
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(PATIENCE)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.on("console", self._heard)
        return page

    def _heard(self, message: Any) -> None:
        # A failed request is told by the page itself; the browser's own line about it is no error of ours.
        if message.type == "error" and "Failed to load resource" not in message.text:
            self.errors.append(message.text)

    def tearDown(self) -> None:
        self.assertEqual(self.errors, [])
        super().tearDown()

    def sign_in(self) -> None:
        """By the session of the test client: the sign-in page has a test of its own."""
        cookie = self.client.cookies["sessionid"].value
        self.page.context.add_cookies([{"name": "sessionid", "value": cookie, "url": self.address}])

    def open(self, path: str = "/") -> None:
        self.page.goto(self.address + path)

    def open_newest_run(self) -> None:
        """By the list of runs: the corner shows a finished run for a while only."""
        self.page.get_by_role("link", name="Runs", exact=True).click()
        self.page.locator("[data-run] .name a").first.click()

    def cell(self, photo: str, recipe: str) -> Any:
        """The cell of a photo by a recipe, found by what a person sees."""
        self.page.locator("[data-cell]").first.wait_for()
        heads = self.page.locator("[role=columnheader] .title").all_inner_texts()
        row = self.page.locator(
            "[role=row]", has=self.page.locator(f"[data-photo] .name:is([title='{photo}'], [data-tip='{photo}'])")
        )
        return row.locator("[data-cell]").nth(heads.index(recipe))


STILL = """() => new Promise((done) => {
  let quiet = 0;
  const look = () => {
    quiet = document.getAnimations().some((each) => each.playState === 'running') ? 0 : quiet + 1;
    quiet > 3 ? done(true) : requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})"""
"""Some frames in a row in which nothing fades: half of a color has half of a contrast."""

AXE = PROJECT / "web" / "node_modules" / "axe-core" / "axe.min.js"
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


class AccessCase(BrowserCase):
    """A page that is held against the rules of accessibility, as it stands when nothing fades in any more."""

    motion = "reduce"

    def findings(self, page: Page, colors: bool = False, within: str = "") -> list[str]:
        """What axe-core finds on the page as it is. The dialogs' heads are of a fixed level in the library.

        colors: of contrast alone. within: a selector, where the rest of the page was looked at before.
        """
        if not page.evaluate("!!window.axe"):
            page.evaluate(AXE.read_text())
        rules: dict[str, Any] = {"runOnly": TAGS, "rules": {"heading-order": {"enabled": False}}}
        if colors:
            rules = {"runOnly": {"type": "rule", "values": ["color-contrast"]}}
        # What is in order is told by one example each, and not asked for.
        how = json.dumps(rules | {"resultTypes": ["violations"]})
        where = json.dumps(within) if within else "document"
        found: Any = page.evaluate(f"axe.run({where}, {how}).then((found) => found.violations)")
        return [f"{each['id']}: {node['html'][:160]}" for each in found for node in each["nodes"]]

    def look(self, view: str, on: Page | None = None, within: str = "") -> None:
        """In the light room and in the dark one, which differ in colors alone. within: as in `findings`."""
        page = on or self.page
        for room in ("dark", "light"):
            page.evaluate(f"document.documentElement.dataset.room = '{room}'")
            page.wait_for_function(STILL)
            with self.subTest(view, room=room):
                self.assertEqual(self.findings(page, colors=room == "light", within=within), [])
