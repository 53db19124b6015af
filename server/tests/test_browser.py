"""Whole tasks in the browser, from a folder of photos to checked files."""

from __future__ import annotations

import base64
import io
import json
import re
import shutil
import zipfile
from pathlib import Path
from typing import Any

from PIL import Image
from playwright.sync_api import expect

from server.runs.models import Rendition, Run
from server.tests.browser import BrowserCase
from server.trays import flows
from tray_core.tests.samples import PHOTOS

PLACE = {"to": "output", "subfolder": "{recipe}", "taken": "new-name"}


class FolderToFile(BrowserCase):
    def test_tray_recipe_run_and_the_downloaded_file(self) -> None:
        shutil.copytree(PHOTOS / "shop-stock", self.folder / "shop-stock")
        shutil.copytree(PHOTOS / "broken", self.folder / "shop-stock" / "broken")
        self.recipe("Journal", size={"by": "width", "pixels": 320, "enlarge": "never"}, place=PLACE)
        self.recipe("Shop", file={"format": "png"}, size={"by": "long-edge", "pixels": 200, "enlarge": "never"})
        self.worker("make", "read")
        page = self.page

        self.open("/")
        page.get_by_label("Name").fill("ada")
        page.get_by_label("Password").fill("brass-escapement")
        page.get_by_role("button", name="Sign in").click()

        page.get_by_role("button", name="New tray").first.click()
        page.get_by_label("shop-stock", exact=True).check()
        page.get_by_role("button", name="Make a tray of 1 folder").click()
        expect(page.get_by_title("Choose all")).to_contain_text("8 photos")
        page.get_by_role("button", name="Cannot be read 3").click()
        expect(page.locator("[data-photo]")).to_have_count(3)
        expect(page.get_by_text("QM4_0132_empty.jpg cannot be read.")).to_be_visible()
        expect(page.get_by_text("an empty file (0 bytes)")).to_be_visible()
        page.get_by_role("button", name="All 8").click()
        expect(page.locator("[data-cell]").first).to_be_visible()
        facts = page.locator("[data-photo]", has_text="QM4_0123.jpg")
        for said in ("1916 × 2396 portrait", "JPEG · 8 bit · sRGB", "turned upright"):
            expect(facts).to_contain_text(said)
        expect(self.cell("QM4_0123.jpg", "Journal")).to_contain_text("320 × 400")
        self._check_thumbnail()

        self._change_recipe()
        expect(self.cell("QM4_0123.jpg", "Journal")).to_contain_text("240 × 300")
        expect(self.cell("QM4_0117.jpg", "Journal")).to_contain_text("small-001.jpg")

        page.get_by_role("button", name="Make 10 renditions").click()
        expect(self.cell("QM4_0117.jpg", "Journal").get_by_role("img", name="made")).to_be_visible(timeout=60_000)
        expect(page.get_by_role("button", name="All made")).to_be_visible(timeout=60_000)
        self.open_newest_run()
        expect(page.locator("[data-rendition]")).to_have_count(10)
        expect(page.locator("aside")).to_contain_text("3 photos were left out")
        self._check_downloads()

    def _check_thumbnail(self) -> None:
        """The picture in the cell has the shape of the plan and the photo's colors: white ground, dark middle."""
        image = self.cell("QM4_0123.jpg", "Journal").locator("img")
        expect(image).to_have_js_property("complete", True)
        box = image.bounding_box()
        assert box is not None
        self.assertAlmostEqual(box["width"] / box["height"], 320 / 400, delta=0.02)
        # Drawn, since pages may fetch nothing but from the server.
        read = """image => {
            const canvas = document.createElement('canvas');
            [canvas.width, canvas.height] = [image.naturalWidth, image.naturalHeight];
            canvas.getContext('2d').drawImage(image, 0, 0);
            return canvas.toDataURL('image/png').split(',')[1];
        }"""
        with Image.open(io.BytesIO(base64.b64decode(image.evaluate(read)))) as thumbnail:
            self.assertAlmostEqual(thumbnail.width / thumbnail.height, 320 / 400, delta=0.01)
            self.assertGreater(min(thumbnail.convert("L").getpixel((3, 3)), 255), 230)

    def _change_recipe(self) -> None:
        page = self.page
        page.get_by_role("columnheader", name="Journal").hover()
        page.get_by_role("link", name="Change Journal").click()
        expect(page.locator(".sentence")).to_contain_text("320 px wide")
        page.get_by_role("button", name="320 px wide").click()
        page.get_by_label("Pixels", exact=True).fill("240")
        expect(page.locator(".sentence")).to_contain_text("240 px wide")
        page.get_by_role("button", name="JPEG at quality 84").click()
        page.get_by_label("Quality", exact=True).fill("60")
        page.locator("[data-station=name] button.closed").click()
        page.get_by_label("Pattern").fill("small-{n:03}")
        expect(page.locator(".examples")).to_contain_text("small-001.jpg")
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")

    def _check_downloads(self) -> None:
        page = self.page
        receipt = page.locator("[data-rendition]", has_text="Journal · Journal").filter(has_text="small-004.jpg")
        expect(receipt).to_contain_text("240 × 300")
        expect(receipt).to_contain_text("JPEG · sRGB")
        with page.expect_download() as caught:
            receipt.get_by_role("link", name="Download").click()
        path = self.folder / caught.value.suggested_filename
        caught.value.save_as(path)
        self.assertEqual(path.name, "small-004.jpg")
        with Image.open(path) as image:
            image.load()
            self.assertEqual((image.size, image.format), ((240, 300), "JPEG"))
            self.assertIn(b"sRGB", image.info["icc_profile"].replace(b"\0", b""))
            self.assertEqual(dict(image.getexif()), {})
        with page.expect_download() as caught:
            page.get_by_role("link", name="Download 10 files as zip").click()
        caught.value.save_as(self.folder / "run.zip")
        with zipfile.ZipFile(self.folder / "run.zip") as archive:
            files = json.loads(archive.read("manifest.json"))["files"]
            self.assertEqual(len(files), 10)
            for file in files:
                with Image.open(io.BytesIO(archive.read(file["file"]))) as image:
                    self.assertEqual(image.size, (file["width"], file["height"]))
        self.assertEqual(len(list((self.output / "Journal").iterdir())), 5)
        page.get_by_role("button", name="Sign out ada").click()
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()


class Uploads(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.recipe("Journal")
        self.sign_in()

    def test_a_folder_is_uploaded_and_a_failed_file_tried_again(self) -> None:
        self.copy("mixed/tiny-for-enlarging_640.jpg", "shop-stock/QM4_0118.jpg", folder="shoot")
        (self.folder / "shoot" / "notes.txt").write_text("not a picture")
        self.worker("read")
        page, refused = self.page, []

        def refuse_once(route: Any) -> None:
            if not refused:
                refused.append(True)
                route.abort()
            else:
                route.continue_()

        page.route(re.compile(r"/uploads$"), refuse_once)
        self.open("/")
        page.get_by_role("button", name="New tray").first.click()
        page.locator("[data-upload=folder]").set_input_files(self.folder / "shoot")
        expect(page.locator(".uploads")).to_contain_text("1 file failed")
        expect(page.locator(".uploads")).to_contain_text("The connection was lost.")
        page.get_by_role("button", name="Try again", exact=True).click()
        expect(page.locator(".uploads")).to_contain_text("Uploaded 2 of 2 files")
        expect(page.locator(".tray select")).to_contain_text("shoot")
        expect(page.locator("[data-state=ready][data-photo]")).to_have_count(2)
        expect(page.locator(".folder")).to_contain_text("shoot")

    def test_a_folder_is_added_to_the_tray_one_sees(self) -> None:
        self.copy("mixed/tiny-for-enlarging_640.jpg")
        tray = self.tray(name="Here")
        self.copy("shop-stock/QM4_0118.jpg", folder="later")
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}")
        page.get_by_role("button", name="Gather photos").click()
        page.get_by_role("radio", name="Here").click()
        page.get_by_label("later", exact=True).check()
        page.get_by_role("button", name="Add 1 folder").click()
        expect(page.locator("[data-photo]")).to_have_count(2)
        self.work()
        expect(page.locator("[data-state=ready][data-photo]")).to_have_count(2)

    def test_files_dropped_on_the_window_go_into_the_tray(self) -> None:
        (path,) = self.copy("mixed/tiny-for-enlarging_640.jpg")
        tray = self.tray(name="Here")
        self.worker("read")
        page = self.page
        self.open(f"/trays/{tray.pk}")
        expect(page.locator("[data-photo]")).to_have_count(1)
        second = Path(shutil.copy(path, self.folder / "second.jpg"))
        devtools = page.context.new_cdp_session(page)
        data = {"items": [], "files": [str(second)], "dragOperationsMask": 1}
        for kind in ("dragEnter", "dragOver", "drop"):
            event = {"type": kind, "x": 300, "y": 400, "data": data}
            devtools.send("Input.dispatchDragEvent", event)
            page.wait_for_timeout(150)
        # By a worker that is still starting.
        expect(page.locator("[data-state=ready][data-photo]")).to_have_count(2, timeout=30_000)
        expect(page.locator(".uploads")).to_contain_text("Uploaded 1 of 1 file")


class Board(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg", "shop-stock/QM4_0121.jpg")
        self.tray_ = self.tray(self.recipe("One"), self.recipe("Two"), name="Shop")
        self.work()
        self.sign_in()
        self.open(f"/trays/{self.tray_.pk}")
        expect(self.page.locator("[data-cell]")).to_have_count(6)

    def out(self) -> list[tuple[str, str]]:
        pairs = self.tray_.exclusions.values_list("photo__name", "recipe__title")
        return sorted(pairs)

    def test_choosing_leaving_out_undoing_and_making_by_keyboard(self) -> None:
        page = self.page
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Shift+ArrowRight")
        expect(page.locator("[aria-selected=true]")).to_have_count(2)
        page.keyboard.press(" ")
        expect(page.locator("[data-state=excluded]")).to_have_count(2)
        self.assertEqual(self.out(), [("QM4_0118.jpg", "One"), ("QM4_0118.jpg", "Two")])
        page.keyboard.press("Control+z")
        expect(page.locator("[data-state=excluded]")).to_have_count(0)
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name="Make 6 renditions")).to_be_visible()
        page.keyboard.press("Shift+Digit2")
        expect(page.locator("[aria-selected=true]")).to_have_count(3)
        page.keyboard.press(" ")
        expect(page.locator("[data-state=excluded]")).to_have_count(3)
        page.keyboard.press("Escape")
        page.keyboard.press("?")
        expect(page.get_by_role("heading", name="On the board")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("heading", name="On the board")).to_be_hidden()
        page.keyboard.press("m")
        expect(page.get_by_role("button", name="Making 3 renditions")).to_be_visible()
        self.work()
        expect(page.get_by_role("button", name="All made")).to_be_visible()
        self.assertEqual(self.states(Run.objects.get()), {"made": 3})

    def test_choosing_by_mouse_and_looking_closely(self) -> None:
        page = self.page
        self.cell("QM4_0117.jpg", "One").click()
        self.cell("QM4_0118.jpg", "Two").click(modifiers=["Shift"])
        expect(page.locator("[aria-selected=true]")).to_have_count(4)
        page.locator("[data-photo]", has_text="QM4_0121.jpg").click(modifiers=["Control"])
        expect(page.locator("[aria-selected=true]")).to_have_count(6)
        page.get_by_role("columnheader", name="Two").locator("button").click()
        expect(page.locator("[aria-selected=true]")).to_have_count(3)
        page.get_by_role("button", name="Leave out").click()
        expect(page.locator("[data-state=excluded]")).to_have_count(3)
        page.get_by_role("button", name="Take in").click()
        expect(page.locator("[data-state=excluded]")).to_have_count(0)
        self.cell("QM4_0118.jpg", "One").dblclick()
        expect(page.get_by_role("dialog")).to_contain_text("QM4_0118.jpg")
        expect(page.get_by_role("dialog")).to_contain_text("240 × 192")
        page.keyboard.press("ArrowDown")
        expect(page.get_by_role("dialog")).to_contain_text("QM4_0121.jpg")

    def test_a_cell_weighed_before_it_is_made_weighs_that(self) -> None:
        page = self.page
        self.cell("QM4_0117.jpg", "One").dblclick()
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("about")
        dialog.get_by_role("button", name="Calculate exact size").click()
        told = dialog.get_by_text("bytes exactly")
        expect(told).to_be_visible()
        weighed = int(told.inner_text().split()[0].replace(",", ""))
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("Make 1 rendition")).click()
        self.wait_for(lambda: Run.objects.exists())
        self.work()
        made = Rendition.objects.get(photo__name="QM4_0117.jpg", recipe__title="One")
        assert made.receipt is not None
        self.assertEqual(made.receipt["bytes"], weighed)

    def test_more_recipes_than_fit_scroll_sideways_under_their_heads(self) -> None:
        page = self.page
        flows.light(self.tray_, [self.recipe(f"R{number}").pk for number in range(9)])
        expect(page.get_by_role("columnheader")).to_have_count(10)  # with that of the photos
        page.keyboard.press("End")
        last = self.cell("QM4_0117.jpg", "R8")
        expect(last).to_be_in_viewport(ratio=1)
        expect(last).to_be_focused()
        head = page.get_by_role("columnheader", name="R8")
        photo = page.locator("[data-photo]").first
        self.wait_for(lambda: abs(head.bounding_box()["x"] - last.bounding_box()["x"]) < 1)
        self.assertEqual(head.bounding_box()["width"], last.bounding_box()["width"])
        self.assertEqual(photo.bounding_box()["x"], 16)

    def test_a_run_is_watched_stopped_left_and_found_again(self) -> None:
        page = self.page
        page.get_by_role("button", name="Make 6 renditions").click()
        page.locator("a.corner").click()
        expect(page.locator("aside")).to_contain_text("6 to go")
        page.get_by_role("link", name="Board", exact=True).click()
        expect(page.locator("[data-state=waiting]")).to_have_count(6)
        page.locator("a.corner").click()
        page.get_by_role("button", name="Stop").click()
        expect(page.locator("aside")).to_contain_text("0 made, 6 stopped")
        expect(page.locator("[data-rendition][data-state=stopped]")).to_have_count(6)
        page.get_by_role("link", name="Runs", exact=True).click()
        expect(page.locator("[data-run]").first).to_contain_text("6 stopped")

    def test_a_bad_file_fails_alone_and_says_why(self) -> None:
        page = self.page
        page.get_by_role("button", name="Make 6 renditions").click()
        expect(page.locator("[data-state=waiting]")).to_have_count(6)
        (self.folder / "QM4_0118.jpg").write_bytes(b"gone wrong")
        self.work()
        self.open_newest_run()
        expect(page.locator("[data-rendition][data-state=made]")).to_have_count(4)
        page.get_by_role("button", name="Failed 2").click()
        expect(page.locator("[data-rendition]")).to_have_count(2)
        expect(page.locator("[data-rendition]").first).to_contain_text("found plain text")
