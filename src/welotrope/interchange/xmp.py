"""XMP sidecars (ISO 16684-1): made new, or merged into one that is there, losing nothing of others.

Documents with a document type are refused, so that no entity is ever resolved; nothing is fetched.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from lxml import etree

from welotrope.core.errors import UnreadableError
from welotrope.core.picture.lens_data import Form, Property

MAX_BYTES = 4 * 1024 * 1024
RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#"
NAMESPACES = {
    "x": "adobe:ns:meta/", "rdf": RDF, "exif": "http://ns.adobe.com/exif/1.0/", "exifEX": "http://cipa.jp/exif/1.0/",
    "aux": "http://ns.adobe.com/exif/1.0/aux/", "dc": "http://purl.org/dc/elements/1.1/",
    "tiff": "http://ns.adobe.com/tiff/1.0/", "xmp": "http://ns.adobe.com/xap/1.0/",
}  # fmt: skip
_LANGUAGE = "{http://www.w3.org/XML/1998/namespace}lang"
_EMPTY = (
    '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n'
    f'<x:xmpmeta xmlns:x="{NAMESPACES["x"]}"><rdf:RDF xmlns:rdf="{RDF}">'
    '<rdf:Description rdf:about=""/></rdf:RDF></x:xmpmeta>\n'
    '<?xpacket end="w"?>'
)
_LISTS = {Form.SEQUENCE: "Seq", Form.BAG: "Bag", Form.ALTERNATIVE: "Alt"}
_QUIET = {"xmp:MetadataDate"}  # changes whenever anything does


@dataclass(frozen=True)
class XmpChange:
    """A property that would change: its name, and what it is and would be, as one line; '' for nothing."""

    name: str
    was: str
    becomes: str


@dataclass(frozen=True)
class Merged:
    """A sidecar as it would be written, and what that changes; nothing changed, nothing to write."""

    data: bytes
    changes: tuple[XmpChange, ...]


def merged(existing: bytes | None, properties: Sequence[Property], name: str) -> Merged:
    """Return a sidecar with these properties put into the one that is there, None for none.

    Raises
    ------
    UnreadableError
        When what is there is no sidecar; ``name`` is its file's, for the sentence.
    """
    root = _parsed(_EMPTY.encode() if existing is None else existing, name)
    rdf = _rdf(root, name)
    changes = []
    for one in properties:
        was = _said(rdf, one.name)
        values = _values(one, was)
        if values == was or (one.form is Form.ALTERNATIVE and was):
            continue
        _put(rdf, one, values)
        if one.name not in _QUIET:
            changes.append(XmpChange(one.name, ", ".join(was), ", ".join(values)))
    return Merged(etree.tostring(root.getroottree(), encoding="utf-8"), tuple(changes))


def read_properties(data: bytes, names: Sequence[str]) -> dict[str, tuple[str, ...]]:
    """Return what a sidecar says under these names; raises as :func:`merged`."""
    rdf = _rdf(_parsed(data, "sidecar"), "sidecar")
    return {name: said for name in names if (said := _said(rdf, name))}


def _parsed(data: bytes, name: str) -> etree._Element:
    works = "Move it away, or mend it with the program that wrote it"
    if len(data) > MAX_BYTES:
        raise UnreadableError("sidecar", name, f"it has more than {MAX_BYTES // 1024 // 1024} MB", works)
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, strip_cdata=False
    )
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise UnreadableError("sidecar", name, f"it is no XML ({str(error)[:80]})", works) from None
    if root.getroottree().docinfo.doctype or b"<!ENTITY" in data[:MAX_BYTES]:
        raise UnreadableError("sidecar", name, "it holds a document type, which no sidecar has", works)
    return root


def _rdf(root: etree._Element, name: str) -> etree._Element:
    rdf = root if root.tag == f"{{{RDF}}}RDF" else root.find(f".//{{{RDF}}}RDF")
    if rdf is None:
        works = "Move it away, or mend it with the program that wrote it"
        raise UnreadableError("sidecar", name, "it holds no metadata", works)
    if rdf.find(f"{{{RDF}}}Description") is None:
        etree.SubElement(rdf, f"{{{RDF}}}Description", {f"{{{RDF}}}about": ""})
    return rdf


def _key(name: str) -> str:
    prefix, _, local = name.partition(":")
    return f"{{{NAMESPACES[prefix]}}}{local}"


def _holders(rdf: etree._Element, name: str) -> Iterator[tuple[etree._Element, etree._Element | None]]:
    """Yield (description, element) for each that holds a property; None for one held as an attribute."""
    key = _key(name)
    for described in rdf.findall(f"{{{RDF}}}Description"):
        if key in described.attrib:
            yield described, None
        for element in described.findall(key):
            yield described, element


def _said(rdf: etree._Element, name: str) -> tuple[str, ...]:
    for described, element in _holders(rdf, name):
        if element is None:
            return (str(described.get(_key(name))),)
        items = element.findall(f".//{{{RDF}}}li")
        if items:
            return tuple("".join(item.itertext()).strip() for item in items)
        text = "".join(element.itertext()).strip()
        return (text,) if text else ()
    return ()


def _values(one: Property, was: tuple[str, ...]) -> tuple[str, ...]:
    values = (one.value,) if isinstance(one.value, str) else one.value
    return tuple(dict.fromkeys((*was, *values))) if one.form is Form.BAG else values


def _put(rdf: etree._Element, one: Property, values: tuple[str, ...]) -> None:
    """Write a property in the place of the one there, or into the first description."""
    home = None
    for described, element in list(_holders(rdf, one.name)):
        home = described
        if element is None:
            del described.attrib[_key(one.name)]
        else:
            described.remove(element)
    home = home if home is not None else rdf.find(f"{{{RDF}}}Description")
    prefix = one.name.partition(":")[0]
    made = etree.SubElement(home, _key(one.name), nsmap={prefix: NAMESPACES[prefix]})
    if one.form is Form.TEXT:
        made.text = values[0]
        return
    held = etree.SubElement(made, f"{{{RDF}}}{_LISTS[one.form]}")
    for value in values:
        item = etree.SubElement(held, f"{{{RDF}}}li")
        item.text = value
        if one.form is Form.ALTERNATIVE:
            item.set(_LANGUAGE, "x-default")
