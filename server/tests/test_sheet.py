"""The sheet: words typed above those of the files, tables in and out, and names that follow at once."""

from __future__ import annotations

from typing import Any

from server.photos.models import Photo
from server.runs.models import Rendition, Run
from server.tests.cases import StudioCase
from server.tests.test_runs import whole
from server.trays.models import Tray
from server.trays.watching import look_again
from tray_core.tests.exiftool import read, written
from tray_core.tests.samples import jpeg, scene
from tray_core.words.xmp import listed, write_xmp

TITLED = {"pattern": "{title}-{n:02}", "letters": "ascii", "case": "lower", "spaces": "-"}


class SheetCase(StudioCase):
    def sheet(self, tray: Tray, recipe: int | None = None, **how: str) -> list[Any]:
        order = self.get(f"trays/{tray.pk}/sheet?{'&'.join(f'{key}={value}' for key, value in how.items())}")
        found: list[Any] = self.send(
            "post", f"trays/{tray.pk}/sheet/rows", {"photos": order["photos"], "recipe": recipe}
        )
        return found

    def type(self, tray: Tray, photo: int, status: int = 200, version: int = 0, **typed: Any) -> Any:
        edit = {"photo": photo, "typed": typed, "version": version}
        told = self.send("put", f"trays/{tray.pk}/words", {"edits": [edit]}, status=status)
        return told["edits"] if status == 200 else told

    def photo(self, name: str, **tags: str) -> None:
        path = self.folder / name
        path.parent.mkdir(exist_ok=True, parents=True)
        path.write_bytes(jpeg(scene(90, 60, seed=len(name))))
        if tags:
            written(path, {f"XMP-dc:{name}": value for name, value in tags.items()})


class Typed(SheetCase):
    def test_from_the_file_to_the_sheet_to_names_and_into_files(self) -> None:
        self.photo("a.jpg", Title="Lark and drum clock", Creator="Odile Marrow")
        self.photo("b.jpg")
        before = [(self.folder / name).read_bytes() for name in ("a.jpg", "b.jpg")]
        recipe = self.recipe("Object", name=TITLED, file={"format": "jpeg", "metadata": {"keep": "all"}})
        tray = self.tray(recipe)
        self.work()
        one, two = self.sheet(tray, recipe.pk)
        self.assertEqual(one["words"], {"title": "Lark and drum clock", "creator": "Odile Marrow"})
        self.assertEqual((one["origin"]["title"], one["typed"]), ("xmp", {}))
        self.assertEqual((one["named"]["name"], one["named"]["missing"]), ("lark-and-drum-clock-01.jpg", []))
        self.assertEqual((two["named"]["name"], two["named"]["missing"]), ("b-02.jpg", ["title"]))
        codes = [warning["code"] for row in self.rows(tray.pk) for warning in row["cells"][0]["warnings"]]
        self.assertIn("no-word", codes)

        (kept,) = self.type(tray, two["photo"], title="Bird, bellows & brass", keywords="bird; brass", alt="A bird")
        self.assertEqual((kept["typed"], kept["version"]), ({}, 1))
        (_, two) = self.sheet(tray, recipe.pk)
        self.assertEqual(
            two["typed"], {"title": "Bird, bellows & brass", "keywords": ["bird", "brass"], "alt": "A bird"}
        )
        self.assertEqual(two["named"]["name"], "bird-bellows-brass-02.jpg")

        run = Run.objects.get(pk=self.send("post", f"trays/{tray.pk}/runs", {})["id"])
        self.work()
        self.assertEqual(self.states(run), {"made": 2})
        made = run.renditions.get(photo_id=two["photo"])
        self.assertEqual(made.receipt["metadata"], "all")
        self.assertEqual(made.receipt["differences"], [])
        (tags,) = read(self.output / "Object" / "bird-bellows-brass-02.jpg")
        self.assertEqual(
            (tags["XMP-dc:Title"], tags["XMP-dc:Subject"], tags["XMP-iptcCore:AltTextAccessibility"]),
            ("Bird, bellows & brass", ["bird", "brass"], "A bird"),
        )
        self.assertEqual(before, [(self.folder / name).read_bytes() for name in ("a.jpg", "b.jpg")])

        # What is made says the old words now: the cell is out of date, and back again by the typed words of before.
        self.type(tray, two["photo"], version=1, title="Bird")
        self.assertEqual(self.rows(tray.pk)[1]["cells"][0]["state"], "outdated")
        self.type(tray, two["photo"], version=2, **two["typed"])
        self.assertEqual(self.rows(tray.pk)[1]["cells"][0]["state"], "done")

    def test_two_people_typing_the_same_photo(self) -> None:
        tray = self.tray(self.recipe())
        one, two = self.read_already(tray, ["in/a.jpg", "in/b.jpg"])
        self.type(tray, one, title="Mine")
        edits = [
            {"photo": two, "typed": {"title": "Two"}, "version": 0},
            {"photo": one, "typed": {"title": "Other"}, "version": 0},
        ]
        told = self.send("put", f"trays/{tray.pk}/words", {"edits": edits}, status=409)
        self.assertIn("a.jpg", told["detail"])
        self.assertEqual([row["words"] for row in self.sheet(tray)], [{"title": "Mine"}, {}])

    def test_only_words_and_only_photos_of_the_tray(self) -> None:
        tray, other = self.tray(self.recipe()), self.tray(name="Other")
        (photo,) = self.read_already(other, ["in/a.jpg"])
        self.assertEqual(self.type(tray, photo, status=409, title="x")["title"], "A photo is gone")
        told = self.type(other, photo, status=422, headline="x")
        self.assertIn("'headline', which is no word", told["detail"])

    def test_rows_without_a_word(self) -> None:
        tray = self.tray(self.recipe())
        one, two, three = self.read_already(tray, ["in/a.jpg", "in/b.jpg", "in/c.jpg"])
        Photo.objects.filter(pk__in=(one, two)).update(said={"title": "By the file"})
        self.type(tray, one, title="")
        self.assertEqual(self.get(f"trays/{tray.pk}/sheet")["missing"], {"title": 2, "alt": 3})
        self.assertEqual([row["photo"] for row in self.sheet(tray, missing="title")], [one, three])
        self.get(f"trays/{tray.pk}/sheet?missing=headline", status=422)


class Tables(SheetCase):
    def take(self, tray: Tray, text: str, status: int = 200) -> Any:
        told = self.send("post", f"trays/{tray.pk}/words/table", {"text": text}, status=status)
        return told["edits"] if status == 200 else told

    def test_out_into_a_spreadsheet_and_in_again(self) -> None:
        tray = self.tray(self.recipe())
        one, two = self.read_already(tray, ["in/a.jpg", "in/b.jpg"])
        Photo.objects.filter(pk=one).update(said={"title": "By the file"}, origin={"title": "xmp"})
        self.type(tray, two, title="Typed")
        answer = self.client.get(f"/api/trays/{tray.pk}/words.csv")
        table = whole(answer).decode()
        self.assertIn("in/a.jpg,By the file", table)
        self.assertIn("title: typed", table)
        self.assertEqual(self.take(tray, table), [])  # nothing is another word than before
        before = self.take(tray, "photo\ttitle\talt\nb.jpg\tOther\tA bird\na.jpg\tBy the file\t\n")
        self.assertEqual(before, [{"photo": two, "typed": {"title": "Typed"}, "version": 2}])
        self.assertEqual([row["typed"] for row in self.sheet(tray)], [{}, {"title": "Other", "alt": "A bird"}])

    def test_a_wrong_line_and_nothing_is_taken(self) -> None:
        tray = self.tray(self.recipe())
        self.read_already(tray, ["in/a.jpg", "out/a.jpg", "in/b.jpg"])
        told = self.take(tray, "photo,title\nb.jpg,x\na.jpg,y\nz.jpg,z\n", status=422)
        self.assertIn("Line 3: expected one photo a.jpg in the tray, found 2; write its path", told["detail"])
        self.assertIn("Line 4: expected one photo z.jpg in the tray, found none", told["detail"])
        self.assertEqual([row["typed"] for row in self.sheet(tray)], [{}, {}, {}])
        self.assertEqual(len(self.take(tray, "photo,title\nin/a.jpg,y\n")), 1)

    def test_find_and_replace(self) -> None:
        tray = self.tray(self.recipe())
        photos = self.read_already(tray, ["in/a.jpg", "in/b.jpg"])
        self.type(tray, photos[0], title="A clock", keywords="clock, brass", alt="a clock")

        def replace(status: int = 200, **body: Any) -> Any:
            body = {"words": ["title", "keywords"], "photos": photos} | body
            told = self.send("post", f"trays/{tray.pk}/words/replace", body, status=status)
            return told["edits"] if status == 200 else told

        self.assertEqual(len(replace(find="CLOCK", put="dial")), 1)
        self.assertEqual(
            self.sheet(tray)[0]["words"], {"title": "A dial", "alt": "a clock", "keywords": ["dial", "brass"]}
        )
        self.assertEqual(replace(find="DIAL", put="x", case=True), [])
        replace(find=r"^(\w+) dial$", put=r"The \1", regex=True)
        self.assertEqual(self.sheet(tray)[0]["words"]["title"], "The A")
        self.assertIn("expression", replace(find="(", put="", regex=True, status=422)["title"])


class Files(SheetCase):
    def test_the_xmp_beside_a_photo_is_read_and_looked_at_again(self) -> None:
        self.photo("a.jpg", Title="Inside")
        tray = self.tray(self.recipe())
        self.work()
        self.assertEqual(self.sheet(tray)[0]["words"], {"title": "Inside"})
        (self.folder / "a.xmp").write_bytes(write_xmp({"dc:title": listed("dc:title", "Alt", ["Beside"])}))
        self.assertEqual(look_again(tray).changed, 1)
        self.work()
        self.assertEqual(self.sheet(tray)[0]["words"], {"title": "Beside"})
        self.assertEqual(look_again(tray).changed, 0)

    def test_broken_metadata_is_a_caution_and_the_picture_is_made(self) -> None:
        self.photo("a.jpg")
        path = self.folder / "a.jpg"
        bomb = b'<!DOCTYPE x [<!ENTITY a "aaaa">]><x>&a;</x>'
        lead = b"http://ns.adobe.com/xap/1.0/\0"
        data = path.read_bytes()
        part = b"\xff\xe1" + (len(lead + bomb) + 2).to_bytes(2, "big") + lead + bomb
        path.write_bytes(data[:2] + part + data[2:])
        tray = self.tray(self.recipe(file={"format": "jpeg", "metadata": {"keep": "all"}}))
        self.work()
        (row,) = self.rows(tray.pk)
        self.assertIn("unread", [each["code"] for each in row["cells"][0]["warnings"]])
        self.send("post", f"trays/{tray.pk}/runs", {})
        self.work()
        self.assertEqual(Rendition.objects.get().state, "made")

    def test_files_as_they_are(self) -> None:
        self.photo("a.jpg", Title="Tower")
        recipe = self.recipe(
            "Copies", size=None, sharpen=None, color=None, file={"format": "same"}, name={"pattern": "{title}"}
        )
        tray = self.tray(recipe)
        self.work()
        (row,) = self.rows(tray.pk)
        self.assertEqual(row["cells"][0]["bytes"], (self.folder / "a.jpg").stat().st_size)
        self.send("post", f"trays/{tray.pk}/runs", {})
        self.work()
        copy = self.output / "Copies" / "Tower.jpg"
        self.assertTrue(copy.read_bytes() == (self.folder / "a.jpg").read_bytes())


class Counted(SheetCase):
    def test_numbers_by_folder_are_the_same_on_the_board_and_when_made(self) -> None:
        recipe = self.recipe("Numbered", name={"pattern": "{folder}-{n}", "count": "folder"})
        tray = self.tray(recipe)
        self.read_already(tray, ["a/1.jpg", "a/2.jpg", "b/3.jpg", "a/4.jpg", "b/5.jpg"])
        names = [row["cells"][0]["name"] for row in self.rows(tray.pk)]
        self.assertEqual(names, ["a-1.jpg", "a-2.jpg", "b-1.jpg", "a-3.jpg", "b-2.jpg"])
        run = Run.objects.get(pk=self.send("post", f"trays/{tray.pk}/runs", {})["id"])
        self.assertEqual(list(run.renditions.order_by("n").values_list("name", flat=True)), names)
