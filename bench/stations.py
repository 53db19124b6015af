"""Each station's time: CPU milliseconds of one step alone, for one photo of 24 megapixels at 2048 pixels."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from bench import ways
from bench.pictures import photo_like
from tray_core.coders import encode
from tray_core.coders.metadata import with_metadata
from tray_core.line.finishing import finish
from tray_core.line.framing import Source, shown_part
from tray_core.line.prep import correct
from tray_core.line.sharpen import sharpen, sharpen_first
from tray_core.line.working import size_wanted
from tray_core.photo import read_facts
from tray_core.photo.profile_files import NAMED, profile_file
from tray_core.photo.words import Words
from tray_core.pixels.color import Target, convert, to_8, to_16
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.plan import plan_renditions
from tray_core.recipe.file import AvifFile, File, GifFile, JpegFile, PdfFile, PngFile, TiffFile, WebpFile
from tray_core.recipe.finish import Finish
from tray_core.recipe.metadata import Metadata
from tray_core.recipe.stations import FirstSharpen, Prep, Sharpen
from tray_core.weight.score import Scorer
from tray_core.words import Blocks, blocks_of, read_words
from tray_core.words.carried import carried

Step = tuple[str, str, Callable[[], object]]


def _words(jpeg: bytes, files: dict[str, bytes]) -> Iterator[Step]:
    """Reading all that a photo says, composing all of it for a rendition, and putting it into files."""
    long = "The long-case clock in the great hall, in the morning light. " * 8
    words = Words(
        title="Long-case clock",
        alt="A tall clock beside a door",
        description=long,
        keywords=tuple(f"keyword {n}" for n in range(40)),
        creator="Odile Marrow",
        rights="© Quillmarsh Museum",
        usage="Editorial only",
        contact="desk@museum.example",
        place="Great Hall, Quillmarsh",
        people=("Ada Quill",),
    )
    everything, size = Metadata(keep="all"), (2048, 1365)
    said = carried(words, everything, Blocks(), size, srgb=True)
    told = with_metadata(jpeg, "JPEG", said)
    blocks = blocks_of(told, "JPEG")
    yield "words", "read from a photo", lambda: read_words(told, "JPEG")
    yield "words", "composed, everything", lambda: carried(words, everything, blocks, size, srgb=True)
    for kind, data in files.items():
        yield "words", f"put into a {kind}", lambda kind=kind, data=data: with_metadata(data, kind, said)  # type: ignore[misc]


def _steps(path: Path) -> Iterator[Step]:
    data = path.read_bytes()
    facts = read_facts(path, data=data)
    (plan,) = ways.plans([path], ways.ONE)[0]
    wanted = size_wanted(facts, plan.recipe, plan.layout)
    yield "read", "decoded at the standard scale", lambda: decode(facts, data, wanted)
    yield "read", "decoded whole", lambda: decode(facts, data, (facts.width, facts.height))
    half = decode(facts, data, wanted)
    every = Prep(levels=True, contrast=True, balance=True)
    yield "prep", "levels, contrast, color balance", lambda: correct(half, every)
    whole = decode(facts, data, (facts.width, facts.height))
    yield "prep", "first sharpening of all pixels", lambda: sharpen_first(whole, FirstSharpen())
    source = Source(half, (facts.width, facts.height))
    yield "size", "2048 on the long edge", lambda: shown_part(source, plan.layout)
    small, _ = shown_part(source, plan.layout)
    for words, station in (
        ("unsharp mask", Sharpen(strength=100)),
        ("unsharp mask, flat areas guarded", Sharpen(strength=100, guard=6)),
        ("high-pass, threshold", Sharpen(strength=100, method="highpass", threshold=2)),
    ):
        yield "sharpen", words, lambda station=station: sharpen(small, station)  # type: ignore[misc]
    for words, over in (
        ("a border of a color", {"borders": [{"width": "40 px"}]}),
        ("a border of a blurred copy", {"borders": [{"width": "40 px", "blur": True}]}),
        ("a text", {"marks": [{"text": "© Quillmarsh Museum"}]}),
        ("a proof stamp", {"proof": {"text": "PROOF", "longest": "any"}}),
    ):
        finished = plan.recipe.model_copy(update={"finish": Finish.model_validate(over)})
        (laid,) = plan_renditions(facts, finished, 1, None)
        inside, _ = shown_part(source, laid.layout)
        yield "finish", words, lambda laid=laid, inside=inside: finish(inside, laid.recipe, laid.layout)  # type: ignore[misc]
    wide = Picture(small.pixels, "RGB", False, NAMED["display-p3"])
    yield "color", "Display P3 to sRGB", lambda: to_8(convert(wide, Target(NAMED["srgb"])))
    yield "color", "sRGB to inks", lambda: convert(small, Target(profile_file("CMYK.icc"), "CMYK"))
    yield "color", "16 bits to 8, dithered", lambda: to_8(to_16(small), dither=True)
    files: tuple[tuple[str, File], ...] = (
        ("JPEG 84, quick", JpegFile(format="jpeg")),
        ("JPEG 84, quick, progressive", JpegFile(format="jpeg", progressive=True)),
        ("JPEG 84, thorough, progressive", JpegFile(format="jpeg", coder="thorough", progressive=True)),
        ("WebP 84", WebpFile(format="webp")),
        ("WebP, lossless", WebpFile(format="webp", lossless=True)),
        ("AVIF 65", AvifFile(format="avif")),
        ("PNG", PngFile(format="png")),
        ("PNG of 256 colors", PngFile(format="png", colors=256)),
        ("TIFF, deflate", TiffFile(format="tiff")),
        ("PDF", PdfFile(format="pdf")),
        ("GIF", GifFile(format="gif")),
    )
    for words, file in files:
        yield "file", words, lambda file=file: encode(small, file)  # type: ignore[misc]
    jpeg = encode(small, JpegFile(format="jpeg"))
    scorer = Scorer(small)
    yield from _words(
        jpeg,
        {"JPEG": jpeg, "PNG": encode(small, PngFile(format="png")), "WebP": encode(small, WebpFile(format="webp"))},
    )
    yield "file", "perceptual score of a JPEG", lambda: scorer.score_of_file(jpeg)


def measure_stations(rounds: int, tell: Callable[[str], None]) -> list[tuple[str, str, float]]:
    """(station, what, CPU milliseconds) of every step, medians over rounds."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bench.jpg"
        path.write_bytes(photo_like(0))
        found = []
        for station, words, work in _steps(path):
            tell(f"{station}: {words}")
            work()
            spent = []
            for _ in range(rounds):
                start = time.process_time()
                work()
                spent.append((time.process_time() - start) * 1000)
            found.append((station, words, statistics.median(spent)))
    return found
