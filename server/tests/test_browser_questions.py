"""Questions through the real interface: three kinds, answered by keyboard, while the rest goes on."""

from __future__ import annotations

from playwright.sync_api import expect

from server.runs.models import Rendition, Run
from server.tests.browser import BrowserCase
from tray_core.tests.samples import jpeg, scene

ASK = {"to": "output", "subfolder": "out", "taken": "ask"}


class Questions(BrowserCase):
    def test_a_name_a_word_and_a_crop(self) -> None:
        for number in range(3):
            (self.folder / f"q{number}.jpg").write_bytes(jpeg(scene(90, 60, seed=number + 1)))
        (self.output / "out").mkdir(parents=True)
        for number in range(3):
            (self.output / "out" / f"q{number}.jpg").write_bytes(jpeg(scene(30, 20)))
        titled = {"pattern": "{title}", "spaces": "-", "case": "lower"}
        tray = self.tray(
            self.recipe("Taken", place=ASK),
            self.recipe("Titled", name=titled),
            self.recipe("Banner", frame={"way": "crop", "shape": "3:1", "anchor": "ask"}),
            self.recipe("Plain"),
        )
        self.work()
        self.sign_in()
        self.open(f"/trays/{tray.pk}")
        expect(self.page.get_by_text("no title").first).to_be_visible()
        self.page.get_by_role("button", name="Make 6 renditions").click()
        run = self.wait_for(Run.objects.first)
        self.work()
        self.assertEqual(self.states(run), {"made": 3, "asking": 9})
        self.page.get_by_role("link", name="9 questions").click()
        expect(self.page.get_by_role("button", name="All 9")).to_be_visible()
        expect(self.page.get_by_text("everything else goes on: 3 of 12 made")).to_be_visible()

        # A word, typed; the next one by the photo's own name, and the last one too.
        field = self.page.get_by_label("title of q0.jpg")
        field.fill("Lark and clock")
        field.press("Enter")
        expect(self.page.get_by_role("button", name="Word missing 2")).to_be_visible()
        self.page.get_by_role("button", name="Name all of Titled by their files").click()
        expect(self.page.get_by_role("button", name="Word missing")).to_have_count(0)

        # Names that are taken: both pictures are there, one letter answers, and Shift answers for the recipe.
        self.page.get_by_role("button", name="Name taken 3").click()
        expect(self.page.get_by_alt_text("The file that is there")).to_have_count(3)
        for picture in self.page.get_by_role("img").all():
            self.wait_for(lambda picture=picture: picture.evaluate("image => image.naturalWidth > 0"))
        expect(self.page.get_by_text("there", exact=True).first).to_be_visible()
        self.page.keyboard.press("k")
        expect(self.page.get_by_role("button", name="Name taken 2")).to_be_visible()
        self.page.keyboard.press("Shift+N")
        expect(self.page.get_by_text("Answered 2 questions")).to_be_visible()
        self.work()
        self.assertEqual(self.states(run), {"made": 8, "kept": 1, "asking": 3})
        self.assertTrue((self.output / "Titled" / "lark-and-clock.jpg").exists())
        self.assertTrue((self.output / "out" / "q2-2.jpg").exists())

        self.page.get_by_role("button", name="All 3").click()
        expect(self.page.get_by_role("link", name="Place the crop")).to_have_count(3)
        self.page.keyboard.press("l")
        asking = Rendition.objects.filter(state="asking")
        for left in (2, 1, 0):
            expect(self.page.get_by_role("button", name="Keep and")).to_be_enabled()
            self.page.keyboard.press("Enter")
            self.wait_for(lambda left=left: asking.count() == left)
        self.open("/questions")
        expect(self.page.get_by_text("Nothing waits for you")).to_be_visible()
