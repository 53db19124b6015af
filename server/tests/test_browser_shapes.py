"""Whole tasks with shapes in the browser: outlets, framings, panels, grounds, the list of those that need a crop."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from server.framings.models import Framing
from server.runs.models import Rendition, Run
from server.tests.browser import BrowserCase
from tray_core.recipe import starters
from tray_core.tests.samples import PHOTOS

PNG = {"format": "png"}
CHANGE = {
    "landscape": "autumn-rehang/2031-10-14_01_repair-bench.jpg",
    "portrait": "autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg",
    "panorama": "autumn-rehang/2031-10-15_03_gallery-wall-panorama.jpg",
}


class ShapesCase(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.sign_in()

    def files(self, folder: str) -> dict[str, Path]:
        return {path.name: path for path in sorted((self.output / folder).iterdir())}

    def pixels(self, path: Path) -> Any:
        with Image.open(path) as image:
            return np.asarray(image.convert("RGB")).astype(int)

    def make_all(self, count: int) -> Run:
        """Press the one button, have the work done, and wait until the board says so."""
        before = Run.objects.count()
        self.page.get_by_role("button", name=f"Make {count} rendition").click()
        self.wait_for(lambda: Run.objects.count() > before)
        self.work()
        return Run.objects.latest("id")


class Outlets(ShapesCase):
    def test_seven_outlets_for_a_mixed_folder(self) -> None:
        """Landscape, portrait and panorama into seven shapes: most by themselves, two by hand."""
        self.copy(*CHANGE.values(), folder="in")
        self.copy("shop-stock/QM4_0123.jpg", folder="in")
        wanted = ("Journal column", "Hall banner", "Square grid", "Feed within bounds", "Full-screen story")
        for core in starters():
            if core.title in (*wanted, "Object page", "Responsive set"):
                self.recipe(core.title, **{k: v for k, v in core.to_json().items() if k in ("frame", "size")}, file=PNG)
        tray = self.tray(*self.studio.recipes.all(), name="Mixed")
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}")
        expect(page.locator("[data-state=eye]")).to_have_count(4)
        expect(page.locator(".foot")).to_contain_text("4 need a crop")
        expect(self.cell("2031-10-16_06_clock-tower-dusk.jpg", "Hall banner")).to_contain_text("place the crop")
        # Two by their interesting part, in one go; the others later.
        self.cell("2031-10-14_01_repair-bench.jpg", "Hall banner").click()
        self.cell("2031-10-15_03_gallery-wall-panorama.jpg", "Hall banner").click(modifiers=["Shift"])
        page.get_by_role("button", name="Frame…").click()
        page.get_by_role("menuitem", name="interesting part", exact=True).click()
        expect(page.locator("[data-state=eye]")).to_have_count(2)
        self.assertEqual(Framing.objects.count(), 2)
        page.keyboard.press("Escape")
        still = 2
        everything = 4 * 6 + 4 * 4 - still
        run = self.make_all(everything)
        self.assertEqual(self.states(run), {"made": everything, "asking": still})
        for row in self.made(run):
            with self.subTest(row.name), Image.open(row.path) as image:
                self.assertEqual(image.size, (row.width, row.height))
        tower = "2031-10-16_06_clock-tower-dusk"
        of_tower = {r.recipe.title: r.width / r.height for r in run.renditions.filter(photo__name=f"{tower}.jpg")}
        shapes = [of_tower[title] for title in ("Square grid", "Full-screen story", "Feed within bounds")]
        self.assertEqual(shapes, [1.0, 1080 / 1920, 0.8])
        self.assertEqual(run.renditions.filter(recipe__title="Responsive set", photo__name=f"{tower}.jpg").count(), 4)

    def test_a_portrait_among_landscapes_gets_its_own_width(self) -> None:
        self.copy(CHANGE["landscape"], CHANGE["portrait"])
        recipe = self.recipe("Column", size={"by": "width", "pixels": 300}, file=PNG)
        tray = self.tray(recipe)
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}")
        expect(self.cell("2031-10-16_06_clock-tower-dusk.jpg", "Column")).to_contain_text("300 × 450")
        self.cell("2031-10-16_06_clock-tower-dusk.jpg", "Column").click()
        page.keyboard.press("e")
        page.get_by_role("button", name="300 px wide").click()
        page.get_by_label("Pixels, portrait").fill("160")
        expect(page.locator(".sentence")).to_contain_text("300 px wide, portraits 160 px wide")
        page.get_by_label("Compare two").check()
        expect(page.locator("figure", has_text="160 × 240")).to_be_visible()
        expect(page.locator("figure", has_text="300 × 200")).to_be_visible()
        page.get_by_role("button", name="Back to the board").click()
        expect(self.cell("2031-10-16_06_clock-tower-dusk.jpg", "Column")).to_contain_text("160 × 240")
        run = self.make_all(2)
        self.assertEqual({(row.width, row.height) for row in self.made(run)}, {(300, 200), (160, 240)})

    def test_six_panels_of_a_panorama_join_without_a_seam(self) -> None:
        self.copy(CHANGE["panorama"])
        frame = {"way": "crop", "shape": "6:1"}
        self.recipe("Whole", frame=frame, size={"by": "width", "pixels": 1200}, file=PNG)
        tray = self.tray(self.recipe("Panels", frame=frame, size={"by": "width", "pixels": 1200}, file=PNG))
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}")
        self.cell("2031-10-15_03_gallery-wall-panorama.jpg", "Panels").click()
        page.keyboard.press("e")
        page.get_by_label("Panels", exact=True).fill("6")
        page.get_by_label("Shape, typed").fill("1:1")
        page.get_by_role("button", name="1200 px wide").click()
        page.get_by_label("Pixels", exact=True).fill("200")
        expect(page.locator(".sentence")).to_contain_text("cut into six squares side by side; each is made 200 px wide")
        page.get_by_role("button", name="Back to the board").click()
        expect(self.cell("2031-10-15_03_gallery-wall-panorama.jpg", "Panels")).to_contain_text("6 of 200×200")
        page.get_by_role("button", name="Show recipes").click()
        page.get_by_label("Whole").check()
        page.keyboard.press("Escape")
        self.make_all(7)
        panels = list(self.files("Panels").values())
        self.assertEqual([path.stem[-2:] for path in panels], ["-1", "-2", "-3", "-4", "-5", "-6"])
        joined = np.concatenate([self.pixels(path) for path in panels], axis=1)
        (whole,) = self.files("Whole").values()
        # The same pixels but for sharpening, which ends at each picture's edge in neither: it is done before the cut.
        np.testing.assert_array_equal(joined, self.pixels(whole))

    def test_letterbox_and_blurred_ground_are_in_the_written_pixels(self) -> None:
        self.copy(CHANGE["landscape"])
        recipe = self.recipe("Story", size=None, file=PNG, frame={"way": "pad", "shape": "270x480"})
        tray = self.tray(recipe)
        self.work()
        page = self.page
        self.open(f"/recipes/{recipe.pk}")
        page.get_by_label("Color, typed").fill("#204060")
        expect(page.locator(".sentence")).to_contain_text("padded to 270 × 480 with the color #204060")
        page.get_by_role("button", name="Back to the board").click()
        self.make_all(1)
        (path,) = self.files("Story").values()
        made = self.pixels(path)
        self.assertEqual(made.shape, (480, 270, 3))
        self.assertTrue((made[:149] == (0x20, 0x40, 0x60)).all() and (made[331:] == (0x20, 0x40, 0x60)).all())
        self.cell("2031-10-14_01_repair-bench.jpg", "Story").click()
        page.keyboard.press("e")
        page.get_by_role("button", name="blurred copy").click()
        expect(page.locator(".sentence")).to_contain_text("with a blurred copy of itself")
        page.get_by_role("button", name="Back to the board").click()
        expect(page.locator("[data-state=outdated]")).to_have_count(1)
        page.keyboard.press("Escape")
        self.make_all(1)
        blurred = self.pixels(self.files("Story")["2031-10-14_01_repair-bench-2.png"])
        np.testing.assert_array_equal(blurred[160:320], made[160:320])
        ground = blurred[:149]
        self.assertLessEqual(np.abs(np.diff(ground, axis=0)).max(), 8)
        self.assertGreater(ground.std(), 5)
        self.assertEqual(tray.places.count(), 1)


class Bench(ShapesCase):
    def test_one_photo_with_three_framings(self) -> None:
        self.copy("autumn-rehang/2031-10-14_02_lark-and-drum-clock.jpg")
        for title, shape in (("Square", "200x200"), ("Banner", "300x100"), ("Story", "90x160")):
            self.recipe(title, frame={"way": "crop", "shape": shape, "anchor": "ask"}, size=None, file=PNG)
        tray = self.tray(*self.studio.recipes.all())
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}")
        for title, key in (("Square", "ArrowLeft"), ("Banner", "ArrowDown"), ("Story", "ArrowRight")):
            self.cell("2031-10-14_02_lark-and-drum-clock.jpg", title).dblclick()
            expect(page.locator(".top")).to_contain_text(f"for {title}")
            page.keyboard.press("+")
            for _ in range(3):
                page.keyboard.press(f"Shift+{key}")
            page.keyboard.press("Enter")
            self.wait_for(lambda title=title: Framing.objects.filter(name=title).exists())
            page.goto(f"{self.address}/trays/{tray.pk}")
        expect(page.locator("[data-state=eye]")).to_have_count(0)
        self.assertEqual(sorted(Framing.objects.values_list("name", flat=True)), ["Banner", "Square", "Story"])
        run = self.make_all(3)
        self.assertEqual({(row.width, row.height) for row in self.made(run)}, {(200, 200), (300, 100), (90, 160)})
        for row in self.made(run):
            framing = Framing.objects.get(name=row.recipe.title)
            left, top, width, height = row.layout["rect"]
            self.assertAlmostEqual(left, framing.x * 2996, delta=0.6)
            self.assertAlmostEqual(top, framing.y * 1996, delta=0.6)
            self.assertLess(width * height, 2996 * 1996 / 1.03)

        # Another square, drawn by mouse, chosen, renamed, deleted again; every step can be undone.
        self.cell("2031-10-14_02_lark-and-drum-clock.jpg", "Square").dblclick()
        page.get_by_role("button", name="New framing").click()
        frame = page.locator("[data-frame]")
        box = frame.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] / 2 + 80, box["y"] + box["height"] / 2, steps=4)
        page.mouse.up()
        page.get_by_role("button", name="Keep", exact=False).click()
        expect(page.locator("[data-framing]")).to_have_count(4)
        moved = frame.bounding_box()
        assert moved is not None
        self.assertAlmostEqual(moved["x"] - box["x"], 80, delta=2)
        expect(page.locator("[data-framing='Square 2'].used")).to_be_visible()
        page.locator("[data-framing='Square'] .name").click()
        expect(page.locator("li.used")).to_contain_text("Square")
        self.wait_for(lambda: Framing.objects.filter(photo__name__contains="lark").first().name == "Square")
        page.locator("[data-framing='Square 2']").hover()
        page.get_by_role("button", name="Delete Square 2").click()
        expect(page.locator("[data-framing]")).to_have_count(3)
        page.keyboard.press("Control+z")
        expect(page.locator("[data-framing]")).to_have_count(4)

    def test_twenty_from_the_list_by_keyboard_while_a_run_makes_the_rest(self) -> None:
        source = PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg"
        for number in range(20):
            shutil.copy(source, self.folder / f"shot-{number:02}.jpg")
        banner = {"way": "crop", "shape": "3:1", "anchor": "ask"}
        self.recipe("Banner", frame=banner, size={"by": "width", "pixels": 300})
        self.recipe("Small", size={"by": "width", "pixels": 100})
        tray = self.tray(*self.studio.recipes.all())
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}")
        expect(page.locator(".foot")).to_contain_text("20 need a crop")
        run = self.make_all(20)
        self.assertEqual(self.states(run), {"made": 20, "asking": 20})
        expect(page.locator(".foot")).to_contain_text("20 need a crop")
        page.keyboard.press("l")
        for number in range(20):
            expect(page.locator(".top .title")).to_have_text(f"shot-{number:02}.jpg")
            page.keyboard.press("ArrowDown")
            page.keyboard.press("Enter")
        expect(page.get_by_text("Every photo has its crop")).to_be_visible()
        expect(page.locator("[data-state=eye]")).to_have_count(0)
        self.assertEqual(Framing.objects.count(), 20)
        self.assertEqual(self.states(run), {"made": 20, "waiting": 20})
        self.work()
        self.assertEqual(self.states(run), {"made": 40})
        run.refresh_from_db()
        self.assertIsNotNone(run.finished)
        self.assertEqual(Rendition.objects.filter(recipe__title="Banner", width=300, height=100).count(), 20)

    def test_a_framing_is_used_for_similar_photos(self) -> None:
        for number in range(3):
            shutil.copy(PHOTOS / "mixed" / "tiny-for-enlarging_640.jpg", self.folder / f"shot-{number}.jpg")
        self.copy(CHANGE["portrait"])
        recipe = self.recipe("Square", frame={"way": "crop", "shape": "1:1", "anchor": "ask"}, size=None)
        tray = self.tray(recipe)
        self.work()
        page = self.page
        self.open(f"/trays/{tray.pk}/bench/{tray.places.get(photo__name='shot-0.jpg').photo_id}/{recipe.pk}")
        expect(page.locator(".top .title")).to_have_text("shot-0.jpg")
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("Enter")
        expect(page.locator(".top .title")).to_have_text("shot-1.jpg")
        page.go_back()
        page.get_by_role("button", name="Use for 2 similar photos").click()
        self.wait_for(lambda: Framing.objects.count() == 3)
        self.assertEqual(len(set(Framing.objects.values_list("x", "y", "width", "height"))), 1)
