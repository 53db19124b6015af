"""XMP: a photo's properties as RDF in XML (ISO 16684-1; IPTC Photo Metadata Standard 2023.1), read and written."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Iterator, Mapping, Sequence

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from tray_core.words.exif import Broken

SPACES = {
    "x": "adobe:ns:meta/",
    "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "dc": "http://purl.org/dc/elements/1.1/",
    "xmp": "http://ns.adobe.com/xap/1.0/",
    "xmpRights": "http://ns.adobe.com/xap/1.0/rights/",
    "photoshop": "http://ns.adobe.com/photoshop/1.0/",
    "Iptc4xmpCore": "http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/",
    "Iptc4xmpExt": "http://iptc.org/std/Iptc4xmpExt/2008-02-29/",
    "plus": "http://ns.useplus.org/ldf/xmp/1.0/",
    "mwg-rs": "http://www.metadataworkinggroup.com/schemas/regions/",
    "exif": "http://ns.adobe.com/exif/1.0/",
    "exifEX": "http://cipa.jp/exif/1.0/",
    "tiff": "http://ns.adobe.com/tiff/1.0/",
    "svg": "http://www.w3.org/2000/svg",
    "aux": "http://ns.adobe.com/exif/1.0/aux/",
}
"""The standards' namespaces, by the prefixes that the standards use."""

_PREFIXES = {uri: prefix for prefix, uri in SPACES.items()}
for _prefix, _uri in SPACES.items():
    ET.register_namespace(_prefix, _uri)

_RDF, _XML = "{" + SPACES["rdf"] + "}", "{http://www.w3.org/XML/1998/namespace}"
_DESCRIPTION, _LI, _ABOUT = f"{_RDF}Description", f"{_RDF}li", f"{_RDF}about"
_LISTS = tuple(f"{_RDF}{kind}" for kind in ("Alt", "Bag", "Seq"))
LONGEST = 4_000_000
"""Bytes of a packet that is read: real ones have some thousands, and its tree takes ten times as much memory."""

Properties = dict[str, ET.Element]
"""Top-level properties by their names, such as dc:title. Names of unknown namespaces stay {in braces}."""


def full_name(name: str) -> str:
    """dc:title as XML trees have it."""
    prefix, colon, local = name.partition(":")
    return f"{{{SPACES[prefix]}}}{local}" if colon and not name.startswith("{") else name


def _short_name(tag: str) -> str:
    uri, _, local = tag[1:].partition("}")
    return f"{_PREFIXES[uri]}:{local}" if uri in _PREFIXES else tag


def read_xmp(packet: bytes) -> Properties:
    """The properties of a packet; Broken where it is no XML, or XML that builds itself from entities."""
    if len(packet) > LONGEST:
        raise Broken(f"has {len(packet) / 1e6:.0f} MB")
    try:
        root = fromstring(_trimmed(packet), forbid_dtd=True)
    except DefusedXmlException as error:
        raise Broken("defines entities, which no photo needs") from error
    except (ET.ParseError, ValueError, LookupError, RecursionError) as error:
        raise Broken(f"is no XML that can be read ({error})") from error
    rdf = root if root.tag == f"{_RDF}RDF" else root.find(f".//{_RDF}RDF")
    found: Properties = {}
    for description in rdf.findall(_DESCRIPTION) if rdf is not None else ():
        for name, value in description.attrib.items():
            if name.startswith("{") and not name.startswith((_RDF, _XML)):
                found.setdefault(_short_name(name), _plain(name, value))
        for child in description:
            if isinstance(child.tag, str):
                found.setdefault(_short_name(child.tag), child)
    return found


def read_packets(packets: Sequence[bytes]) -> Properties:
    """The properties of some packets; of a property that stands in several, the first counts."""
    found: Properties = {}
    for packet in packets:
        if found and len(packet) > LONGEST:
            continue  # what did not fit the first one: a depth map or a picture, and no words
        found = read_xmp(packet) | found
    return found


def _trimmed(packet: bytes) -> bytes | str:
    """Without what stands behind the packet; bytes that are no UTF-8 as the western letters that they mostly are."""
    if packet[:2] in (b"\xff\xfe", b"\xfe\xff") or b"\0" in packet[:16].strip(b"\0"):
        return packet  # UTF-16, which the parser recognizes
    packet = packet.strip(b"\0 \t\r\n")
    try:
        packet.decode()
    except UnicodeDecodeError:
        return re.sub(r"^\s*<\?xml[^>]*\?>", "", packet.decode("cp1252", "replace"))
    return packet


def _plain(name: str, value: str) -> ET.Element:
    element = ET.Element(name)
    element.text = value
    return element


def texts(element: ET.Element | None) -> list[str]:
    """The entries of a list, or the one text of a plain property. Of languages, the usual one comes first."""
    if element is None:
        return []
    entries = next((child for child in element if child.tag in _LISTS), None)
    if entries is None:
        return [element.text or ""]
    found = [(li.get(f"{_XML}lang") == "x-default", li.text or "") for li in entries.findall(_LI)]
    return [text for _, text in sorted(found, key=lambda each: not each[0])]


def in_usual_language(element: ET.Element | None) -> str:
    """Of a text in several languages the usual one, or else the first."""
    return next((text for text in texts(element) if text.strip()), "")


def parts(element: ET.Element | None) -> Iterator[dict[str, str]]:
    """A structure's fields as texts, or those of each entry where the property is a list of structures."""
    if element is None:
        return
    entries = next((child for child in element if child.tag in _LISTS), None)
    for one in [element] if entries is None else entries.findall(_LI):
        inner = one.find(_DESCRIPTION)
        inner = one if inner is None else inner
        found = {_short_name(name): value for name, value in inner.attrib.items()}
        found |= {_short_name(child.tag): in_usual_language(child) for child in inner if isinstance(child.tag, str)}
        yield found


def face_names(element: ET.Element | None) -> list[str]:
    """The names in a photo's regions that are faces."""
    found = []
    for region in element.iter() if element is not None else ():
        values = {_short_name(name): value for name, value in region.attrib.items()}
        values |= {_short_name(c.tag): (c.text or "").strip() for c in region if isinstance(c.tag, str)}
        if values.get("mwg-rs:Type", "") == "Face" and values.get("mwg-rs:Name"):
            found.append(values["mwg-rs:Name"])
    return found


def plain(name: str, value: str) -> ET.Element:
    """A property of one text. name: as in dc:title."""
    return _plain(full_name(name), value)


def listed(name: str, kind: str, values: Sequence[str]) -> ET.Element:
    """A property that is a list of texts. kind: Bag, Seq, or Alt, for the usual language of a text."""
    element = ET.Element(full_name(name))
    entries = ET.SubElement(element, f"{_RDF}{kind}")
    for value in values:
        li = ET.SubElement(entries, _LI)
        li.text = value
        if kind == "Alt":
            li.set(f"{_XML}lang", "x-default")
    return element


def structure(name: str, values: Mapping[str, str]) -> ET.Element:
    """A property with fields."""
    element = ET.Element(full_name(name), {f"{_RDF}parseType": "Resource"})
    element.extend(plain(field, value) for field, value in values.items())
    return element


def write_xmp(properties: Mapping[str, ET.Element]) -> bytes:
    """A packet of these properties, without room for editing in place; b"" without any."""
    if not properties:
        return b""
    root = ET.Element(full_name("x:xmpmeta"))
    rdf = ET.SubElement(root, f"{_RDF}RDF")
    description = ET.SubElement(rdf, _DESCRIPTION, {_ABOUT: ""})
    description.extend(properties[name] for name in sorted(properties))
    head = b'<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?>'
    body: bytes = ET.tostring(root, "utf-8", xml_declaration=False)
    return head + body + b'<?xpacket end="r"?>'
