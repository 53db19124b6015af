"""The sentence of a recipe: true, whole and without contradiction for every recipe that can be written."""

from __future__ import annotations

import itertools
import re
import unittest
from pathlib import Path
from typing import Any, get_args

from hypothesis import given, settings
from hypothesis import strategies as st

from tray_core.recipe import Recipe, describe, headline
from tray_core.recipe.frame import Anchor
from tray_core.tests.samples import recipe
from tray_core.tests.spoken import SPOKEN, table

ANCHORS = get_args(Anchor)
BAD = r"  | ,|,,|;;|; ;|\.\.|None|\{\}| and and | is is |, ;|,\.|\b1 px wide|1 × 1 |panels of None"

Option = tuple[Any, tuple[str, ...]]
"""What a station says, and what the sentence has to say of it."""


def said(made: Recipe) -> str:
    return "".join(phrase.text for phrase in describe(made))


def frames() -> st.SearchStrategy[Option]:
    """Every kind of frame, with panels or without."""
    shapes = st.sampled_from(("1:1", "4:5", "1.91:1", "1080x1920"))
    fills = {"#ffffff": "white", "#204060": "the color #204060", "blur": "a blurred copy", "edge": "its edges"}
    panels = st.sampled_from((None, {"columns": 6, "rows": 1}, {"columns": 1, "rows": 3}, {"columns": 2, "rows": 2}))

    def framed(way: str, shape: str, anchor: str, fill: str, outside: str, panels: dict[str, int] | None) -> Option:
        wanted = ["crop where it has none"] if anchor == "ask" else ["framing"]
        made: dict[str, Any] = {"way": way}
        if way in ("crop", "pad", "stretch"):
            made["shape"] = shape
        if way == "bounds":
            made |= {"narrowest": "4:5", "widest": "1.91:1", "outside": outside}
            wanted += ["4:5", "1.91:1"]
        pads = way == "pad" or (way == "bounds" and outside == "pad")
        if way in ("keep", "stretch"):
            wanted = ["keeps its shape" if way == "keep" else "is stretched to"]
        else:
            made["anchor"] = anchor
        if pads:
            made["fill"] = fill
            wanted += [fills[fill], "padded"]
        elif way in ("crop", "bounds"):
            wanted += ["cropped"]
        if panels:
            made["panels"] = panels
            wanted += ["cut into", "each is made"]
        elif way in ("crop", "pad", "stretch"):
            wanted += ["a square" if shape == "1:1" else {"1080x1920": "9:16"}.get(shape, shape)]
        return made, tuple(wanted)

    ways = st.sampled_from(("keep", "crop", "pad", "stretch", "bounds"))
    outside = st.sampled_from(("crop", "pad"))
    return st.builds(framed, ways, shapes, st.sampled_from(ANCHORS), st.sampled_from(tuple(fills)), outside, panels)


def sizes() -> st.SearchStrategy[Option]:
    """Every measure that scales, with every way of enlarging."""
    measures: tuple[Option, ...] = (
        ({"by": "long-edge", "pixels": 1600}, ("1600 px on the long edge",)),
        ({"by": "width", "pixels": 1200, "portrait": {"pixels": 800}}, ("1200 px wide", "portraits 800 px wide")),
        ({"by": "box", "width": 300, "height": 200}, ("inside 300 × 200",)),
        ({"by": "percent", "percent": 50}, ("50 % of its own size",)),
        ({"by": "percent", "percent": 150}, ()),
        ({"by": "percent", "percent": 400, "square": {"percent": 80}}, ("squares 80 %",)),
        ({"by": "megapixels", "megapixels": 2.5}, ("2.5 megapixels",)),
        ({"by": "widths", "widths": [640, 320]}, ("320 and 640 px wide", "one file each")),
    )
    enlarge = {"never": "never enlarged", "always": "enlarged where needed", 150: "enlarged to 150 % at most"}
    least = ((None, ""), ({"width": 600}, "below 600 px wide"), ({"width": 600, "height": 400}, "below 600 × 400"))

    def sized(measure: Option, how: str | int, least: tuple[Any, str], light: str, ppi: int | None) -> Option:
        made = {**measure[0], "enlarge": how, "light": light, **({"ppi": ppi} if ppi else {})}
        if least[0]:
            made["minimum"] = least[0]
        more = ("linear light",) if light == "linear" else ()
        return made, (*measure[1], enlarge[how], least[1], *more, *((f"{ppi} ppi",) if ppi else ()))

    return st.builds(
        sized,
        st.sampled_from(measures),
        st.sampled_from(tuple(enlarge)),
        st.sampled_from(least),
        st.sampled_from(("gamma", "linear")),
        st.sampled_from((None, 300)),
    )


CUTOUTS: tuple[Option, ...] = (
    (None, ()),
    ({"ground": "#ffffff", "shadow": {}}, ("is cut out and laid on white with a soft shadow, and",)),
    ({"ground": "#204060", "svg": True}, ("on the color #204060, its outline beside it as SVG",)),
    ({"ground": "keep"}, ("keeps its ground",)),
)
PREPS: tuple[Option, ...] = (
    (None, ()),
    ({"levels": True}, ("has its levels corrected and ",)),
    ({"levels": True, "contrast": True}, ("has its levels and contrast corrected, and ",)),
    ({"sharpen": {"amount": 60}}, ("is sharpened before it is resized",)),
)
SHARPENS: tuple[Option, ...] = (
    (None, ("not sharpened",)),
    ({"strength": 0}, ("not sharpened",)),
    ({"strength": 120, "guard": "auto"}, ("at 120 %", "flat areas guarded")),
    ({"strength": 80, "method": "highpass", "radius": 0.7}, ("by high-pass", "radius of 0.7 px")),
    ({"strength": 80, "threshold": 3}, ("below 3 levels",)),
)
COLORS: tuple[Option, ...] = (
    (None, ("kept in its own color space",)),
    ({"profile": "display-p3", "embed": False}, ("converted to Display P3", "without embedding")),
    ({"profile": "grey", "intent": "perceptual"}, ("converted to grey", "perceptual intent")),
    ({"profile": "icc", "icc": "Press.icc"}, ("converted to Press",)),
)
FILES: tuple[Option, ...] = (
    ({"format": "jpeg", "quality": 70, "progressive": True}, ("progressive JPEG at quality 70",)),
    ({"format": "jpeg", "under_kb": 200}, ("the best JPEG under 200 kB",)),
    ({"format": "avif", "looks": 75}, ("the lightest AVIF that looks nearly the same",)),
    ({"format": "webp", "lossless": True}, ("lossless WebP",)),
    ({"format": "png", "colors": 32}, ("PNG with 32 colors",)),
    ({"format": "tiff"}, ("8-bit TIFF",)),
    ({"format": "gif"}, ("GIF",)),
    ({"format": "pdf", "quality": 90}, ("PDF at quality 90",)),
)
PLACES: tuple[Option, ...] = (
    ({"subfolder": "", "taken": "replace"}, ("the output folder itself", "is replaced")),
    ({"subfolder": "{recipe}", "taken": "keep"}, ("in {recipe}", "is kept")),
    ({"subfolder": "web", "taken": "new-name"}, ("in web", "gets a number")),
    ({"to": "download"}, ("to be downloaded",)),
)


class Every(unittest.TestCase):
    @settings(max_examples=600)
    @given(
        st.tuples(frames(), sizes(), *map(st.sampled_from, (PREPS, SHARPENS, COLORS, FILES, PLACES, CUTOUTS))),
    )
    def test_every_station_is_named_and_nothing_contradicts(self, options: tuple[Option, ...]) -> None:
        frame, cutout = options[0][0] or {}, options[7][0] or {}
        if cutout.get("ground", "keep") != "keep" and frame.get("fill", "#ffffff") != cutout["ground"]:
            # The new ground lies beside the picture, too, whatever the frame says.
            options = ((frame, ()), *options[1:])
        names = ("frame", "size", "prep", "sharpen", "color", "file", "place", "cutout")
        made = recipe(**{name: value for name, (value, _) in zip(names, options, strict=True)}, name={"pattern": "{n}"})
        text = said(made)
        self.assertRegex(text, r"^Each photo [a-z].*\.$")
        self.assertNotRegex(text, BAD)
        for name, (_, wanted) in zip(names, options, strict=True):
            for words in wanted:
                self.assertIn(words, text, name)
        self.assertIn("named {n}", text)
        shares = [float(each) for each in re.findall(r"([\d.]+) % of its own size", text)]
        most = 100 if "never enlarged" in text else 150 if "enlarged to 150 %" in text else 1000
        self.assertTrue(all(share <= most for share in shares), text)
        said_of = {phrase.station for phrase in describe(made) if phrase.station}
        expected = {"frame", "size", "sharpen", "color", "file", "name", "place"} | (
            {"prep"} if options[2][0] else set()
        )
        expected |= {"cutout"} if options[7][0] else set()
        self.assertEqual(said_of, expected)
        self.assertTrue(all(headline(made)))

    def test_what_differs_is_said_differently(self) -> None:
        shapes = [{"way": "crop", "shape": "4:5", "anchor": anchor} for anchor in ANCHORS]
        shapes += [{"way": "pad", "shape": "4:5", "anchor": anchor} for anchor in ANCHORS if anchor != "interest"]
        shapes += [
            {"way": "bounds", "narrowest": "4:5", "widest": "1.91:1", "outside": outside, "anchor": anchor}
            for outside, anchor in itertools.product(("crop", "pad"), ("ask", "top", "middle"))
        ]
        texts = [said(recipe(frame=frame)) for frame in [None, *shapes]]
        self.assertEqual(len(set(texts)), len(texts))

    def test_some_by_heart(self) -> None:
        six = {"way": "crop", "shape": "1:1", "anchor": "interest", "panels": {"columns": 6, "rows": 1}}
        self.assertIn(
            "Each photo is cropped to 6:1 by its framing, or else around its interesting part, and is cut into six "
            "squares side by side; each is made 1080 px wide, never enlarged;",
            said(recipe(frame=six, size={"by": "width", "pixels": 1080})),
        )
        self.assertIn(
            "is padded to 1080 × 1920 with a blurred copy of itself, unless a framing says otherwise; made in exactly "
            "these pixels, enlarged to 150 % at most;",
            said(
                recipe(frame={"way": "pad", "shape": "1080x1920", "fill": "blur"}, size={"by": "own", "enlarge": 150})
            ),
        )
        self.assertEqual(
            said(recipe(place={"subfolder": "{recipe}"})),
            "Each photo keeps its shape; it is made 1600 px on the long edge, never enlarged; sharpened for screen at "
            "100 %; converted to sRGB and saved as JPEG at quality 84, without metadata, named {stem}, in {recipe}; "
            "where the name is taken, the new file gets a number.",
        )
        self.assertEqual(
            said(recipe(size=None, sharpen=None, color=None, file={"format": "png"}, place={"to": "download"})),
            "Each photo keeps its shape; not scaled; not sharpened; kept in its own color space and saved as PNG, "
            "without metadata, named {stem}, to be downloaded.",
        )

    def test_the_reader_s_table_is_of_today(self) -> None:
        """docs/sentences.md; scripts/write_sentences.py writes it."""
        path = Path(__file__).parents[2] / "docs" / "sentences.md"
        self.assertEqual(len(SPOKEN), 60)
        self.assertEqual(path.read_text(), table())


if __name__ == "__main__":
    unittest.main()
