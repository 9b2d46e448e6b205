"""Word-processor documents: DOCX and ODT."""

import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.documents.markup import LINE, PAGE, PARAGRAPH, TAB, Layout, text_of
from millstone.texts.inputs.documents.trees import local_name, parse_xml
from millstone.texts.inputs.files import open_archive, watched
from millstone.texts.inputs.provenance import Provenance

_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"


# what stands for a character is never left out
_CHARACTERS = frozenset(("noBreakHyphen", "softHyphen", "s"))


def _is_page_break(element: Any) -> bool:
    return local_name(element) == "br" and element.get(_W + "type") == "page"


def _name_of(element: Any, name: str) -> str:
    if name in _CHARACTERS:
        return ""
    return "page break" if name == "br" and _is_page_break(element) else name


_DOCX = Layout(
    breaks={"p": PARAGRAPH, "tc": TAB, "tr": PARAGRAPH},
    marks={
        **{"tab": TAB, "br": LINE, "cr": LINE, "lastRenderedPageBreak": PAGE},
        **{"noBreakHyphen": "\u2011", "softHyphen": "\u00ad"},
    },
    # deleted text, field codes, and the twin that older programs show of a drawing
    skipped=frozenset(("del", "moveFrom", "instrText", "Fallback", "pPr", "rPr")),
    only=frozenset(("t",)),
)
_ODT = Layout(
    breaks={"p": PARAGRAPH, "h": PARAGRAPH, "table-cell": TAB, "table-row": PARAGRAPH, "note-body": PARAGRAPH},
    marks={"s": " ", "tab": TAB, "line-break": LINE, "soft-page-break": PAGE},
    skipped=frozenset(
        ("tracked-changes", "annotation", "annotation-end", "note-citation", "forms", "sequence-decls")
    ),
    deferred=frozenset(("note",)),
)


def read_docx(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """Paragraphs, tables, footnotes and endnotes; no headers, footers, comments or deleted text.

    Raises
    ------
    DataError
    """
    with watched(path, provenance), open_archive(path, "DOCX") as archive:
        body = _part(archive, "word/document.xml", path, "DOCX")
        for element in [one for one in body.iter(_W + "br") if _is_page_break(one)]:
            element.tag = _W + "lastRenderedPageBreak"
        texts = [text_of(body, _DOCX, path)]
        for part in ("word/footnotes.xml", "word/endnotes.xml"):
            if part in archive.namelist():
                notes = _part(archive, part, path, "DOCX")
                # the lines between text and notes are kept as notes with a type
                texts += [text_of(note, _DOCX, path) for note in notes if note.get(_W + "type") in (None, "normal")]
        yield Document(name, "", _joined(texts), _properties(archive, "docProps/core.xml", path), str(path))


def read_odt(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """Paragraphs, headings, tables and notes; no page headers, comments or tracked deletions.

    Raises
    ------
    DataError
    """
    with watched(path, provenance), open_archive(path, "ODT") as archive:
        root = _part(archive, "content.xml", path, "ODT")
        body = root.find("{*}body")
        text = text_of(root if body is None else body, _ODT, path)
        yield Document(name, "", text, _properties(archive, "meta.xml", path), str(path))


def _joined(texts: list[str]) -> str:
    return PARAGRAPH.join(text for text in texts if text)


def _part(archive: zipfile.ZipFile, part: str, path: Path, kind: str) -> Any:
    try:
        return parse_xml(archive.read(part), path, _name_of)
    except (KeyError, RuntimeError, zipfile.BadZipFile, EOFError) as error:
        raise DataError(
            f"{path} is not a valid {kind} file: its part {part} is missing, damaged or encrypted",
            f"open it in the program that made it and save it again as {kind}",
        ) from error


def _properties(archive: zipfile.ZipFile, part: str, path: Path) -> dict[str, str]:
    if part not in archive.namelist():
        return {}
    wanted = {"title": "title", "creator": "author"}
    found: dict[str, str] = {}
    for element in parse_xml(archive.read(part), path).iter():
        field = wanted.get(local_name(element))
        if field and (element.text or "").strip():
            found[field] = " ".join(element.text.split())
    return found
