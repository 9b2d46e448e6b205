"""Which ending is read how; plain text itself."""

from collections.abc import Callable, Iterator
from importlib import import_module
from pathlib import Path

from millstone.core.corpus.corpus import Document
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import decode, utf8_chunks
from millstone.texts.inputs.files import STANDARD_INPUT, is_long, read_source, watched
from millstone.texts.inputs.provenance import Provenance
from millstone.texts.inputs.tables.table import TABLES

Reader = Callable[[Path, str, InputOptions, Provenance], Iterator[Document]]


def read_plain(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """A text file, one document; a long one comes in chunks.

    Raises
    ------
    DataError
    """
    chunks = utf8_chunks(path, reading.encoding, provenance) if is_long(path) else None
    if chunks is not None:
        with watched(path, provenance):
            yield Document(name, "", "", source=_source(path, name), chunks=chunks)
        return
    text = decode(read_source(path, provenance), path, reading.encoding, provenance)
    yield Document(name, "", text, source=_source(path, name))


def _source(path: Path, name: str) -> str:
    return name if str(path) == STANDARD_INPUT else str(path)


def _by(module: str, name: str) -> Reader:
    """A reader of this folder, which is imported when there is a file for it."""

    def read(path: Path, own: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
        found: Reader = getattr(import_module(f"{__package__}.{module}"), name)
        return found(path, own, reading, provenance)

    return read


TEXTS: dict[str, Reader] = {
    **dict.fromkeys((".txt", ".text", ".md"), read_plain),
    **dict.fromkeys((".html", ".htm", ".xhtml"), _by("html_page", "read_html")),
    **dict.fromkeys((".xml", ".tei"), _by("xml_text", "read_xml")),
    ".docx": _by("office", "read_docx"),
    ".odt": _by("office", "read_odt"),
    ".pdf": _by("pdf", "read_pdf"),
    **dict.fromkeys((".conllu", ".conll-u"), _by("conllu", "read_conllu")),
}
ONE_DOCUMENT = frozenset(TEXTS) - {".xml", ".tei", ".conllu", ".conll-u"}
"""The endings of files that are one document, under the file's name."""

PACKED = (
    ".txt",
    ".text",
    ".md",
    ".html",
    ".htm",
    ".xhtml",
    ".xml",
    ".tei",
    ".conllu",
    ".csv",
    ".tsv",
    ".jsonl",
    ".json",
)
"""The endings that may be followed by .gz."""

READ = f"millstone reads {' '.join((*TEXTS, *TABLES))}, also packed as .gz where it is text"


def is_read(path: Path | str, ending: str) -> bool:
    """Whether files of this type are read."""
    known = ending in TEXTS or ending in TABLES
    return known and (ending in PACKED or not str(path).lower().endswith(".gz"))
