"""Runs in the hand: held, put in order, looked at beside the originals, cleared away; sets, steps afterwards, and the
first visit.
"""

from __future__ import annotations

import zipfile
from pathlib import Path

from playwright.sync_api import expect

from server.board.starting import start_run
from server.recipes.models import Recipe
from server.runs.models import Run
from server.tests.browser import BrowserCase
from server.trays.models import Tray
from tray_core.tests.samples import jpeg, scene


class Runs(BrowserCase):
    def ready(self, *names: str, recipes: tuple[Recipe, ...] = (), name: str = "Autumn") -> Tray:
        for seed, each in enumerate(names):
            (self.folder / each).write_bytes(jpeg(scene(900, 600, seed=seed + 1)))
        tray = self.tray(*(recipes or (self.recipe(f"For {name}"),)), name=name)
        self.work()
        return tray

    def run_of(self, tray: Tray) -> Run:
        run = start_run(tray)
        self.work()
        return run

    def test_held_put_in_order_and_cleared_away(self) -> None:
        trays = [self.ready("a.jpg", "b.jpg", name=name) for name in ("First", "Second")]
        runs = [start_run(tray) for tray in trays]
        self.sign_in()
        self.open("/runs")
        names = self.page.locator("[data-run] .name")
        expect(names).to_have_text(["First", "Second"])
        self.page.get_by_role("button", name="Make Second earlier").click()
        expect(names).to_have_text(["Second", "First"])
        self.page.reload()
        expect(names).to_have_text(["Second", "First"])
        self.page.get_by_role("button", name="Hold First").click()
        expect(self.page.get_by_text("2 to go · held")).to_be_visible()
        self.work()
        self.assertEqual([self.states(run) for run in runs], [{"waiting": 2}, {"made": 2}])
        self.page.get_by_role("button", name="Go on with First").click()
        expect(self.page.get_by_role("button", name="Hold First")).to_be_visible()
        self.work()
        expect(self.page.get_by_role("list", name="Runs that are over").locator("[data-run]")).to_have_count(2)
        self.page.get_by_role("searchbox", name="Find a tray, photo or file").fill("nothing like it")
        expect(self.page.get_by_text("No run has a tray, photo or file of that name.")).to_be_visible()
        self.page.get_by_role("searchbox", name="Find a tray, photo or file").fill("secon")
        expect(names).to_have_text(["Second"])
        self.page.get_by_role("button", name="Clear away the run of Second").click()
        self.page.get_by_label("Delete its files in folders").check(force=True)
        self.page.get_by_role("button", name="Clear away, delete its files").click()
        expect(self.page.get_by_text("Cleared the run of Second")).to_be_visible()
        self.assertEqual(Run.objects.count(), 1)
        self.assertEqual(sorted(path.name for path in self.output.glob("*/*")), ["a.jpg", "b.jpg"])

    def test_beside_the_original_and_the_zip_of_what_is_ticked(self) -> None:
        tray = self.ready("a.jpg", "b.jpg", "c.jpg")
        run = self.run_of(tray)
        self.page.context.grant_permissions(["clipboard-read", "clipboard-write"])
        self.sign_in()
        self.open(f"/runs/{run.pk}")
        self.page.get_by_role("button", name="Copy the path of b.jpg").click()
        self.assertEqual(
            self.page.evaluate("navigator.clipboard.readText()"), str(self.output / "For Autumn" / "b.jpg")
        )
        self.page.get_by_role("button", name="Look at a.jpg beside its original").click()
        whole = self.page.get_by_alt_text("The original at its own pixels")
        self.wait_for(lambda: whole.evaluate("(image) => image.naturalWidth") > 200)
        expect(self.page.get_by_alt_text("The rendition at its own pixels")).to_be_visible()
        self.page.keyboard.press("ArrowRight")
        expect(self.page.get_by_text("2 of 3")).to_be_visible()
        expect(whole).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(whole).to_have_count(0)
        for name in ("a.jpg", "c.jpg"):
            self.page.get_by_label(f"Choose {name}").check(force=True)
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download 2 files as zip").click()
        download.value.save_as(self.folder / "some.zip")
        found = [name for name in zipfile.ZipFile(self.folder / "some.zip").namelist() if name.endswith(".jpg")]
        self.assertEqual(found, ["For Autumn/a.jpg", "For Autumn/c.jpg"])
        self.page.get_by_role("button", name="Clear selection").click()
        expect(self.page.get_by_role("link", name="Download 3 files as zip")).to_be_visible()

    def test_a_set_with_another_crop_for_small_screens(self) -> None:
        wide = self.recipe("Wide", size={"by": "width", "pixels": 800, "enlarge": "never"})
        frame = {"way": "crop", "shape": "1:1", "anchor": "middle"}
        small = self.recipe("Square", frame=frame, size={"by": "width", "pixels": 400, "enlarge": "never"})
        run = self.run_of(self.ready("a.jpg", recipes=(wide, small)))
        self.sign_in()
        self.open(f"/runs/{run.pk}")
        self.page.get_by_role("button", name="Markup…").click()
        self.page.get_by_label("Screens for Square").select_option(label="up to 600 px")
        expect(self.page.get_by_text("Keep the set first")).to_be_visible()
        self.page.get_by_label("sizes").fill("100vw")
        self.page.get_by_label("Name of the set").fill("Lead picture")
        self.page.get_by_role("button", name="Keep the set").click()
        expect(self.page.get_by_text("Kept the set Lead picture")).to_be_visible()
        with self.page.expect_download() as download:
            self.page.get_by_role("link", name="Download HTML").click()
        # The next run finds it again.
        self.page.reload()
        self.page.get_by_role("button", name="Markup…").click()
        self.page.get_by_label("A set that you kept").select_option(label="Lead picture")
        expect(self.page.get_by_label("Screens for Square")).to_have_value("(max-width: 600px)")
        expect(self.page.get_by_label("sizes")).to_have_value("100vw")
        with self.page.expect_download() as zipped:
            self.page.keyboard.press("Escape")
            self.page.get_by_role("link", name="Download 2 files as zip").click()
        zipped.value.save_as(self.folder / "run.zip")
        zipfile.ZipFile(self.folder / "run.zip").extractall(self.folder / "run")
        page = self.folder / "run" / "mine.html"
        download.value.save_as(page)
        page.write_text(f"<!doctype html><body>{page.read_text()}</body>")
        self.assertEqual([self.chosen(page, width) for width in (380, 1180)], ["Square/a.jpg", "Wide/a.jpg"])

    def chosen(self, page: Path, width: int) -> str:
        context = self.browser.new_context(viewport={"width": width, "height": 700})
        tab = context.new_page()
        tab.goto(page.as_uri())
        tab.wait_for_function("document.images[0].complete && document.images[0].currentSrc")
        found = str(tab.evaluate("document.images[0].currentSrc")).partition("/run/")[2]
        context.close()
        return found

    def test_steps_afterwards_from_the_line_to_the_run(self) -> None:
        tray = self.ready("a.jpg")
        recipe = tray.recipes.get()
        self.sign_in()
        self.open(f"/recipes/{recipe.pk}")
        self.page.get_by_role("button", name="Place").last.click()
        for step in ("put all files into a zip", "write a page beside the files", ".xmp, for programs"):
            self.page.get_by_label(step).focus()
            self.page.keyboard.press("Space")
            expect(self.page.get_by_label(step)).to_be_checked()
        expect(self.page.get_by_text("all go into a zip and a page is written beside them").first).to_be_visible()
        self.wait_for(lambda: self.steps(recipe) == {"zip", "markup"})
        run = self.run_of(tray)
        self.open(f"/runs/{run.pk}")
        after = self.page.get_by_role("group", name="Afterwards")
        expect(after.get_by_text("index.html")).to_be_visible()
        expect(after.get_by_text(".zip")).to_be_visible()
        made = sorted(path.name for path in (self.output / recipe.title).iterdir())
        self.assertEqual(made, ["a.jpg", "a.jpg.xmp", "index.html", "pictures.json"])

    def steps(self, recipe: Recipe) -> set[str]:
        current = Recipe.objects.select_related("current").get(pk=recipe.pk).current
        assert current is not None
        return {step["do"] for step in current.content["place"].get("afterwards", [])}

    def test_the_first_visit_in_three_steps_that_can_be_left_and_called_again(self) -> None:
        tray = self.ready("a.jpg")
        self.sign_in()
        self.open(f"/trays/{tray.pk}")
        steps = self.page.get_by_role("region", name="First steps")
        self.page.locator("[data-cell]").first.wait_for()
        expect(steps).to_have_count(0)
        self.page.keyboard.press("?")
        self.page.get_by_role("button", name="Show the first steps").click()
        expect(steps.locator("[aria-current=step]")).to_contain_text("Look closely")
        open_dialog = self.page.locator(".bx--modal.is-visible")
        expect(open_dialog).to_have_count(0)
        self.page.locator("[data-cell]").first.dblclick()
        expect(open_dialog).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(steps.locator("[aria-current=step]")).to_contain_text("See what a recipe does")
        self.page.get_by_role("link", name="Change For Autumn").click()
        expect(self.page.get_by_text("Saved")).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(steps.locator("[aria-current=step]")).to_contain_text("Make")
        self.page.get_by_role("button", name="Make 1 rendition").click()
        expect(steps.get_by_role("button", name="All done, close")).to_be_visible()
        self.page.reload()
        steps.get_by_role("button", name="All done, close").click()
        expect(steps).to_have_count(0)
        self.page.reload()
        self.page.locator("[data-cell]").first.wait_for()
        expect(steps).to_have_count(0)
