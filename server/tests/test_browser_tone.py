"""Light and color by eye, in the browser: a grey picked, numbers drawn and typed, ten photos given the same."""

from __future__ import annotations

import datetime as dt
import re

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from server.photos.models import Photo
from server.runs.models import Run
from server.tests.browser import BrowserCase
from tray_core.tests.samples import jpeg, scene


class ToneByEye(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        for number in range(11):
            pixels = scene(360, 240, seed=number + 1)
            pixels[120:] = (150, 120, 90)
            (self.folder / f"{number:02}.jpg").write_bytes(jpeg(pixels))
        self.recipe_ = self.recipe("Journal", file={"format": "png"}, sharpen=None)
        self.tray_ = self.tray(self.recipe_)
        self.work()
        Photo.objects.update(taken=dt.datetime(2031, 10, 14, 9, 30, tzinfo=dt.UTC))
        self.sign_in()
        first = Photo.objects.get(name="00.jpg")
        self.open(f"/trays/{self.tray_.pk}/bench/{first.pk}/{self.recipe_.pk}/tone")
        expect(self.page.locator("figure[data-exact=yes] img")).to_be_visible()

    def tones(self) -> list[dict[str, float]]:
        return list(Photo.objects.order_by("name").values_list("tone", flat=True))

    def test_a_grey_spot_and_ten_photos_given_the_same(self) -> None:
        page = self.page
        page.keyboard.press("g")
        page.locator("figure img").hover()
        expect(page.locator(".patch")).to_be_visible()
        box = page.locator("figure").bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 0.8 * box["height"])
        expect(page.get_by_role("slider", name=re.compile("^Cast"))).not_to_have_attribute("aria-valuenow", "0")
        page.get_by_label("Exposure", exact=True).focus()
        for _ in range(4):
            page.keyboard.press("ArrowUp")
        expect(page.get_by_label("Exposure", exact=True)).to_have_value("+0.20")
        page.get_by_role("button", name="Give it to 10 photos of the same minute").click()
        self.wait_for(lambda: all(self.tones()))
        self.assertEqual(len({str(tone) for tone in self.tones()}), 1)
        self.assertEqual(self.tones()[5]["exposure"], 0.2)
        expect(page.locator(".notices")).to_contain_text("Gave it to 10 photos")
        page.get_by_role("link", name="‹ Board").click()
        expect(page.get_by_text("toned").first).to_be_visible()
        page.get_by_role("button", name=re.compile("Make 11 renditions")).click()
        self.wait_for(Run.objects.first)
        self.work()
        for row in self.made(Run.objects.latest("id")):
            with Image.open(row.path) as image:
                patch = np.asarray(image.convert("RGB"))[-40:-10, 60:180].reshape(-1, 3).mean(axis=0)
            self.assertLess(float(patch.max() - patch.min()), 4)
        page.keyboard.press("Control+z")  # the run is over: what is undone is what was given
        self.wait_for(lambda: sum(bool(tone) for tone in self.tones()) == 1)

    def test_numbers_steps_back_and_what_is_not_kept(self) -> None:
        page = self.page
        contrast = page.get_by_label("Contrast", exact=True)
        contrast.fill("25")
        page.get_by_label("Dark tones", exact=True).fill("wrong")
        expect(page.get_by_label("Dark tones", exact=True)).to_have_attribute("aria-invalid", "true")
        page.get_by_role("slider", name=re.compile("^Cast")).focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(page.locator(".numbers")).to_contain_text("10 warmer")
        page.keyboard.press("Control+z")
        expect(page.locator(".numbers")).to_contain_text("neutral")
        page.keyboard.press("Control+Shift+z")
        expect(page.locator(".numbers")).to_contain_text("10 warmer")
        page.get_by_role("button", name="+ point").click()
        page.get_by_role("button", name=re.compile("^Point 1")).focus()
        for _ in range(3):
            page.keyboard.press("ArrowUp")
        expect(page.get_by_role("button", name="Point 1 of the curve: 50 % becomes 53 %")).to_be_visible()
        page.locator(".title").first.click()
        page.keyboard.press("b")
        expect(page.locator("figcaption")).to_have_text("as shot")
        page.keyboard.press("b")
        page.keyboard.press("e")
        edge = page.get_by_role("slider", name="Edge between before and after")
        edge.focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(edge).to_have_attribute("aria-valuenow", "60")
        expect(page.locator("img.shot")).to_have_attribute(
            "style", re.compile(r"inset\(0px 40% 0px 0px\)|inset\(0 40% 0 0\)")
        )
        page.keyboard.press("e")
        expect(edge).to_have_count(0)
        page.keyboard.press("Escape")
        expect(page.locator("[data-cell]").first).to_be_visible()
        self.assertEqual(self.tones()[0], {})
        page.go_back()
        expect(contrast).to_have_value("+25")  # it is there on return
        contrast.focus()
        page.keyboard.press("Enter")  # keeps, and goes on to the next photo
        self.wait_for(lambda: self.tones()[0] == {"temperature": 10, "contrast": 25, "curve": [[0.5, 0.53]]})
        expect(page.get_by_role("heading", name="01.jpg")).to_be_visible()
        expect(page.get_by_label("Contrast", exact=True)).to_have_value("0")

    def test_a_look_for_one_recipe_and_a_mirrored_photo(self) -> None:
        page = self.page
        page.keyboard.press("m")
        expect(page.get_by_role("button", name="Mirror")).to_have_attribute("aria-pressed", "true")
        page.get_by_role("button", name="Another look for some recipes").click()
        title = page.get_by_label("Title of the look")
        expect(title).to_have_value("Look")
        title.fill("Grey")
        page.get_by_role("checkbox", name="Journal").check(force=True)
        page.get_by_label("Saturation", exact=True).fill("-100")
        page.get_by_role("button", name="The photo’s own").click()
        expect(page.get_by_label("Saturation", exact=True)).to_have_value("0")
        page.reload()  # what is not kept is there again, and the recipe's own look is seen first
        expect(page.get_by_role("button", name="Grey Journal")).to_have_attribute("aria-current", "true")
        expect(page.get_by_label("Saturation", exact=True)).to_have_value("−100")
        page.get_by_role("button", name="Keep and next").click()
        self.wait_for(lambda: self.tones()[0] == {"mirror": True})
        photo = Photo.objects.get(name="00.jpg")
        tone = {"saturation": -100, "mirror": True}
        self.assertEqual(photo.looks, [{"title": "Grey", "recipes": [self.recipe_.pk], "tone": tone}])
        expect(page.get_by_role("heading", name="01.jpg")).to_be_visible()
        page.keyboard.press("Control+z")
        self.wait_for(lambda: not Photo.objects.get(name="00.jpg").looks)
        page.keyboard.press("Control+Shift+z")
        self.wait_for(lambda: Photo.objects.get(name="00.jpg").looks)
