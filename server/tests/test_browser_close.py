"""Whole tasks with sharpness, weight and color in the browser: judged by eye, kept, made, read back."""

from __future__ import annotations

import re

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from server.framings.models import Sharpness
from server.photos.models import Photo
from server.recipes.models import Part, Recipe
from server.runs.models import Rendition, Run
from server.tests.browser import BrowserCase
from server.trays.models import Tray
from tray_core.tests.samples import PHOTOS

DIAL = "2031-10-17_08_dial-detail.jpg"
BENCH = "2031-10-14_01_repair-bench.jpg"


class CloseCase(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.sign_in()

    def ready(self, *photos: str, **stations: object) -> tuple[Tray, Recipe]:
        self.copy(*photos)
        recipe = self.recipe("Journal", **stations)
        tray = self.tray(recipe)
        self.work()
        return tray, recipe

    def look(self, tray: Tray, recipe: Recipe, name: str, look: str) -> None:
        photo = Photo.objects.get(name=name)
        self.open(f"/trays/{tray.pk}/bench/{photo.pk}/{recipe.pk}/{look}")

    def make_all(self, tray: Tray) -> list[Rendition]:
        self.page.get_by_role("link", name="Board", exact=True).click()
        before = Run.objects.count()
        self.page.get_by_role("button", name=re.compile(r"Make \d+ rendition")).click()
        self.wait_for(lambda: Run.objects.count() > before)
        self.work()
        return self.made(Run.objects.latest("id"))


class SharpnessByEye(CloseCase):
    def test_judged_and_overridden_for_one_photo(self) -> None:
        tray, _ = self.ready(f"autumn-rehang/{DIAL}", f"autumn-rehang/{BENCH}", file={"format": "png"})
        page = self.page
        self.open(f"/trays/{tray.pk}")
        self.cell(DIAL, "Journal").dblclick()
        page.get_by_role("link", name="Sharpness").click()
        exact = page.locator("figure[data-exact=yes]")
        expect(exact).to_have_count(2)
        page.get_by_role("radio", name="200 %").click()
        page.keyboard.press("b")
        expect(page.get_by_text("after · 100 %")).to_be_visible()
        page.keyboard.press("b")
        expect(page.locator("figcaption", has_text="before")).to_be_visible()
        page.keyboard.press("m")
        expect(page.get_by_text("white is sharpened, black is left alone")).to_be_visible()
        page.get_by_role("radio", name="side by side").click()
        page.get_by_label("Strength", exact=True).fill("0")
        expect(page.get_by_text("after · 0 %")).to_be_visible()
        page.get_by_role("button", name=re.compile("for this photo")).click()
        expect(page.get_by_role("button", name="Follow the recipe again")).to_be_visible()
        self.assertEqual([each.strength for each in Sharpness.objects.all()], [0])
        made = {row.photo.name: row for row in self.make_all(tray)}
        self.assertEqual((made[DIAL].strength, made[BENCH].strength), (0, None))
        with Image.open(made[DIAL].path) as image:
            plain = np.asarray(image).astype(int)
        # The photo shrunk by Lanczos alone: nothing was sharpened.
        with Image.open(PHOTOS / "autumn-rehang" / DIAL) as image:
            wanted = np.asarray(image.convert("RGB").resize(plain.shape[1::-1], Image.Resampling.LANCZOS)).astype(int)
        self.assertLess(np.abs(plain - wanted).mean(), 1)
        page.keyboard.press("Control+z")
        self.wait_for(lambda: not Sharpness.objects.exists())
        expect(self.cell(DIAL, "Journal")).to_contain_text("out of date")

    def test_a_stronger_recipe_from_the_bench(self) -> None:
        tray, recipe = self.ready(f"autumn-rehang/{DIAL}")
        page = self.page
        self.look(tray, recipe, DIAL, "sharpness")
        expect(page.locator("figure[data-exact=yes]")).to_have_count(2)
        for _ in range(4):
            page.keyboard.press("+")
        expect(page.get_by_text("after · 120 %")).to_be_visible()
        self.assertRegex(page.locator("[data-overshoot]").inner_text(), r"go \d+ levels of 255 beyond")
        page.get_by_role("radio", name="automatic").click()
        page.get_by_text("levels here").wait_for()
        page.get_by_role("radio", name="by hand").click()
        page.get_by_label("Flat-area guard", exact=True).fill("6")
        page.get_by_role("button", name=re.compile("Keep for the recipe")).click()
        self.wait_for(lambda: Recipe.objects.get().current.core().sharpen.strength == 120)  # type: ignore[union-attr]
        self.assertEqual(Recipe.objects.get().current.core().sharpen.guard, 6)  # type: ignore[union-attr]
        self.assertFalse(Sharpness.objects.exists())
        page.keyboard.press("Control+z")
        self.wait_for(lambda: Recipe.objects.get().current.core().sharpen.strength == 100)  # type: ignore[union-attr]


class WeightByEye(CloseCase):
    def test_a_quality_chosen_from_the_curve_is_what_the_run_makes(self) -> None:
        tray, recipe = self.ready(f"autumn-rehang/{DIAL}", size={"by": "width", "pixels": 900})
        page = self.page
        self.look(tray, recipe, DIAL, "weight")
        curve = page.get_by_role("img", name="Bytes by quality")
        expect(curve.locator("path.curve")).to_have_count(3)
        expect(page.get_by_text("measuring")).to_have_count(0)
        expect(page.locator(".candidate", has=page.locator(".used"))).to_contain_text("JPEG 84")
        same = page.locator(".candidate", has=page.get_by_role("button", name="Use in the recipe"))
        expect(same).to_contain_text(re.compile(r"score (8[89]|9\d)"))
        page.get_by_role("application").focus()
        for _ in range(14):
            page.keyboard.press("ArrowLeft")
        expect(page.locator(".told")).to_contain_text("quality 70")
        page.keyboard.press("Enter")
        candidate = page.locator("[data-candidate=jpeg-70]")
        expect(candidate.locator("figure[data-exact=yes]")).to_be_visible()
        expect(candidate).to_contain_text(re.compile(r"\d+\skB · score \d\d"))
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        expect(page.locator("[data-candidate=webp-70]")).to_be_visible()
        dot = curve.locator("circle[fill='var(--accent)']").nth(1).bounding_box()
        assert dot is not None
        page.mouse.click(dot["x"] + dot["width"] / 2, dot["y"] + dot["height"] / 2)
        expect(page.locator("[data-candidate=avif-55]")).to_contain_text("kB · score")
        candidate.get_by_role("button", name="Use in the recipe").click()
        expect(candidate.locator(".used")).to_be_visible()
        told = page.locator(".foot").inner_text()
        shown = int(re.search(r"\(([\d,]+) bytes\)", told)[1].replace(",", ""))  # type: ignore[index]
        (made,) = self.make_all(tray)
        self.assertEqual(made.version.core().file.quality, 70)  # type: ignore[union-attr]
        assert made.receipt is not None
        self.assertEqual(made.receipt["bytes"], shown)

    def test_a_byte_limit_is_held_over_a_tray(self) -> None:
        tray, recipe = self.ready(f"autumn-rehang/{DIAL}", f"autumn-rehang/{BENCH}", "shop-stock/QM4_0117.jpg")
        page = self.page
        self.open(f"/recipes/{recipe.pk}")
        page.locator("[data-station=file] button.closed").click()
        page.get_by_role("radio", name="best under a limit").click()
        page.get_by_role("textbox", name="Limit").fill("much")
        expect(page.get_by_role("alert")).to_be_visible()
        page.get_by_role("textbox", name="Limit").fill("9")
        expect(page.locator(".sentence")).to_contain_text("the best JPEG under 9 kB")
        expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()
        page.get_by_role("button", name="Back to the board").click()
        made = self.make_all(tray)
        self.assertEqual(len(made), 3)
        for row in made:
            assert row.receipt is not None
            self.assertLessEqual(row.receipt["bytes"], 9000)
            self.assertGreater(row.receipt["bytes"], 4500)


class PartsOnTheLine(CloseCase):
    def test_changed_once_and_followed_by_two_recipes(self) -> None:
        one, other = self.recipe("One"), self.recipe("Other")
        self.copy("shop-stock/QM4_0117.jpg")
        self.tray(one, other)
        self.work()
        page = self.page
        self.open(f"/recipes/{one.pk}")
        page.locator("[data-station=sharpen] button.closed").click()
        station = page.locator("[data-station=sharpen]")
        station.get_by_role("button", name="Shared part…").click()
        page.get_by_label("Name of the part").fill("Crisp")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(station).to_contain_text("follows the part Crisp")
        self.open(f"/recipes/{other.pk}")
        page.locator("[data-station=sharpen] button.closed").click()
        station.get_by_role("button", name="Shared part…").click()
        page.get_by_role("button", name="Follow Crisp").click()
        expect(station).to_contain_text("a change here changes One too")
        page.get_by_label("Strength", exact=True).fill("150")
        expect(page.locator(".sentence")).to_contain_text("sharpened for screen at 150 %")
        self.wait_for(lambda: Part.objects.get().setting == {"strength": 150})
        for recipe in Recipe.objects.all():
            self.assertEqual(recipe.current.core().sharpen.strength, 150)  # type: ignore[union-attr]
        station.get_by_role("button", name="Detach").click()
        page.get_by_label("Strength", exact=True).fill("20")
        self.wait_for(lambda: Recipe.objects.get(title="Other").current.core().sharpen.strength == 20)  # type: ignore[union-attr]
        self.assertEqual(Part.objects.get().setting, {"strength": 150})


class ColorByEye(CloseCase):
    def test_a_look_asks_once_and_rests(self) -> None:
        tray, recipe = self.ready("mixed/enamel-colours_P3.jpg", file={"format": "png"})
        page = self.page
        for look in ("sharpness", "weight", "color"):
            with self.subTest(look):
                self.open("/recipes")
                asked: list[str] = []
                page.on("request", lambda request, asked=asked: asked.append(request.url))
                self.look(tray, recipe, "enamel-colours_P3.jpg", look)
                expect(page.locator("[data-exact=yes]").first).to_be_visible()
                page.wait_for_timeout(1500)
                loads = [url for url in asked if re.search(r"/api/trays/\d+/bench/\d+/\d+$", url)]
                self.assertEqual(len(loads), 1)

    def test_wide_gamuts_and_inks_become_srgb(self) -> None:
        names = ("enamel-colours_P3.jpg", "enamel-colours_Rec2020_16bit.tif", "tower-for-print_CMYK.tif")
        tray, recipe = self.ready(*(f"mixed/{name}" for name in names), file={"format": "png"})
        page = self.page
        self.look(tray, recipe, names[0], "color")
        side = page.locator("aside")
        expect(side).to_contain_text("Display P3")
        expect(side).to_contain_text(re.compile(r"outside the gamut\s*[\d.]+ %"))
        expect(page.locator("[data-exact=yes]")).to_be_visible()
        page.keyboard.press("m")
        expect(page.get_by_role("radio", name="outside the gamut")).to_be_checked()
        expect(page.locator("[data-exact=yes]")).to_be_visible()
        made = {row.photo.name: row for row in self.make_all(tray)}
        pictures = []
        for name in names:
            row = made[name]
            assert row.receipt is not None
            self.assertEqual((row.receipt["profile"], row.receipt["differences"]), ("sRGB", []))
            with Image.open(row.path) as image:
                self.assertEqual(image.mode, "RGB")
                pictures.append(np.asarray(image).astype(float))
        # The first two are one picture, kept in two spaces.
        height = min(len(pictures[0]), len(pictures[1])) - 1
        self.assertLess(np.abs(pictures[0][:height] - pictures[1][:height]).mean(), 3)

    def test_every_kind_of_file_stands_on_the_board(self) -> None:
        names = ("loan-sheet.pdf", "quillmarsh-logo.svg", "clock-label.ora", "hall_web.webp")
        self.copy("bench-raw/QM4_0203.dng")
        tray, _ = self.ready(*(f"mixed/{name}" for name in names))
        self.open(f"/trays/{tray.pk}")
        for name in (*names, "QM4_0203.dng"):
            expect(self.cell(name, "Journal")).to_contain_text("×")
        made = self.make_all(tray)
        self.assertEqual(len(made), 5)
        for row in made:
            assert row.receipt is not None
            self.assertEqual(row.receipt["differences"], [])
