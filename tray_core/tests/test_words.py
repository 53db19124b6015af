"""The words of photos: from every place, in every encoding, in one order of precedence; and what is broken is told."""

from __future__ import annotations

import io
import struct
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tray_core.photo.words import NAMES, Words, typed_over, words_from_json
from tray_core.tests.exiftool import written
from tray_core.tests.samples import FolderCase, jpeg, scene
from tray_core.words import read_words, sidecar_bytes
from tray_core.words.exif import Entry, Exif, text, write_exif
from tray_core.words.iim import as_resource, read_iim, write_iim
from tray_core.words.table import TableProblems, decoded_table, read_table, write_table
from tray_core.words.xmp import listed, plain, write_xmp

SMALL = jpeg(scene(64, 48))


def part(marker: int, body: bytes) -> bytes:
    return struct.pack(">BBH", 0xFF, marker, len(body) + 2) + body


def with_parts(*parts: bytes) -> bytes:
    """A JPEG with parts put behind its first one."""
    return SMALL[:2] + b"".join(parts) + SMALL[2:]


def exif_part(exif: Exif) -> bytes:
    return part(0xE1, b"Exif\0\0" + write_exif(exif))


def xmp_part(packet: bytes) -> bytes:
    return part(0xE1, b"http://ns.adobe.com/xap/1.0/\0" + packet)


def iim_part(records: bytes) -> bytes:
    return part(0xED, b"Photoshop 3.0\0" + as_resource(records))


class Precedence(unittest.TestCase):
    def test_sidecar_then_xmp_then_iptc_then_exif_word_by_word(self) -> None:
        exif = Exif(image={270: text("by exif"), 315: text("exif"), 33432: text("exif")})
        iim = write_iim({120: ["by iptc"], 80: ["iptc"], 5: ["iptc"]})
        xmp = write_xmp(
            {"dc:title": listed("dc:title", "Alt", ["xmp"]), "dc:creator": listed("dc:creator", "Seq", ["xmp"])}
        )
        beside = write_xmp({"dc:title": listed("dc:title", "Alt", ["beside"])})
        said = read_words(with_parts(exif_part(exif), xmp_part(xmp), iim_part(iim)), "JPEG", beside)
        self.assertEqual(
            (said.words.title, said.words.creator, said.words.description, said.words.rights),
            ("beside", "xmp", "by iptc", "exif"),
        )
        self.assertEqual(said.origin, {"title": "sidecar", "creator": "xmp", "description": "iptc", "rights": "exif"})
        self.assertEqual(said.unread, ())

    def test_what_a_person_types_stands_above_and_may_be_nothing(self) -> None:
        words = Words(title="Lark", creator="Odile Marrow", keywords=("bird",))
        self.assertEqual(
            typed_over(words, {"title": " The lark ", "creator": "", "keywords": "brass; bird,brass"}),
            Words(title="The lark", keywords=("brass", "bird")),
        )
        with self.assertRaisesRegex(ValueError, "'headline', which is no word"):
            typed_over(words, {"headline": "x"})

    @given(st.dictionaries(st.sampled_from(NAMES), st.text(max_size=60)))
    def test_plain_json_and_back(self, typed: dict[str, str]) -> None:
        words = words_from_json(typed)
        self.assertEqual(words_from_json(words.to_json()), words)


class Encodings(unittest.TestCase):
    def read(self, *parts: bytes) -> Words:
        return read_words(with_parts(*parts), "JPEG").words

    def test_exif_in_utf8_and_western_letters_and_utf16(self) -> None:
        for raw in ("Müller’s lark".encode(), "Müller’s lark".encode("cp1252")):
            exif = Exif(image={270: Entry(2, len(raw) + 1, raw + b"\0")})
            self.assertEqual(self.read(exif_part(exif)).description, "Müller’s lark")
        for order, charset in (("<", "utf-16-le"), (">", "utf-16-be")):
            raw = b"UNICODE\0" + "Glocke 鐘".encode(charset)
            exif = Exif(order, photo={37510: Entry(7, len(raw), raw)})
            self.assertEqual(self.read(exif_part(exif)).description, "Glocke 鐘")

    def test_iptc_that_says_utf8_and_that_says_nothing(self) -> None:
        self.assertEqual(self.read(iim_part(write_iim({5: ["Łazienki"]}))).title, "Łazienki")
        plain_record = b"\x1c\x02\x05\x00\x06" + "Glocké".encode("latin-1")
        self.assertEqual(self.read(iim_part(plain_record)).title, "Glocké")

    def test_xmp_in_utf16_and_in_several_languages(self) -> None:
        packet = (
            '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
            '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:title><rdf:Alt>'
            '<rdf:li xml:lang="de">Uhr</rdf:li><rdf:li xml:lang="x-default">Clock 鐘</rdf:li>'
            "</rdf:Alt></dc:title></rdf:Description></rdf:RDF></x:xmpmeta>"
        )
        self.assertEqual(self.read(xmp_part(packet.encode())).title, "Clock 鐘")
        self.assertEqual(self.read(xmp_part(packet.encode("utf-16"))).title, "Clock 鐘")
        only_german = packet.replace('<rdf:li xml:lang="x-default">Clock 鐘</rdf:li>', "")
        self.assertEqual(self.read(xmp_part(only_german.encode())).title, "Uhr")

    def test_properties_as_attributes_and_nested_places(self) -> None:
        packet = (
            '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" '
            'xmlns:photoshop="http://ns.adobe.com/photoshop/1.0/" photoshop:Credit="Quillmarsh Museum" '
            'xmlns:e="http://iptc.org/std/Iptc4xmpExt/2008-02-29/"><e:LocationCreated><rdf:Bag><rdf:li '
            'rdf:parseType="Resource"><e:Sublocation>Hall</e:Sublocation><e:City>Quillmarsh</e:City></rdf:li></rdf:Bag>'
            "</e:LocationCreated></rdf:Description></rdf:RDF>"
        )
        words = self.read(xmp_part(packet.encode()))
        self.assertEqual((words.credit, words.place), ("Quillmarsh Museum", "Hall, Quillmarsh"))


class Everywhere(FolderCase):
    def test_every_kind_that_an_independent_writer_writes(self) -> None:
        tags = {"XMP-dc:Title": "Lark 鐘", "XMP-dc:Creator": "Odile Marrow", "XMP-iptcExt:PersonInImage": "Ada Quill"}
        for kind, name in (
            ("JPEG", "a.jpg"),
            ("PNG", "a.png"),
            ("WebP", "a.webp"),
            ("TIFF", "a.tif"),
            ("GIF", "a.gif"),
        ):
            image = io.BytesIO()
            Image.fromarray(scene(64, 48)).save(image, kind)
            said = read_words(written(self.write(name, image.getvalue()), tags), kind)
            with self.subTest(kind):
                self.assertEqual(
                    said.words, Words(title="Lark 鐘", creator="Odile Marrow", people=("Ada Quill",)), said.unread
                )

    def test_items_of_avif(self) -> None:
        image = io.BytesIO()
        packet = write_xmp({"dc:title": listed("dc:title", "Alt", ["Dial"])})
        exif = write_exif(Exif(image={33432: text("© Museum")}))
        Image.fromarray(scene(64, 48)).save(image, "AVIF", xmp=packet, exif=exif)
        words = read_words(image.getvalue(), "AVIF").words
        self.assertEqual((words.title, words.rights), ("Dial", "© Museum"))

    def test_sidecars_beside_the_photo_and_nowhere_else(self) -> None:
        photo = self.write("in/a.jpg", SMALL)
        self.assertIsNone(sidecar_bytes(photo, self.folder / "in"))
        self.write("in/a.jpg.xmp", b"two")
        self.assertEqual(sidecar_bytes(photo, self.folder / "in"), b"two")
        self.write("outside.xmp", b"secret")
        (self.folder / "in" / "a.xmp").symlink_to(self.folder / "outside.xmp")
        self.assertEqual(sidecar_bytes(photo, self.folder / "in"), b"two")


class Broken(unittest.TestCase):
    def unread(self, *parts: bytes) -> tuple[Words, str]:
        said = read_words(with_parts(*parts), "JPEG")
        return said.words, " ".join(said.unread)

    def test_what_is_broken_is_named_and_the_rest_is_read(self) -> None:
        good = iim_part(write_iim({5: ["Lark"]}))
        bomb = b'<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><x>&b;</x>'
        loop = b"II*\0\x08\0\0\0\x01\0\x69\x87\x04\0\x01\0\0\0\x08\0\0\0\0\0\0\0"
        many = b"II*\0\x08\0\0\0\xff\xff" + bytes(20)
        for block, said in (
            (xmp_part(bomb), "XMP defines entities"),
            (xmp_part(b"<x:xmpmeta"), "XMP is no XML"),
            (part(0xE1, b"Exif\0\0" + loop), "Exif leads back to itself"),
            (part(0xE1, b"Exif\0\0" + many), "Exif says it has 65,535 tags"),
            (part(0xE1, b"Exif\0\0nonsense"), "Exif does not begin as Exif does"),
            (part(0xE1, b"Exif\0\0II*\0\xff\xff\0\0"), "Exif ends too early"),
        ):
            with self.subTest(said):
                words, unread = self.unread(block, good)
                self.assertEqual(words.title, "Lark")
                self.assertIn(said, unread)
        words, unread = self.unread(
            iim_part(b"\x1c\x02\x05\x7f\xff" + b"x"), exif_part(Exif(image={315: text("Odile")}))
        )
        self.assertEqual((words.creator, "IPTC ends too early" in unread), ("Odile", True))

    @given(st.binary(max_size=400), st.sampled_from(("JPEG", "PNG", "WebP", "TIFF", "AVIF", "JPEG XL", "PDF")))
    def test_no_bytes_at_all_raise_anything(self, junk: bytes, kind: str) -> None:
        lead = {
            "PNG": b"\x89PNG\r\n\x1a\n",
            "WebP": b"RIFF\0\0\0\0WEBP",
            "TIFF": b"II*\0",
            "AVIF": b"\0\0\0\x10ftypavif\0\0\0\0\0\0\x01\0meta\0\0\0\0",
        }
        read_words(lead.get(kind, b"\xff\xd8") + junk, kind)

    @given(st.integers(0, 2**32 - 1), st.integers(1, 12))
    def test_flipped_bytes_in_real_blocks_raise_nothing(self, seed: int, count: int) -> None:
        import random

        chance = random.Random(seed)
        xmp = write_xmp(
            {"dc:title": listed("dc:title", "Alt", ["Lark"]), "photoshop:Credit": plain("photoshop:Credit", "M")}
        )
        exif = Exif(image={270: text("a"), 315: text("longer than four")}, photo={36867: text("2031:10:14 09:12:00")})
        data = bytearray(with_parts(exif_part(exif), xmp_part(xmp), iim_part(write_iim({5: ["t"], 25: ["k", "l"]}))))
        for _ in range(count):
            data[chance.randrange(2, 900)] = chance.randrange(256)
        read_words(bytes(data), "JPEG")

    def test_what_did_not_fit_the_first_packet_does_not_hide_its_words(self) -> None:
        first = write_xmp({"dc:title": listed("dc:title", "Alt", ["Lark"])})
        more = b"http://ns.adobe.com/xmp/extension/\0" + b"0" * 32
        parts = [
            part(0xE1, more + struct.pack(">II", 5_000_000, at) + bytes(60_000)) for at in range(0, 5_000_000, 60_000)
        ]
        words, unread = self.unread(xmp_part(first), *parts)
        self.assertEqual((words.title, unread), ("Lark", ""))
        _, unread = self.unread(part(0xE1, b"http://ns.adobe.com/xap/1.0/\0" + b"<x>" * 20_000))
        self.assertIn("is no XML that can be read", unread)

    def test_texts_without_end_are_bounded(self) -> None:
        words, _ = self.unread(iim_part(write_iim({120: ["x" * 2000], 25: [f"k{i}" for i in range(900)]})))
        self.assertEqual((len(words.description), len(words.keywords)), (2000, 500))
        self.assertEqual(len(read_iim(write_iim({25: ["é" * 60]}))[25][0].encode()), 64)


class Tables(unittest.TestCase):
    def problems(self, table: str) -> str:
        with self.assertRaises(TableProblems) as caught:
            read_table(table)
        return " ".join(caught.exception.problems)

    def test_out_and_in_again(self) -> None:
        words = Words(title='=1+1 "Lark"', alt="two\nlines", keywords=("bird", "brass"), creator="@odile")
        table = "".join(write_table([("a.jpg", words, {"title": "xmp"}), ("b.jpg", Words(), {})]))
        self.assertIn("'=1+1", table)
        one, two = read_table(table)
        self.assertEqual((one.photo, words_from_json(one.words), two.photo), ("a.jpg", words, "b.jpg"))

    def test_semicolons_tabs_and_marks_at_the_start(self) -> None:
        for table in ("photo;title\na.jpg;Lark, singing\n", "photo\ttitle\r\na.jpg\tLark, singing\r\n"):
            (row,) = read_table(decoded_table(b"\xef\xbb\xbf" + table.encode()))
            self.assertEqual(row.words, {"title": "Lark, singing"})
        self.assertEqual(decoded_table("photo".encode("utf-16")), "photo")

    def test_what_is_wrong_is_told_by_line_and_nothing_is_taken(self) -> None:
        self.assertIn("Line 1: expected known columns, found 'headline'", self.problems("photo,headline\na,b\n"))
        self.assertIn("Line 1: expected a column photo", self.problems("title\nLark\n"))
        self.assertIn("Line 3: a.jpg stands in line 2 already", self.problems("photo,title\na.jpg,x\na.jpg,y\n"))
        self.assertIn("Line 2: expected 2 cells, found 3", self.problems("photo,title\na.jpg,x,y\n"))
        self.assertIn("Line 1: expected headings", self.problems("\n"))
        with self.assertRaisesRegex(TableProblems, "Line 2: expected UTF-8"):
            decoded_table(b"photo,title\na.jpg,Gl\xf6ck\n")

    def test_any_table_is_rows_or_problems(self) -> None:
        found: Any = None
        for junk in ("\0", '"', 'photo,title\n"a', "photo\n\0\n", "," * 100):
            try:
                found = read_table(junk)
            except TableProblems as error:
                found = error.problems
            self.assertTrue(found is not None)
