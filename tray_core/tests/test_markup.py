"""Markup for finished files: valid, escaped, lightest formats first; and what the command line writes."""

from __future__ import annotations

import contextlib
import io
import json
import unittest
from html.parser import HTMLParser

from tray_core.command.main import main
from tray_core.markup import Piece, as_html, as_json, pictures
from tray_core.tests.samples import FolderCase, jpeg, recipe, scene


def piece(path: str, width: int, **more: str) -> Piece:
    format = more.pop("format", path.rpartition(".")[2].replace("jpg", "jpeg"))
    return Piece(photo=more.pop("photo", "a"), path=path, format=format, width=width, height=width // 2, **more)


class Elements(HTMLParser):
    """What a parser makes of it."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.found: list[tuple[str, dict[str, str | None]]] = []
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.found.append((tag, dict(attrs)))


class Markup(unittest.TestCase):
    def test_formats_widths_and_the_fallback(self) -> None:
        pieces = [
            piece("m/a-480w.jpg", 480),
            piece("m/a-960w.jpg", 960),
            piece("m/a-480w.webp", 480),
            piece("m/a-960w.avif", 960),
            piece("m/a.tif", 4000, format="tiff"),
        ]
        elements = Elements(as_html(pictures(pieces, "50vw"), "Autumn")).found
        self.assertEqual([tag for tag, _ in elements], ["picture", "source", "source", "source", "img"])
        self.assertEqual(
            [each["type"] for tag, each in elements if tag == "source"], ["image/avif", "image/webp", "image/jpeg"]
        )
        self.assertEqual(elements[3][1]["srcset"], "m/a-480w.jpg 480w, m/a-960w.jpg 960w")
        image = elements[4][1]
        self.assertEqual(
            (image["src"], image["width"], image["height"], image["loading"]), ("m/a-960w.jpg", "960", "480", "lazy")
        )
        self.assertEqual(elements[1][1]["sizes"], "50vw")

    def test_crops_for_small_screens_come_first(self) -> None:
        pieces = [piece("a.jpg", 960), piece("a-small.jpg", 480, media="(max-width: 600px)")]
        ((tall, _, _), (wide, _, _)) = pictures(pieces, "")[0].sources
        self.assertEqual((tall, wide), ("(max-width: 600px)", ""))
        self.assertEqual(pictures(pieces, "")[0].fallback.path, "a.jpg")

    def test_words_and_paths_cannot_break_out(self) -> None:
        text = as_html(
            pictures([piece('x/"a b", <é>.jpg', 9, alt='"><script>', title="<b>&")], '"><i>'), "<t>", page=True
        )
        tags = {tag for tag, _ in Elements(text).found}
        self.assertEqual(tags & {"script", "b", "i", "t"}, set())
        image = next(each for tag, each in Elements(text).found if tag == "img")
        self.assertEqual((image["alt"], image["title"]), ('"><script>', "<b>&"))
        self.assertEqual(image["src"], "x/%22a%20b%22%2C%20%3C%C3%A9%3E.jpg")

    def test_json_says_the_same(self) -> None:
        (found,) = as_json(pictures([piece("a.jpg", 9, alt="A bird"), piece("a.webp", 9)], ""))
        self.assertEqual(
            (found["alt"], [each["type"] for each in found["sources"]]), ("A bird", ["image/webp", "image/jpeg"])
        )


class Written(FolderCase):
    def test_the_command_line_writes_words_and_markup(self) -> None:
        self.write("in/lark.jpg", jpeg(scene(120, 80)))
        words = self.write("words.csv", b"photo,title,alt\nlark.jpg,The lark,A silver bird\n")
        widths = recipe(
            "Site",
            size={"by": "widths", "widths": [40, 80]},
            name={"pattern": "{title}", "spaces": "-", "case": "lower"},
        )
        file = self.write("site.json", json.dumps(widths.to_json()).encode())
        out = self.folder / "out"
        given = ["render", "--recipe", str(file), "--out", str(out), "--words", str(words)]
        with contextlib.redirect_stdout(io.StringIO()) as said, contextlib.redirect_stderr(io.StringIO()) as told:
            code = main([*given, "--markup", str(out / "index.html"), "--sizes", "100vw", str(self.folder / "in")])
        self.assertEqual(code, 0, told.getvalue())
        self.assertEqual(len(said.getvalue().splitlines()), 2)
        elements = Elements((out / "index.html").read_text()).found
        source = next(each for tag, each in elements if tag == "source")
        self.assertEqual(source["srcset"], "the-lark-40w.jpg 40w, the-lark-80w.jpg 80w")
        self.assertEqual(next(each for tag, each in elements if tag == "img")["alt"], "A silver bird")
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()) as told:
            wrong = self.write("wrong.csv", b"photo,headline\nlark.jpg,x\n")
            self.assertEqual(main([*given[:-1], str(wrong), str(self.folder / "in")]), 2)
        self.assertIn("found 'headline'", told.getvalue())

    def test_taken_names_by_the_command_line(self) -> None:
        self.write("in/a.jpg", jpeg(scene(60, 40)))
        asks = recipe(place={"to": "output", "subfolder": "", "taken": "ask"}, size={"by": "own"})
        file = self.write("asks.json", json.dumps(asks.to_json()).encode())
        self.write("out/a.jpg", b"there")

        def render(*more: str) -> tuple[int, dict[str, object]]:
            given = ["render", "--recipe", str(file), "--out", str(self.folder / "out"), *more, str(self.folder / "in")]
            with contextlib.redirect_stdout(io.StringIO()) as said, contextlib.redirect_stderr(io.StringIO()):
                code = main(given)
            return code, json.loads(said.getvalue())

        code, line = render()
        self.assertEqual((code, line["status"]), (1, "asking"))
        self.assertIn("--taken", str(line["error"]))
        code, line = render("--taken", "new-name")
        self.assertEqual((code, line["status"], str(line["path"]).rpartition("/")[2]), (0, "made", "a-2.jpg"))

    def test_words_of_files_one_object_a_line(self) -> None:
        photo = self.write("a.jpg", jpeg(scene(60, 40)))
        self.write("a.xmp", b"<x:xmpmeta xmlns:x='adobe:ns:meta/'/>")
        self.write("text.txt", b"no picture")
        with contextlib.redirect_stdout(io.StringIO()) as said:
            code = main(["words", str(photo), str(self.folder / "text.txt")])
        one, two = (json.loads(line) for line in said.getvalue().splitlines())
        self.assertEqual((code, one["title"], one["from"]), (1, "", {}))
        self.assertIn("plain text", two["error"])
        keys = "photo title alt description keywords creator credit rights usage contact place people from"
        self.assertEqual(list(one), keys.split())
