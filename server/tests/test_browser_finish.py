"""What lies around renditions and over them, in the browser: typed, dragged, and found in the pixels of the files."""

from __future__ import annotations

import re
import shutil
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from server.recipes import marks
from server.runs.models import Rendition, Run
from server.tests.browser import BrowserCase
from tray_core.tests.samples import jpeg

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><rect width="40" height="40" fill="#ff0000"/></svg>'


class Finish(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        grey = np.full((600, 900, 3), 120, np.uint8)
        (self.folder / "grey.jpg").write_bytes(jpeg(grey))
        size = {"by": "long-edge", "pixels": 600}
        self.recipe_ = self.recipe("Journal", size=size, file={"format": "png"}, sharpen=None)
        self.tray_ = self.tray(self.recipe_)
        self.work()
        self.sign_in()
        self.addCleanup(shutil.rmtree, marks.folder_of(self.studio), ignore_errors=True)
        self.open(f"/recipes/{self.recipe_.pk}")
        self.page.locator("[data-station=finish] button.closed").click()

    def finish(self) -> Any:
        self.recipe_.refresh_from_db()
        return self.recipe_.current.content.get("finish")  # type: ignore[union-attr]

    def mark(self) -> Any:
        return next(iter((self.finish() or {}).get("marks", [])), None)

    def one_file(self) -> tuple[Rendition, Image.Image]:
        self.page.get_by_role("button", name="Back to the board").click()
        self.page.get_by_role("button", name=re.compile(r"Make 1 rendition")).click()
        self.wait_for(Run.objects.first)
        self.work()
        (row,) = self.made(Run.objects.latest("id"))
        with Image.open(row.path) as image:
            image.load()
        return row, image

    def test_a_mark_is_dragged_and_found_where_it_was_put(self) -> None:
        page = self.page
        page.get_by_role("radio", name=re.compile("^Marks")).check(force=True)
        files = {"name": "red.svg", "mimeType": "image/svg+xml", "buffer": SVG}
        page.locator("[data-station=finish] input[type=file]").set_input_files(files)  # type: ignore[arg-type]
        expect(page.get_by_role("button", name="red.svg", exact=True)).to_be_visible()
        picture = page.locator("[data-station=finish] figure").first.bounding_box()
        handle = page.get_by_role("button", name="Move red.svg", exact=True)
        box = handle.bounding_box()
        assert picture is not None and box is not None
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(picture["x"] + 0.3 * picture["width"], picture["y"] + 0.4 * picture["height"], steps=4)
        page.mouse.up()
        handle.focus()
        for _ in range(10):
            page.keyboard.press("ArrowRight")
        page.get_by_label("Opacity", exact=True).fill("100")
        found = self.wait_for(lambda: (mark := self.mark()) and mark.get("opacity") == 100 and mark)
        self.assertAlmostEqual(found["at"][0], 0.4, delta=0.01)
        self.assertAlmostEqual(found["at"][1], 0.4, delta=0.01)
        _, image = self.one_file()
        pixels = np.asarray(image.convert("RGB")).astype(int)
        ys, xs = np.nonzero((pixels[..., 0] > 200) & (pixels[..., 1] < 60))
        self.assertAlmostEqual(float(xs.mean() + 0.5) / 600, found["at"][0], delta=0.002)
        self.assertAlmostEqual(float(ys.mean() + 0.5) / 400, found["at"][1], delta=0.002)
        self.assertEqual(len(xs), 72 * 72)  # 18 % of the short edge of 400
        page.go_back()
        page.keyboard.press("Control+z")  # the run is over; what was changed last is the recipe
        self.wait_for(lambda: (self.mark() or {}).get("opacity") != 100)

    def test_borders_text_and_a_proof_that_is_downloaded(self) -> None:
        page = self.page
        page.get_by_role("button", name="Add a border").click()
        page.get_by_label("Thickness of border 1").fill("4 cm")
        expect(page.get_by_role("alert").first).to_be_visible()
        expect(page.locator(".foot")).to_contain_text("Not saved")
        page.get_by_label("Thickness of border 1").fill("20 px")
        page.get_by_label("Color of border 1", exact=True).fill("#102030")
        page.get_by_role("radio", name=re.compile("^Marks")).check(force=True)
        page.get_by_role("button", name="Add a text").click()
        page.get_by_label("Text", exact=True).fill("{creator or stem}")
        page.get_by_role("button", name="top left", exact=True).click()
        page.get_by_role("radio", name=re.compile("^Proof")).check(force=True)
        page.get_by_label("Stamp it as a proof").check(force=True)
        page.get_by_label("Longest edge of a proof").fill("300")
        expect(page.locator(".foot .sums")).to_contain_text("300 ×")
        self.wait_for(lambda: self.finish() and self.finish().get("proof", {}).get("longest") == 300)
        self.assertEqual(self.finish()["borders"], [{"width": "20 px", "color": "#102030"}])
        self.assertEqual(self.finish()["marks"], [{"text": "{creator or stem}", "at": "top-left"}])
        row, image = self.one_file()
        self.assertEqual((image.size[0], row.layout["texts"]), (300, ["grey", "PROOF"]))
        rim = np.asarray(image.convert("RGB")).astype(int)[:8].reshape(-1, 3)
        self.assertTrue((np.abs(rim - (0x10, 0x20, 0x30)).max(axis=1) <= 2).mean() > 0.5)
        self.open_newest_run()
        with page.expect_download() as download:
            page.get_by_role("link", name=re.compile("Download 1 file")).click()
        self.assertTrue(download.value.suggested_filename.endswith((".png", ".zip")))
