"""TEI and other XML."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.base.wording import nearest_names
from millstone.core.corpus.corpus import Document
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.documents.markup import LINE, PAGE, PARAGRAPH, TAB, Layout, text_of
from millstone.texts.inputs.documents.trees import local_name, parse_xml
from millstone.texts.inputs.files import read_source
from millstone.texts.inputs.provenance import Provenance

_TEI_PARAGRAPHS = (
    *("ab", "argument", "back", "body", "byline", "closer", "dateline", "div", "docTitle", "epigraph", "figDesc"),
    *(
        "figure",
        "floatingText",
        "front",
        "head",
        "item",
        "l",
        "label",
        "lg",
        "list",
        "note",
        "opener",
        "p",
        "postscript",
    ),
    *("q", "quote", "row", "salute", "signed", "sp", "speaker", "stage", "table", "text", "trailer", "u"),
)
# words in the middle of a sentence stay there
_TEI_INLINE = frozenset(("q", "quote"))
_TEI = Layout(
    breaks={**dict.fromkeys(set(_TEI_PARAGRAPHS) - _TEI_INLINE, PARAGRAPH), "cell": TAB},
    marks={"lb": LINE, "cb": LINE, "gb": LINE, "pb": PAGE},
    # of two readings the one that stands in the source
    skipped=frozenset(("teiHeader", "corr", "reg", "expan", "del", "fw", "facsimile", "standOff")),
    deferred=frozenset(("note",)),
)
_TEI_HEADER = {
    "title": (".//{*}titleStmt/{*}title",),
    "author": (".//{*}titleStmt/{*}author", ".//{*}sourceDesc//{*}author"),
    "date": (".//{*}sourceDesc//{*}date", ".//{*}creation//{*}date", ".//{*}publicationStmt/{*}date"),
    "publisher": (".//{*}publicationStmt/{*}publisher",),
    "idno": (".//{*}publicationStmt/{*}idno",),
    "language": (".//{*}langUsage/{*}language",),
}


def read_xml(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """The text of an XML file; each TEI text of a collection is a separate document.

    Raises
    ------
    DataError
        For a syntax error, or an element that does not occur.
    """
    root = parse_xml(read_source(path, provenance), path, _name_of)
    provenance.encodings[(root.getroottree().docinfo.encoding or "utf-8").lower()] += 1
    texts = [root]
    if local_name(root) == "teiCorpus":
        texts = list(root.iter("{*}TEI"))
    for number, element in enumerate(texts, 1):
        own_name = name if len(texts) == 1 else f"{name} {number}"
        text = "\n\n".join(text_of(part, _layout(part), path) for part in _parts(element, reading, path))
        yield Document(own_name, "", text, _header(element), str(path))


def _name_of(element: Any, name: str) -> str:
    """The name of an element; none for one that says in an attribute what a header is asked for."""
    return "" if element.keys() and (element.get("when") or element.get("ident")) else name


def _is_tei(element: Any) -> bool:
    return local_name(element.getroottree().getroot()) in ("TEI", "teiCorpus")


def _parts(root: Any, reading: InputOptions, path: Path) -> list[Any]:
    if reading.xml_element:
        found = list(root.iter("{*}" + reading.xml_element))
        if not found:
            names = sorted({local_name(element) for element in root.iter()} - {""})
            shown = nearest_names(reading.xml_element, names)
            raise DataError(f"{path} has no element {reading.xml_element!r}", f"name one of its elements: {shown}")
        # an element inside another of the same name is read with it
        return _outermost(found)
    if _is_tei(root):
        return _outermost(list(root.iter("{*}body"))) or [root]
    return [root]


def _outermost(found: list[Any]) -> list[Any]:
    every = set(found)
    return [one for one in found if not any(above in every for above in one.iterancestors())]


def _layout(root: Any) -> Layout:
    if _is_tei(root):
        return _TEI
    # without knowledge of the scheme: what stands beside running text belongs to its line, all else is apart
    apart: set[str] = set()
    inline: set[str] = set()
    for one in root.iter():
        (inline if _has_own_text(one) else apart).update(map(local_name, one))
    return Layout(breaks=dict.fromkeys(apart - inline - {""}, PARAGRAPH))


def _has_own_text(element: Any) -> bool:
    return bool((element.text or "").strip()) or any((child.tail or "").strip() for child in element)


def _header(element: Any) -> dict[str, str]:
    if not _is_tei(element):
        return {key.rpartition("}")[2]: value for key, value in element.attrib.items()}
    header = element.find("{*}teiHeader")
    found: dict[str, str] = {}
    for field, places in _TEI_HEADER.items() if header is not None else ():
        for place in places:
            one = header.find(place)
            if one is not None and field not in found:
                value = one.get("when") or one.get("ident") or " ".join("".join(one.itertext()).split())
                found |= {field: value} if value else {}
    terms = [" ".join("".join(term.itertext()).split()) for term in element.iterfind(".//{*}keywords//{*}term")]
    return {**found, "keywords": "; ".join(terms)} if terms else found
