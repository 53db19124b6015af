"""Draw the pictures of docs/stations.md: what each station does to a photo of the demo, by the product's own line."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from tray_core.coders import encode
from tray_core.line.framing import Source
from tray_core.line.sharpen import guard_mask
from tray_core.line.working import decoded_for, finished, resized, work
from tray_core.photo import read_facts
from tray_core.pixels.color import TO_SRGB, beyond_gamut, to_rgb_channels
from tray_core.pixels.picture import Picture
from tray_core.plan import plan_renditions
from tray_core.recipe import Recipe, check_recipe
from tray_core.recipe.file import JpegFile
from tray_core.weight.score import decoded

ROOT = Path(__file__).parents[1]
PHOTOS = ROOT / "demo" / "photos"
_GAP = 8
_PLAIN = {
    "format": "upper-tray/recipe",
    "version": 1,
    "title": "Drawn",
    "color": {"profile": "srgb"},
    "file": {"format": "png"},
    "name": {"pattern": "{stem}"},
    "place": {},
}
Pixels = NDArray[np.uint8]


def _recipe(**stations: Any) -> Recipe:
    return check_recipe({**_PLAIN, **stations})


def _made(name: str, **stations: Any) -> Pixels:
    """A photo of the demo through the line."""
    recipe = _recipe(**stations)
    path = PHOTOS / name
    facts, data = read_facts(path), path.read_bytes()
    plan = plan_renditions(facts, recipe, 1, None)[0]
    picture = work(decoded_for(facts, data, recipe, plan.layout), recipe, plan.layout)
    return np.asarray(to_rgb_channels(picture).pixels[..., :3])


def _row(name: str, *pictures: Pixels) -> None:
    """Save pictures side by side on the room's grey."""
    height = max(each.shape[0] for each in pictures)
    width = sum(each.shape[1] for each in pictures) + _GAP * (len(pictures) - 1)
    sheet = Image.new("RGB", (width, height), "#cfcfcd")
    left = 0
    for each in pictures:
        sheet.paste(Image.fromarray(np.ascontiguousarray(each)), (left, (height - each.shape[0]) // 2))
        left += each.shape[1] + _GAP
    sheet.save(ROOT / "docs" / "screenshots" / f"station-{name}.jpg", quality=88, optimize=True)


def _prep() -> None:
    size = {"by": "width", "pixels": 560, "enlarge": "never"}
    name = "mixed/bench-no-profile.jpg"
    facts, data = read_facts(PHOTOS / name), (PHOTOS / name).read_bytes()
    recipe = _recipe(size=size)
    plan = plan_renditions(facts, recipe, 1, None)[0]
    whole = decoded_for(facts, data, recipe, plan.layout).picture
    # A dull scan of it: less contrast, and a cast.
    dull = np.clip(whole.pixels * np.array([0.56, 0.5, 0.4]) + np.array([52, 48, 46]), 0, 255).astype(np.uint8)
    source = Source(Picture(dull, "RGB", False, None), (facts.width, facts.height))
    better = _recipe(size=size, prep={"levels": True, "contrast": True, "balance": True})
    _row("prep", *(work(source, each, plan.layout).pixels for each in (recipe, better)))


def _frame() -> None:
    name, size = "autumn-rehang/2031-10-16_06_clock-tower-dusk.jpg", {"by": "height", "pixels": 340}
    story = {"way": "pad", "shape": "16:9", "fill": "blur"}
    _row(
        "frame",
        _made(name, size={"by": "height", "pixels": 340}),
        _made(name, size=size, frame={"way": "crop", "shape": "1:1", "anchor": "interest"}),
        _made(name, size=size, frame=story),
    )


def _sharpen() -> None:
    name = "autumn-rehang/2031-10-14_01_repair-bench.jpg"
    recipe = _recipe(size={"by": "width", "pixels": 1600}, sharpen={"strength": 130, "guard": 6})
    facts, data = read_facts(PHOTOS / name), (PHOTOS / name).read_bytes()
    plan = plan_renditions(facts, recipe, 1, None)[0]
    before, mask = resized(decoded_for(facts, data, recipe, plan.layout), recipe, plan.layout)
    after = finished(before, mask, recipe, plan.layout)
    guard = np.repeat(guard_mask(before, 6)[..., None], 3, axis=2)
    part = (slice(240, 600), slice(560, 920))
    _row("sharpen", before.pixels[part], after.pixels[part], guard[part])


def _color() -> None:
    path = PHOTOS / "mixed" / "enamel-colours_P3.jpg"
    recipe = _recipe(size={"by": "width", "pixels": 560})
    facts, data = read_facts(path), path.read_bytes()
    plan = plan_renditions(facts, recipe, 1, None)[0]
    before, mask = resized(decoded_for(facts, data, recipe, plan.layout), recipe, plan.layout)
    after = finished(before, mask, recipe, plan.layout).pixels
    marked = after.copy()
    marked[beyond_gamut(before, TO_SRGB) > 0] = (230, 0, 160)
    _row("color", after, marked)


def _finish() -> None:
    photo, size = "autumn-rehang/2031-10-14_01_repair-bench.jpg", {"by": "width", "pixels": 440}
    border = {"borders": [{"width": "12 px"}, {"width": "44 px"}]}
    title = {"text": "Quillmarsh Museum", "font": "serif", "at": "bottom", "over": "all", "size": 5, "margin": 2.5}
    credit = {"text": "© Quillmarsh Museum", "size": 4, "edge": "shadow"}
    _row(
        "finish",
        _made(photo, size=size, finish=border | {"marks": [title | {"opacity": 100}]}),
        _made(photo, size=size, finish={"marks": [credit], "borders": [{"width": "18 px", "blur": True}]}),
        _made(photo, size=size, finish={"proof": {"text": "PROOF 001"}}),
    )


def _file() -> None:
    whole = _made(
        "autumn-rehang/2031-10-17_08_dial-detail.jpg", size={"by": "width", "pixels": 1200}, sharpen={"strength": 100}
    )
    picture = Picture(whole, "RGB", False, None)
    part = (slice(220, 500), slice(420, 700))
    shown = [decoded(encode(picture, JpegFile(format="jpeg"), quality=q)).pixels[part] for q in (15, 50, 90)]
    _row("file", whole[part], *shown)


def main() -> None:
    """Draw all of them."""
    for draw in (_prep, _frame, _sharpen, _finish, _color, _file):
        draw()


if __name__ == "__main__":
    main()
