"""The sheet through the real interface: typed by keyboard, from spreadsheets, and found in names and files."""

from __future__ import annotations

from playwright.sync_api import expect

from server.photos.models import Photo
from server.runs.models import Run
from server.tests.browser import BrowserCase
from tray_core.tests.exiftool import read
from tray_core.tests.samples import jpeg, scene

NAMED = {"pattern": "{title}-{n:02}", "letters": "ascii", "case": "lower", "spaces": "-"}


class Sheet(BrowserCase):
    def photos(self, count: int) -> None:
        (self.folder / "in").mkdir()
        for number in range(count):
            (self.folder / "in" / f"q{number:02}.jpg").write_bytes(jpeg(scene(60, 40, seed=number + 1)))

    def open_sheet(self, tray: int) -> None:
        self.sign_in()
        self.open(f"/trays/{tray}/words")
        expect(self.page.locator('[data-spot="0:0"]')).to_be_focused()

    def test_twenty_titles_by_keyboard_are_in_names_and_files(self) -> None:
        self.photos(20)
        recipe = self.recipe("Object", name=NAMED, file={"format": "jpeg", "metadata": {"keep": "all"}})
        tray = self.tray(recipe)
        self.work()
        self.open_sheet(tray.pk)
        keyboard = self.page.keyboard
        self.page.get_by_label("Names of").select_option(label="as Object names it")
        expect(self.page.get_by_text("no title yet").first).to_be_visible()
        self.page.locator('[data-spot="0:0"]').click()
        for number in range(20):
            keyboard.type(f"Clock no. {number}")
            keyboard.press("Enter")
        keyboard.press("Control+Home")
        expect(self.page.locator('[data-spot="0:0"]')).to_be_focused()
        keyboard.press("Tab")
        keyboard.type("A clock on a shelf")
        keyboard.press("Tab")
        keyboard.press("ArrowLeft")
        # As above, for all others at once.
        keyboard.press("Control+Shift+End")
        keyboard.press("Shift+ArrowLeft")
        keyboard.press("Shift+ArrowLeft")
        keyboard.press("Shift+ArrowLeft")
        keyboard.press("Control+d")
        self.wait_for(lambda: Photo.objects.filter(typed__alt="A clock on a shelf").count() == 20)
        self.assertEqual(Photo.objects.filter(typed__title="Clock no. 7").get().name, "q07.jpg")
        keyboard.press("Control+Home")
        expect(self.page.get_by_text("clock-no.-0-01.jpg")).to_be_visible()
        # Undone through a reload, and done again.
        self.page.reload()
        expect(self.page.get_by_text("A clock on a shelf").first).to_be_visible()
        keyboard.press("Control+z")
        self.wait_for(lambda: Photo.objects.filter(typed__alt="A clock on a shelf").count() == 1)
        keyboard.press("Control+Shift+z")
        self.wait_for(lambda: Photo.objects.filter(typed__alt="A clock on a shelf").count() == 20)

        self.page.get_by_role("link", name="Board", exact=True).click()
        self.page.get_by_role("button", name="Make 20 renditions").click()
        run = self.wait_for(Run.objects.first)
        self.work()
        self.assertEqual(self.states(run), {"made": 20})
        made = list((self.output / "Object").iterdir())
        tags = read(*sorted(made, key=lambda path: path.stem.rpartition("-")[2]))
        self.assertEqual([each["XMP-dc:Title"] for each in tags], [f"Clock no. {number}" for number in range(20)])
        self.assertEqual({each["XMP-iptcCore:AltTextAccessibility"] for each in tags}, {"A clock on a shelf"})

    def test_from_a_spreadsheet_and_back(self) -> None:
        self.photos(4)
        tray = self.tray(self.recipe())
        self.work()
        self.page.context.grant_permissions(["clipboard-read", "clipboard-write"])
        self.open_sheet(tray.pk)
        self.page.evaluate("navigator.clipboard.writeText('One\\tFirst\\n\"Two\\nlines\"\\tSecond\\nThree\\tThird')")
        self.page.keyboard.press("Control+v")
        self.wait_for(lambda: Photo.objects.filter(typed__alt="Third").exists())
        self.assertEqual(Photo.objects.get(name="q01.jpg").typed, {"title": "Two\nlines", "alt": "Second"})
        expect(self.page.locator('[data-spot="2:1"]')).to_contain_text("Third")
        self.page.keyboard.press("Control+c")
        copied = self.page.evaluate("navigator.clipboard.readText()")
        self.assertEqual(copied, 'One\tFirst\n"Two\nlines"\tSecond\nThree\tThird')
        self.page.get_by_role("button", name="Paste or open a list…").click()
        self.page.get_by_label("The list").fill("photo,headline\nq03.jpg,Four")
        self.page.get_by_role("button", name="Take these words").click()
        expect(self.page.get_by_role("alert")).to_contain_text("found 'headline'")
        self.page.get_by_label("The list").fill("photo,title\nq03.jpg,Four")
        self.page.get_by_role("button", name="Take these words").click()
        expect(self.page.locator('[data-spot="3:0"]')).to_contain_text("Four")
        self.page.get_by_role("button", name="Find and replace").click()
        self.page.get_by_label("Find", exact=True).fill("four")
        self.page.get_by_label("Replace with").fill("The fourth")
        self.page.get_by_role("button", name="Replace in all rows shown").click()
        expect(self.page.locator('[data-spot="3:0"]')).to_contain_text("The fourth")

    def test_what_is_typed_survives_a_lost_network_and_escape_takes_it_back(self) -> None:
        self.photos(2)
        tray = self.tray(self.recipe())
        self.work()
        self.open_sheet(tray.pk)
        cell = self.page.locator('[data-spot="0:0"]')
        self.page.keyboard.type("Wrong")
        self.page.keyboard.press("Escape")
        expect(cell).to_contain_text("no title")
        self.page.context.set_offline(True)
        self.page.keyboard.type("Lark")
        self.page.keyboard.press("Enter")
        expect(cell).to_contain_text("Lark")
        expect(self.page.get_by_text("1 word not kept yet")).to_be_visible()
        self.assertFalse(Photo.objects.filter(typed__title="Lark").exists())
        self.page.context.set_offline(False)
        self.wait_for(lambda: Photo.objects.filter(typed__title="Lark").exists())
        expect(self.page.get_by_text("not kept yet")).to_have_count(0)

    def test_rows_stay_while_somebody_types_under_a_filter(self) -> None:
        self.photos(4)
        tray = self.tray(self.recipe())
        self.work()
        self.open_sheet(tray.pk)
        self.page.get_by_role("button", name="No title 4").click()
        self.page.locator('[data-spot="0:0"]').click()
        for name in ("One", "Two", "Three"):
            self.page.keyboard.type(name)
            self.page.keyboard.press("Enter")
        self.wait_for(lambda: self.titled() == ["One", "Two", "Three"])
        expect(self.page.get_by_role("button", name="No title 1")).to_be_visible()
        expect(self.page.locator('[data-spot="0:0"]')).to_contain_text("One")
        self.page.get_by_role("button", name="No title 1").click()
        expect(self.page.locator('[data-spot="1:0"]')).to_have_count(0)
        expect(self.page.get_by_text("q03.jpg").first).to_be_visible()

    def titled(self) -> list[str]:
        return [photo.typed["title"] for photo in Photo.objects.order_by("name") if "title" in photo.typed]

    def test_two_thousand_rows(self) -> None:
        tray = self.tray(self.recipe())
        photos = self.read_already(tray, [f"in/{n:04}.jpg" for n in range(2000)])
        self.open_sheet(tray.pk)
        self.page.keyboard.press("Control+End")
        last = self.page.locator('[data-spot="1999:4"]')
        expect(last).to_be_focused()
        self.page.keyboard.press("Home")
        self.page.keyboard.type("The last")
        self.page.keyboard.press("Enter")
        self.wait_for(lambda: Photo.objects.filter(pk=photos[-1], typed__title="The last").exists())
        self.assertLess(self.page.locator("[role=row]").count(), 60)
