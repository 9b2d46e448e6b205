"""CoNLL-U: annotated text with lemmas and parts of speech (Universal Dependencies, v2)."""

import re
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from millstone.core.base.errors import DataError
from millstone.core.corpus.corpus import Document, Token
from millstone.core.settings.inputs import InputOptions
from millstone.texts.inputs.decoding import decode, wrong_bytes_in
from millstone.texts.inputs.files import open_source, read_source, watched
from millstone.texts.inputs.finding.stretches import NEW_DOCUMENT
from millstone.texts.inputs.provenance import Provenance

if TYPE_CHECKING:
    from millstone.texts.inputs.finding.stretches import Stretch

_COLUMNS = 10
# comments that are about a sentence, not about the document
_OF_SENTENCES = ("sent_id", "text", "newpar id", "newpar")
_WORD, _RANGE = re.compile(r"\d+"), re.compile(r"\d+[-.]\d+")


def read_conllu(path: Path, name: str, reading: InputOptions, provenance: Provenance) -> Iterator[Document]:
    """One document for each ``# newdoc``, else one for the file; its words are the syntactic ones.

    Comments such as ``# hut = Ostrel`` between ``# newdoc`` and its first sentence are metadata.

    Raises
    ------
    DataError
        Names file and line.
    """
    text = decode(read_source(path, provenance), path, reading.encoding, provenance)
    yield from _documents(text, 1, path, name)


def read_stretch(
    path: Path, name: str, reading: InputOptions, provenance: Provenance, stretch: "Stretch"
) -> Iterator[Document]:
    """The documents of a stretch of a file in UTF-8; the first stretch notes the file."""
    of_file = provenance if stretch.is_first else Provenance()
    with watched(path, of_file):
        with open_source(path) as file:
            file.seek(stretch.start)
            data = file.read(stretch.size)
        try:
            text = data.decode("utf-8-sig" if stretch.is_first else "utf-8")
        except UnicodeDecodeError as error:
            raise wrong_bytes_in(path, reading.encoding) from error
        if "\0" in text:
            # which says where
            decode(read_source(path, Provenance()), path, reading.encoding)
        of_file.encodings["utf-8"] += 1
        yield from _documents(text, stretch.before + 1, path, name)


def _documents(text: str, first_line: int, path: Path, name: str) -> Iterator[Document]:
    document = _Gathered(name)
    first = True
    for number, line in enumerate(text.splitlines(), first_line):
        if new := NEW_DOCUMENT.fullmatch(line):
            if not first or document.tokens:
                yield document.done(path)
            document, first = _Gathered((new[1] or "").strip() or f"{name} line {number}"), False
        elif line.startswith("#"):
            document.comment(line)
        elif not line.strip():
            document.end_sentence()
        else:
            document.word(line, path, number)
    yield document.done(path)


class _Gathered:
    """The tokens of a document as they come in."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.tokens: list[Token | None] = []
        self._fields: dict[str, str] = {}
        self._spaced: list[bool] = []

    def comment(self, line: str) -> None:
        name, sign, value = line.removeprefix("#").partition("=")
        name = name.strip()
        if name and sign and not self.tokens and name not in _OF_SENTENCES and not name.startswith("text"):
            self._fields[name.removeprefix("meta::")] = value.strip()

    def end_sentence(self) -> None:
        if self.tokens and self.tokens[-1] is not None:
            self.tokens.append(None)

    def word(self, line: str, path: Path, number: int) -> None:
        cells = line.split("\t")
        if len(cells) != _COLUMNS:
            raise DataError(
                f"{path}, line {number}: {len(cells)} columns, where CoNLL-U has {_COLUMNS} with tabs between them",
                "check that the line was not broken and that tabs were not turned into spaces",
            )
        if _RANGE.fullmatch(cells[0]):
            return
        if not _WORD.fullmatch(cells[0]):
            raise DataError(
                f"{path}, line {number}, column 1: {cells[0]!r} is not the number of a word",
                "CoNLL-U numbers the words of a sentence 1, 2, 3",
            )
        self._spaced.append("SpaceAfter=No" not in cells[9].split("|"))
        self.tokens.append(Token(*("" if cell == "_" and cells[1] != "_" else cell for cell in cells[1:4])))

    def done(self, path: Path) -> Document:
        spaced = iter(self._spaced)
        parts = ["\n" if token is None else token.form + " " * next(spaced) for token in self.tokens]
        text = "".join(parts).replace(" \n", "\n").strip()
        return Document(self.name, "", text, self._fields, str(path), annotated=self.tokens)
