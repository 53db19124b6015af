"""Whole tasks with the board's rows and columns: sorted, filtered, chosen, moved, looked at again, undone."""

from __future__ import annotations

import datetime as dt
import json
import re
import shutil
from pathlib import Path

from django.utils import timezone
from playwright.sync_api import expect

from server.tests.test_browser_shapes import CHANGE, ShapesCase
from tray_core.tests.samples import PHOTOS


class BoardOfShapes(ShapesCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy(CHANGE["landscape"], CHANGE["portrait"], CHANGE["panorama"], folder="a")
        self.copy("mixed/hall_web.webp", folder="b")
        self.tray_ = self.tray(self.recipe("One"), self.recipe("Two"))
        self.work()
        self.open(f"/trays/{self.tray_.pk}")
        expect(self.page.locator("[data-cell]")).to_have_count(8)

    def names(self) -> list[str]:
        return [name.split("_")[-1] for name in self.page.locator("[data-photo] .name").all_inner_texts()]

    def test_sorting_filtering_and_choosing_by_rule(self) -> None:
        page = self.page
        expect(page.locator(".folder")).to_have_count(2)
        page.get_by_label("Order").select_option("shape")
        expect(page.locator(".folder")).to_have_count(0)
        self.wait_for(
            lambda: (
                self.names() == ["gallery-wall-panorama.jpg", "repair-bench.jpg", "web.webp", "clock-tower-dusk.jpg"]
                or self.names()[0] == "gallery-wall-panorama.jpg"
            )
        )
        page.get_by_label("Shape").select_option("portrait")
        expect(page.locator("[data-photo]")).to_have_count(2)
        page.get_by_label("Format").select_option("WebP")
        expect(page.locator("[data-photo]")).to_have_count(1)
        page.get_by_label("Format").select_option("")
        page.get_by_label("Shape").select_option("")
        page.get_by_role("searchbox", name="Find a name").fill("bench")
        expect(page.locator("[data-photo]")).to_have_count(1)
        page.get_by_role("searchbox", name="Find a name").fill("")
        expect(page.locator("[data-photo]")).to_have_count(4)
        page.get_by_role("button", name="Choose…").click()
        page.get_by_role("menuitem", name="Panoramas").click()
        expect(page.locator("[aria-selected=true]")).to_have_count(2)

    def test_a_rectangle_is_drawn_with_the_mouse_and_columns_change_places(self) -> None:
        page = self.page
        first = self.cell("2031-10-14_01_repair-bench.jpg", "One").bounding_box()
        last = self.cell("2031-10-15_03_gallery-wall-panorama.jpg", "Two").bounding_box()
        assert first is not None and last is not None
        page.mouse.move(first["x"] + 20, first["y"] + 20)
        page.mouse.down()
        page.mouse.move(last["x"] + 40, last["y"] + 40, steps=8)
        page.mouse.up()
        expect(page.locator("[aria-selected=true]")).to_have_count(4)
        page.get_by_role("columnheader", name="Two").locator("button").focus()
        page.keyboard.press("Alt+ArrowLeft")
        expect(page.locator("[role=columnheader] .title").first).to_have_text("Two")
        page.reload()
        expect(page.locator("[role=columnheader] .title").first).to_have_text("Two")
        page.keyboard.press("+")
        self.wait_for(lambda: self.cell("2031-10-14_01_repair-bench.jpg", "One").bounding_box()["height"] > 145)

    def test_looking_again_finds_what_is_new_changed_and_gone(self) -> None:
        page = self.page
        self.copy("shop-stock/QM4_0123.jpg", folder="a")
        (self.folder / "b" / "hall_web.webp").unlink()
        changed = self.folder / "a" / Path(CHANGE["landscape"]).name
        shutil.copy(PHOTOS / "shop-stock" / "QM4_0117.jpg", changed)
        page.get_by_role("button", name="View", exact=True).click()
        page.get_by_role("button", name="Look again at the folders").click()
        expect(page.locator(".notices")).to_contain_text("1 new photo, 1 photo changed, 1 photo gone")
        expect(page.get_by_text("hall_web.webp is gone.")).to_be_visible()
        self.work()
        expect(page.locator("[data-photo]")).to_have_count(5)
        expect(page.locator("[data-photo]", has_text="repair-bench")).to_contain_text("2396 × 1916")

    def test_the_tray_itself_is_changed_and_every_step_undone(self) -> None:
        """A photo taken out, the tray renamed, archived: Ctrl Z brings each back, the last first."""
        page = self.page
        page.locator("[data-photo]", has_text="gallery-wall").click()
        page.get_by_role("button", name="Take out of the tray").click()
        expect(page.locator("[data-photo]")).to_have_count(3)
        page.get_by_role("button", name="Tray", exact=True).click()
        page.get_by_label("Name of the tray").fill("Winter rehang")
        page.keyboard.press("Enter")
        expect(page.locator(".tray select")).to_contain_text("Winter rehang")
        page.get_by_role("button", name="Archive tray").click()
        expect(page.get_by_text("No tray yet")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.locator(".tray select")).to_contain_text("Winter rehang")
        page.keyboard.press("Control+z")
        expect(page.locator(".tray select")).to_contain_text("Autumn")
        page.keyboard.press("Control+z")
        expect(page.locator("[data-photo]")).to_have_count(4)
        self.assertEqual([name for name in self.names() if "panorama" in name], ["gallery-wall-panorama.jpg"])

    def test_states_are_filtered_and_facts_hidden(self) -> None:
        page = self.page
        self.cell("2031-10-14_01_repair-bench.jpg", "One").click()
        page.keyboard.press(" ")
        expect(page.locator("[data-state=excluded]")).to_have_count(1)
        page.get_by_label("State").select_option("excluded")
        expect(page.locator("[data-photo]")).to_have_count(1)
        page.get_by_label("State").select_option("done")
        expect(page.get_by_text("No photos match.")).to_be_visible()
        page.get_by_role("button", name="Show all").click()
        expect(page.locator("[data-photo]")).to_have_count(4)
        facts = page.locator("[data-photo]", has_text="clock-tower")
        expect(facts).to_contain_text("3996 × 5996 portrait")
        page.get_by_role("button", name="View", exact=True).click()
        page.get_by_label("Facts of the photos").uncheck()
        expect(facts).not_to_contain_text("portrait")
        expect(facts).to_contain_text("clock-tower-dusk.jpg")

    def test_a_recipe_is_changed_and_undone(self) -> None:
        page = self.page
        self.cell("2031-10-14_01_repair-bench.jpg", "One").click()
        page.keyboard.press("e")
        expect(page.locator(".sentence")).to_contain_text("keeps its shape")
        page.get_by_role("radio", name="crop").click()
        expect(page.locator(".sentence")).to_contain_text("is cropped to a square")
        page.get_by_role("button", name="4 : 5").click()
        expect(page.locator(".sentence")).to_contain_text("is cropped to 4:5")
        page.get_by_label("Shape, typed").fill("4:0")
        expect(page.get_by_role("alert")).to_contain_text("Both numbers have to be above 0")
        expect(page.get_by_label("Shape, typed")).to_have_value("4:0")
        page.get_by_label("Shape, typed").fill("4:5")
        page.get_by_role("button", name="Back to the board").click()
        expect(self.cell("2031-10-14_01_repair-bench.jpg", "One")).to_contain_text("192 × 240")
        page.keyboard.press("Control+z")
        expect(self.cell("2031-10-14_01_repair-bench.jpg", "One")).not_to_contain_text("192 × 240")
        recipe = self.studio.recipes.get(title="One")
        versions = list(recipe.versions.all())
        last = max(version.number for version in versions if version.content.get("frame", {}).get("shape") == "4:5")
        for version in versions:  # before it was changed, changed until it was 4:5, and undone: a sitting each
            hours = 48 if version.number == 1 else 47 if version.number <= last else 46
            recipe.versions.filter(pk=version.pk).update(made=timezone.now() - dt.timedelta(hours=hours))
        self.open(f"/recipes/{recipe.pk}")
        page.get_by_role("button", name="Note and versions").click()
        shown = page.locator(".version", has=page.locator("details", has_text="cropped to 4:5")).first
        expect(shown).to_contain_text("frame: keeps its shape → is cropped to 4:5")
        shown.get_by_role("button", name=re.compile("Restore")).click()
        expect(page.locator(".sentence")).to_contain_text("is cropped to 4:5")
        self.wait_for(lambda: '"4:5"' in json.dumps(self.studio.recipes.get(title="One").current.content))
