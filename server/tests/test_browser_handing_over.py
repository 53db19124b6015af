"""Whole tasks at the end of the job, through the real interface: dropped on a recipe, moved, given away, in a page."""

from __future__ import annotations

import base64
import zipfile
from pathlib import Path

from playwright.sync_api import expect

from server.recipes import flows as recipe_flows
from server.runs.models import Run
from server.studios.models import Member, Studio
from server.tests.browser import BrowserCase
from tray_core.tests.samples import jpeg, scene

DROP = """async ([data, place]) => {
  const bytes = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0));
  const dataTransfer = new DataTransfer();
  dataTransfer.items.add(new File([bytes], 'clock.jpg', { type: 'image/jpeg' }));
  const how = { dataTransfer, bubbles: true, cancelable: true };
  const tell = (element, type) => element.dispatchEvent(new DragEvent(type, how));
  tell(document.body, 'dragenter');
  await new Promise((done) => setTimeout(done, 60));
  tell(document.querySelector(place), 'drop');
}"""


class HandingOver(BrowserCase):
    def photos(self, *names: str) -> None:
        for seed, name in enumerate(names):
            (self.folder / name).write_bytes(jpeg(scene(1400, 900, seed=seed + 1)))

    def test_dropped_on_a_recipe_and_downloaded(self) -> None:
        recipe = self.recipe("Small", name={"pattern": "{stem}-small"})
        self.tray(recipe, name="Before")
        self.worker("read", "make")
        self.sign_in()
        self.open("/recipes")
        expect(self.page.get_by_text("Small").first).to_be_visible()
        data = base64.b64encode(jpeg(scene(600, 400))).decode()
        with self.page.expect_download(timeout=60_000) as download:
            self.page.evaluate(DROP, [data, f"[data-drop-by='{recipe.pk}']"])
        file = self.folder / "got.zip"
        download.value.save_as(file)
        self.assertIn("Small/clock-small.jpg", zipfile.ZipFile(file).namelist())

    def test_photos_moved_by_keys_and_made_by_a_number(self) -> None:
        self.photos("a.jpg", "b.jpg", "c.jpg")
        tray = self.tray(self.recipe("One", name={"pattern": "{n}-{stem}"}), self.recipe("Two"))
        self.work()
        self.sign_in()
        self.open(f"/trays/{tray.pk}/words")
        expect(self.page.locator('[data-spot="0:0"]')).to_be_focused()
        self.page.keyboard.press("Alt+ArrowDown")
        expect(self.page.locator("[role=row] .name").first).to_have_text("b.jpg")
        expect(self.page.locator('[data-spot="1:0"]')).to_be_focused()
        self.page.keyboard.press("Control+z")
        expect(self.page.locator("[role=row] .name").first).to_have_text("a.jpg")
        self.page.keyboard.press("Control+Shift+z")
        expect(self.page.locator("[role=row] .name").first).to_have_text("b.jpg")
        self.open(f"/trays/{tray.pk}")
        expect(self.page.get_by_text("1-b.jpg").first).to_be_attached()
        self.page.locator("[data-cell]").nth(3).click()
        self.page.keyboard.press("1")
        run = self.wait_for(Run.objects.first)
        self.assertEqual(list(run.renditions.values_list("name", flat=True)), ["2-a.jpg"])

    def test_a_shelf_given_away_and_taken_into_another_studio(self) -> None:
        self.recipe("Wide", shelf="Site")
        self.recipe("Square", shelf="Site", frame={"way": "crop", "shape": "1:1"})
        self.recipe("Other")
        self.sign_in()
        self.open("/recipes")
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Give away: Site").click()
        file = self.folder / "site.zip"
        download.value.save_as(file)
        other = Studio.objects.create(name="Elsewhere")
        recipe_flows.create(other, self.user, self.studio.recipes.get(title="Wide").current.content | {"shelf": "Mine"})  # type: ignore[union-attr]
        Member.objects.filter(user=self.user).update(studio=other)
        self.open("/recipes")
        self.page.get_by_role("button", name="Take in recipes…").click()
        self.page.locator(".bx--modal.is-visible input[type=file]").set_input_files(file)
        expect(self.page.get_by_text("is here already, and differs")).to_be_visible()
        expect(self.page.get_by_text("Square is new.")).to_be_visible()
        self.page.get_by_role("radio", name="have both").check(force=True)
        self.page.get_by_role("button", name="Take in 2 recipes").click()
        expect(self.page.get_by_text("Took in 2 recipes")).to_be_visible()
        self.assertEqual(set(other.recipes.values_list("title", flat=True)), {"Wide", "Wide 2", "Square"})

    def test_the_page_of_a_run_takes_the_right_file_at_three_widths(self) -> None:
        self.photos("a.jpg")
        widths = {"by": "widths", "widths": [400, 800, 1200]}
        recipes = [self.recipe(kind, size=widths, file={"format": kind}) for kind in ("jpeg", "webp", "avif")]
        tray = self.tray(*recipes)
        self.work()
        self.sign_in()
        self.open(f"/trays/{tray.pk}")
        self.page.get_by_role("button", name="Make 9 renditions").click()
        self.wait_for(Run.objects.first)
        self.work()
        self.open_newest_run()
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download 9 files as zip").click()
        download.value.save_as(self.folder / "run.zip")
        zipfile.ZipFile(self.folder / "run.zip").extractall(self.folder / "run")
        self.page.get_by_role("button", name="Markup…").click()
        self.page.get_by_label("sizes").fill("100vw")
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download HTML").click()
        page = self.folder / "run" / "mine.html"
        download.value.save_as(page)
        page.write_text(f"<!doctype html><body style='margin:0'>{page.read_text()}</body>")
        self.assertEqual(self.chosen(page), ["avif/a-400w.avif", "avif/a-800w.avif", "avif/a-1200w.avif"])
        self.assertIn("avif/a-", self.chosen(self.folder / "run" / "index.html")[0])

    def chosen(self, page: Path) -> list[str]:
        """The file that the browser takes for the picture at three widths of its window, from the page's folder on."""
        found = []
        for width in (380, 780, 1180):
            context = self.browser.new_context(viewport={"width": width, "height": 700})
            tab = context.new_page()
            tab.goto(page.as_uri())
            tab.wait_for_function("document.images[0].complete && document.images[0].currentSrc")
            found.append(str(tab.evaluate("document.images[0].currentSrc")).partition("/run/")[2])
            context.close()
        return found
