"""Every main view by the rules of accessibility; and what somebody set up or did is found again."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from server.board import starting
from server.framings.models import Framing
from server.tests.browser import AccessCase, BrowserCase
from server.trays import flows
from server.trays.models import Tray

ASKS = {"way": "crop", "shape": "2:1", "anchor": "ask"}


class Found(AccessCase):
    def test_nothing_on_any_main_view(self) -> None:
        self.copy("autumn-rehang/2031-10-14_01_repair-bench.jpg", "mixed/tiny-for-enlarging_640.jpg")
        (self.folder / "cut.jpg").write_bytes(b"\xff\xd8\xff\xe0 no picture")
        self.recipe("Plain", shelf="Feeds")
        asks = self.recipe(
            "Asks", frame=ASKS, finish={"marks": [{"text": "© {creator or stem}"}]}, parts={"finish": "Credit"}
        )
        tray = self.tray(*self.studio.recipes.all())
        self.work()
        run = starting.start_run(tray)
        self.work()
        photo = tray.places.get(photo__name__contains="repair").photo_id
        page = self.page
        self.open("/sign-in")
        self.look("signing in")
        self.sign_in()
        self.open(f"/trays/{tray.pk}")
        expect(page.locator("[data-cell]")).to_have_count(4)
        self.look("board")
        page.keyboard.press("Control+a")
        page.get_by_role("button", name="Frame…").click()
        page.get_by_role("menu").wait_for()
        self.look("menu", within="[role=menu]")
        page.keyboard.press("Escape")
        for panel in ("View", "Tray", "Show recipes"):
            page.get_by_role("button", name=panel, exact=True).click()
            page.get_by_role("group", name=panel, exact=True).wait_for()
            self.look(panel, within=f"[role=group][aria-label='{panel}']")
            page.keyboard.press("Escape")
        page.keyboard.press("Home")
        for key, view in (("i", "close look"), ("?", "keys")):
            page.keyboard.press(key)
            page.locator(".bx--modal.is-visible").wait_for()
            self.look(view, within=".bx--modal.is-visible")
            page.keyboard.press("Escape")
        page.get_by_role("button", name="Gather photos").click()
        page.locator(".bx--modal.is-visible").wait_for()
        self.look("gathering", within=".bx--modal.is-visible")
        at = f"/trays/{tray.pk}/bench/{photo}/{asks.pk}"
        for path, there, view in (
            (at, "[data-frame]", "bench"),
            (f"{at}/sharpness", "[data-exact=yes]", "sharpness"),
            (f"{at}/weight", "[data-exact=yes]", "weight"),
            (f"{at}/tone", "[data-exact=yes]", "tone"),
            (f"{at}/outline", ".say", "outline"),
            (f"{at}/color", "[data-exact=yes]", "color"),
            (f"/trays/{tray.pk}/words", "[data-spot]", "sheet"),
            ("/questions", "article", "questions"),
            ("/recipes", "article", "recipes"),
            ("/marks", "article", "marks"),
            ("/runs", "[data-run]", "runs"),
            (f"/runs/{run.pk}", "[data-rendition]", "run"),
            ("/storage", "section", "storage"),
            ("/archive", "h1", "archive"),
            ("/trays/999", "h1", "not found"),
        ):
            self.open(path)
            page.locator(there).first.wait_for()
            self.look(view)
        self.open(f"/runs/{run.pk}")
        for name, view in (("Look at", "beside the original"), ("Markup…", "markup")):
            page.get_by_role("button", name=name).first.click()
            page.locator(".bx--modal.is-visible").wait_for()
            self.look(view, within=".bx--modal.is-visible")
            page.keyboard.press("Escape")
        self.open(f"/recipes/{asks.pk}")
        for station in ("frame", "size", "sharpen", "finish", "color", "file", "name", "place", "prep", "cutout"):
            closed = page.locator(f"[data-station={station}] button.closed")
            if closed.count():
                closed.click()
            page.locator(f"[data-station={station}] h2").wait_for()
            open_one = f"[data-station={station}]"
            self.look(f"line: {station}", within="" if station == "frame" else open_one)
            if station == "cutout":
                page.locator("[data-station=cutout]").get_by_role("radio", name="color").check(force=True)
                page.get_by_role("checkbox", name=re.compile("^soft")).check(force=True)
                self.look("line: a cut-out", within=open_one)
            if station == "finish":
                for part in ("Marks", "Proof stamp"):
                    page.get_by_role("radio", name=part).check(force=True)
                    if part == "Marks":
                        page.get_by_role("button", name="Add a text").click()
                    else:
                        page.get_by_label("Stamp it as a proof").check(force=True)
                    self.look(f"line: {part}", within=open_one)


class Kept(BrowserCase):
    """What somebody set up stays: through the bench and back, through a reload, in the address."""

    def setUp(self) -> None:
        super().setUp()
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg", folder="a")
        self.copy("mixed/hall_web.webp", folder="b")
        self.asks = self.recipe("Asks", frame=ASKS)
        self.tray_ = self.tray(self.recipe("One"), self.asks, name="Shop")
        self.work()
        self.sign_in()
        self.open(f"/trays/{self.tray_.pk}")
        expect(self.page.locator("[data-cell]")).to_have_count(6)

    def photo(self, name: str) -> int:
        return self.tray_.places.get(photo__name=name).photo_id

    def test_filter_order_focus_and_a_draft_stay(self) -> None:
        page = self.page
        page.get_by_label("Order").select_option("name")
        page.get_by_role("searchbox", name="Find a name").fill("qm4")
        expect(page.locator("[data-photo]")).to_have_count(2)
        address = f"/trays/{self.tray_.pk}?sort=name&name=qm4"
        self.wait_for(lambda: page.url.endswith(address))
        # Keys work at once after a field: the field is left first, then the choice is cleared.
        page.keyboard.press("Escape")
        page.wait_for_timeout(500)  # as long as it would take to find everything again
        expect(page.get_by_role("searchbox", name="Find a name")).to_have_value("qm4")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("ArrowRight")
        page.keyboard.press("Enter")
        expect(page.locator("[data-frame]")).to_be_visible()
        expect(page).to_have_title("QM4_0118.jpg, Asks · Upper Tray")
        path = f"{self.address}/api/trays/{self.tray_.pk}/bench/{self.photo('QM4_0118.jpg')}/{self.asks.pk}"
        drawn = page.request.get(path).json()["framing"]["y"]
        page.keyboard.press("Shift+ArrowDown")
        page.keyboard.press("Escape")
        expect(page.locator(".notices")).to_contain_text("Your crop of QM4_0118.jpg is not kept yet")
        expect(page.locator("[data-photo]")).to_have_count(2)
        focused = page.locator("[data-cell]:focus")
        expect(focused).to_contain_text("QM4_0118")
        page.reload()
        expect(page.locator("[data-photo]")).to_have_count(2)
        expect(page.get_by_role("searchbox", name="Find a name")).to_have_value("qm4")
        expect(page.locator("[data-cell]:focus")).to_contain_text("QM4_0118")
        page.keyboard.press("Enter")
        expect(page.locator("[data-frame]")).to_be_visible()
        expect(page.get_by_role("button", name="Keep", exact=False).first).to_be_enabled()
        page.keyboard.press("Enter")  # keeps what was drawn before
        self.wait_for(Framing.objects.exists)
        framing = Framing.objects.get()
        self.assertEqual(framing.photo.name, "QM4_0118.jpg")
        self.assertNotAlmostEqual(framing.y, drawn, delta=0.001)
        other = self.new_page()
        other.context.add_cookies(page.context.cookies())
        other.goto(self.address + address)
        expect(other.locator("[data-photo]")).to_have_count(2)

    def test_only_what_is_seen_is_left_out_and_undo_survives_a_reload(self) -> None:
        page = self.page
        page.keyboard.press("Control+a")
        expect(page.locator(".foot")).to_contain_text("6 chosen")
        page.get_by_label("Shape").select_option("portrait")
        expect(page.locator("[data-photo]")).to_have_count(1)
        expect(page.locator(".foot")).to_contain_text("2 of 6 chosen shown")
        page.keyboard.press(" ")
        expect(page.locator("[data-state=excluded]")).to_have_count(2)
        self.assertEqual(self.tray_.exclusions.count(), 2)
        expect(page.get_by_role("button", name="All left out")).to_be_disabled()
        page.reload()
        expect(page.locator("[data-state=excluded]")).to_have_count(2)
        page.keyboard.press("Control+z")
        expect(page.locator("[data-state=excluded]")).to_have_count(0)
        page.keyboard.press("Control+Shift+Z")
        expect(page.locator("[data-state=excluded]")).to_have_count(2)
        # From elsewhere it says where, with a way there.
        page.get_by_role("link", name="Recipes", exact=True).click()
        page.locator("article").first.wait_for()
        page.get_by_role("button", name="Undo").click()
        expect(page.locator(".notices")).to_contain_text("Undone in Shop: left out 2 renditions")
        self.wait_for(lambda: self.tray_.exclusions.count() == 0)
        page.get_by_role("link", name="Go there").click()
        expect(page.locator("[data-photo]")).to_have_count(1)

    def test_much_is_asked_about_by_key(self) -> None:
        flows.light(self.tray_, [self.recipe(f"R{number}").pk for number in range(8)])
        page = self.page
        expect(page.get_by_role("button", name="Make 24 renditions")).to_be_visible()
        page.keyboard.press("M")
        expect(page.get_by_role("alert")).to_contain_text("Make 24 renditions, about")
        page.keyboard.press("Escape")
        expect(page.get_by_role("alert")).to_have_count(0)
        self.assertFalse(self.tray_.runs.exists())
        page.keyboard.press("m")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Making 24 renditions")).to_be_visible()
        # Undoing stops what is not made.
        page.keyboard.press("Control+z")
        self.wait_for(lambda: self.states(self.tray_.runs.get()) == {"stopped": 24})

    def test_letters_can_be_switched_off_and_a_tray_comes_back_from_the_archive(self) -> None:
        page = self.page
        page.keyboard.press("?")
        page.get_by_text("Single-letter keys").click()
        page.keyboard.press("Escape")
        page.keyboard.press("i")
        page.wait_for_timeout(300)
        expect(page.locator(".bx--modal.is-visible")).to_have_count(0)
        page.get_by_role("button", name="Tray", exact=True).click()
        page.get_by_role("button", name="Archive tray").click()
        page.get_by_role("link", name="Archived trays").click()
        page.get_by_role("button", name="Restore Shop").click()
        expect(page.locator("[data-cell]")).to_have_count(6)
        self.assertFalse(Tray.objects.get().archived)
        self.open("/trays/77")
        expect(page.get_by_role("heading", name="Tray not found")).to_be_visible()
