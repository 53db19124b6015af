"""Outlines by eye, in the browser: points moved by mouse and by keys, a batch walked through by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from bench.accuracy.objects import drawn, ring
from server.photos.models import Photo
from server.runs.models import Run
from server.tests.browser import BrowserCase
from tray_core.tests.samples import jpeg

SQUARE = [(250.0, 200.0), (650.0, 200.0), (650.0, 500.0), (250.0, 500.0)]


class OutlineByEye(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        for name, shape in (("a", SQUARE), ("b", ring(90, 350, 210)), ("c", ring(80, 300, 200))):
            pixels, _ = drawn([(shape, (150, 40, 30))], (900, 700))
            (self.folder / f"{name}.jpg").write_bytes(jpeg(pixels, 95))
        self.recipe_ = self.recipe("Object", cutout={"ground": "#ffffff"}, sharpen=None)
        self.tray_ = self.tray(self.recipe_)
        self.work()
        self.sign_in()

    def look(self, name: str) -> None:
        photo = Photo.objects.get(name=name)
        self.open(f"/trays/{self.tray_.pk}/bench/{photo.pk}/{self.recipe_.pk}/outline")
        expect(self.page.locator(".say")).to_contain_text("point")

    def traced(self, name: str) -> dict[str, object]:
        return dict(Photo.objects.get(name=name).traced)

    def test_a_point_moved_by_mouse_and_by_keys(self) -> None:
        page = self.page
        self.look("a.jpg")
        expect(page.locator(".say")).to_contain_text("Certain.")
        first = page.locator("[data-point]").first
        box = first.bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 30, y - 20, steps=4)
        page.mouse.up()
        expect(page.locator(".say")).to_contain_text("Not kept yet.")
        expect(page.locator("#chosen-point")).to_contain_text("of path 1")
        page.keyboard.press("Control+z")
        expect(page.locator(".say")).to_contain_text("Certain.")
        page.keyboard.press("Control+Shift+z")
        before = len(page.locator("[data-point]").all())
        page.keyboard.press("a")
        expect(page.locator("[data-point]")).to_have_count(before + 1)
        page.keyboard.press("Delete")
        expect(page.locator("[data-point]")).to_have_count(before)
        page.keyboard.press("n")
        page.keyboard.press("Shift+ArrowDown")
        page.keyboard.press("c")
        page.reload()
        expect(page.locator(".say")).to_contain_text("Not kept yet.")
        page.keyboard.press("n")
        for _ in range(3):
            page.keyboard.press("Shift+ArrowUp")
        kept = self.traced("a.jpg")
        page.keyboard.press("Enter")
        self.wait_for(lambda: self.traced("a.jpg") != kept)
        after = self.traced("a.jpg")
        self.assertNotEqual(after["box"], kept["box"])
        expect(page).to_have_url(re.compile(rf"/bench/{Photo.objects.get(name='b.jpg').pk}/"))
        page.keyboard.press("Control+z")
        self.wait_for(lambda: self.traced("a.jpg")["box"] == kept["box"])

    def test_a_batch_is_walked_through_by_keyboard(self) -> None:
        page = self.page
        self.open(f"/trays/{self.tray_.pk}")
        expect(page.locator("[data-state=outline]")).to_have_count(2)
        page.locator("[data-cell]").nth(1).focus()
        page.get_by_role("button", name="Make 1 rendition").click()
        self.wait_for(Run.objects.first)
        self.work()
        page.get_by_role("button", name=re.compile("Need an outline")).click()
        page.locator("[data-state=outline]").first.click()
        page.keyboard.press("Enter")
        expect(page.locator(".say")).to_contain_text("reaches the picture's edge")
        expect(page.locator(".count")).to_contain_text("2 outlines of the tray")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="c.jpg")).to_be_visible()
        expect(page.locator(".count")).to_contain_text("1 outline of the tray")
        page.keyboard.press("Enter")
        expect(page.locator(".notices")).to_contain_text("All outlines are certain now")
        self.assertTrue(all(self.traced(name)["sure"] for name in ("a.jpg", "b.jpg", "c.jpg")))
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("^All")).first.click()
        expect(page.locator("[data-state=outline]")).to_have_count(0)

    def test_the_station_on_the_line(self) -> None:
        page = self.page
        self.open(f"/recipes/{self.recipe_.pk}")
        page.get_by_role("button", name=re.compile("^Cut-out")).click()
        station = page.locator("[data-station=cutout]")
        station.get_by_role("radio", name="equally large").check(force=True)
        expect(station.locator(".bad")).to_contain_text("a shape")
        station.get_by_role("radio", name="around it").check(force=True)
        station.get_by_label("Margin").fill("12")
        station.get_by_role("checkbox", name=re.compile("^soft")).check(force=True)
        station.get_by_role("checkbox", name="in the file").check(force=True)
        self.wait_for(lambda: self.cutout().get("path") == "Outline")
        self.assertEqual(
            self.cutout(),
            {"ground": "#ffffff", "fit": "box", "margin": 12.0, "shadow": {"strength": 35}, "path": "Outline"},
        )
        expect(page.locator(".sentence")).to_contain_text("is cut out and laid on white with a soft shadow")
        station.get_by_role("radio", name="not cut").check(force=True)
        self.wait_for(lambda: not self.cutout())

    def cutout(self) -> dict[str, object]:
        self.recipe_.refresh_from_db()
        return dict(self.recipe_.current.content.get("cutout", {}))  # type: ignore[union-attr]
