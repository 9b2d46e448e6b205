"""From documents to a Corpus: the text is cut at white space, each different piece is read once."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from itertools import chain

import numpy as np
import pandas as pd
from scipy import sparse

from millstone.core.corpus import Corpus, Document, Token, natural_key
from millstone.core.tokenrules import Cutter, are_words, cutter, is_mark
from millstone.core.tokens import SENTENCE_END, normalise, paragraphs

_BLOCK = 1 << 20
_PARAGRAPH_END = ""
_BREAK = -1


class _Numbering(dict[str | Token, int]):
    """Gives each different key the next number when it is first asked for."""

    def __missing__(self, key: str | Token) -> int:
        number = self[key] = len(self)
        return number


class _PieceTable:
    """The forms and sentence ends in each different piece, as arrays.

    ``content[first[p]:first[p + 1]]`` are the form numbers of piece p, _BREAK where a sentence ends.
    """

    def __init__(self, pieces: Iterable[str | Token], cut: Cutter, marks: bool) -> None:
        forms = _Numbering()
        content: list[int] = []
        first = [0]
        for piece in pieces:
            if isinstance(piece, Token):
                token = _normal(piece)
                content += [forms[token]] if token.form and (marks or not is_mark(token.form)) else []
            elif piece == _PARAGRAPH_END:
                content.append(_BREAK)
            else:
                content += [_BREAK if form is SENTENCE_END else forms[form] for form in cut(piece)]
            first.append(len(content))
        self.annotation = _annotation(list(forms))
        self.forms = [form if isinstance(form, str) else form.form for form in forms]
        self.content = np.array(content, dtype=np.int32)
        self.first = np.array(first, dtype=np.int64)

    def matrix(self) -> sparse.csr_array:
        """(pieces, forms) int32: how often each form stands in each piece."""
        is_token = self.content != _BREAK
        rows = np.repeat(np.arange(len(self.first) - 1), np.diff(self.first))[is_token]
        columns = self.content[is_token]
        shape = (len(self.first) - 1, len(self.forms))
        return sparse.coo_array((np.ones(len(rows), dtype=np.int32), (rows, columns)), shape=shape).tocsr()

    def expand(self, pieces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The content of `pieces` one after the other, and how much each piece gave, both int32."""
        lengths = np.diff(self.first).astype(np.int32)[pieces]
        # in blocks, for positions take twice the memory of what stands there
        blocks = range(0, len(pieces), _BLOCK)
        contents = [
            self._expanded(pieces[start : start + _BLOCK], lengths[start : start + _BLOCK]) for start in blocks
        ]
        return np.concatenate(contents or [self.content[:0]]), lengths

    def _expanded(self, pieces: np.ndarray, lengths: np.ndarray) -> np.ndarray:
        ends = np.cumsum(lengths, dtype=np.int64)
        shift = np.repeat(self.first[:-1][pieces] - (ends - lengths), lengths)
        return self.content[np.arange(len(shift)) + shift]


def _normal(token: Token) -> Token:
    form, lemma = (" ".join(normalise(part).split()) for part in token[:2])
    return Token(form, lemma, token.tag)


def _annotation(forms: list[str | Token]) -> tuple[Token, ...]:
    if not any(isinstance(form, Token) for form in forms):
        return ()
    return tuple(form if isinstance(form, Token) else Token(form) for form in forms)


class _PieceCounts:
    """Numbers the pieces of documents in text order, and counts them by the million."""

    def __init__(self, keep_order: bool) -> None:
        self.numbering = _Numbering()
        self.numbering[_PARAGRAPH_END]
        self._keep_order = keep_order
        self._ordered: list[np.ndarray] = []
        self._waiting: list[str | Token] = []
        self._documents: list[int] = []
        self._ends: list[int] = []
        # of each block: its documents with the number of their different pieces; these pieces, and how often
        self._rows: list[tuple[np.ndarray, np.ndarray]] = []
        self._pieces: list[np.ndarray] = []
        self._times: list[np.ndarray] = []

    def add(self, document: int, pieces: Sequence[str | Token]) -> None:
        """Add some pieces of a document; documents come in order."""
        self._waiting += pieces
        self._documents.append(document)
        self._ends.append(len(self._waiting))
        if len(self._waiting) >= _BLOCK or len(self._ends) >= _BLOCK:
            self._count()

    def _count(self) -> None:
        numbers = map(self.numbering.__getitem__, self._waiting)
        pieces = np.fromiter(numbers, dtype=np.int64, count=len(self._waiting))
        ends = np.array([0, *self._ends], dtype=np.int64)
        rows = np.repeat(np.array(self._documents, dtype=np.int64), ends[1:] - ends[:-1])
        keys, times = np.unique(rows << 32 | pieces, return_counts=True)
        self._rows.append(np.unique(keys >> 32, return_counts=True))
        self._pieces.append(keys.astype(np.int32))
        self._times.append(times.astype(np.int32))
        if self._keep_order:
            self._ordered.append(pieces.astype(np.int32))
        self._waiting, self._documents, self._ends = [], [], []

    def matrix(self, documents: int) -> sparse.csr_array:
        """(documents, pieces) int32; a document that lies in two blocks is added up."""
        self._count()
        cells = np.zeros(documents + 1, dtype=np.int64)
        for rows, different in self._rows:
            cells[rows + 1] += different
        pieces, self._pieces = np.concatenate(self._pieces), []
        times, self._times = np.concatenate(self._times), []
        found = sparse.csr_array((times, pieces, np.cumsum(cells)), shape=(documents, len(self.numbering)))
        found.sum_duplicates()
        return found

    def in_order(self) -> np.ndarray:
        """int32, all pieces in text order."""
        self._count()
        return np.concatenate(self._ordered or [np.array([], dtype=np.int32)])


def scan(
    documents: Iterable[Document],
    ordered: bool = False,
    progress: Callable[[int], None] = lambda characters: None,
    rule: str = "words",
    marks: bool = False,
) -> Corpus:
    """Scan documents into a Corpus.

    Parameters
    ----------
    documents : iterable of Document
        Taken one at a time, so that only one text need be in memory.
    ordered : bool
        Keep the order of tokens and the sentence bounds, for what needs more than counts.
    progress : callable
        Told the number of characters after each block.
    rule : str
        The token rule, as in `tokenrules.cutter`.
    marks : bool
        Marks of punctuation are counted too; they are no part of ``tokens``.

    Returns
    -------
    Corpus

    Notes
    -----
    Time grows with the length of the text in three C-speed passes (cut, look up, count) and in
    Python only with the number of different pieces.
    """
    counts = _PieceCounts(ordered)
    described = _Described()
    lengths: list[int] = []
    for number, document in enumerate(documents):
        described.add(document)
        lengths.append(0)
        for block in _blocks(document):
            pieces = _pieces(block, ordered)
            counts.add(number, pieces)
            lengths[-1] += len(pieces)
            progress(len(block))
    per_piece = counts.matrix(len(lengths))
    table = _PieceTable(counts.numbering, cutter(rule, marks), marks)
    form_counts = sparse.csr_array(per_piece @ table.matrix())
    del per_piece
    corpus = Corpus(
        forms=table.forms,
        form_counts=form_counts,
        tokens=form_counts @ are_words(table.forms),
        documents=described.table(),
        groups=tuple(sorted(set(described.columns["group"]), key=natural_key)),
        annotation=table.annotation,
    )
    return _with_order(corpus, table, counts.in_order(), np.array(lengths, dtype=np.int64)) if ordered else corpus


class _Described:
    """What is known of the documents, column by column; a field that a document lacks is empty."""

    def __init__(self) -> None:
        self.columns: dict[str, list[str]] = {"document": [], "group": []}
        self._parts: list[int] = []

    def add(self, document: Document) -> None:
        """Add a document."""
        number = len(self._parts)
        part_of = {"part_of": document.part_of or document.name} if document.part else {}
        cells = {"document": document.name, "group": document.group, **part_of, **document.metadata}
        for name in cells:
            if name not in self.columns:
                self.columns[name] = [""] * number
        for name, column in self.columns.items():
            column.append(cells.get(name, ""))
        self._parts.append(document.part)

    def table(self) -> pd.DataFrame:
        """One row a document: ``document, group``, for parts ``part_of, part``, then the metadata."""
        names = [name for name in self.columns if name not in ("document", "group", "part_of")]
        if "part_of" not in self.columns:
            return pd.DataFrame({name: self.columns[name] for name in ("document", "group", *names)}, dtype=object)
        table = pd.DataFrame(
            {name: self.columns[name] for name in ("document", "group", "part_of", *names)}, dtype=object
        )
        table.insert(3, "part", np.maximum(np.array(self._parts, dtype=np.int64), 1))
        table["part_of"] = table["part_of"].where(table["part_of"] != "", table["document"])
        return table


def _pieces(block: str | Sequence[Token | None], ordered: bool) -> Sequence[str | Token]:
    if not isinstance(block, str):
        return [token or _PARAGRAPH_END for token in block]
    if not ordered:
        return block.split()
    found = [[*paragraph.split(), _PARAGRAPH_END] for paragraph in paragraphs(block)]
    found[-1].pop()
    return list(chain.from_iterable(found))


def _blocks(document: Document) -> Iterable[str | Sequence[Token | None]]:
    """The text in blocks of about a million characters, cut at white space; annotated tokens in one."""
    if document.annotated is not None:
        yield document.annotated
        return
    text = document.text
    start = 0
    while len(text) - start > _BLOCK:
        window = text[start : start + _BLOCK]
        # all the white space goes to the next block, so that a blank line is never cut in two
        cut = len(window[: max(window.rfind("\n"), window.rfind(" "), 0)].rstrip())
        if not cut:
            break
        yield text[start : start + cut]
        start += cut
    yield text[start:] if start else text


def _with_order(corpus: Corpus, table: _PieceTable, pieces: np.ndarray, lengths: np.ndarray) -> Corpus:
    content, per_piece = table.expand(pieces)
    is_token = content != _BREAK
    before = np.concatenate(([0], np.cumsum(is_token)))
    piece_ends = np.concatenate(([0], np.cumsum(per_piece, dtype=np.int64)))
    starts = before[piece_ends[np.concatenate(([0], np.cumsum(lengths)))]]
    breaks = np.unique(np.concatenate((before[:-1][~is_token], starts)))
    return replace(corpus, ids=content[is_token], starts=starts, breaks=breaks)
