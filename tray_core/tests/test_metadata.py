"""What renditions say of themselves, read back by a reader that did not write it."""

from __future__ import annotations

import functools
import hashlib
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

from tray_core.fingerprint import fingerprint
from tray_core.line import make_renditions
from tray_core.photo import PhotoFacts, read_facts
from tray_core.photo.words import Words
from tray_core.plan import Plan, plan_all
from tray_core.receipt import Receipt
from tray_core.recipe import Recipe, RecipeProblems
from tray_core.tests.exiftool import read, written
from tray_core.tests.samples import FolderCase, jpeg, recipe, scene
from tray_core.words import with_words

TAGS = {
    "EXIF:GPSLatitude": "52.1",
    "EXIF:GPSLatitudeRef": "N",
    "EXIF:GPSLongitude": "4.2",
    "EXIF:Make": "Fenwright",
    "EXIF:Model": "Box 5",
    "EXIF:SerialNumber": "SN77001",
    "EXIF:OwnerName": "Ada Quill",
    "EXIF:Artist": "Odile Marrow",
    "EXIF:Copyright": "© 2031 Quillmarsh Museum",
    "EXIF:DateTimeOriginal": "2031:10:14 09:12:00",
    "EXIF:UserComment": "near Fenborough",
    "EXIF:Orientation#": "6",
    "IPTC:City": "Quillmarsh",
    "IPTC:Country-PrimaryLocationCode": "QLM",
    "XMP-photoshop:City": "Quillmarsh",
    "XMP-photoshop:State": "Fenshire",
    "XMP-photoshop:Country": "Northland",
    "XMP-iptcCore:CountryCode": "QLM",
    "XMP-iptcCore:CreatorCity": "Marshend",
    "XMP-iptcCore:CreatorWorkEmail": "desk@museum.example",
    "XMP-exif:GPSLatitude": "52.1",
    "XMP-iptcExt:PersonInImage": "Ada Quill",
    "XMP-mwg-rs:RegionName": "Ada Quill",
    "XMP-mwg-rs:RegionType": "Face",
    "XMP-dc:Title": "Tower at dusk",
    "XMP-dc:Description": "A clock tower",
    "XMP-iptcCore:AltTextAccessibility": "Clock tower against a violet sky",
    "XMP-xmpMM:HistoryAction": "saved",
    "XMP-crs:RawFileName": "secret.raw",
    "XMP-dc:Subject": "tower; Quillmarsh; Ada Quill",
    "XMP-aux:Lens": "Fen 50",
}
FORMATS: tuple[dict[str, Any], ...] = (
    {"format": "jpeg", "quality": 84},
    {"format": "png"},
    {"format": "webp"},
    {"format": "webp", "lossless": True},
    {"format": "avif"},
    {"format": "tiff"},
    {"format": "pdf"},
)
_EVERYTHING: dict[str, Any] = {"keep": "all"}


@functools.cache
def tagged() -> bytes:
    """A photo with all of these in it, by an independent writer."""
    with tempfile.TemporaryDirectory() as folder:
        photo = Path(folder) / "tower.jpg"
        photo.write_bytes(jpeg(scene(120, 80)))
        return written(photo, TAGS)


class Made(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.data = tagged()
        self.photo = self.write("in/tower.jpg", self.data)
        self.facts = with_words(read_facts(self.photo), self.data)

    def made(self, *recipes: Recipe, facts: PhotoFacts | None = None) -> list[tuple[Plan, Path, Receipt]]:
        (plans,) = plan_all([facts or self.facts], recipes)
        found = []
        for outcome in make_renditions(self.photo, plans, [self.folder / "out"] * len(plans)):
            self.assertEqual(outcome.status, "made", outcome.error)
            assert outcome.path is not None
            assert outcome.receipt is not None
            self.assertEqual(outcome.receipt.differences, ())
            found.append((outcome.plan, outcome.path, outcome.receipt))
        return found

    def in_every_format(self, metadata: dict[str, Any]) -> list[tuple[Path, Receipt, dict[str, Any]]]:
        """Renditions in every format that has places for metadata, with what is in them by an independent reader."""
        recipes = [recipe(str(i), file={**each, "metadata": metadata}) for i, each in enumerate(FORMATS)]
        same = recipe("same", size=None, sharpen=None, color=None, file={"format": "same", "metadata": metadata})
        found = self.made(*recipes, same)
        tags = read(*(path for _, path, _ in found))
        return [(path, receipt, said) for (_, path, receipt), said in zip(found, tags, strict=True)]


class LeftOut(Made):
    def test_nothing_of_the_place_anywhere_in_the_bytes(self) -> None:
        for path, _, tags in self.in_every_format({"keep": "all", "leave_out": ["place"]}):
            with self.subTest(path.suffix, bytes=path.stat().st_size):
                self.assertEqual([n for n in tags if "GPS" in n or "Country" in n or "City" in n or "State" in n], [])
                data = path.read_bytes()
                for word in ("Quillmarsh,", "Fenshire", "Northland", "QLM", "Fenborough", "52 deg", "near Fen"):
                    self.assertFalse(word.encode() in data, word)
                self.assertTrue("Fenwright" in str(tags) or path.suffix == ".pdf")
                self.assertIn("Ada Quill", str(tags))

    def test_nobody_named_and_no_faces(self) -> None:
        for path, _, tags in self.in_every_format({"keep": "all", "leave_out": ["people"]}):
            with self.subTest(path.suffix):
                self.assertNotIn("Ada Quill", str(tags))
                self.assertFalse(b"Ada Quill" in path.read_bytes())
                self.assertNotIn("Region", str(tags))
                self.assertIn("tower", str(tags))

    def test_no_camera_but_its_date(self) -> None:
        for path, _, tags in self.in_every_format({"keep": "all", "leave_out": ["camera"]}):
            with self.subTest(path.suffix):
                for word in ("Fenwright", "Box 5", "SN77001", "Fen 50"):
                    self.assertNotIn(word, str(tags))
                if path.suffix != ".pdf":
                    self.assertIn("2031:10:14 09:12:00", str(tags))

    def test_rights_alone(self) -> None:
        for path, receipt, tags in self.in_every_format({"keep": "rights"}):
            with self.subTest(path.suffix):
                self.assertEqual(receipt.metadata, "rights")
                for word in ("Odile Marrow", "© 2031 Quillmarsh Museum", "desk@museum.example"):
                    self.assertIn(word, str(tags))
                for word in ("Tower at dusk", "SN77001", "violet", "secret.raw", "saved", "Fenwright"):
                    self.assertNotIn(word, str(tags))

    def test_no_history_and_no_paths_even_with_everything(self) -> None:
        for _, receipt, tags in self.in_every_format(_EVERYTHING):
            self.assertEqual(receipt.metadata, "all")
            for word in ("secret.raw", "saved", "Region"):
                self.assertNotIn(word, str(tags))

    def test_nothing_at_all(self) -> None:
        for metadata in (None, {"keep": "none"}):
            each = {"format": "jpeg"} if metadata is None else {"format": "jpeg", "metadata": metadata}
            ((_, path, receipt),) = self.made(recipe(file=each))
            self.assertEqual(receipt.metadata, "none")
            self.assertEqual({name.split(":")[0] for name in read(path)[0]} & {"IFD0", "XMP-dc", "IPTC", "GPS"}, set())


class Agrees(Made):
    def test_pixels_turn_and_color_space_agree_with_the_new_picture(self) -> None:
        recipes = [
            recipe(
                profile,
                file={**file, "metadata": _EVERYTHING},
                color={"profile": profile},
                size={"by": "long-edge", "pixels": 60},
            )
            for profile in ("srgb", "display-p3")
            for file in FORMATS[:6]
        ]
        found = self.made(*recipes)
        for (plan, path, _), tags in zip(found, read(*(path for _, path, _ in found)), strict=True):
            profile = plan.recipe.title
            with self.subTest(path.name, profile=profile):
                self.assertIn(tags.get("IFD0:Orientation", "Horizontal (normal)"), ("Horizontal (normal)",))
                self.assertEqual((tags["ExifIFD:ExifImageWidth"], tags["ExifIFD:ExifImageHeight"]), (40, 60))
                self.assertEqual(tags["ExifIFD:ColorSpace"], "sRGB" if profile == "srgb" else "Uncalibrated")
                self.assertNotIn("ThumbnailImage", str(tags))
                self.assertTrue(any("Profile" in name for name in tags))

    def test_every_word_in_its_standard_place(self) -> None:
        words = Words(
            title="Lark 鐘",
            alt="A silver bird",
            description="A gilt clock\nbeside a bird",
            keywords=("bird", "brass"),
            creator="Odile Marrow",
            credit="Quillmarsh Museum",
            rights="© Museum",
            usage="Editorial only",
            contact="desk@museum.example, https://museum.example, +31 555 01 23, 4 Fen Lane",
            place="Great Hall",
            people=("Ada Quill",),
        )
        made = recipe(file={"format": "jpeg", "metadata": _EVERYTHING})
        ((_, path, _),) = self.made(made, facts=replace(self.facts, words=words))
        (tags,) = read(path)
        for name, value in {
            "XMP-dc:Title": "Lark 鐘",
            "XMP-iptcCore:AltTextAccessibility": "A silver bird",
            "XMP-dc:Subject": ["bird", "brass"],
            "XMP-photoshop:Credit": "Quillmarsh Museum",
            "XMP-xmpRights:UsageTerms": "Editorial only",
            "XMP-iptcCore:Location": "Great Hall",
            "XMP-iptcExt:PersonInImage": ["Ada Quill"],
            "IPTC:ObjectName": "Lark 鐘",
            "IPTC:Keywords": ["bird", "brass"],
            "IPTC:By-line": "Odile Marrow",
            "IPTC:Credit": "Quillmarsh Museum",
            "IFD0:Artist": "Odile Marrow",
            "IFD0:Copyright": "© Museum",
        }.items():
            self.assertEqual(tags[name], value, name)
        contact = tags["XMP-iptcCore:CreatorContactInfo"]
        self.assertEqual(
            contact,
            {
                "CiAdrExtadr": "4 Fen Lane",
                "CiEmailWork": "desk@museum.example",
                "CiTelWork": "+31 555 01 23",
                "CiUrlWork": "https://museum.example",
            },
        )
        self.assertNotIn("XMP-photoshop:City", tags)  # of the place that was typed over

    def test_texts_of_the_recipe_stand_above_the_photos(self) -> None:
        set_texts = {"rights": "© {date:%Y} Quillmarsh Museum", "credit": "{creator} for {recipe}", "title": ""}
        made = recipe("Press", file={"format": "jpeg", "metadata": {"keep": "none", "set": set_texts}})
        ((plan, path, _),) = self.made(made, facts=replace(self.facts, taken=None, modified=None))
        (tags,) = read(path)
        self.assertEqual(tags["XMP-photoshop:Credit"], "Odile Marrow for Press")
        self.assertEqual(tags["IFD0:Copyright"], "© 1970 Quillmarsh Museum")
        self.assertNotIn("XMP-dc:Title", tags)
        self.assertEqual(plan.words, Words(rights="© 1970 Quillmarsh Museum", credit="Odile Marrow for Press"))

    def test_limits_of_bytes_hold_with_metadata(self) -> None:
        made = recipe(file={"format": "jpeg", "under_kb": 12, "metadata": _EVERYTHING}, size={"by": "own"})
        ((_, path, _),) = self.made(made)
        self.assertLessEqual(path.stat().st_size, 12_000)

    def test_other_words_are_another_rendition_and_old_recipes_make_the_same(self) -> None:
        def printed(file: dict[str, Any], words: Words) -> str:
            ((plan,),) = plan_all([replace(self.facts, words=words)], [recipe(file=file)])
            return fingerprint("photo", plan)

        all_kept = {"format": "jpeg", "metadata": _EVERYTHING}
        self.assertNotEqual(printed(all_kept, Words(title="a")), printed(all_kept, Words(title="b")))
        plain = {"format": "jpeg"}
        self.assertEqual(printed(plain, Words(title="a")), printed(plain, Words(title="b")))
        self.assertEqual(printed({"format": "gif"}, Words()), printed({"format": "gif"}, Words()))


class AsItIs(Made):
    def test_copied_byte_by_byte_under_another_name(self) -> None:
        same = recipe(size=None, sharpen=None, color=None, file={"format": "same"}, name={"pattern": "{title}"})
        ((plan, path, receipt),) = self.made(same)
        self.assertEqual(path.name, "Tower at dusk.jpg")
        self.assertTrue(path.read_bytes() == self.data)
        self.assertEqual(receipt.sha256, hashlib.sha256(self.data).hexdigest())
        self.assertEqual((plan.width, plan.height), (80, 120))

    def test_other_words_and_the_same_picture(self) -> None:
        metadata = {"keep": "all", "leave_out": ["place"], "set": {"title": "Dusk"}}
        same = recipe(size=None, sharpen=None, color=None, file={"format": "same", "metadata": metadata})
        ((_, path, _),) = self.made(same)
        (tags,) = read(path)
        self.assertEqual((tags["XMP-dc:Title"], tags["IFD0:Orientation"]), ("Dusk", "Rotate 90 CW"))
        old, new = self.data, path.read_bytes()
        self.assertTrue(old[old.index(b"\xff\xda") :] == new[new.index(b"\xff\xda") :])

    def test_stations_that_change_the_picture_do_not_go_with_it(self) -> None:
        with self.assertRaisesRegex(RecipeProblems, "size: expected nothing, since the file stays as it is"):
            recipe(sharpen=None, color=None, file={"format": "same"})
