"""A recipe on the line, in the browser: what is typed, refused, kept and given way to."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import expect

from server.tests.browser import BrowserCase


class Line(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0123.jpg")
        self.recipe_ = self.recipe("Journal")
        self.tray_ = self.tray(self.recipe_)
        self.work()
        self.sign_in()
        self.open(f"/recipes/{self.recipe_.pk}")
        expect(self.page.locator(".sentence")).to_contain_text("240 px on the long edge")

    def content(self) -> Any:
        self.recipe_.refresh_from_db()
        return self.recipe_.current.content  # type: ignore[union-attr]

    def size(self) -> Any:
        return self.content()["size"]

    def test_wrong_values_are_explained_beside_their_field_and_not_lost(self) -> None:
        page = self.page
        page.get_by_role("button", name="240 px on the long edge").click()
        pixels = page.get_by_label("Pixels", exact=True)
        pixels.fill("12o0")
        expect(page.get_by_role("alert")).to_contain_text("found '12o0'")
        expect(pixels).to_have_value("12o0")
        expect(page.locator(".foot")).to_contain_text("Not saved")
        self.assertEqual(self.size()["pixels"], 240)
        page.get_by_role("button", name="Back to the board").click()
        page.locator("[data-cell]").first.wait_for()
        page.go_back()  # to the station that was open
        expect(pixels).to_have_value("12o0")
        page.reload()
        expect(page.locator("[data-station=size] img")).to_be_visible()  # what was kept, until this can be drawn
        expect(pixels).to_have_value("12o0")
        expect(page.get_by_role("alert")).to_contain_text("found '12o0'")
        pixels.fill("1200")
        expect(page.get_by_role("alert")).to_have_count(0)
        expect(page.locator(".foot .sums")).to_contain_text("1200 × 960")
        self.wait_for(lambda: self.size()["pixels"] == 1200)
        page.locator("[data-station=name] button.closed").click()
        page.get_by_label("Pattern").fill("{stem}-{nope}")
        expect(page.get_by_role("alert")).to_contain_text("an unknown field {nope}")

    def test_what_is_changed_while_the_server_is_away_is_kept_later(self) -> None:
        page = self.page
        page.get_by_role("button", name="240 px on the long edge").click()
        page.context.set_offline(True)
        page.get_by_label("Pixels", exact=True).fill("900")
        gone = page.get_by_text("No connection to the server")
        expect(gone).to_be_visible()
        page.get_by_role("button", name="Back to the board").click()
        expect(page.locator(".notices")).to_contain_text("It is here when you come back")
        page.context.set_offline(False)
        expect(gone).to_have_count(0)
        self.assertEqual(self.size()["pixels"], 240)
        self.open(f"/recipes/{self.recipe_.pk}")
        page.locator("[data-station=size] button.closed").click()
        expect(page.get_by_label("Pixels", exact=True)).to_have_value("900")
        self.wait_for(lambda: self.size()["pixels"] == 900)

    def test_a_format_that_cannot_hold_the_bits_offers_a_way_out(self) -> None:
        page, file = self.page, self.page.locator("[data-station=file]")
        file.locator("button.closed").click()
        file.get_by_role("radio", name="PNG").click()
        page.locator("[data-station=color] button.closed").click()
        page.locator("[data-station=color]").get_by_role("radio", name="16 a channel").click()
        self.wait_for(lambda: self.content().get("color", {}).get("bits") == 16)
        file.locator("button.closed").click()
        file.get_by_role("radio", name="JPEG").click()
        expect(file.get_by_role("alert")).to_contain_text("JPEG holds 8 bits a channel")
        self.assertEqual(self.content()["file"]["format"], "png")
        file.get_by_role("button", name="Use 8 bits").click()
        expect(file.get_by_role("alert")).to_have_count(0)
        self.wait_for(lambda: self.content()["file"]["format"] == "jpeg")
        self.assertNotEqual(self.content()["color"].get("bits"), 16)

    def test_stations_by_keyboard_boxes_and_undo(self) -> None:
        page = self.page
        page.get_by_role("button", name="240 px on the long edge").click()
        page.get_by_role("radio", name="inside a box").click()
        page.get_by_label("Width", exact=True).fill("300")
        page.get_by_label("Height", exact=True).fill("100")
        expect(page.locator(".sentence")).to_contain_text("inside 300 × 100")
        expect(page.locator(".foot .sums")).to_contain_text("125 × 100")
        self.wait_for(lambda: self.size() == {"by": "box", "width": 300, "height": 100, "enlarge": "never"})
        page.locator("[aria-label=Sharpen] button.closed").click()
        expect(page.locator("figure img")).to_have_count(2)
        page.keyboard.press("ArrowRight")
        expect(page.locator("[data-station=finish] h2")).to_be_visible()
        page.keyboard.press("ArrowRight")
        expect(page.locator("[data-station=color] h2")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator("[data-cell]")).to_have_count(2)
        page.keyboard.press("Control+z")
        self.wait_for(lambda: (size := self.size())["by"] != "box" or size["height"] != 100)

    def test_at_twice_the_size_the_open_station_is_in_view(self) -> None:
        self.page.set_viewport_size({"width": 640, "height": 400})
        self.in_view("place")
        self.in_view("frame")

    def in_view(self, station: str) -> None:
        self.open(f"/recipes/{self.recipe_.pk}?station={station}")
        found = self.page.locator(f"[data-station={station}]")
        expect(found.locator("h2")).to_be_visible()
        self.wait_for(lambda: (box := found.bounding_box()) and box["x"] >= 0 and box["x"] + box["width"] <= 640)
        self.assertEqual(self.page.evaluate("document.documentElement.scrollWidth"), 640)
