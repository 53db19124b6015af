"""Out and in, in the browser: sheets, rehearsals, links for phones and clients, deliveries, inlets."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, Response, expect

from server.board.starting import start_run
from server.deliveries import flows as deliveries
from server.deliveries import sending
from server.deliveries.models import Delivery
from server.guests import flows as guests
from server.inlets import flows as inlets
from server.inlets import watching
from server.inlets.models import Arrival
from server.outlets import flows as outlets
from server.recipes.models import Recipe
from server.runs.models import Run
from server.studios.models import Root
from server.tests import stores
from server.tests.browser import AccessCase
from stand_ins.platform import ACCOUNT, SECRET
from tray_core.outlets import read_outlet_file
from tray_core.tests.samples import DEMO, jpeg, scene

CHOOSING = {"Picks agreed": "1", "Name, seen by": "Spring"}


class OutAndIn(AccessCase):
    def setUp(self) -> None:
        super().setUp()
        for number in range(3):
            (self.folder / f"{number}.jpg").write_bytes(jpeg(scene(900, 700, seed=number + 1)))
        self.recipe_ = self.recipe("Square", frame={"way": "crop", "shape": "1:1"}, size={"by": "width", "pixels": 400})
        self.tray_ = self.tray(self.recipe_)
        self.work()
        sheet = read_outlet_file(DEMO / "outlets" / "1-gridwick.json")
        self.outlet = outlets.create(self.studio, sheet.to_json())

    def content(self) -> dict[str, Any]:
        current = Recipe.objects.select_related("current").get(pk=self.recipe_.pk).current
        assert current is not None
        return dict(current.content)

    def finished_run(self) -> Run:
        """A finished run of the tray."""
        run = start_run(self.tray_)
        self.work()
        return run

    def test_a_sheet_is_changed_and_marks_its_recipes(self) -> None:
        page = self.page
        self.sign_in()
        self.open("/outlets")
        page.get_by_role("link", name=re.compile("^Gridwick")).click()
        page.get_by_label("A recipe that is for it").select_option(label="Square")
        expect(page.get_by_role("link", name="Rehearse Square")).to_be_visible()
        page.get_by_label("Smallest", exact=True).fill("600")
        page.keyboard.press("Control+s")
        expect(page.get_by_text("found '600'").last).to_be_visible()
        page.get_by_label("Smallest", exact=True).fill("600 x 600")
        # What is typed is there after a reload, and saved by a key.
        page.reload()
        expect(page.get_by_label("Smallest", exact=True)).to_have_value("600 × 600")
        page.keyboard.press("Control+s")
        expect(page.get_by_text("has older rules")).to_be_visible()
        page.get_by_role("button", name="Take over the rules: Square").click()
        expect(page.get_by_text("has older rules")).to_be_hidden()
        self.assertEqual(self.content()["outlet"]["rules"]["least"], [600, 600])
        # Back: the recipe first, then the sheet; and there again.
        for press, older in (("Undo", True), ("Undo", False), ("Redo", True), ("Redo", False)):
            page.get_by_role("button", name=press).click()
            expect(page.get_by_text("has older rules")).to_be_visible(visible=older)
        files = page.get_by_label("Check files").locator("input[type=file]")
        files.set_input_files([{"name": "small.jpg", "mimeType": "image/jpeg", "buffer": jpeg(scene(300, 300))}])
        expect(page.get_by_text("1 file of 1 would be refused")).to_be_visible()
        page.get_by_role("link", name="Board", exact=True).click()
        expect(page.get_by_text("too small").first).to_be_visible()

    def test_a_rehearsal_changes_the_recipe(self) -> None:
        page = self.page
        outlets.aim(self.outlet, self.recipe_, self.user, "Post", 1)
        self.sign_in()
        self.open(f"/outlets/{self.outlet.pk}/rehearsal?recipe={self.recipe_.pk}&use=Post")
        expect(page.get_by_text(re.compile("^rehearsed in"))).to_be_visible(timeout=60_000)
        cards = page.locator("article")
        expect(cards.first.get_by_text("best")).to_be_visible()
        scores = [float(each.split()[0]) for each in page.locator(".score").all_inner_texts()]
        self.assertEqual(scores[1:], sorted(scores[1:], reverse=True))
        self.assertLess(max(scores) - scores[0], 0.6)
        self.assertGreaterEqual(len(scores), 4)
        for view in ("on its page", "on a phone", "at 100 %"):
            page.get_by_role("button", name=view).click()
            expect(cards.first.locator("img")).to_be_visible()
        page.get_by_role("button", name="Go through all 3 photos").click()
        expect(page.get_by_label("Is it the same for all").get_by_text(re.compile(r"photos?: ")).first).to_be_visible()
        # By keys to the second, and that one is used.
        page.keyboard.press("ArrowRight")
        name = page.locator("article.chosen .what button").first.inner_text()
        page.get_by_role("button", name=f"Use {name}").click()
        expect(page.locator(".notices")).to_contain_text("now")
        quality = re.search(r"JPEG (\d+)", name)
        made = self.content()["file"]
        self.assertEqual(made.get("quality", "png"), int(quality[1]) if quality else "png")
        page.keyboard.press("Control+z")
        expect(page.locator(".notices")).to_contain_text("Undone")
        self.assertEqual(self.content()["file"], {"format": "jpeg", "quality": 84})

    def hand_over(self, kind: str, fields: dict[str, str] | None = None) -> str:
        """A link made on the run's page."""
        page = self.page
        page.get_by_role("button", name="Hand over…").click()
        page.get_by_role("radio", name=kind).check(force=True)
        for label, value in (fields or {}).items():
            page.get_by_label(label).fill(value)
        page.get_by_role("button", name="Make the link").click()
        address = page.get_by_label("Address", exact=True).input_value()
        page.get_by_role("button", name="Done").click()
        return str(address)

    def phone(self) -> Page:
        context = self.browser.new_context(
            viewport={"width": 390, "height": 844}, has_touch=True, accept_downloads=True
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(20_000)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        return page

    def test_a_phone_picks_up_and_a_client_chooses(self) -> None:
        run = self.finished_run()
        self.sign_in()
        self.open(f"/runs/{run.pk}")
        pick, room = self.hand_over("picking up"), self.hand_over("choosing", CHOOSING)
        phone = self.phone()
        sizes: list[int] = []

        def weigh(answer: Response) -> None:
            if "/static/" in answer.url:
                sizes.append(len(answer.body()))

        phone.on("response", weigh)
        phone.goto(pick)
        expect(phone.get_by_role("heading", name="Autumn")).to_be_visible()
        with phone.expect_download() as download:
            phone.get_by_role("link", name="Save", exact=True).first.click()
        self.assertEqual(download.value.suggested_filename, "0.jpg")
        with phone.expect_download() as download:
            phone.get_by_role("link", name=re.compile("^Save all 3")).click()
        self.assertLess(sum(sizes), 200_000)
        client = self.phone()
        client.goto(room)
        client.get_by_label("Your name").fill("Odile")
        client.get_by_role("button", name="Look at the pictures").click()
        client.locator(".thing").first.click()
        client.get_by_role("button", name="Yes").click()
        # By keys alone from here.
        client.keyboard.press("ArrowRight")
        client.keyboard.press("n")
        expect(client.get_by_role("button", name="No")).to_have_attribute("aria-pressed", "true")
        client.keyboard.press("c")
        client.get_by_label(re.compile("^About the picture")).fill("Too dark for me")
        client.get_by_role("button", name="Send").click()
        expect(client.get_by_text("Too dark for me")).to_be_visible()
        client.keyboard.press("Escape")
        expect(client.get_by_text("1 of 1 chosen")).to_be_visible()
        client.get_by_role("button", name="I am done").click()
        client.reload()
        expect(client.get_by_role("button", name="Done. Change something")).to_be_visible()
        # The studio sees it at once.
        page = self.page
        self.open("/links")
        page.get_by_role("link", name="Spring").click()
        expect(page.get_by_text("Too dark for me")).to_be_visible()
        client.locator(".thing").nth(2).click()
        client.keyboard.press("y")
        expect(page.get_by_text(re.compile("2 yes, 0 maybe, 1 no"))).to_be_visible()
        page.get_by_role("link", name="Show the 2 with yes on the board").click()
        expect(page.get_by_text("2 of 3 photos shown")).to_be_visible()
        page.get_by_role("button", name="Show all photos again").click()
        expect(page.get_by_text("3 photos").first).to_be_visible()
        self.open("/links")
        page.get_by_role("button", name="Withdraw Spring").click()
        expect(page.get_by_text("withdrawn")).to_be_visible()
        client.reload()
        expect(client.get_by_text("This link has ended")).to_be_visible()

    def test_nothing_on_any_view_against_the_rules_of_accessibility(self) -> None:
        outlets.aim(self.outlet, self.recipe_, self.user, "Post", 1)
        run, page = self.finished_run(), self.page
        Root.objects.update(writable=True)
        (self.folder / "incoming").mkdir()
        (self.folder / "incoming" / "one.jpg").write_bytes(jpeg(scene(300, 300)))
        inlets.keep(self.studio, None, "Card", self.root, "incoming", "ask", [], 0, "", "stay")
        to = {"path": str(self.output / "sent")}
        account = deliveries.keep(self.studio, None, "Share", "folder", to, None, self.outlet, "Post")
        deliveries.deliver(account, run.renditions.all())
        for _ in range(3):
            watching.look_at_all()
            self.work()
        made, secret = guests.create(
            self.studio, self.user, "proof", "Spring", [each.pk for each in run.renditions.all()], 3
        )
        picked, other = guests.create(self.studio, self.user, "pickup", "Press", [run.renditions.all()[0].pk], 3)
        self.sign_in()
        for path, there in (
            ("/outlets", "article"),
            (f"/outlets/{self.outlet.pk}", "section"),
            (f"/outlets/{self.outlet.pk}/rehearsal?recipe={self.recipe_.pk}&use=Post", "article img"),
            ("/links", "td"),
            (f"/links/{made.pk}", "section"),
            ("/deliveries", "td"),
            ("/inlets", "td"),
        ):
            self.open(path)
            page.locator(there).first.wait_for()
            page.wait_for_timeout(500)
            self.look(path)
        for path, button in (
            ("/deliveries", "New account"),
            ("/inlets", "New inlet"),
            (f"/runs/{run.pk}", "Hand over…"),
        ):
            self.open(path)
            page.get_by_role("button", name=button).click()
            page.locator(".bx--modal.is-visible").wait_for()
            page.wait_for_timeout(400)
            self.look(button)
        client = self.phone()
        client.goto(f"{self.address}/proof/{made.pk}#{secret}")
        client.get_by_label("Your name").wait_for()
        self.look("who comes", client)
        client.get_by_label("Your name").fill("Odile")
        client.get_by_role("button", name="Look at the pictures").click()
        client.locator(".thing").first.wait_for()
        self.look("gallery", client)
        client.locator(".thing").first.click()
        client.keyboard.press("c")
        client.get_by_label(re.compile("^About the picture")).wait_for()
        self.look("one proof", client)
        client.goto(f"{self.address}/pick/{picked.pk}#{other}")
        client.get_by_role("link", name="Save", exact=True).wait_for()
        self.look("pick-up", client)

    def test_files_are_sent_and_seen_there(self) -> None:
        run, page = self.finished_run(), self.page
        with stores.platform(self.folder / "platform") as (address, known):
            self.sign_in()
            self.open("/deliveries")
            page.get_by_role("button", name="New account").click()
            form = page.locator(".bx--modal.is-visible")
            form.get_by_label("Name", exact=True).fill("Gridwick")
            form.get_by_label("It is").select_option(label="a platform (the stand-in)")
            form.get_by_label("Address").fill(address)
            form.get_by_label("Account there").fill(ACCOUNT)
            form.get_by_label("Secret", exact=True).fill(SECRET)
            form.get_by_label("What is sent there is for").select_option(label="Gridwick, post")
            form.get_by_role("button", name="Save the account").click()
            page.get_by_role("button", name="Try it: Gridwick").click()
            expect(page.locator(".notices")).to_contain_text("lets us in")
            self.open(f"/runs/{run.pk}")
            page.get_by_role("button", name="Hand over…").click()
            page.get_by_role("radio", name="an account").check(force=True)
            page.get_by_role("button", name="Send", exact=True).click()
            self.wait_for(lambda: Delivery.objects.count() == 3)
            known.faults[:] = ["full"]
            for number in list(Delivery.objects.values_list("pk", flat=True)):
                sending.send(number)
            expect(page.get_by_text("2 of 3 sent, 1 failed")).to_be_visible()
            self.open("/deliveries")
            expect(page.get_by_text("a full store")).to_be_visible()
            page.get_by_role("button", name="Send the failed again").click()
            self.wait_for(lambda: Delivery.objects.filter(state="waiting").count() == 1)
            sending.send(Delivery.objects.get(state="waiting").pk)
            expect(page.get_by_role("button", name="Sent 3")).to_be_visible()
            seen = self.phone()
            seen.goto(page.locator("td.there a").first.get_attribute("href") or "")
            expect(seen.locator(".grid img")).to_have_count(3)

    def test_an_inlet_is_made_and_told(self) -> None:
        Root.objects.update(writable=True)
        incoming = self.folder / "incoming"
        incoming.mkdir()
        page = self.page
        self.sign_in()
        self.open("/inlets")
        page.get_by_role("button", name="New inlet").click()
        form = page.locator(".bx--modal.is-visible")
        form.get_by_label("Name", exact=True).fill("Card reader")
        form.get_by_label("Folder in it").fill("incoming")
        form.get_by_role("radio", name="ask me").check(force=True)
        form.get_by_label("Seconds that it stays the same").fill("0")
        form.get_by_role("button", name="Save the inlet").click()
        expect(page.get_by_text("Nothing has arrived yet")).to_be_visible()
        (incoming / "one.jpg").write_bytes(jpeg(scene(300, 300)))
        for _ in range(3):
            watching.look_at_all()
            self.work()
        page.get_by_role("checkbox", name="Square").check(force=True)
        page.get_by_role("button", name="Make 1 file").click()
        self.wait_for(lambda: Arrival.objects.get().chosen)
        for _ in range(3):
            watching.look_at_all()
            self.work()
        expect(page.get_by_role("button", name="Made 1")).to_be_visible()
        page.get_by_role("button", name="Send by HTTP").click()
        expect(page.get_by_text(re.compile("^curl -H"))).to_be_visible()
        page.get_by_role("button", name="Pause").click()
        expect(page.get_by_role("button", name="Go on")).to_be_visible()
