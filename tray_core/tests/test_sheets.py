"""Contact sheets: pages counted and measured, pictures where they belong, words below them."""

from __future__ import annotations

import contextlib
import io
import json
import unittest
from typing import Any

import numpy as np
from PIL import Image
from pypdf import PdfReader

from tray_core.command.main import main
from tray_core.line.sheets import Piece, write_sheets
from tray_core.recipe import RecipeProblems, check_recipe, describe
from tray_core.recipe.place import Sheets
from tray_core.tests.samples import FolderCase, jpeg, recipe, scene

COLORS = ((200, 30, 30), (30, 160, 40), (40, 60, 200))


class ContactSheets(FolderCase):
    def pieces(self, count: int, size: tuple[int, int] = (300, 200)) -> list[Piece]:
        made = []
        for number in range(count):
            path = self.folder / f"file-{number:02}.png"
            Image.new("RGB", size, COLORS[number % 3]).save(path)
            made.append(Piece(path, f"Title {number}"))
        return made

    def test_pages_of_paper_are_counted_and_have_its_size(self) -> None:
        for count, pages in ((1, 1), (20, 1), (21, 2), (60, 3), (61, 4)):
            (path,) = write_sheets(self.folder / f"{count}", self.pieces(count), Sheets(), "Autumn")
            found = PdfReader(path)
            self.assertEqual(len(found.pages), pages)
            box = found.pages[0].mediabox
            self.assertAlmostEqual(float(box.width), 210 / 25.4 * 72, delta=0.3)
            self.assertAlmostEqual(float(box.height), 297 / 25.4 * 72, delta=0.3)
        (path,) = write_sheets(self.folder / "wide", self.pieces(2), Sheets(page="letter landscape"), "Autumn")
        self.assertAlmostEqual(float(PdfReader(path).pages[0].mediabox.width), 11 * 72, delta=0.3)

    def test_a_grid_without_gaps_is_one_picture(self) -> None:
        sheets = Sheets(page="900x600", format="jpeg", columns=3, rows=2, margin=0.0, gap=0.0, caption="none")
        paths = write_sheets(self.folder / "out", self.pieces(8, (300, 300)), sheets, "Feed")
        self.assertEqual([path.name for path in paths], ["contact-sheet-01.jpg", "contact-sheet-02.jpg"])
        pixels = np.asarray(Image.open(paths[0])).astype(int)
        self.assertEqual(pixels.shape, (600, 900, 3))
        for place in range(6):
            row, column = divmod(place, 3)
            part = pixels[300 * row + 4 : 300 * row + 296, 300 * column + 4 : 300 * column + 296]
            self.assertLess(int(np.abs(part - COLORS[place % 3]).max()), 8)
        self.assertGreater(int(np.asarray(Image.open(paths[1]))[310:, :].min()), 250)

    def test_words_stand_below_their_pictures_inside_of_their_cells(self) -> None:
        sheets = Sheets(page="1200x900", format="jpeg", columns=2, rows=1, caption="both")
        (path,) = write_sheets(self.folder / "out", self.pieces(2), sheets, "A long title " * 20)
        pixels = np.asarray(Image.open(path).convert("L")).astype(int)
        dark = pixels < 120
        self.assertFalse(dark[:, :34].any() or dark[:, -34:].any())
        text = dark[600:, :]
        self.assertGreater(int(text.sum()), 200)
        # Nothing is written between the two cells.
        self.assertFalse(text[:-60, 595:605].any())

    def test_words_stand_clear_of_upright_pictures(self) -> None:
        sheets = Sheets(page="1200x900", format="jpeg", columns=3, rows=2)
        (path,) = write_sheets(self.folder / "out", self.pieces(6, (200, 400)), sheets, "Autumn")
        pixels = np.asarray(Image.open(path).convert("RGB")).astype(int)
        color = pixels.max(axis=2) - pixels.min(axis=2) > 60
        ends = np.flatnonzero(color.any(axis=1)[:440]).max()
        # A white line lies between the pictures' feet and the first letters.
        self.assertGreater(int(pixels[ends + 3].min()), 240)

    def test_a_name_that_is_taken_and_a_file_that_is_gone(self) -> None:
        pieces = [*self.pieces(2), Piece(self.folder / "gone.png")]
        first = write_sheets(self.folder / "out", pieces, Sheets(), "Autumn")
        second = write_sheets(self.folder / "out", pieces, Sheets(), "Autumn")
        self.assertEqual([each[0].name for each in (first, second)], ["contact-sheet.pdf", "contact-sheet-2.pdf"])

    def test_the_command_line_lays_out_what_it_made(self) -> None:
        photos = self.folder / "photos"
        photos.mkdir()
        for number in range(5):
            (photos / f"{number}.jpg").write_bytes(jpeg(scene(300, 200, seed=number + 1)))
        step = {"do": "sheets", "columns": 2, "rows": 2, "caption": "both"}
        content = recipe(place={"subfolder": "web", "afterwards": [step]}).to_json()
        self.assertEqual(content["place"]["afterwards"], [Sheets(columns=2, rows=2, caption="both").model_dump()])
        (self.folder / "recipe.json").write_text(json.dumps(content))
        said = io.StringIO()
        out = self.folder / "out"
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(said):
            code = main(["render", "--recipe", str(self.folder / "recipe.json"), "--out", str(out), str(photos)])
        self.assertEqual(code, 0, said.getvalue())
        self.assertIn(f"contact sheet: {out / 'web' / 'contact-sheet.pdf'}", said.getvalue())
        self.assertEqual(len(PdfReader(out / "web" / "contact-sheet.pdf").pages), 2)

    def test_what_is_wrong_is_named_and_the_sentence_says_it(self) -> None:
        def with_step(**step: Any) -> Any:
            return check_recipe(
                recipe(place={"subfolder": "web"}).to_json()
                | {"place": {"subfolder": "web", "afterwards": [{"do": "sheets", **step}]}}
            )

        text = "".join(phrase.text for phrase in describe(with_step(page="1080x1350")))
        self.assertIn("afterwards they are laid out on contact sheets", text)
        for step in ({"page": "A0"}, {"page": "50x50"}, {"columns": 0}, {"format": "png"}, {"margin": 60}):
            with self.subTest(step=step), self.assertRaises(RecipeProblems) as raised:
                with_step(**step)
            self.assertIn("place.afterwards", raised.exception.problems[0].subject)


if __name__ == "__main__":
    unittest.main()
